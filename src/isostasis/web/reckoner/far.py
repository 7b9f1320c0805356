"""How far what is left will go: on the page, with the spots on their plans."""

from __future__ import annotations

from flask import render_template, request

from ...core.bench import BenchScene
from ...core.bench import Spot as State
from ...core.fault import Faults, fault
from ...core.mixing.parts import wet
from ...core.stock.far import Far, how_far
from ...store import far, labels
from ..bench.spots import DrawnPlan, drawn_plan
from ..shared.fields import parse_grams
from ..shared.scenes import database, wall_now
from .views import blueprint

MAX_ML = 50_000.0


def _there(text: str, density: float) -> float:
    """ml that were typed, by volume or by mass. Raises Faults."""
    there = parse_grams(text, "left", density, bare="volume") / density
    if not 0 <= there <= MAX_ML:
        raise fault("left", f"{there:g} ml is outside 0 to {MAX_ML:g}", "write what there is")
    return there


@blueprint.get("/reckon/far")
def how_far_page() -> str:
    """Of a mix, by so much of it: which spots, in which order, how thick. Raises Faults."""
    moment = wall_now()
    with database().reading() as session:
        bench_scenes = far.open_scenes(session, moment)
        waiting = far.waiting(session, bench_scenes)
        known = labels.catalogue(session)
    mix = request.args.get("mix", "")
    chosen = next((one for one in waiting if one.mix == mix), waiting[0] if waiting else None)
    text, wrong, answer, drawn = request.args.get("left", "").strip(), "", None, None
    if chosen is not None:
        recipe = known.mixes.get(chosen.mix)
        density = wet(recipe, known.materials).density if recipe is not None else 1.0
        try:
            there = _there(text, density) if text else chosen.there_ml
            answer = how_far(far.spots(bench_scenes, chosen.mix), there)
            drawn = _drawn(bench_scenes, answer)
        except Faults as problem:
            wrong = str(problem.faults[0])
    return render_template(
        "reckoner/far.html", waiting=waiting, chosen=chosen, made=answer, text=text, wrong=wrong, drawn=drawn,
        names={one.slug: one.name for one in bench_scenes}, place="reckoner",
    )  # fmt: skip


def _drawn(bench_scenes: list[BenchScene], answer: Far) -> list[tuple[str, DrawnPlan]]:
    """The plans of the scenes on which anything is done, their spots by whether it reaches them."""
    plans = []
    done = {(one.spot.scene, one.spot.step) for one in answer.done}
    out = {(one.scene, one.step) for one in answer.left_out}
    for scene in bench_scenes:
        by_patch: dict[str, set[str]] = {}
        for step in scene.plan.steps:
            key = scene.slug, step.id
            if step.patch and (key in done or key in out):
                by_patch.setdefault(step.patch, set()).add("ready" if key in done else "blocked")
        if any("ready" in states for states in by_patch.values()):
            spots = [
                State(patch.id, patch.name, "ready" if "ready" in by_patch.get(patch.id, ()) else
                      "blocked" if patch.id in by_patch else "to do")
                for patch in scene.scene.patches
            ]  # fmt: skip
            plans.append((scene.name, drawn_plan(scene, spots)))
    return plans
