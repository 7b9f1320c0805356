"""What rings on every page, what rings next, and what is done about it: put off, with what that risks, or stopped."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from flask import g, render_template, request
from werkzeug.wrappers import Response

from ...core.bench import BenchScene
from ...core.fault import fault
from ...core.hours import parse_hours
from ...core.timers import Note, Timer, ahead, ringing, timers
from ...store import bench, scenes
from ...store import timers as kept
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.fields import Field, read
from ..shared.scenes import database, now, wall_now
from .views import blueprint

COMING = timedelta(hours=14)  # that a page holds, to ring also without a connection
PUT_OFF_MIN = 5
MOST = 12
RING = (
    Field("timer", "timer"),
    Field("what", "what is done"),
    Field("minutes", "minutes", "whole", start=PUT_OFF_MIN, low=1, high=24 * 60),
)


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


def rings_of(found: Sequence[BenchScene], notes: dict[str, dict[str, Note]], moment: datetime) -> list[Ring]:
    """What rings now over some scenes, the most pressing first, then what will."""
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


@blueprint.get("/wet-line")
def wet_line() -> str:
    """What is wet, what rings and what will; `here` is the page that it stands on."""
    moment = wall_now()
    with database().reading() as session:
        found = bench.at_work(session, moment)
        notes = {one.slug: kept.notes(session, scenes.find(session, one.slug)) for one in found}
    rings = rings_of(found, notes, moment)
    return render_template("shared/_wet.html", here=request.values.get("here", "/"), rings=rings)


@blueprint.post("/s/<slug>/ring")
def ring(slug: str) -> Response | str:
    """A timer is stopped (`heard`), or put off by some minutes (`later`). Raises Faults."""
    name, what, minutes = read(RING, request.form).values()
    if what not in ("heard", "later"):
        raise fault("timer", f"“{what}” is nothing to do with it", "hear it, or put it off")
    moment = now()
    with database().writing() as session:
        row = scenes.find(session, slug)
        known = {one.key for one in timers(bench.bench_scene(session, row, moment))}
        if name not in known:
            raise fault("timer", "it is gone meanwhile", "look at the page again")
        kept.put_off(session, row, name, moment + timedelta(minutes=minutes) if what == "later" else None, moment)
    if request.headers.get("HX-Target") == "wet":
        return wet_line()
    return hx_redirect(safe_return_url())
