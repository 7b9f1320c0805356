"""Marking the work, from the clock and from the wet line: begun, done (or a part of it), skipped, touch-tested, or the
last mark taken back; several steps together; now, or at the time that is written."""

from __future__ import annotations

from datetime import datetime, timedelta

from flask import request
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...core.plan import Step
from ...store import logbook, scenes
from ...store import marks as marks_of
from ...store.marking import refuse, wait_from
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.fields import Field, read
from ..shared.scenes import OpenScene, database, now, open_scene
from ..shared.undoing import EVENT_LABELS
from .asking import ask, clock_of, zone
from .views import back, blueprint

MARK = (
    Field("what", "mark"),
    Field("note", "note", start="", most=500),
    Field("at", "time", "moment", optional=True),
    Field("share", "how much of it", "percent", optional=True, low=0.01, high=1),
    Field("held", "marks", "whole", optional=True),
)
AHEAD = timedelta(minutes=2)  # clocks differ
MAX_TOGETHER = 60


@blueprint.post("/s/<slug>/clock/mark")
def mark(slug: str) -> Response:
    """Something happened to one or several steps: now, or at the time that was written. Raises Faults."""
    opened = open_scene(slug)
    what, note, written, share, held = read(MARK, request.form).values()
    names = list(dict.fromkeys(request.form.getlist("step")))
    if not names:
        raise fault("step", "no step is named", "choose at least one")
    if len(names) > MAX_TOGETHER:
        raise fault("step", f"{len(names)} steps are more than {MAX_TOGETHER}", "mark some of them first")
    steps = [_step(opened, name) for name in names]
    if what not in EVENT_LABELS:
        raise fault("mark", f"“{what}” is no mark", f"one of {', '.join(EVENT_LABELS)}")
    if what == "part" and share is None:
        raise fault("how much of it", "it is not said how much was done", "write a share such as 50")
    if what == "part" and share == 1:
        what = "done"
    at = written or now()
    if at > now() + AHEAD:
        raise fault("time", f"{_when(at)} is yet to come", "write when it happened")
    with database().writing() as session:
        row = scenes.find(session, slug)
        events = marks_of.events(session, row)
        kept, known = marks_of.holding(events), marks_of.marks(events)
        for step in steps:
            if held is not None and len(steps) == 1 and held != len(kept.get(step.id, ())):
                last = kept[step.id][-1] if step.id in kept else None
                said = f"is {EVENT_LABELS[last.what]} since {_when(last.at)}" if last else "has no mark any more"
                raise fault("mark", f"“{step.do}” {said}, marked elsewhere", "look at it again before you mark it")
            refuse(opened.plan, step, what, at, bool(written), note, known, zone())
            wait_h = wait_from(opened.scene, step, at) if what in marks_of.LAID else None
            logbook.add_event(
                session, row, (opened.scene, opened.plan), step, what, at, note=note, share=share or 1.0, wait_h=wait_h
            )
    ask(clock_of(slug), f"{EVENT_LABELS[what]}: {steps[0].do}" + (" and more" if len(steps) > 1 else ""))
    if request.form.get("here"):
        return hx_redirect(safe_return_url())
    return back(slug, step=steps[0].id)


def _when(at: datetime) -> str:
    """A moment as the clock on the wall has it."""
    return f"{at.astimezone(zone()):%a %d %b %H:%M}"


def _step(opened: OpenScene, name: str) -> Step:
    """The step of that id. Raises Faults for one that is gone, or is no work."""
    step = next((one for one in opened.plan.steps if one.id == name), None)
    if step is None or step.gate:
        raise fault("step", f"the plan has no step '{name}' that could be marked", "reload the page")
    return step
