"""Work is bounded: a request has its time, who has left is not worked for, many scenes and many lifts stay quick to show."""

import re

import pytest
from sqlalchemy import event

from isostasis.core.stages import STAGES
from isostasis.store import scenes
from isostasis.web import budget, create_app
from tests.support.pages import Reader, document


@pytest.fixture
def slow(database, clock, monkeypatch):
    """The pages, where every look at the time takes a second."""
    seconds = iter(range(10**9))
    monkeypatch.setattr(budget, "monotonic", lambda: float(next(seconds)))
    monkeypatch.setattr(budget, "BUDGET_S", 3.0)
    install = budget.install
    monkeypatch.setattr("isostasis.web.install_budget", lambda app: install(app, lambda: float(next(seconds))))
    return create_app(database, clock)


def test_what_takes_too_long_is_told_and_changes_nothing(slow, database):
    reader = Reader(slow)
    STAGES.clear()
    told = reader.get("/s/hollin-delf/pour", 503).text
    assert "was stopped. Nothing was changed" in told
    before = document(database, "hollin-delf")
    STAGES.clear()
    reader.post("/s/hollin-delf/room", 503, base=before[0], temp_c="12", rh_percent="70")
    assert document(database, "hollin-delf") == before


def test_nobody_is_worked_for_who_has_left(app, reader):
    STAGES.clear()
    misses = STAGES.status().misses
    answer = app.test_client().get("/s/hollin-delf/pour", environ_base={"waitress.client_disconnected": lambda: True})
    assert answer.status_code == 499 and STAGES.status().misses - misses < 10


def test_many_scenes_are_named_at_once_and_drawn_when_they_are_looked_at(reader, database, clock):
    with database.writing() as session:
        for _ in range(10):
            scenes.copy(session, scenes.find(session, "ember-pools"), clock())
    page = reader.source("/")
    later = re.findall(r'hx-get="(/s/[\w-]+/card)" hx-trigger="revealed"', page)
    assert len(later) == 15 - 6 and "Ember Pools, copy 10" in page
    for url in later:
        card = reader.get(url).text
        assert "cut-thumb" in card and "steps done" in card and "<path" in card
    misses = STAGES.status().misses
    reader.get(later[0])
    assert STAGES.status().misses == misses  # drawn once


def test_a_card_says_what_is_wet(reader):
    assert "Pit lake" in reader.text("/s/hollin-delf/card")
    reader.get("/s/none/card", 404)


def test_a_full_disk_is_told_and_loses_nothing(reader, database):
    def full(connection):
        connection.exec_driver_sql("PRAGMA max_page_count=1")  # as many as there are now

    event.listen(database.engine, "begin", full)
    saved = 0
    while (answer := reader.client.post("/s/tarn/settings", data=renamed(reader, saved + 1))).status_code == 303:
        saved += 1
    assert answer.status_code == 507 and "The database: the disk is full: free some space" in answer.text
    assert "Nothing was changed" in answer.text and "Traceback" not in answer.text
    event.remove(database.engine, "begin", full)
    with database.engine.connect() as connection:
        connection.exec_driver_sql("PRAGMA max_page_count=1000000")
        assert connection.exec_driver_sql("PRAGMA integrity_check").scalar() == "ok"
    with database.reading() as session:
        assert len(scenes.history(session, scenes.find(session, "tarn"))) == saved + 1
    assert reader.client.post("/s/tarn/settings", data=renamed(reader, saved + 1)).status_code == 303


def renamed(reader, base):
    size = {"width_mm": "300", "depth_mm": "200", "copies": "1", "dammed": "south"}
    return {"csrf_token": reader.token, "base": base, "name": f"Tarn {base} {'-' * 60}", **size}
