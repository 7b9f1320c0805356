"""The real interface in headless Chromium, against a real server over a real database."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest
import waitress
from playwright.sync_api import expect, sync_playwright

from isostasis.store import Database, scenes
from isostasis.web import create_app, serve_from
from tools.browser import CHROMIUM, CHROMIUM_FLAGS

PATIENCE_MS = 120_000  # for a state that comes, however busy the machine is
ONE_PROCESS = "--renderer-process-limit=1"  # of a browser's pages: none waits for another to start


@pytest.fixture(scope="session")
def chromium():
    if not Path(CHROMIUM).exists():
        pytest.fail("Chromium is missing: `make test` installs it")
    expect.set_options(timeout=PATIENCE_MS)
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=CHROMIUM, args=[*CHROMIUM_FLAGS, ONE_PROCESS])
        yield browser
        browser.close()


class Shared:
    """One server and one application for the whole run; each test puts its own database behind it."""

    def __init__(self, pages):
        self.pages = self.app = pages
        self.server = waitress.create_server(
            self._answer, host="127.0.0.1", port=0, threads=16, channel_request_lookahead=1
        )
        self.url = f"http://127.0.0.1:{self.server.effective_port}"
        threading.Thread(target=self.server.run, daemon=True).start()

    def _answer(self, environ, start_response):
        return self.app(environ, start_response)


@pytest.fixture(scope="session")
def server(tmp_path_factory):
    """It ends with the worker: closed before, what is still told to pages would find nowhere to go."""
    return Shared(create_app(Database(tmp_path_factory.mktemp("pages") / "none.db")))


@pytest.fixture
def served(server, demo_database, clock, solver):
    serve_from(server.pages, demo_database, clock, "UTC", solver)
    server.app = server.pages
    return server.url


@pytest.fixture
def page(chromium, served):
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=served)
    context.set_default_timeout(PATIENCE_MS)
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
