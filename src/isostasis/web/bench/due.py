"""What rings now over the scenes at work, and what will."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from flask import g
from sqlalchemy.orm import Session

from ...core.bench import BenchScene
from ...core.hours import parse_hours
from ...core.timers import Note, Timer, ahead, ringing, timers
from ...store import scenes
from ...store import timers as kept

COMING = timedelta(hours=14)  # that a page holds, to ring also without a connection
PUT_OFF_MIN = 5
MOST = 12


@dataclass(frozen=True)
class Ring:
    """A timer as a page rings it: at which moment, whether it does now, by how many minutes it can be put off, and what
    that would risk."""

    timer: Timer
    at: datetime
    rings: bool
    minutes: int
    risk: str


def _ring(timer: Timer, at: datetime, moment: datetime) -> Ring:
    """Put off by some minutes, or by half of what is left where that is little."""
    begins = max(at, moment)
    left = PUT_OFF_MIN * 2 if timer.until is None else (timer.until - begins) / timedelta(minutes=1)
    minutes = PUT_OFF_MIN if left >= PUT_OFF_MIN * 2 else max(int(left / 2), 1)
    return Ring(timer, at, at <= moment, minutes, timer.risked_by(begins + timedelta(minutes=minutes)))


def rings_of(session: Session, found: Sequence[BenchScene], moment: datetime) -> list[Ring]:
    """What rings now over some scenes, the most pressing first, then what will."""
    notes: dict[str, dict[str, Note]] = {one.slug: kept.notes(session, scenes.find(session, one.slug)) for one in found}
    hours = parse_hours(g.settings.hours)
    rung, coming = [], []
    for scene in found:
        mine, held = timers(scene), notes.get(scene.slug, {})
        rung += ringing(mine, held, moment, hours)
        coming += ahead(mine, held, moment, COMING)
    far = moment + timedelta(days=4000)
    first = sorted((_ring(one, one.rings, moment) for one in rung), key=lambda one: (one.timer.until or far, one.at))
    later = sorted((_ring(one, at, moment) for at, one in coming), key=lambda one: one.at)
    return [*first[:MOST], *later[:MOST]]
