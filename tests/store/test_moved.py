"""Waits that the logged room moves: worked out anew by the same laws, along what was read; the record stays."""

from datetime import UTC, datetime, timedelta

import pytest

from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.store import built, logbook, marks, moved, readings, scenes
from tests.support.scenes import scene_data

NOW = datetime(2027, 3, 1, 19, tzinfo=UTC)
HOUR = timedelta(hours=1)


@pytest.fixture
def laid(database):
    """The tarn with its skin laid three hours ago, in a room of 21 degC."""
    with database.writing() as session:
        row = scenes.create(session, read(scene_data()), "new", NOW - 9 * HOUR)
        opened = scenes.resolve(session, row.head)
        made = plan(opened)
        for step in made.steps:
            if step.kind == "form":
                logbook.add_event(session, row, (opened, made), step, "done", NOW - 8 * HOUR)
        skin = next(step for step in made.steps if step.kind == "skin")
        logbook.add_event(session, row, (opened, made), skin, "done", NOW - 3 * HOUR, wait_h=skin.wait_h)
    return database, skin


def wait_of(session, step):
    row = scenes.find(session, "tarn")
    return next(record.wait_h for _, record in built.in_force(session, row) if record.step == step.id)


def probe(session, *readings_c):
    for hours, temp_c in readings_c:
        readings.add(session, "room", {"temp_c": temp_c, "rh": 0.5}, NOW - hours * HOUR)


def test_without_readings_nothing_moves(laid):
    database, skin = laid
    with database.reading() as session:
        assert moved.moves(session, scenes.find(session, "tarn"), NOW) == []
        assert wait_of(session, skin) == skin.wait_h


@pytest.mark.parametrize(("temp_c", "longer"), [(12.0, True), (28.0, False)])
def test_a_colder_room_makes_it_longer_and_a_warmer_one_shorter_by_the_plans_own_law(laid, temp_c, longer):
    database, skin = laid
    with database.writing() as session:
        probe(session, (4, temp_c), (0, temp_c))  # so since before it was laid
        row = scenes.find(session, "tarn")
        session.add_all(moved.moves(session, row, NOW))
        session.flush()
        now_h = wait_of(session, skin)
        assert (now_h > skin.wait_h) is longer
        data = scene_data()
        data["room"] = {**data.get("room", {}), "temp_c": temp_c, "rh": 0.5}
        other = next(step for step in plan(scenes.resolve_as_written(
            session, scenes.create(session, read({**data, "name": "Other"}), "new", NOW).head,
            scenes.resolve(session, row.head).bench)).steps if step.id == skin.id)  # fmt: skip
        assert now_h == pytest.approx(other.wait_h, rel=1e-6)


def test_the_record_keeps_what_was_said_and_windows_go_along(laid):
    database, skin = laid
    with database.writing() as session:
        row = scenes.find(session, "tarn")
        probe(session, (2, 12.0))
        session.add_all(moved.moves(session, row, NOW))
        session.flush()
        (pair,) = [one for one in built.in_force(session, row) if one[1].step == skin.id]
        kept, now_record = built.record_of(pair[0]), pair[1]
        times = now_record.wait_h / kept.wait_h
        assert kept.wait_h == skin.wait_h and times > 1
        assert now_record.full_h == pytest.approx(kept.full_h * times)
        assert moved.moves(session, row, NOW) == []  # the same readings move nothing twice
        assert scenes.resolve(session, row.head).built[-1].wait_h == now_record.wait_h
        assert (
            next(one for one in logbook.work_on(session, row).laid if one.step == skin.id).wait_h == now_record.wait_h
        )


def test_what_was_ready_before_and_what_is_taken_back_is_left_alone(laid):
    database, skin = laid
    with database.writing() as session:
        row = scenes.find(session, "tarn")
        probe(session, (2, 12.0))
        assert moved.moves(session, row, NOW + timedelta(days=30)) == []
        opened = scenes.resolve(session, row.head)
        logbook.add_event(session, row, (opened, plan(opened)), skin, "undone", NOW)
        assert moved.moves(session, row, NOW) == []
        assert marks.marks(marks.events(session, row)).done.get(skin.id) is None
