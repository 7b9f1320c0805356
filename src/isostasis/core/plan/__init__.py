"""From a resolved document to the plan: amounts, batches, steps, cautions, and what to buy.

A pure function of the resolved document: screen and command line call the same one. `model` has the plan's shapes,
`steps`, `batches`, `buying` and `cautions` its parts, `preview` one lift alone.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace
from math import cos, radians

from ..built.matching import Match, match
from ..built.remains import Work, all_new, remains
from ..built.removals import removals
from ..document import ResolvedScene
from ..document.scene import Lift
from ..fault import Faults
from ..figure import Figure, Term
from ..ground.field import Shaped, empty_ground
from ..ground.forms import bare_ground
from ..ground.forms.casting import Casting
from ..judging import judge
from ..lifts.areas import owned, true_area
from ..lifts.cast import CastPlan, cast
from ..lifts.estimate import LiftEstimate, LiftPlan, Notice
from ..lifts.fold import Build, Stage, build
from ..lifts.kinds import kind_of
from ..lifts.labels import Labels
from ..lifts.learnt import learnt
from ..stages import cached_stage
from .acts import Laying
from .batches import batches_of, cast_batches, shared, with_shares
from .buying import needs_of
from .cautions import cautions_of
from .model import Batch, Feed, FormPlan, Need, PatchPlan, Plan, PlanCaution, Step, StepWindow, Use
from .steps import steps_of
from .uses import glue_film, uses_of

__all__ = [
    "Batch", "Feed", "FormPlan", "Need", "PatchPlan", "Plan", "PlanCaution", "Step", "StepWindow", "Use", "plan",
]  # fmt: skip


@cached_stage
def plan(scene: ResolvedScene) -> Plan:
    """The plan of a resolved document: of what is still to be done, beside what was. Raises Faults where the ground and
    the lifts do not fit together."""
    if not scene.built:
        return _plan(scene, None)
    bare, _ = bare_ground(scene.base, scene.cell_mm, scene.forms)
    covers = owned(scene, bare, empty_ground(scene.base, scene.cell_mm))
    try:
        return _plan(scene, match(scene, bare, covers))
    except Faults as refused:
        # What is planned does not fit on what lies there: it is planned as it is meant, and that is told.
        return _plan(scene, match(scene, bare, covers, as_it_lies=False), refused.faults[0].what)


def _plan(scene: ResolvedScene, matched: Match | None, misfit: str = "") -> Plan:
    meant = matched.scene if matched else scene
    labels, built = Labels.of(meant), build(meant)
    alone: dict[str, LiftEstimate] = {
        name: learnt(kind_of(stage.site.lift).estimate(stage.site.lift, stage.site, labels), labels)
        for name, stage in _in_order(meant, built)
    }
    judgement = judge(meant, built, alone, labels)
    wholes = {name: estimate.warned(judgement.notices.get(name, ())) for name, estimate in alone.items()}
    works = remains(meant, built, wholes, matched, labels) if matched else all_new(meant, wholes)
    groups = shared(meant, works)
    works = with_shares(works, groups, built, labels)
    if misfit:
        works = {name: _misfitting(work, built.stages[name].site.lift, misfit) for name, work in works.items()}
    casts = {one.form.id: cast(meant, one, labels) for one in built.forms if isinstance(one.form, Casting)}
    offs = removals(meant, matched) if matched else None
    batches = (*cast_batches(meant, casts), *batches_of(groups))
    steps = _fed(steps_of(meant, built, Laying(wholes, works), casts, groups, offs or ()), batches)
    uses = uses_of(meant, labels, works, built, casts, steps, batches)
    return Plan(
        plan=1,
        scene=scene.name,
        patches={name: _patch(built, name) for name in built.covers},
        forms={one.form.id: _form(one, labels, casts.get(one.form.id)) for one in built.forms},
        lifts={name: _lift(work, wholes[name], bool(matched)) for name, work in works.items()},
        batches=batches,
        steps=steps,
        cautions=cautions_of(scene.rules, tuple(step for step in steps if not step.built)),
        buy=needs_of(uses, labels, scene.bench),
        off=offs or None,
        checks=judgement.checks,
        built=built,
        works=works,
        uses=uses,
    )


def _misfitting(work: Work, lift: Lift, misfit: str) -> Work:
    """What is to be done of a pour, with word that it does not fit on what lies there."""
    if not lift.levels_itself or work.state == "done":
        return work
    told = Notice("in-the-way", f"On what lies there {lift.title.lower()} does not fit: {misfit}.")
    return replace(work, notices=(*work.notices, told))


def _lift(work: Work, whole: LiftEstimate, told: bool) -> LiftPlan:
    """A lift's figures: as it is meant; where something was built (`told`) with what became of it and what remains."""
    if work.state == "new" and work.estimate is not None and not told:
        return work.estimate.plan
    plan = work.estimate.plan if work.state == "new" and work.estimate is not None else whole.plan
    state = "off" if work.state == "new" and any(layer.loose_mm2 for layer in work.layers) else work.state
    terms = whole.plan.volume_ml.term("meant, in place"), Term("lies there", work.built_ml, "ml")
    left = Figure(work.remains_ml, "ml", "what is still to be laid, in place", terms)
    return replace(plan, state=state, remains_ml=left, warnings=(*plan.warnings, *work.notices))


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


def _form(shaped: Shaped, labels: Labels, casting: CastPlan | None) -> FormPlan:
    added = "added" if shaped.volume_ml >= 0 else "removed"
    glue = None
    if shaped.form.glue:
        material = labels.materials[shaped.form.glue]
        film = glue_film(material)
        faces = "film, both faces" if material.glue_both_faces else "film"
        terms = Term("area", shaped.area_mm2, "mm2"), Term(faces, film, "mm", f"label of {material.name}")
        glue = Figure(shaped.area_mm2 * film / 1000, "ml", "area × film", terms)
    volume = Figure(shaped.volume_ml, "ml", f"sum of what was {added}, cell by cell")
    if shaped.off_by:
        ends = sorted(shaped.volume_ml * (1 + sign * shaped.off_by) for sign in (-1, 1))
        source = "measured on rendered beds, 19 of 20"
        volume = replace(volume, low=ends[0], high=ends[1]).with_terms(
            Term("off by", shaped.off_by, "fraction", source)
        )
    return FormPlan(volume, glue, casting)
