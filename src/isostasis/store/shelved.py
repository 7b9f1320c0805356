"""Scenes that are put away: archived, out of the way for good; or in the bin, from which they go after 30 days."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy import Select, delete, select, update
from sqlalchemy.orm import Session, joinedload

from .scenes import NoSuchScene
from .swatch_tables import SwatchRow
from .tables import (
    BatchRow,
    BuiltRow,
    CautionReadRow,
    ClockRow,
    ForecastRow,
    MovedWaitRow,
    PackLineRow,
    RevisionRow,
    SceneRow,
    StepEventRow,
    StepPhotoRow,
    TimerNoteRow,
)  # fmt: skip

BIN_DAYS = 30


def archive(row: SceneRow, now: datetime | None) -> None:
    """Out of the way, or (None) back among the others."""
    row.archived_at = now


def bin_(row: SceneRow, now: datetime) -> None:
    """Into the bin."""
    row.binned_at = now


def take_out(session: Session, slug: str) -> SceneRow:
    """Out of the bin again. Raises NoSuchScene."""
    row = session.scalar(select(SceneRow).where(SceneRow.slug == slug, SceneRow.binned_at.is_not(None)))
    if row is None:
        raise NoSuchScene(slug)
    row.binned_at = None
    return row


def archived(session: Session) -> list[SceneRow]:
    """What is archived, the newest first."""
    wanted = SceneRow.archived_at.is_not(None), SceneRow.binned_at.is_(None)
    return list(session.scalars(_with_head().where(*wanted).order_by(SceneRow.archived_at.desc())))


def binned(session: Session) -> list[SceneRow]:
    """What lies in the bin, the newest first."""
    return list(
        session.scalars(_with_head().where(SceneRow.binned_at.is_not(None)).order_by(SceneRow.binned_at.desc()))
    )


def empty_bin(session: Session, now: datetime) -> int:
    """Let go for good of what has lain in the bin for 30 days; returns of how many scenes."""
    before = now - timedelta(days=BIN_DAYS)
    gone = list(session.scalars(select(SceneRow.id).where(SceneRow.binned_at < before)))
    if gone:
        session.execute(update(SceneRow).where(SceneRow.id.in_(gone)).values(head_id=None))
        session.execute(update(RevisionRow).where(RevisionRow.scene_id.in_(gone)).values(parent_id=None))
        events = select(StepEventRow.id).where(StepEventRow.scene_id.in_(gone))
        mixed = select(BatchRow.id).where(BatchRow.scene_id.in_(gone))
        # What was taken off the shelf was taken all the same.
        session.execute(update(PackLineRow).where(PackLineRow.event_id.in_(events)).values(event_id=None))
        session.execute(update(PackLineRow).where(PackLineRow.batch_id.in_(mixed)).values(batch_id=None))
        session.execute(update(SwatchRow).where(SwatchRow.batch_id.in_(mixed)).values(batch_id=None))
        for table in (
            MovedWaitRow, TimerNoteRow, CautionReadRow, StepPhotoRow, BuiltRow, StepEventRow, BatchRow, ForecastRow,
            ClockRow, RevisionRow,
        ):  # fmt: skip
            session.execute(delete(table).where(table.scene_id.in_(gone)))
        session.execute(delete(SceneRow).where(SceneRow.id.in_(gone)))
    return len(gone)


def _with_head() -> Select[SceneRow]:
    return select(SceneRow).options(joinedload(SceneRow.head))
