"""What rings on every page, what rings next, and what is done about it: put off, with what that risks, or stopped."""

from __future__ import annotations

from datetime import timedelta

from flask import Response, make_response, render_template, request
from werkzeug.wrappers import Response as BaseResponse

from ...core.fault import fault
from ...core.timers import timers
from ...store import bench, scenes
from ...store import timers as kept
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.due import PUT_OFF_MIN, remember, rings_at_work
from ..shared.fields import Field, read
from ..shared.scenes import database, now, wall_now
from .views import blueprint

RING = (
    Field("timer", "timer"),
    Field("what", "what is done"),
    Field("minutes", "minutes", "whole", start=PUT_OFF_MIN, low=1, high=24 * 60),
)


@blueprint.get("/wet-line")
def wet_line() -> Response:
    """What is wet, what rings and what will; `here` is the page that it stands on."""
    rings = rings_at_work(wall_now())
    here = request.values.get("here", "/")
    return remember(make_response(render_template("shared/_wet.html", here=here, rings=rings)), rings)


@blueprint.post("/s/<slug>/ring")
def ring(slug: str) -> BaseResponse:
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
