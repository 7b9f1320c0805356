"""The demo scenes (made up) and their loader: scenes, batches half done, steps that are drying, the shelf."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from importlib.resources import files
from typing import Any

from ..core.plan import Plan, plan
from ..core.reading import read
from ..core.schedule.requests import ClockRequest
from ..exchange.picture import Picture, small
from ..store import Database, clock, logbook, photos, pictures, records, scenes, settings
from ..store.planned import PlannedBatch
from . import shelf, swatches

SCENES = ("hollin-delf", "saltcote-pans", "ember-pools", "kettle-fen")
PHOTOS = (("kettle-fen-taken", (1600, 1200)), ("kettle-fen-straight", (1200, 800)))  # made by tools/kettle.py

# What was done, in hours before the demo is built: scene, step.
DONE = (
    ("hollin-delf", "floor-skin", 52.2),
    ("hollin-delf", "lake-skin", 52.0),
    ("hollin-delf", "sump-skin", 50.0),
    ("hollin-delf", "benches-skin", 3.5),
    ("hollin-delf", "heap-shell-1", 34.0),
    ("hollin-delf", "heap-shell-2", 33.0),
    ("hollin-delf", "heap-skin", 9.0),
    ("hollin-delf", "separator-x570-floor-skin-out", 51.2),
    ("hollin-delf", "separator-x570-lake-skin-out", 51.1),
    ("hollin-delf", "separator-x570-benches-skin-out", 2.6),
    ("hollin-delf", "lake-tone", 7.0),
    ("hollin-delf", "lake-seal-1", 5.0),
    ("hollin-delf", "lake-seal-2", 3.0),
    ("saltcote-pans", "brine-skin", 30.0),
    ("saltcote-pans", "brine-tone", 5.0),
    ("ember-pools", "crust-skin", 20.0),
)


# What was touched since: scene, step, what was found, hours before the demo is built.
TOUCHED = (
    ("hollin-delf", "floor-skin", "not-yet", 37.2),
    ("hollin-delf", "floor-skin", "ready", 31.0),
    ("hollin-delf", "lake-skin", "not-yet", 32.5),
    ("hollin-delf", "lake-skin", "ready", 23.0),
    ("hollin-delf", "sump-skin", "not-yet", 35.0),
    ("hollin-delf", "sump-skin", "ready", 29.5),
    ("saltcote-pans", "brine-skin", "not-yet", 26.0),
    ("saltcote-pans", "brine-skin", "ready", 22.5),
)
HOURS = "mon-fri 19:00-22:00; sat-sun 10:00-17:00; quiet 22:00-07:00"
WANTED = {"hollin-delf": 9, "saltcote-pans": 16, "ember-pools": 6, "kettle-fen": 30}  # days from now


def document(name: str) -> dict[str, Any]:
    """One of the demo scenes as data."""
    data: dict[str, Any] = json.loads((files(__package__) / "scenes" / f"{name}.json").read_text("utf-8"))
    return data


def _planned(made: Plan, batch_id: str) -> PlannedBatch:
    batch = next(batch for batch in made.batches if batch.id == batch_id)
    return logbook.planned_batch(made, batch)


def fill(database: Database, now: datetime | None = None) -> None:
    """Put the demo scenes into a database, with the work that has been done on them by `now`."""
    now = now or datetime.now(UTC)
    with database.writing() as session:
        settings.change(session, bench={"prices": shelf.prices()}, hours=HOURS, currency=shelf.CURRENCY,
                        sellers=shelf.SELLERS, keep=shelf.KEEP)  # fmt: skip
        for name, size in PHOTOS:
            pictures.keep(session, (files(__package__) / "scenes" / f"{name}.webp").read_bytes(), size, now)
        rows, plans, resolved = {}, {}, {}
        for name in SCENES:
            row = scenes.create(session, read(document(name)), "Demo scene", now - timedelta(days=5))
            rows[name] = row
            resolved[name] = scenes.resolve(session, row.head)
            plans[name] = plan(resolved[name])
            wanted = (now + timedelta(days=WANTED[name])).replace(second=0, microsecond=0)
            clock.ask(session, row, ClockRequest(deadline=wanted))
        for name in SCENES:
            steps = {step.id: step for step in plans[name].steps}
            built = [one for one in steps.values() if not (one.lift or one.patch or one.kind in ("pull", "bare"))]
            begun = [(one.id, 118.0 - 0.8 * number) for number, one in enumerate(built)]
            for step_id, ago in (*begun, *((step_id, ago) for scene, step_id, ago in DONE if scene == name)):
                step, at = steps[step_id], now - timedelta(hours=ago)
                logbook.add_event(session, rows[name], (resolved[name], plans[name]), step, "done", at)
            for scene, step_id, note, ago in TOUCHED:
                if scene == name:
                    at = now - timedelta(hours=ago)
                    logbook.add_event(session, rows[name], (resolved[name], plans[name]), steps[step_id], note, at)
        board = (files(__package__) / "scenes" / "kettle-fen-taken.webp").read_bytes()
        whole, little = Picture(board, PHOTOS[0][1]), small(Picture(board, PHOTOS[0][1]))
        kept, thumb = (whole.content, whole.size), (little.content, little.size)
        photos.add(session, rows["kettle-fen"], "ground-skin", "before", kept, thumb, now, "the ponds as they were cut")
        lake = rows["hollin-delf"], plans["hollin-delf"]
        for batch_id, ago, share in (("benches-skin-1-1", 4.2, 1.02), ("floor-skin-1-1", 52.5, 0.99)):
            planned = _planned(lake[1], batch_id)
            done = logbook.start_batch(session, lake[0], batch_id, planned, (18.5, 0.56), now - timedelta(hours=ago))
            logbook.write_down(done, {part.key: round(part.mass_g * share, 1) for part in planned.ingredients})
            logbook.finish_batch(session, done, now - timedelta(hours=ago - 0.3))
        planned = _planned(lake[1], "lake-water-1-1")
        half = logbook.start_batch(
            session,
            lake[0],
            "lake-water-1-1",
            planned,
            (19.2, 0.54),
            now - timedelta(minutes=6),
        )
        logbook.write_down(half, {planned.ingredients[0].key: round(planned.ingredients[0].mass_g, 1)})
        crust = rows["ember-pools"], plans["ember-pools"]
        planned = _planned(crust[1], "crust-skin-1-1")
        spilt = logbook.start_batch(
            session, crust[0], "crust-skin-1-1", planned, (18.0, 0.55), now - timedelta(hours=21)
        )
        logbook.write_down(spilt, {part.key: round(part.mass_g * 1.7, 1) for part in planned.ingredients})
        logbook.finish_batch(session, spilt, now - timedelta(hours=20.4))
        records.mishap(
            session, f"batch:{spilt.id}", "the bowl was knocked over, mixed twice", now - timedelta(hours=20)
        )
        shelf.stock(session, now)
        swatches.lay(session, now)
