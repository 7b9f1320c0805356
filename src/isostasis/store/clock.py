"""What each scene's schedule is asked for, and the forecasts that were made of it."""

from __future__ import annotations

from datetime import datetime
from secrets import token_urlsafe
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.schedule.requests import ClockRequest
from .tables import ClockRow, ForecastRow, SceneRow


def kept_clock(session: Session, scene: SceneRow) -> ClockRow | None:
    """A scene's clock, if it has one yet."""
    return session.get(ClockRow, scene.id)


def clock_of(session: Session, scene: SceneRow) -> ClockRow:
    """A scene's clock; made when it is first looked for, in a writing session."""
    row = kept_clock(session, scene)
    if row is None:
        row = ClockRow(scene_id=scene.id, asked={}, token=token_urlsafe(24))
        session.add(row)
        session.flush()
    return row


def asked_of(session: Session, scene: SceneRow) -> ClockRequest:
    """What is asked of a scene's clock; nothing for a scene without one."""
    row = kept_clock(session, scene)
    return ClockRequest() if row is None else ClockRequest.model_validate(row.asked)


def ask(session: Session, scene: SceneRow, asked: ClockRequest) -> None:
    """Ask something else of a scene's clock."""
    clock_of(session, scene).asked = asked.model_dump(mode="json", exclude_defaults=True)


def new_token(session: Session, scene: SceneRow) -> None:
    """Another address for the calendar: who had the old one sees nothing more."""
    clock_of(session, scene).token = token_urlsafe(24)


def by_token(session: Session, token: str) -> SceneRow | None:
    """The scene whose calendar has that address."""
    row = session.scalar(select(ClockRow).where(ClockRow.token == token))
    return None if row is None else session.get(SceneRow, row.scene_id)


def add_forecast(
    session: Session, scene: SceneRow, question: str, cause: str, made: dict[str, Any], now: datetime
) -> ForecastRow:
    """Keep a schedule as it was found."""
    row = ForecastRow(scene_id=scene.id, at=now, question=question, cause=cause[:200], made=made, options=[])
    session.add(row)
    session.flush()
    return row


def forecasts(session: Session, scene: SceneRow) -> list[ForecastRow]:
    """All forecasts of a scene, the oldest first."""
    return list(session.scalars(select(ForecastRow).where(ForecastRow.scene_id == scene.id).order_by(ForecastRow.id)))


def latest(session: Session, scene: SceneRow) -> ForecastRow | None:
    """The newest forecast."""
    return session.scalar(
        select(ForecastRow).where(ForecastRow.scene_id == scene.id).order_by(ForecastRow.id.desc()).limit(1)
    )
