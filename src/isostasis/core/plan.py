"""From a resolved document to the plan: amounts, batches, steps, cautions, and what to buy.

A pure function of the resolved document: screen and command line call the same one.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import datetime
from itertools import pairwise, takewhile
from math import ceil, cos, radians
from typing import Any

from .batching import Share, Shared, shared, with_shares
from .catalogue import Bench, Material, shipped
from .document.scene import Form, Lift, Patch, Scene
from .fault import fault
from .figure import Figure, Term, at_path, plain
from .ground.field import Shaped, tilted
from .ground.forms.casting import Casting
from .lifts import module_of
from .lifts.cast import CastPlan, cast
from .lifts.fold import Build, build
from .lifts.neighbours import Check, at_site, between, damp_beds, wet_beds
from .lifts.order import judged
from .lifts.pools import PourLift, brim_of, lowest_cell
from .lifts.site import Ingredient, Labels, LiftPlan, Notice, Site, Window, Work, true_area
from .terrain.joints import crossing, joint_lines, separator
from .terrain.keep import flat_notices, protections

GLUE_LINE_H = 12.0
A_DROP_ML = 0.05
MESS = {"shell": "plaster", "skin": "plaster", "texture": "dust", "resin": "resin"}


@dataclass(frozen=True, slots=True)
class PatchPlan:
    """A patch on the bare forms, before any lift."""

    plan_area_mm2: Figure
    true_area_mm2: Figure


@dataclass(frozen=True, slots=True)
class FormPlan:
    """What a form added or, negative, removed."""

    volume_ml: Figure
    glue_ml: Figure | None = None
    cast: CastPlan | None = None


@dataclass(frozen=True, slots=True)
class Feed:
    """What a batch gives to one layer of one lift, or to one round of a casting (then `form` names it), its share of
    waste included; layers and rounds count from 1."""

    layer: int
    volume_ml: Figure
    lift: str | None = None
    form: str | None = None

    @property
    def into(self) -> str:
        """The id of the lift or form that is fed."""
        return self.lift or self.form or ""


@dataclass(frozen=True, slots=True)
class Batch:
    """One mixing, for all copies."""

    id: str
    mix: str
    volume_ml: Figure
    working_min: float | None
    feeds: tuple[Feed, ...]


@dataclass(frozen=True, slots=True)
class StepWindow:
    """When a step should come, in hours after the end of the step `of`; `to_h` None: from then on."""

    what: str
    from_h: float
    to_h: float | None
    of: str


@dataclass(frozen=True, slots=True)
class Step:
    """One stretch of work. It may start when each step in `after` has ended and that step's wait has passed."""

    id: str
    do: str
    after: tuple[str, ...]
    hands_on_min: float
    wait_h: float | None
    windows: tuple[StepWindow, ...] = ()
    lift: str | None = None
    form: str | None = None
    gate: str | None = None
    place: str | None = None
    layer: int | None = None
    _hazards: frozenset[str] = frozenset()
    _mess: str = ""  # what it dirties bench and hands with; empty for clean work
    _cup: bool = False  # whether a cup is taken until what is in it has hardened
    _not_before: datetime | None = None
    _bowl: tuple[tuple[str, float], ...] = ()

    @property
    def bowl(self) -> tuple[tuple[str, float], ...]:
        """(step, minutes): this one uses up that step's bowl if it begins at most so long after its end."""
        return self._bowl

    @property
    def mess(self) -> str:
        """What it dirties bench and hands with; empty for clean work."""
        return self._mess

    @property
    def takes_cup(self) -> bool:
        """Whether a cup is taken until what is in it has hardened."""
        return self._cup

    @property
    def not_before(self) -> datetime | None:
        """When a gate opens; None for what no one has dated, and for steps that are no gates."""
        return self._not_before


@dataclass(frozen=True, slots=True)
class PlanCaution:
    """What to beware of, and at which steps."""

    code: str
    text: str
    reason: str
    steps: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Need:
    """What the whole scene, all copies, takes of a material; packs and their cost where the user gave a price."""

    material: str
    need: Figure
    unit: str
    packs: Figure | None = None
    cost: Figure | None = None


