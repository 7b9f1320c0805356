"""What rings now over the scenes at work, and what will. To work that out takes as long as all else on a page: it is
asked for after the page, and stands on it from the start only while something rings, lest what is below jump."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from flask import Response, current_app, g, request
from sqlalchemy.orm import Session

from ...core.bench import BenchScene
from ...core.hours import parse_hours
from ...core.timers import Note, Timer, ahead, ringing, timers
from ...store import bench, scenes
from ...store import timers as kept
from .scenes import database

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


def rings_of(session: Session, bench_scenes: Sequence[BenchScene], moment: datetime) -> list[Ring]:
    """What rings now over some scenes, the most pressing first, then what will."""
    notes: dict[str, dict[str, Note]] = {
        one.slug: kept.notes(session, scenes.find(session, one.slug)) for one in bench_scenes
    }
    hours = parse_hours(g.settings.hours)
    rung, coming = [], []
    for scene in bench_scenes:
        mine, held = timers(scene), notes.get(scene.slug, {})
        rung += ringing(mine, held, moment, hours)
        coming += ahead(mine, held, moment, COMING)
    far = moment + timedelta(days=4000)
    first = sorted((_ring(one, one.rings, moment) for one in rung), key=lambda one: (one.timer.until or far, one.at))
    later = sorted((_ring(one, at, moment) for at, one in coming), key=lambda one: one.at)
    return [*first[:MOST], *later[:MOST]]


def rings_at_work(moment: datetime) -> list[Ring]:
    """What rings over all scenes at work, and what will."""
    with database().reading() as session:
        return rings_of(session, bench.at_work(session, moment), moment)


def _cookie() -> str:
    return f"{current_app.config['SESSION_COOKIE_NAME']}-rings"


def remember(answer: Response, rings: Sequence[Ring]) -> Response:
    """An answer that tells the browser from when on something rings."""
    first = min((one.at for one in rings if one.timer.kind != "ready"), default=None)
    secure = current_app.config["SESSION_COOKIE_SECURE"]
    answer.set_cookie(_cookie(), first.isoformat() if first else "", secure=secure, httponly=True, samesite="Lax")
    return answer


def is_due(moment: datetime) -> bool:
    """Whether something rings by now, as far as the browser was told."""
    try:
        return datetime.fromisoformat(request.cookies[_cookie()]) <= moment
    except (KeyError, ValueError, TypeError):
        return False
