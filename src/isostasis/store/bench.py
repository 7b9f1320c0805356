"""What the bench knows of the scenes at work: plans, marks, when steps come, open cups, what was laid."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from ..core.bench import BenchScene
from ..core.fault import Faults
from ..core.plan import plan
from . import logbook, marks, scenes, supply
from .tables import SceneRow


def bench_scene(session: Session, row: SceneRow, now: datetime) -> BenchScene:
    """One scene as the bench sees it; `now` has the zone of the clock on the wall. Raises Faults."""
    scene = scenes.resolve(session, row.head)
    work = logbook.work_on(session, row)
    return BenchScene(
        row.slug, scene.name, scene, plan(scene), marks.marks(marks.events(session, row)),
        supply.times_of(session, row, scene, now), work.cups, work.laid,
    )  # fmt: skip


def at_work(session: Session, now: datetime) -> list[BenchScene]:
    """Every scene on which work was begun or scheduled; one that cannot be planned says so on its own page."""
    found = []
    for row in logbook.at_work(session):
        try:
            found.append(bench_scene(session, row, now))
        except Faults:
            continue
    return found
