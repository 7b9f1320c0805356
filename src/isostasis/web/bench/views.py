"""The bench's page, and what it asks for by itself."""

from __future__ import annotations

from flask import Blueprint, jsonify, render_template, request
from werkzeug.wrappers import Response

from ...core.bench import Act, BenchScene, Spot, agenda, fitting, spots, visit
from ...store import bench, logbook
from ..shared.fields import Field, read_one
from ..shared.scenes import database, wall_now
from .spots import drawn_plan

blueprint = Blueprint("bench", __name__)
MINUTES = Field("minutes", "minutes that I have", "whole", start=30, low=1, high=960)
TOUCHES = (("not-yet", "still wet"), ("not-yet", "tacky"), ("not-yet", "leathery"), ("ready", "hard"))
MOST = 8  # of each list


def _chosen(scenes: list[BenchScene], acts: list[Act]) -> BenchScene | None:
    """The scene whose plan is drawn: the one that is asked for, else that of the first act."""
    wanted = next((one for one in scenes if one.slug == request.args.get("scene")), None)
    return wanted or (acts[0].scene if acts else scenes[0] if scenes else None)


@blueprint.get("/bench")
def page() -> str:
    """Now, next, wet and blocked, over all scenes at work. Raises Faults."""
    moment = wall_now()
    minutes = int(read_one(MINUTES, request.args))
    with database().reading() as session:
        scenes = bench.at_work(session, moment)
        cups = bench.open_cups(session, scenes)
    acts = agenda(scenes, moment)
    first = acts[0] if acts else None
    chosen = _chosen(scenes, acts)
    states: dict[str, list[Spot]] = {one.slug: spots(one, moment) for one in scenes}
    every = [(one, spot) for one in scenes for spot in states[one.slug]]
    step = (first.step or logbook.laying(first.scene.plan, first.into, 1)) if first else None
    caution = first.scene.plan.cautions_of(step.id) if first and step else ()
    return render_template(
        "bench/page.html", scenes=scenes, first=first, then=acts[1 : MOST + 1], cups=cups, cautions=caution[:3],
        chosen=chosen, drawn=drawn_plan(chosen, states[chosen.slug]) if chosen else None,
        wet=[(one, spot) for one, spot in every if spot.state == "wet"][:MOST],
        blocked=[(one, spot) for one, spot in every if spot.state == "blocked"][:MOST],
        counts={state: sum(spot.state == state for _, spot in every) for state in STATES},
        fits=fitting(scenes, moment, minutes)[:MOST], minutes=minutes,
        visit=visit([one for one in acts if one.step][:6]), touches=TOUCHES, wall=moment, place="bench",
    )  # fmt: skip


STATES = ("now", "wet", "ready", "blocked", "to do", "done")


@blueprint.get("/bench/at")
def at() -> Response:
    """How far the work is, as a mark of it: what changes when anything was marked, mixed or saved."""
    with database().reading() as session:
        return jsonify(bench.how_far(session))