@dataclass(frozen=True, slots=True)
class Plan:
    """All that follows from a scene. Every number is a Figure that can be opened by its path."""

    plan: int
    scene: str
    patches: dict[str, PatchPlan]
    forms: dict[str, FormPlan]
    lifts: dict[str, LiftPlan]
    batches: tuple[Batch, ...]
    steps: tuple[Step, ...]
    cautions: tuple[PlanCaution, ...]
    buy: tuple[Need, ...]
    checks: tuple[Check, ...] = ()
    _build: Build | None = field(default=None, repr=False)
    _works: dict[str, Work] = field(default_factory=dict, repr=False)

    @property
    def built(self) -> Build:
        """The ground at every stage."""
        assert self._build is not None
        return self._build

    def figure(self, path: str) -> Figure:
        """The figure at a path such as `lifts.tarn-water.mix_ml`. Raises KeyError."""
        found = at_path(self, path) if not path.startswith("_") else None
        if not isinstance(found, Figure):
            raise KeyError(path)
        return found

    def cautions_of(self, step_id: str) -> tuple[PlanCaution, ...]:
        """What to beware of at one step."""
        return tuple(caution for caution in self.cautions if step_id in caution.steps)

    def as_json(self) -> dict[str, Any]:
        """The plan as docs/formats.md has it."""
        data: dict[str, Any] = plain(self)
        del data["checks"]  # told as warnings of their lifts
        for lift in self.lifts:
            data["lifts"][lift]["windows"] = [window.as_json() for window in self.lifts[lift].windows]
        for name, form in self.forms.items():
            if form.cast:
                data["forms"][name]["cast"]["windows"] = [window.as_json() for window in form.cast.windows]
        for shown, step in zip(data["steps"], self.steps, strict=True):
            shown.setdefault("wait_h", None)
            shown.pop("layer", None)
            for window in shown["windows"]:
                window.setdefault("to_h", None)
            assert shown["id"] == step.id
        for batch in data["batches"]:
            batch.setdefault("working_min", None)
        for caution in data["cautions"]:
            caution.pop("reason")
        return data


def plan(scene: Scene) -> Plan:
    """The plan of a resolved document. Raises Faults where the ground and the lifts do not fit together."""
    labels = Labels.of(scene)
    built = build(scene)
    works: dict[str, Work] = {}
    for patch in scene.patches:
        for lift in patch.lifts:
            stage = built.stages[lift.id]
            works[lift.id] = module_of(lift).work(lift, stage.site, labels)
    checks = [check for stage in built.stages.values() for check in at_site(stage.site.lift, stage.site, labels)]
    checks += between(scene, built, works, labels)
    for lift_id, notice in wet_beds(scene, works).items():
        works[lift_id] = _warned(works[lift_id], (notice,))
    for lift_id, told in judged(scene, labels).items():
        works[lift_id] = _warned(works[lift_id], tuple(told))
    for lift_id, notices in flat_notices(scene, built).items():
        works[lift_id] = _warned(works[lift_id], notices)
    for check in checks:
        works[check.lift] = _warned(works[check.lift], (check.notice,))
    groups = shared(scene, works)
    works = with_shares(works, groups, built, labels)
    casts = {one.form.id: cast(scene, one, labels) for one in built.forms if isinstance(one.form, Casting)}
    form_steps, last_form = _form_steps(scene, built, casts)
    lift_steps = _sharing(scene, groups, works, _lift_steps(scene, built, works, casts, last_form))
    steps = _gated(scene, (*form_steps, *lift_steps))
    return Plan(
        plan=1,
        scene=scene.name,
        patches={name: _patch(built, name) for name in built.covers},
        forms={one.form.id: _form(one, labels, casts.get(one.form.id)) for one in built.forms},
        lifts={name: work.plan for name, work in works.items()},
        batches=(*_cast_batches(scene, casts), *_batches(groups)),
        steps=steps,
        cautions=_cautions(works, steps),
        buy=_buy(scene, labels, works, built, casts),
        checks=tuple(checks),
        _build=built,
        _works=works,
    )


