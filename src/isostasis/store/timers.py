"""What people did to timers: put off until a moment, or stopped. The timers themselves follow from the work."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.timers import Note
from .tables import SceneRow, TimerNoteRow


def notes(session: Session, scene: SceneRow) -> dict[str, Note]:
    """What holds for each timer of a scene that anything was done to."""
    rows = session.execute(
        select(TimerNoteRow.timer, TimerNoteRow.until)
        .where(TimerNoteRow.scene_id == scene.id)
        .order_by(TimerNoteRow.id)
    )
    return {timer: Note(until) for timer, until in rows}


def put_off(session: Session, scene: SceneRow, timer: str, until: datetime | None, now: datetime) -> None:
    """Put a timer off until a moment, or (None) stop it: it was heard."""
    session.add(TimerNoteRow(scene_id=scene.id, timer=timer, until=until, at=now))
    session.flush()
