"""What the bench knows of the scenes at work: plans, marks, when steps come, open cups, what was laid."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.bench import BenchScene
from ..core.fault import Faults
from ..core.plan import plan
from . import logbook, marks, scenes, supply
from .tables import BatchRow, RevisionRow, SceneRow, StepEventRow


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


def open_cups(session: Session, asked: Iterable[BenchScene]) -> dict[tuple[str, str], int]:
    """The number of each open batch, by scene and what it goes into."""
    return {
        (one.slug, logbook.batch_of(row).lift): row.id
        for one in asked
        for row in logbook.batches(session, scenes.find(session, one.slug))
        if row.finished_at is None
    }


def how_far(session: Session) -> list[int | str]:
    """What differs once anything was marked, mixed, emptied or saved."""
    newest = [session.scalar(select(func.max(table.id))) or 0 for table in (StepEventRow, BatchRow, RevisionRow)]
    return [*newest, str(session.scalar(select(func.max(BatchRow.finished_at))))]