def _sharing(scene: Scene, groups: tuple[Shared, ...], works: dict[str, Work], steps: list[Step]) -> list[Step]:
    """The steps, each with those whose bowl it uses up: it must begin early enough to be done within working time."""
    assert scene.bench is not None
    bowls: dict[str, dict[str, float]] = {}
    for group in groups:
        if len(group.shares) < 2 or group.working_min is None:
            continue
        for number in range(group.batches.count):
            feeds = group.feeds(number)
            used = sum(part for _, part in feeds) / scene.bench.spread_ml_per_min
            left = group.working_min - used
            ids = [_step_ids(share.lift, works[share.lift])[share.layer - 1] for share, _ in feeds]
            for first, second in pairwise(ids):
                if first != second and left > 0:
                    bowls.setdefault(second, {})[first] = left
    return [replace(step, _bowl=tuple(bowls[step.id].items())) if step.id in bowls else step for step in steps]


def _gated(scene: Scene, steps: tuple[Step, ...]) -> tuple[Step, ...]:
    """The steps behind their gates: a gate that is not done stands before the first step of what it blocks."""
    closed = [gate for gate in scene.gates if not gate.done]
    if not closed:
        return steps
    first: dict[str, str] = {}
    for step in steps:
        for name in (step.lift, step.form):
            if name:
                first.setdefault(name, step.id)
    behind: dict[str, tuple[str, ...]] = {}
    for gate in closed:
        for name in gate.blocks:
            if name in first:
                behind[first[name]] = (*behind.get(first[name], ()), f"gate-{gate.id}")
    gates = tuple(
        Step(f"gate-{gate.id}", gate.name, (), 0.0, 0.0, gate=gate.id, _not_before=gate.not_before) for gate in closed
    )
    return (*gates, *(replace(step, after=(*step.after, *behind.get(step.id, ()))) for step in steps))


def site_of(scene: Scene, lift_id: str) -> Site:
    """Where one lift of a resolved scene goes on: the ground is folded just up to it. Raises KeyError, Faults."""
    return build(scene, until=lift_id).stages[lift_id].site


def first_level(scene: Scene, patch: Patch, lift_id: str) -> float:
    """A level to start from: four fifths of what the patch's deepest hollow holds. Raises Faults for none."""
    probe = PourLift.model_construct(
        id=lift_id, kind="pour", mix="casting-resin", depth_mm=1.0, lifts="auto", tint=(), after=()
    )
    tried = scene.model_copy(
        update={
            "patches": tuple(
                one.model_copy(update={"lifts": (*one.lifts, probe)}) if one.id == patch.id else one
                for one in scene.patches
            ),
            "mixes": (
                *(mix for mix in scene.mixes if mix.id != "casting-resin"),
                shipped().mixes["casting-resin"],
            ),
        }
    )
    site = site_of(tried, lift_id)
    z = tilted(site.ground, scene.base)
    lowest = float(z[lowest_cell(site, z)])
    brim = brim_of(site)
    held = brim.level_mm - lowest if brim else 10.0
    if held < 0.5:
        raise fault(
            "pour",
            f"{patch.name} has no hollow that holds liquid",
            "cut a basin there on Ground first, or dam an edge",
        )
    return round(lowest + 0.8 * held, 1)


def lift_alone(site: Site, lift: Lift) -> Work:
    """The figures of one lift at its site, without the rest of the plan; its fields may differ from the scene's.

    They are those that `plan` gives for a scene with that lift.
    """
    labels = Labels.of(site.scene)
    work: Work = module_of(lift).work(lift, site, labels)
    return _warned(work, tuple(check.notice for check in at_site(lift, site, labels)))


def volume_from_bottle(site: Site, lift: PourLift, left_ml: float) -> float:
    """ml to pour of what is left in a bottle: so much that with shrinkage, climb and what stays in the cup just that is
    mixed. Raises Faults as the pour does, and for a bottle that is too small for anything to stand."""
    low, high = 0.0, left_ml
    for _ in range(24):
        middle = (low + high) / 2
        if middle < A_DROP_ML:
            break
        tried = lift.model_copy(update={"level_mm": None, "depth_mm": None, "volume_ml": middle, "lifts": "auto"})
        enough = lift_alone(site, tried).plan.mix_ml.number <= left_ml
        low, high = (middle, high) if enough else (low, middle)
        if high - low < 1e-3 * left_ml:
            break
    if low < A_DROP_ML:
        raise fault("bottle", f"{left_ml:g} ml do not even wet the cup", "open another, or pour less deep")
    return low


