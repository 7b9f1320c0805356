"""What each scene's schedule is asked for, and the forecasts that were made of it."""

from __future__ import annotations

from datetime import datetime
from secrets import token_urlsafe
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.fault import Fault
from ..core.schedule.requests import ClockRequest
from .fitting import fitting
from .kept import once
from .tables import ClockRow, ForecastRow, SceneRow


def add_clock(session: Session, scene: SceneRow) -> None:
    """A clock for a new scene, of which nothing is asked yet."""
    session.add(ClockRow(scene_id=scene.id, asked={}, token=token_urlsafe(24)))
    session.flush()


@once
def _clock_of(session: Session, scene: SceneRow) -> ClockRow:
    row = session.get(ClockRow, scene.id)
    assert row is not None, "every scene has a clock from its start"
    return row


def token_of(session: Session, scene: SceneRow) -> str:
    """The secret part of its calendar's address."""
    return _clock_of(session, scene).token


def asked_of(session: Session, scene: SceneRow) -> ClockRequest:
    """What is asked of a scene's clock, without what no longer fits."""
    return fitting(ClockRequest, _clock_of(session, scene).asked)[0]


def faults(session: Session, scene: SceneRow) -> tuple[Fault, ...]:
    """What is wrong with what was asked by an earlier version."""
    return fitting(ClockRequest, _clock_of(session, scene).asked)[1]


def ask(session: Session, scene: SceneRow, asked: ClockRequest) -> None:
    """Ask something else of a scene's clock."""
    _clock_of(session, scene).asked = asked.model_dump(mode="json", exclude_defaults=True)


def new_token(session: Session, scene: SceneRow) -> None:
    """Another address for the calendar: who had the old one sees nothing more."""
    _clock_of(session, scene).token = token_urlsafe(24)


def by_token(session: Session, token: str) -> SceneRow | None:
    """The scene whose calendar has that address."""
    row = session.scalar(select(ClockRow).where(ClockRow.token == token))
    return None if row is None else session.get(SceneRow, row.scene_id)


def add_forecast(
    session: Session, scene: SceneRow, question: str, cause: str, answer: dict[str, Any], now: datetime
) -> ForecastRow:
    """Keep a schedule as it was found."""
    row = ForecastRow(scene_id=scene.id, at=now, question=question, cause=cause[:200], made=answer, options=[])
    session.add(row)
    session.flush()
    return row


def forecasts(session: Session, scene: SceneRow) -> list[ForecastRow]:
    """All forecasts of a scene, the oldest first."""
    return list(session.scalars(select(ForecastRow).where(ForecastRow.scene_id == scene.id).order_by(ForecastRow.id)))


@once
def latest(session: Session, scene: SceneRow) -> ForecastRow | None:
    """The newest forecast."""
    return session.scalar(
        select(ForecastRow).where(ForecastRow.scene_id == scene.id).order_by(ForecastRow.id.desc()).limit(1)
    )
