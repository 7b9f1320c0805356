"""What is read off the database is kept until anything is written, and never longer."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

import pytest

from isostasis.core.stages import STAGES
from isostasis.demo import fill
from isostasis.store import Database, labels, marks, scenes, settings
from isostasis.store.kept import kept


@kept
def _theme(session, about):
    return settings.read(session).theme, about


def _misses():
    return {one.name: one.misses for one in STAGES.status().stages}.get("store.settings.read", 0)


@pytest.fixture
def database(tmp_path: Path):
    opened = Database(tmp_path / "one.db")
    yield opened
    opened.close()


def _system(database):
    with database.reading() as session:
        return settings.read(session).system


def test_read_once_until_something_is_written(database):
    assert _system(database) == "metric"
    misses = _misses()
    assert [_system(database) for _ in range(3)] == ["metric"] * 3 and _misses() == misses
    with database.writing() as session:
        settings.change(session, system="imperial")
    assert _system(database) == "imperial" and _misses() == misses + 1


def test_another_program_that_writes_is_seen(database):
    assert _system(database) == "metric"
    with closing(sqlite3.connect(database.path)) as other:
        other.execute("insert into setting (name, value) values ('system', '\"imperial\"')")
        other.commit()
    assert _system(database) == "imperial"


def test_what_is_being_written_is_read_anew_and_not_kept(database):
    with pytest.raises(RuntimeError), database.writing() as session:
        settings.change(session, system="imperial")
        session.flush()
        assert settings.read(session).system == "imperial"
        raise RuntimeError
    assert _system(database) == "metric"


def test_two_databases_know_nothing_of_each_other(database, tmp_path):
    other = Database(tmp_path / "two.db")
    with other.writing() as session:
        settings.change(session, system="imperial")
    assert (_system(database), _system(other)) == ("metric", "imperial")
    other.close()


def test_one_that_was_closed_and_opened_again_is_looked_at_anew(database):
    assert _system(database) == "metric"
    database.close()
    with closing(sqlite3.connect(database.path)) as other:
        other.execute("insert into setting (name, value) values ('system', '\"imperial\"')")
        other.commit()
    assert _system(database) == "imperial"


def test_a_session_of_a_server_asks_once(database):
    """A server says nothing of what others wrote: what is read holds as long as the session, which sees one moment."""
    database.watch = None
    with database.reading() as session:
        assert _theme(session, 1) is _theme(session, 1) and _theme(session, 2)[1] == 2
        assert _theme(session, about=3)[1] == 3 and _theme(session, about=4)[1] == 4  # by name too
    with database.reading() as session:
        assert "once" not in session.info


def test_rows_are_read_once_in_a_session_that_only_reads(demo_database):
    with demo_database.reading() as session:
        lake = scenes.find(session, "hollin-delf")
        assert marks.events(session, lake) is marks.events(session, lake)
        assert marks.events(session, lake) != marks.events(session, scenes.find(session, "kettle-fen"))
    with demo_database.writing() as session:
        lake = scenes.find(session, "hollin-delf")
        before = marks.events(session, lake)
        session.delete(before[-1])
        assert len(marks.events(session, lake)) == len(before) - 1


def test_a_scene_follows_its_labels(database):
    fill(database)
    with database.reading() as session:
        before = scenes.as_written(session, "hollin-delf")
        assert scenes.as_written(session, "hollin-delf") is before
        mix = next(one for one in before.mixes if one.reacts)
    with database.writing() as session:
        labels.keep(session, mix.model_copy(update={"name": "My own resin"}), datetime(2026, 3, 1, tzinfo=UTC))
    with database.reading() as session:
        after = scenes.as_written(session, "hollin-delf")
    assert next(one for one in after.mixes if one.id == mix.id).name == "My own resin"


def test_the_labels_alone_are_the_catalogue_without_what_records_teach(demo_database):
    with demo_database.writing() as session:
        known, alone = labels.catalogue(session), labels.labelled(session)
    assert known.factors and not alone.factors
    assert (alone.materials, alone.mixes, alone.sundries) == (known.materials, known.mixes, known.sundries)
