"""The real interface in headless Chromium, against a real server over a real database."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest
import waitress

from isostasis.solver import Solver
from isostasis.store import scenes
from isostasis.web import create_app
from tools.browser import CHROMIUM, CHROMIUM_FLAGS


@pytest.fixture(scope="session")
def chromium():
    from playwright.sync_api import sync_playwright

    if not Path(CHROMIUM).exists():
        pytest.fail("Chromium is missing: `make test` installs it")
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=CHROMIUM, args=list(CHROMIUM_FLAGS))
        yield browser
        browser.close()


@pytest.fixture(scope="session")
def solver():
    made = Solver()
    yield made
    made.close()


@pytest.fixture
def served(demo_database, clock, solver):
    app = create_app(demo_database, clock, "UTC", solver)
    server = waitress.create_server(app, host="127.0.0.1", port=0, threads=4)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.effective_port}"
    server.close()
    thread.join(5)


@pytest.fixture
def page(chromium, served):
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=served)
    page = context.new_page()
    troubles = []
    page.on("console", lambda message: troubles.append(message.text) if message.type == "error" else None)
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on(
        "request",
        lambda request: troubles.append(request.url) if not request.url.startswith((served, "data:")) else None,
    )
    yield page
    context.close()
    assert [trouble for trouble in troubles if "status of 422" not in trouble] == []


@pytest.fixture
def saved(demo_database):
    def document(slug="tarn"):
        with demo_database.reading() as session:
            return scenes.data_of(scenes.find(session, slug).head)

    return document
