"""Marking the work, from the clock and from the wet line: begun, done, skipped, touch-tested, or taken back."""

from __future__ import annotations

from datetime import timedelta

from flask import request
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...store import logbook, scenes
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.fields import Field, read
from ..shared.scenes import database, now, open_scene
from .asking import ask, clock_of
from .views import back, blueprint

MARK = (
    Field("step", "step"),
    Field("what", "mark"),
    Field("note", "note", start="", most=500),
    Field("at", "time", "moment", optional=True),
)
EVENT_LABELS = {
    "started": "begun", "done": "done", "skipped": "skipped", "not-yet": "not ready yet", "ready": "ready",
    "undone": "taken back",
}  # fmt: skip
AHEAD = timedelta(minutes=2)  # clocks differ


@blueprint.post("/s/<slug>/clock/mark")
def mark(slug: str) -> Response:
    """Something happened to a step: now, or at the time that was written. Raises Faults."""
    opened = open_scene(slug)
    name, what, note, written = read(MARK, request.form).values()
    step = next((one for one in opened.plan.steps if one.id == name), None)
    if step is None or step.gate:
        raise fault("step", f"the plan has no step '{name}' that could be marked", "reload the page")
    if what not in EVENT_LABELS:
        raise fault("mark", f"“{what}” is no mark", f"one of {', '.join(EVENT_LABELS)}")
    at = written or now()
    if at > now() + AHEAD:
        raise fault("time", f"{at:%a %d %b %H:%M} is yet to come", "write when it happened")
    if what == "skipped" and not note:
        raise fault("skipped", f"it is not said why “{step.do}” is skipped", "write the reason in a few words")
    with database().writing() as session:
        row = scenes.find(session, slug)
        marks = logbook.marks(logbook.events(session, row))
        if what in ("not-yet", "ready"):
            done = marks.done.get(name)
            if done is None:
                raise fault("touch-test", f"“{step.do}” is not marked as done", "mark it as done first")
            if at < done:
                raise fault("touch-test", f"{at:%a %H:%M} is before it was done", "write when you touched it")
        elif what == "undone" and not any(name in known for known in (marks.started, marks.done, marks.skipped)):
            raise fault("mark", f"“{step.do}” has no mark to take back", "reload the page")
        elif what == "done" and name in marks.started and at < marks.started[name]:
            raise fault("time", "that is before it was begun", "write when it was done")
        logbook.add_event(session, row, step.id, step.lift, what, logbook.planned_step(opened.plan, step), at, note)
    ask(clock_of(slug), f"{EVENT_LABELS[what]}: {step.do}")
    if request.form.get("here"):
        return hx_redirect(safe_return_url())
    return back(slug, step=step.id)