def _warned(work: Work, notices: tuple[Notice, ...]) -> Work:
    """The work with more warnings."""
    return replace(work, plan=replace(work.plan, warnings=(*work.plan.warnings, *notices)))


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


def _glue_film(material: Material) -> float:
    """mm of glue over the joined area, both faces together."""
    return material.glue_film_mm * (2 if material.glue_both_faces else 1)


def _form(one: Shaped, labels: Labels, made: CastPlan | None) -> FormPlan:
    added = "added" if one.volume_ml >= 0 else "removed"
    glue = None
    if one.form.glue:
        material = labels.materials[one.form.glue]
        film = _glue_film(material)
        faces = "film, both faces" if material.glue_both_faces else "film"
        terms = Term("area", one.area_mm2, "mm2"), Term(faces, film, "mm", f"label of {material.name}")
        glue = Figure(one.area_mm2 * film / 1000, "ml", "area × film", terms)
    return FormPlan(Figure(one.volume_ml, "ml", f"sum of what was {added}, cell by cell"), glue, made)


def _hazards(labels: Labels, *names: str | None) -> frozenset[str]:
    return frozenset(hazard for name in names if name for hazard in labels.materials[name].hazards)


def _form_minutes(one: Shaped) -> float:
    """Cutting goes at 200 mm of edge a minute, shaping a face at 30 cm2 a minute, craft estimates."""
    return 10 + (one.edge_mm / 200 if one.form.by_edge else one.area_mm2 / 100 / 30)


def _form_step(one: Shaped, labels: Labels, after: tuple[str, ...], windows: tuple[StepWindow, ...] = ()) -> Step:
    form = one.form
    placed = form.kind in ("sheet", "ramp") and not form.glue
    do = form.do.format(form.title) + (" and set it in place" if placed else "")
    material = labels.materials[form.made_of] if form.made_of else None
    foam = material is None or material.family == "foam"
    return Step(
        id=f"form-{form.id}",
        do=do,
        after=after,
        hands_on_min=_form_minutes(one),
        wait_h=0.0,
        windows=windows,
        form=form.id,
        place=form.place,
        _hazards=(_hazards(labels, form.made_of) | {"cutting"}) if foam else _hazards(labels, form.made_of),
        _mess="foam dust" if foam else "",
    )


def _glue_step(one: Shaped, labels: Labels, after: tuple[str, ...]) -> Step:
    glue = labels.materials[one.form.glue or ""]
    line_h = glue.glue_line_h or GLUE_LINE_H
    return Step(
        id=f"glue-{one.form.id}",
        do=f"Glue {one.form.title} with {glue.name.lower()}: {glue.glue_how}",
        after=after,
        hands_on_min=5 + one.area_mm2 / 100 / 200,  # spread at 200 cm2 a minute, craft estimate
        wait_h=line_h,
        form=one.form.id,
        place=one.form.place,
        _hazards=_hazards(labels, one.form.glue),
    )


def _cast_steps(form: Form, made: CastPlan) -> list[Step]:
    """One step a round of filling the moulds; the next round waits until they are free again."""
    steps: list[Step] = []
    demould = made.hours.next.value
    for number, minutes in enumerate(made._minutes, start=1):
        again = f", round {number} of {len(made._minutes)}" if len(made._minutes) > 1 else ""
        do = f"Cast {form.title}{again}: fill the moulds, tap the bubbles out, strike the backs level"
        after = (steps[-1].id,) if steps else ()
        steps.append(
            Step(
                f"cast-{form.id}-{number}", do, after, minutes, demould, form=form.id,
                place=form.place, layer=number, _hazards=made._hazards, _mess="plaster",
            )
        )  # fmt: skip
    return steps


def _placed(
    one: Shaped,
    labels: Labels,
    casts: dict[str, CastPlan],
    after: tuple[str, ...],
    windows: tuple[StepWindow, ...] = (),
) -> list[Step]:
    """A form's steps; a casting's pieces are cast before it is set."""
    made = casts.get(one.form.id)
    casting = _cast_steps(one.form, made) if made else []
    return [*casting, _form_step(one, labels, (*after, *(step.id for step in casting[-1:])), windows)]


