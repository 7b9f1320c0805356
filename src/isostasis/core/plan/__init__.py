"""From a resolved document to the plan: amounts, batches, steps, cautions, and what to buy.

A pure function of the resolved document: screen and command line call the same one. `model` has the plan's shapes,
`steps`, `batches`, `buying` and `cautions` its parts, `preview` one lift alone.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace
from math import cos, radians

from ..document import ResolvedScene
from ..figure import Figure, Term
from ..ground.field import Shaped
from ..ground.forms.casting import Casting
from ..judging import judge
from ..lifts.areas import true_area
from ..lifts.cast import CastPlan, cast
from ..lifts.estimate import LiftEstimate
from ..lifts.fold import Build, Stage, build
from ..lifts.kinds import kind_of
from ..lifts.labels import Labels
from ..stages import cached_stage
from .batches import batches_of, cast_batches, shared, with_shares
from .buying import glue_film, needs_of
from .cautions import cautions_of
from .model import Batch, Feed, FormPlan, Need, PatchPlan, Plan, PlanCaution, Step, StepWindow
from .steps import steps_of

__all__ = [
    "Batch", "Feed", "FormPlan", "Need", "PatchPlan", "Plan", "PlanCaution", "Step", "StepWindow", "plan",
]  # fmt: skip


@cached_stage
def plan(scene: ResolvedScene) -> Plan:
    """The plan of a resolved document. Raises Faults where the ground and the lifts do not fit together."""
    labels, built = Labels.of(scene), build(scene)
    alone: dict[str, LiftEstimate] = {
        name: kind_of(stage.site.lift).estimate(stage.site.lift, stage.site, labels)
        for name, stage in _in_order(scene, built)
    }
    judgement = judge(scene, built, alone, labels)
    warned = {name: estimate.warned(judgement.notices.get(name, ())) for name, estimate in alone.items()}
    groups = shared(scene, warned)
    estimates = with_shares(warned, groups, built, labels)
    casts = {one.form.id: cast(scene, one, labels) for one in built.forms if isinstance(one.form, Casting)}
    batches = (*cast_batches(scene, casts), *batches_of(groups))
    steps = _fed(steps_of(scene, built, estimates, casts, groups), batches)
    return Plan(
        plan=1,
        scene=scene.name,
        patches={name: _patch(built, name) for name in built.covers},
        forms={one.form.id: _form(one, labels, casts.get(one.form.id)) for one in built.forms},
        lifts={name: estimate.plan for name, estimate in estimates.items()},
        batches=batches,
        steps=steps,
        cautions=cautions_of(scene.rules, steps),
        buy=needs_of(scene, labels, estimates, built, casts),
        checks=judgement.checks,
        built=built,
        estimates=estimates,
    )


def _in_order(scene: ResolvedScene, built: Build) -> list[tuple[str, Stage]]:
    """Every lift's stage in the order of the document."""
    return [(lift.id, built.stages[lift.id]) for patch in scene.patches for lift in patch.lifts]


def _fed(steps: tuple[Step, ...], batches: tuple[Batch, ...]) -> tuple[Step, ...]:
    """The steps, each with the batches that it is fed from, in the order of use."""
    fed: dict[tuple[str, int], list[str]] = defaultdict(list)
    for batch in batches:
        for feed in batch.feeds:
            fed[feed.into, feed.layer].append(batch.id)
    return tuple(
        replace(step, batch=tuple(fed[into, step.course]))
        if step.course and (into := step.lift or step.form or "") and (into, step.course) in fed
        else step
        for step in steps
    )


def _patch(built: Build, name: str) -> PatchPlan:
    cover, bare = built.covers[name], built.bare
    cell = Term("cell", bare.cell_mm, "mm", "grid of this scene")
    plan_area = float(cover.share.sum()) * bare.cell_area
    if cover.face:
        lean = Term("slope", cover.face.slope_deg, "deg", "this scene")
        given = Term("its area", cover.face.face_mm2, "mm2", "this scene")
        shadow = cover.face.face_mm2 * abs(cos(radians(cover.face.slope_deg)))
        return PatchPlan(
            Figure(shadow, "mm2", "area × cosine of its slope: its shadow", (given, lean)),
            Figure(cover.face.face_mm2, "mm2", "as this scene gives it: a face has no place on the ground", (given,)),
        )
    return PatchPlan(
        Figure(plan_area, "mm2", "the patch's share of each cell × cell area", (cell,)),
        Figure(true_area(bare, cover), "mm2", "surface triangulated through the cell centres, on the bare forms",
               (Term("its shadow", plan_area, "mm2"), cell)),
    )  # fmt: skip


def _form(one: Shaped, labels: Labels, made: CastPlan | None) -> FormPlan:
    added = "added" if one.volume_ml >= 0 else "removed"
    glue = None
    if one.form.glue:
        material = labels.materials[one.form.glue]
        film = glue_film(material)
        faces = "film, both faces" if material.glue_both_faces else "film"
        terms = Term("area", one.area_mm2, "mm2"), Term(faces, film, "mm", f"label of {material.name}")
        glue = Figure(one.area_mm2 * film / 1000, "ml", "area × film", terms)
    return FormPlan(Figure(one.volume_ml, "ml", f"sum of what was {added}, cell by cell"), glue, made)
