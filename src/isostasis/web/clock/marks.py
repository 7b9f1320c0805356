"""Marking the work, from the clock and from the wet line: begun, done, skipped, touch-tested, or taken back."""

from __future__ import annotations

from datetime import timedelta

from flask import request
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...store import scenes, work
from ..frame.opened import database, go, now, open_scene
from ..frame.views import here_of
from .asking import ask, clock_of, zone
from .views import back, blueprint, local

WHATS = {
    "started": "begun", "done": "done", "skipped": "skipped", "not-yet": "not ready yet", "ready": "ready",
    "undone": "taken back",
}  # fmt: skip
AHEAD = timedelta(minutes=2)  # clocks differ


@blueprint.post("/s/<slug>/clock/mark")
def mark(slug: str) -> Response:
    """Something happened to a step: now, or at the time that was written."""
    opened = open_scene(slug)
    name, what = request.form.get("step", ""), request.form.get("what", "")
    step = next((one for one in opened.plan.steps if one.id == name), None)
    if step is None or step.gate:
        raise fault("step", f"the plan has no step '{name}' that could be marked", "reload the page")
    if what not in WHATS:
        raise fault("mark", f"“{what}” is no mark", f"one of {', '.join(WHATS)}")
    note = request.form.get("note", "").strip()
    text = request.form.get("at", "").strip()
    at = local(text, "time", zone()) if text else now()
    if at > now() + AHEAD:
        raise fault("time", f"{at:%a %d %b %H:%M} is yet to come", "write when it happened")
    if what == "skipped" and not note:
        raise fault("skipped", f"it is not said why “{step.do}” is skipped", "write the reason in a few words")
    with database().writing() as session:
        row = scenes.find(session, slug)
        marks = work.marks(work.events(session, row))
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
        work.add_event(session, row, step.id, step.lift, what, work.planned_step(opened.plan, step), at, note)
    ask(clock_of(slug), f"{WHATS[what]}: {step.do}")
    if request.form.get("here"):
        return go(here_of())
    return back(slug, step=step.id)