def _form_steps(scene: Scene, built: Build, casts: dict[str, CastPlan]) -> tuple[list[Step], str | None]:
    """Steps of the forms that wait for no lift, and the last that must be done before the first lift.

    What is glued is cut first, then tried together dry, then glued piece by piece; cuts come when what they go into
    holds.
    """
    labels = Labels.of(scene)
    bare = [one for one in built.forms if not one.form.after]
    glued = [one for one in bare if one.form.glue and not one.form.cuts]
    steps = [_form_step(one, labels, ()) for one in glued]
    placed: tuple[str, ...] = ()
    if glued:
        ids = tuple(step.id for step in steps)
        do = "Put the cut pieces together dry: heights, edges, joints"
        steps.append(Step("trial-fit", do, ids, 5 + 2 * len(glued), 0.0))
        placed = ("trial-fit",)
    for one in bare:
        if one in glued:
            steps.append(_glue_step(one, labels, placed))
        else:
            steps += _placed(one, labels, casts, placed)
        placed = (steps[-1].id,)
    return steps, placed[0] if placed else None


def _later_form_steps(
    scene: Scene, built: Build, work: Work, casts: dict[str, CastPlan], lift_id: str, laid: str
) -> list[Step]:
    """Steps of the forms that come once a lift is hard; its last step is `laid`."""
    labels = Labels.of(scene)
    hard = work.plan.hours.full.value
    after, windows = (laid,), () if hard is None else (StepWindow("hard", hard, None, laid),)
    steps: list[Step] = []
    for one in built.forms:
        if one.form.after == lift_id:
            steps += _placed(one, labels, casts, after, windows)
            if one.form.glue:
                steps.append(_glue_step(one, labels, (steps[-1].id,)))
            after, windows = (steps[-1].id,), ()
    return steps


def _step_ids(lift_id: str, work: Work) -> list[str]:
    count = len(work.courses)
    return [lift_id] if count == 1 else [f"{lift_id}-{number}" for number in range(1, count + 1)]


def _separator_steps(
    scene: Scene, built: Build, works: dict[str, Work], ends: dict[str, str], last_form: str | None
) -> tuple[list[Step], dict[str, list[str]]]:
    """Separators that go into joints before a skin and come out while it sets; and what each lift waits for by that."""
    steps: list[Step] = []
    before: dict[str, list[str]] = {}
    for axis, at in joint_lines(scene):
        for lift in crossing(scene, built, axis, at):
            made = separator(scene, built, lift, axis, at)
            name, first = f"{axis}{at:g}".replace(".", "_"), _step_ids(lift.id, works[lift.id])[0]
            put = f"separator-{name}-{lift.id}"
            size = f"{made.length_mm.number:.0f} × {made.height_mm.number:.0f} mm"
            do = f"Stand a separator in the joint at {axis} {at:g} mm: thin plastic card or cling film, {size}"
            steps.append(Step(put, do, (last_form,) if last_form else (), 5.0, 0.0))
            window = StepWindow("pull the separator", made.from_h, made.to_h, ends[lift.id])
            do = f"Pull the separator out of the joint at {axis} {at:g} mm, before {lift.title.lower()} is hard"
            steps.append(Step(f"{put}-out", do, (put,), 3.0, 0.0, (window,)))
            before.setdefault(first, []).append(put)
    return steps, before


def _mask_steps(
    scene: Scene, built: Build, works: dict[str, Work], ends: dict[str, str], last_form: str | None
) -> tuple[list[Step], dict[str, list[str]]]:
    """Masking before the first wet lift near what is protected, baring after the last; and what waits for the mask."""
    steps: list[Step] = []
    before: dict[str, list[str]] = {}
    for thing_id, made in protections(scene, built).items():
        if made.before is None or made.after is None:
            continue
        size = f"{made.tape_mm.number / 1000:.1f} m of low-tack tape, {made.area_mm2.number / 100:.0f} cm² covered"
        steps.append(
            Step(f"mask-{thing_id}", f"Mask {made.name}: {size}", (last_form,) if last_form else (), 10.0, 0.0)
        )
        hours, laid = works[made.after].plan.hours, ends[made.after]
        if hours.next.value is not None:
            window = StepWindow("pull the tape before it bonds", hours.next.value, hours.next.value + 48, laid)
            steps.append(
                Step(f"bare-{thing_id}", f"Pull the tape off {made.name}, back on itself", (laid,), 5.0, 0.0, (window,))
            )
        before.setdefault(_step_ids(made.before, works[made.before])[0], []).append(f"mask-{thing_id}")
    return steps, before


