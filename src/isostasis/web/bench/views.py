"""The bench's page: now, next, wet and blocked over all scenes that share a pair of hands."""

from __future__ import annotations

from datetime import datetime

from flask import Blueprint, render_template, request
from sqlalchemy.orm import Session

from ...core.bench import Act, BenchScene, Spot, after_visit, agenda, fitting, spots, vapours, visit
from ...core.plan import Step
from ...core.plan.cautions import worst_first
from ...store import bench, cautions, logbook, photos, scenes
from ..shared.due import rings_of
from ..shared.fields import Field, read_one
from ..shared.scenes import database, wall_now
from .done import just_done
from .spots import drawn_plan

blueprint = Blueprint("bench", __name__)
MINUTES = Field("minutes", "minutes that I have", "whole", start=30, low=1, high=960)
TOUCHES = (("not-yet", "still wet"), ("not-yet", "tacky"), ("not-yet", "leathery"), ("ready", "hard"))
CUP_TOUCHES = (("cup-not-yet", "its cup: soft"), ("cup-ready", "its cup: hard"))
STATES = ("now", "wet", "ready", "blocked", "to do", "done")
MOST = 8  # of each list


def _chosen(bench_scenes: list[BenchScene], acts: list[Act]) -> BenchScene | None:
    """The scene whose plan is drawn: the one that is asked for, else that of the first act."""
    wanted = next((one for one in bench_scenes if one.slug == request.args.get("scene")), None)
    return wanted or (acts[0].scene if acts else bench_scenes[0] if bench_scenes else None)


def _read(session: Session, act: Act, about: str) -> dict[str, datetime]:
    return cautions.read_of(session, scenes.find(session, act.scene.slug), about)


@blueprint.get("/bench")
def page() -> str:
    """Now, next, wet and blocked, over all scenes at work. Raises Faults."""
    moment = wall_now()
    minutes = int(read_one(MINUTES, request.args))
    with database().reading() as session:
        bench_scenes = bench.at_work(session, moment)
        acts = agenda(bench_scenes, moment)
        first = acts[0] if acts else None
        step: Step | None = None
        about, read, shots = "", {}, []
        if first is not None:
            step = first.step or logbook.laying(first.scene.plan, first.into, 1)
            about = (step.batch[0] if step.batch else step.id) if step else ""
            read = _read(session, first, about)
            row = scenes.find(session, first.scene.slug)
            shots = photos.by_step(session, row).get(step.id, []) if step else []
        cups = bench.open_cups(session, bench_scenes)
        mark = bench.mark_of(session)
        done = just_done(session, bench_scenes, moment, MOST)
        rings = rings_of(session, bench_scenes, moment)
    chosen = _chosen(bench_scenes, acts)
    states: dict[str, list[Spot]] = {one.slug: spots(one, moment) for one in bench_scenes}
    every = [(one, spot) for one in bench_scenes for spot in states[one.slug]]
    resin = {
        (one.slug, step.id)
        for one in bench_scenes
        for step in one.plan.steps
        if step.takes_cup and step.id in one.marks.done
    }
    return render_template(
        "bench/page.html", scenes=bench_scenes, first=first, step=step, then=acts[1 : MOST + 1], cups=cups, about=about,
        coming=[one for one in rings if not one.rings][:3], next_visit=after_visit(bench_scenes, moment),
        cautions=worst_first(first.scene.plan.cautions_of(step.id)) if first and step else [], read=read, shots=shots,
        vapours=vapours(bench_scenes, moment), done=done, resin=resin, cup_touches=CUP_TOUCHES,
        chosen=chosen, drawn=drawn_plan(chosen, states[chosen.slug]) if chosen else None,
        wet=[(one, spot) for one, spot in every if spot.state == "wet"][:MOST],
        blocked=[(one, spot) for one, spot in every if spot.state == "blocked"][:MOST],
        counts={state: sum(spot.state == state for _, spot in every) for state in STATES},
        fits=fitting(bench_scenes, moment, minutes)[:MOST], minutes=minutes,
        visit=visit(acts[:7]), mark=mark, rings=rings, touches=TOUCHES, wall=moment, place="bench",
    )  # fmt: skip
