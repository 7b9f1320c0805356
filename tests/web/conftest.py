"""The application over a copy of the prepared demo database, and a reader of its pages."""

import pytest

from isostasis.store import Database
from isostasis.web import create_app, serve_from
from tests.support.pages import Reader


@pytest.fixture
def database(demo_database):
    return demo_database


@pytest.fixture(scope="session")
def pages(tmp_path_factory):
    """All places, made once: that takes longer than most tests."""
    return create_app(Database(tmp_path_factory.mktemp("pages") / "none.db"))


@pytest.fixture
def app(pages, database, clock, solver):
    serve_from(pages, database, clock, solver=solver)
    return pages


@pytest.fixture
def reader(app):
    return Reader(app)


@pytest.fixture(autouse=True)
def one_clock(monkeypatch, clock):
    """Commands read the same clock as the pages."""
    monkeypatch.setattr("isostasis.cli.clock.now", lambda: clock.at)