def _lift_steps(
    scene: Scene, built: Build, works: dict[str, Work], casts: dict[str, CastPlan], last_form: str | None
) -> list[Step]:
    ends = {name: _step_ids(name, work)[-1] for name, work in works.items()}
    separating, separated = _separator_steps(scene, built, works, ends, last_form)
    masking, masked = _mask_steps(scene, built, works, ends, last_form)
    aside = separating + masking
    steps = [step for step in aside if not any(window.of in ends.values() for window in step.windows)]
    for patch in scene.patches:
        below: str | None = last_form
        for lift in patch.lifts:
            work = works[lift.id]
            waits_for = [below] if below else []
            waits_for += [ends[name] for name in lift.after]
            for other in scene.patches:
                if other.id in work.touches and other.id != patch.id:
                    before = list(takewhile(lambda one: not one.levels_itself, other.lifts))
                    waits_for += [ends[before[-1].id]] if before else []
            window: tuple[Window, ...] = ()
            damp = tuple(
                StepWindow(f"{top.title} on {other.name} dry", hours, None, ends[top.id])
                for other, top, hours in damp_beds(scene, works, lift)
            )
            first = _step_ids(lift.id, work)[0]
            after = tuple(dict.fromkeys([*waits_for, *separated.get(first, []), *masked.get(first, [])]))
            for number, (step_id, course) in enumerate(
                zip(_step_ids(lift.id, work), work.courses, strict=True), start=1
            ):
                steps.append(
                    Step(
                        id=step_id,
                        do=course.do,
                        after=after,
                        hands_on_min=course.hands_on_min,
                        wait_h=course.wait_h,
                        windows=(
                            *(damp if number == 1 else ()),
                            *(StepWindow(one.what, one.from_h, one.to_h, after[0]) for one in window),
                        ),
                        lift=lift.id,
                        place=lift.place,
                        layer=number,
                        _hazards=work.hazards,
                        _mess=MESS.get(work.mix.family if lift.levels_itself else lift.kind, ""),
                        _cup=work.mix.family == "resin",
                    )
                )
                after, window = (step_id,), course.next_window
            below = ends[lift.id]
            later = _later_form_steps(scene, built, work, casts, lift.id, below)
            steps += later
            below = later[-1].id if later else below
    return steps + [step for step in aside if step not in steps]


def _cast_batches(scene: Scene, casts: dict[str, CastPlan]) -> list[Batch]:
    out = []
    for name, made in casts.items():
        form: Any = next(form for form in scene.forms if form.id == name)
        workable = made.hours.workable.value
        for number, batches in enumerate(made._batches, start=1):
            terms = Term("into the moulds", batches.total_ml - batches.left_ml, "ml"), Term("bowls", batches.count)
            volume = Figure(batches.each_ml, "ml", "what the moulds of a round hold, and what stays in the bowl", terms)
            for bowl in range(1, batches.count + 1):
                feed = Feed(number, volume, form=name)
                minutes = None if workable is None else workable * 60
                out.append(Batch(f"{name}-{number}-{bowl}", form.mix, volume, minutes, (feed,)))
    return out


def _batches(groups: tuple[Shared, ...]) -> tuple[Batch, ...]:
    out = []
    for group in groups:
        count, first = group.batches.count, group.shares[0]
        for number in range(count):
            terms = (
                Term("to mix, all copies and all that it feeds", group.batches.total_ml, "ml"),
                Term("batches", count),
                Term("stays in cup and on tools", group.batches.left_ml / count, "ml"),
            )
            law = "equal batches that the cup holds and that can be placed within the working time"
            volume = Figure(group.batches.each_ml, "ml", law, terms)
            feeds = tuple(
                Feed(share.layer, volume if part == group.batches.each_ml else _fed(part, volume, share), share.lift)
                for share, part in group.feeds(number)
            )
            name = f"{first.lift}-{first.layer}-{number + 1}"
            out.append(Batch(name, group.mix.id, volume, group.working_min, feeds))
    return tuple(out)


