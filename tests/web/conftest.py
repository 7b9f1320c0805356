"""The application over a copy of the prepared demo database, and a reader of its pages."""

import pytest

from isostasis.web import create_app
from tests.support.pages import Reader


@pytest.fixture
def database(demo_database):
    return demo_database


@pytest.fixture
def app(database, clock):
    return create_app(database, clock)


@pytest.fixture
def reader(app):
    return Reader(app)


@pytest.fixture(autouse=True)
def one_clock(monkeypatch, clock):
    """Commands read the same clock as the pages."""
    monkeypatch.setattr("isostasis.cli.clock.now", lambda: clock.at)
