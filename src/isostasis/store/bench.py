"""What the bench knows of the scenes at work: plans, marks, when steps come, open cups, what was laid."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta
from hashlib import sha256

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.bench import BenchScene
from ..core.document import ResolvedScene
from ..core.fault import Faults
from ..core.hardening.setting import WORKING_SHARE
from ..core.plan import plan
from ..core.wet import UsedBowl
from . import logbook, marks, scenes, supply
from .kept import kept
from .tables import (
    BatchRow,
    CautionReadRow,
    MovedWaitRow,
    RevisionRow,
    SceneRow,
    StepEventRow,
    StepPhotoRow,
    TimerNoteRow,
)  # fmt: skip

WASHED_BY = timedelta(hours=6)  # a bowl that was emptied before is washed, or past it


def bench_scene(session: Session, row: SceneRow, now: datetime) -> BenchScene:
    """One scene as the bench sees it; `now` has the zone of the clock on the wall. Raises Faults."""
    scene = scenes.resolve(session, row.head)
    work = logbook.work_on(session, row)
    return BenchScene(
        row.slug, scene.name, scene, plan(scene), marks.marks(marks.events(session, row)),
        supply.times_of(session, row, scene, now), work.cups, work.laid, _bowls(session, row, scene, now),
    )  # fmt: skip


def _bowls(session: Session, row: SceneRow, scene: ResolvedScene, now: datetime) -> tuple[UsedBowl, ...]:
    """The bowls that were emptied a while ago, with what is left in them."""
    mixes = {one.id: one for one in scene.mixes}
    bowls = []
    for batch in logbook.batches(session, row):
        if batch.finished_at is None or batch.finished_at < now - WASHED_BY:
            continue
        planned = logbook.batch_of(batch)
        mix = mixes.get(planned.mix)
        if mix is None:
            continue
        sets = mix.sets is not None and planned.working_min is not None
        until = batch.started_at + timedelta(minutes=(planned.working_min or 0.0) / WORKING_SHARE) if sets else None
        mess = "resin" if mix.reacts is not None else "plaster" if mix.sets is not None else ""
        bowls.append(UsedBowl(batch.id, planned.lift, batch.finished_at, until, mess))
    return tuple(bowls)


def at_work(session: Session, now: datetime) -> list[BenchScene]:
    """Every scene on which work was begun or scheduled; one that cannot be planned says so on its own page."""
    working = []
    for row in logbook.at_work(session):
        try:
            working.append(bench_scene(session, row, now))
        except Faults:
            continue
    return working


def open_cups(session: Session, asked: Iterable[BenchScene]) -> dict[tuple[str, str], int]:
    """The number of each open batch, by scene and what it goes into."""
    return {
        (one.slug, logbook.batch_of(row).lift): row.id
        for one in asked
        for row in logbook.batches(session, scenes.find(session, one.slug))
        if row.finished_at is None
    }


@kept
def mark_of(session: Session) -> str:
    """A mark of how far the work is: another one once anything was marked, mixed, weighed, emptied, put off, read,
    photographed or saved."""
    tables = (StepEventRow, BatchRow, RevisionRow, TimerNoteRow, CautionReadRow, StepPhotoRow, MovedWaitRow)
    columns = (*(table.id for table in tables), BatchRow.finished_at, StepPhotoRow.gone_at)
    newest = session.execute(select(*(select(func.max(one)).scalar_subquery() for one in columns))).one()
    cups = session.execute(select(BatchRow.id, BatchRow.actual, BatchRow.walk).where(BatchRow.finished_at.is_(None)))
    return sha256(str([tuple(newest), [tuple(one) for one in cups]]).encode()).hexdigest()[:16]
