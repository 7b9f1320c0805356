"""A database of an earlier version is brought up to date with what it holds."""

import json
import sqlite3
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, select

import isostasis.store
from isostasis.core.schedule import Schedule
from isostasis.store import Database, archive, clock, logbook, marks, scenes
from isostasis.store.tables import RevisionRow
from tests.support.scenes import scene_data, written
from tests.support.store import do

DATA = Path(__file__).parents[1] / "data"
KEPT = {
    "status": "optimal",
    "finish": "2026-03-05T10:00+00:00",
    "bound": "2026-03-05T10:00+00:00",
    "sessions": 1,
    "steps": [
        {
            "id": "tarn-water",
            "start": "2026-03-04T10:00+00:00",
            "end": "2026-03-04T10:20+00:00",
            "ready": "2026-03-05T10:00+00:00",
            "window_to": None,
            "_state": "planned",
            "_latest": "2026-03-04T10:30+00:00",
            "_decides": True,
        }
    ],
    "why": None,
    "_hands_min": 20,
}


def as_of(path, version, older):
    """A database as an earlier version would hold it: its tables, filled with what they have room for."""
    config = Config()
    config.set_main_option("script_location", str(Path(isostasis.store.__file__).parent / "migrations"))
    with create_engine(f"sqlite:///{older}").begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, version)
    with closing(sqlite3.connect(older)) as old:
        old.execute("attach ? as newer", (str(path),))
        tables = [name for (name,) in old.execute("select name from sqlite_master where type = 'table'")]
        for table in tables:
            if table != "alembic_version":
                columns = ", ".join(f'"{row[1]}"' for row in old.execute(f"pragma table_info({table})"))
                old.execute(f"insert into {table} ({columns}) select {columns} from newer.{table}")
        old.commit()


def test_figures_kept_by_their_old_names_are_read_by_their_new_ones(tmp_path):
    path = tmp_path / "old.db"
    with closing(sqlite3.connect(path)) as old:
        old.executescript((DATA / "store-0003.sql").read_text())
        old.execute(
            "insert into forecast (id, scene_id, at, question, cause, made, options) values (1, 1, ?, 'x', 'opened', ?, '[]')",
            ("2026-03-04T09:00:00.000000+00:00", json.dumps(KEPT)),
        )
        old.commit()
    opened = Database(path)
    with opened.reading() as session:
        scene = scenes.find(session, "tarn")
        assert scenes.document(scene.head).name == "Tarn"
        (batch,) = logbook.batches(session, scene)
        planned = logbook.batch_of(batch)
        assert (planned.lift, planned.course, planned.mix) == ("floor-skin", 1, "paper-plaster")
        assert planned.working_min == 20.626807424000535
        assert [part.material for part in planned.ingredients] == ["paper-fibre-powder", "water"]
        steps = {event.step: logbook.step_of(event) for event in marks.events(session, scene)}
        assert steps["form-ground-sheet"].course is None
        assert steps["floor-skin"].course == 1
        assert steps["floor-skin"].title == "skin"
        row = clock.latest(session, scene)
        made = Schedule.of(row.made)
        assert (made.hands_min, made.steps[0].slack_min, made.steps[0].step) == (20, 30, "tarn-water")
    opened.close()
    again = Database(path)  # nothing is left to do
    again.close()


def test_marks_from_before_there_were_records_get_theirs(tmp_path):
    path, now = tmp_path / "old.db", datetime(2026, 3, 4, 19, 0, tzinfo=UTC)
    fresh = Database(path)
    with fresh.writing() as session:
        scene = scenes.create(session, written(scene_data()), "new", now)
        for step in ("form-slab", "form-bank", "form-hole", "tarn-skin"):
            do(session, scene, step, now)
        kept = scenes.resolve(session, scene.head).built
    fresh.close()
    as_of(path, "0004", tmp_path / "older.db")
    again = Database(tmp_path / "older.db")
    with again.reading() as session:
        found = scenes.resolve(session, scenes.find(session, "tarn").head).built
    assert [(one.step, one.volume_ml, one.wait_h) for one in found] == [
        (one.step, one.volume_ml, one.wait_h) for one in kept
    ]
    again.close()


VERSIONS = sorted(
    path.name[:4] for path in (Path(isostasis.store.__file__).parent / "migrations" / "versions").glob("0*.py")
)


@pytest.mark.parametrize("version", VERSIONS[:-1])
def test_a_database_of_any_age_is_brought_up_to_date_with_what_it_holds(version, demo_database, tmp_path):
    """From the first schema on: every revision, mark and batch is there, every scene can be planned, and one on which
    nothing was done gives the same figures as ever."""
    with demo_database.reading() as session:
        before = archive.head_of(session, datetime(2027, 1, 1, tzinfo=UTC))
        documents = {row.id: row.document for row in session.scalars(select(RevisionRow))}
    as_of(demo_database.path, version, tmp_path / "old.db")
    made = Database(tmp_path / "old.db")
    with made.reading() as session:
        after = archive.head_of(session, datetime(2027, 1, 1, tzinfo=UTC))
        assert {row.id: row.document for row in session.scalars(select(RevisionRow))} == documents
    for table in ("scene", "revision", "batch", "step_event", "setting"):
        assert after["rows"][table] == before["rows"][table], table
    plans = [{one["slug"]: one["plan"] for one in head["scenes"]} for head in (before, after)]
    assert all(plans[1].values()) and plans[0]["tarn"] == plans[1]["tarn"]
    made.close()