def _fed(part: float, volume: Figure, share: Share) -> Figure:
    law = "its part of this bowl, in the order of use, waste included"
    return Figure(part, "ml", law, (volume.term("batch"), Term("takes in all, in place", share.need_ml, "ml")))


def _cautions(works: dict[str, Work], steps: tuple[Step, ...]) -> tuple[PlanCaution, ...]:
    told = []
    for caution in shipped().cautions:
        at = tuple(step.id for step in steps if caution.hazard in step._hazards)
        if at:
            told.append(PlanCaution(caution.code, caution.text, caution.reason, at))
    return tuple(told)


def _bought(name: str, need: float, unit: str, bench: Bench, panels: bool) -> tuple[Figure | None, Figure | None]:
    """Packs and their cost, where the user gave a price. How many panels depends on how pieces nest, not on area."""
    price = next((one for one in bench.prices if one.material == name), None)
    if price is None or panels:
        return None, None
    packs = ceil(need / price.pack - 1e-9)
    holds = Term("one pack", price.pack, unit, "your price list")
    return (
        Figure(packs, "packs", "need / what a pack holds, rounded up", (Term("need", need, unit), holds)),
        Figure(
            packs * price.amount, "money", "packs × price", (Term("packs", packs), Term("price", price.amount, "money"))
        ),
    )


def _buy(
    scene: Scene, labels: Labels, works: dict[str, Work], built: Build, casts: dict[str, CastPlan]
) -> tuple[Need, ...]:
    terms: dict[str, list[Term]] = {}

    def take(material: str, what: str, amount: float, unit: str) -> None:
        terms.setdefault(material, []).append(Term(what, amount, unit))

    def take_all(ingredients: tuple[Ingredient, ...], title: str) -> None:
        for part in ingredients:
            material = labels.materials[part.material]
            each = {
                "g": part.mass_g.number,
                "mm2": part.volume_ml.number * 1000 / (material.thickness_mm or 1.0),
            }.get(material.sold_by, part.volume_ml.number)
            unit = material.sold_by if material.sold_by in ("g", "mm2") else "ml"
            take(part.material, title + (f", part {part.part}" if part.part else ""), each * scene.copies, unit)

    take(scene.base.board, "boards", float(scene.copies), "piece")
    for one in built.forms:
        material = labels.materials[one.form.made_of] if one.form.made_of and one.volume_ml > 0 else None
        if one.form.id in casts:
            take_all(casts[one.form.id].ingredients, one.form.title)
        elif material and material.sold_by == "mm2":
            stock = material.thickness_mm or 25.0
            # A sheet is cut from whole sheets; anything else is built up from as much as it holds.
            thick = getattr(one.form, "thickness_mm", None)
            layers = max(ceil(thick / stock - 1e-9), 1) if thick else 0
            area = one.area_mm2 * layers if layers else one.volume_ml * 1000 / stock
            title = f"{one.form.title}, {layers} thick" if layers > 1 else one.form.title
            take(material.id, title, area * scene.copies, "mm2")
        elif material:
            grams = material.sold_by == "g"
            amount = one.volume_ml * (material.density if grams else 1.0)
            take(material.id, one.form.title, amount * scene.copies, "g" if grams else "ml")
        if one.form.glue:
            glue = labels.materials[one.form.glue]
            ml = one.area_mm2 * _glue_film(glue) / 1000 * scene.copies
            grams = glue.sold_by == "g"
            take(glue.id, f"under {one.form.title}", ml * glue.density if grams else ml, "g" if grams else "ml")
    for lift_id, work in works.items():
        take_all(work.plan.ingredients, scene.lift(lift_id).title)
    return tuple(
        Need(
            name,
            Figure(
                sum(float(term.value) for term in parts),
                parts[0].unit,
                "sum over the scene, waste included",
                tuple(parts),
            ),
            parts[0].unit,
            *_bought(
                name,
                sum(float(term.value) for term in parts),
                parts[0].unit,
                scene.bench or Bench(),
                name in labels.materials and labels.materials[name].panel_mm is not None,
            ),
        )
        for name, parts in sorted(terms.items())
    )
