"""A database of an earlier version is brought up to date with what it holds."""

import json
import sqlite3
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

from isostasis.core.schedule import Schedule
from isostasis.store import Database, clock, logbook, marks, scenes
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
    with closing(sqlite3.connect(path)) as old:
        old.executescript("drop table built; update alembic_version set version_num = '0004'")
    again = Database(path)
    with again.reading() as session:
        found = scenes.resolve(session, scenes.find(session, "tarn").head).built
    assert [(one.step, one.volume_ml, one.wait_h) for one in found] == [
        (one.step, one.volume_ml, one.wait_h) for one in kept
    ]
    again.close()
