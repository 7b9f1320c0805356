"""From a resolved document to the plan: amounts, batches, steps, cautions, and what to buy.

A pure function of the resolved document: screen and command line call the same one.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import takewhile
from math import ceil
from typing import Any

from .catalogue import shipped
from .document.scene import Lift, Patch, Scene
from .fault import fault
from .figure import Figure, Term, at_path, plain
from .ground.field import tilted
from .ground.forms.sheet import DEFAULT_MATERIAL
from .lifts import module_of
from .lifts.fold import Build, build
from .lifts.pools import PourLift, brim_of, lowest_cell
from .lifts.site import Labels, LiftPlan, Site, Window, Work, true_area

GLUE_LINE_H = 12.0
GLUE_FILM_MM = 0.2


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


@dataclass(frozen=True, slots=True)
class Feed:
    """What a batch gives to one layer of one lift, its share of waste included; layers count from 1."""

    lift: str
    layer: int
    volume_ml: Figure


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
    layer: int | None = None


@dataclass(frozen=True, slots=True)
class PlanCaution:
    """What to beware of, and at which steps."""

    code: str
    text: str
    reason: str
    steps: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Need:
    """What the whole scene, all copies, takes of a material."""

    material: str
    need: Figure
    unit: str


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
        for lift in self.lifts:
            data["lifts"][lift]["windows"] = [window.as_json() for window in self.lifts[lift].windows]
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
    steps = (*_form_steps(scene, built), *_lift_steps(scene, works))
    return Plan(
        plan=1,
        scene=scene.name,
        patches={name: _patch(built, name) for name in built.covers},
        forms={one.form.id: _form(one.form, one.volume_ml, one.area_mm2) for one in built.forms},
        lifts={name: work.plan for name, work in works.items()},
        batches=_batches(works),
        steps=steps,
        cautions=_cautions(scene, labels, works, steps),
        buy=_buy(scene, labels, works, built),
        _build=built,
        _works=works,
    )


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
    work: Work = module_of(lift).work(lift, site, Labels.of(site.scene))
    return work


def _patch(built: Build, name: str) -> PatchPlan:
    cover, bare = built.covers[name], built.bare
    cell = Term("cell", bare.cell_mm, "mm", "grid of this scene")
    plan_area = float(cover.share.sum()) * bare.cell_area
    return PatchPlan(
        Figure(plan_area, "mm2", "the patch's share of each cell × cell area", (cell,)),
        Figure(true_area(bare, cover), "mm2", "surface triangulated through the cell centres, on the bare forms",
               (Term("its shadow", plan_area, "mm2"), cell)),
    )  # fmt: skip


def _form(form: Any, volume_ml: float, area_mm2: float) -> FormPlan:
    added = "added" if volume_ml >= 0 else "removed"
    glue = None
    if form.glue:
        glue = Figure(area_mm2 * GLUE_FILM_MM / 1000, "ml", "area × film",
                      (Term("area", area_mm2, "mm2"), Term("film", GLUE_FILM_MM, "mm", "craft estimate")))  # fmt: skip
    return FormPlan(Figure(volume_ml, "ml", f"sum of what was {added}, cell by cell"), glue)


def _form_steps(scene: Scene, built: Build) -> list[Step]:
    """Cutting goes at 200 mm of edge a minute for sheets and 30 cm2 a minute for hollows, craft estimate."""
    labels = Labels.of(scene)
    steps: list[Step] = []
    for one in built.forms:
        form = one.form
        cuts = one.volume_ml < 0
        line_h = (labels.materials[form.glue].glue_line_h or GLUE_LINE_H) if form.glue else 0.0
        do = (
            f"Cut the hollow {form.title}"
            if cuts
            else f"Cut the sheet {form.title} and " + ("glue it on" if form.glue else "set it in place")
        )
        steps.append(
            Step(
                id=f"form-{form.id}",
                do=do,
                after=(steps[-1].id,) if steps else (),
                hands_on_min=10 + (one.area_mm2 / 100 / 30 if cuts else one.edge_mm / 200),
                wait_h=line_h,
                form=form.id,
            )
        )
    return steps


def _step_ids(lift_id: str, work: Work) -> list[str]:
    count = len(work.courses)
    return [lift_id] if count == 1 else [f"{lift_id}-{number}" for number in range(1, count + 1)]


def _lift_steps(scene: Scene, works: dict[str, Work]) -> list[Step]:
    last_form = next((f"form-{form.id}" for form in reversed(scene.forms) if not form.off), None)
    ends = {name: _step_ids(name, work)[-1] for name, work in works.items()}
    steps: list[Step] = []
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
            after = tuple(dict.fromkeys(waits_for))
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
                        windows=tuple(StepWindow(one.what, one.from_h, one.to_h, after[0]) for one in window),
                        lift=lift.id,
                        layer=number,
                    )
                )
                after, window = (step_id,), course.next_window
            below = ends[lift.id]
    return steps


def _batches(works: dict[str, Work]) -> tuple[Batch, ...]:
    out = []
    for lift_id, work in works.items():
        for layer, course in enumerate(work.courses, start=1):
            for number in range(1, course.batches.count + 1):
                each = course.batches.each_ml
                volume = Figure(
                    each,
                    "ml",
                    "equal batches that the cup holds and that can be placed within the working time",
                    (
                        Term("to mix for this layer, all copies", course.batches.total_ml, "ml"),
                        Term("batches", course.batches.count),
                        Term("stays in cup and on tools", course.batches.left_ml / course.batches.count, "ml"),
                    ),
                )
                out.append(
                    Batch(
                        f"{lift_id}-{layer}-{number}",
                        work.mix.id,
                        volume,
                        course.working_min,
                        (Feed(lift_id, layer, volume),),
                    )
                )
    return tuple(out)


def _cautions(scene: Scene, labels: Labels, works: dict[str, Work], steps: tuple[Step, ...]) -> tuple[PlanCaution, ...]:
    forms = {form.id: form for form in scene.forms}

    def hazards(step: Step) -> frozenset[str]:
        if step.lift:
            return works[step.lift].hazards
        form = forms[step.form or ""]
        named = [name for name in (form.material or DEFAULT_MATERIAL, form.glue) if name]
        return frozenset(
            hazard for name in named if name in labels.materials for hazard in labels.materials[name].hazards
        ) or frozenset({"cutting"})

    told = []
    for caution in shipped().cautions:
        at = tuple(step.id for step in steps if caution.hazard in hazards(step))
        if at:
            told.append(PlanCaution(caution.code, caution.text, caution.reason, at))
    return tuple(told)


def _buy(scene: Scene, labels: Labels, works: dict[str, Work], built: Build) -> tuple[Need, ...]:
    terms: dict[str, list[Term]] = {}

    def take(material: str, what: str, amount: float, unit: str) -> None:
        terms.setdefault(material, []).append(Term(what, amount, unit))

    take(scene.base.board, "boards", float(scene.copies), "piece")
    for one in built.forms:
        if one.volume_ml > 0:
            material = one.form.material or DEFAULT_MATERIAL
            stock = labels.materials[material].thickness_mm if material in labels.materials else None
            layers = ceil(getattr(one.form, "thickness_mm", 0) / stock - 1e-9) if stock else 1
            take(
                material,
                f"{one.form.title}, {layers} thick" if layers > 1 else one.form.title,
                one.area_mm2 * layers * scene.copies,
                "mm2",
            )
        if one.form.glue:
            take(
                one.form.glue,
                f"glue under {one.form.title}",
                one.area_mm2 * GLUE_FILM_MM / 1000 * scene.copies,
                "ml",
            )
    for lift_id, work in works.items():
        title = scene.lift(lift_id).title
        for part in work.plan.ingredients:
            by_mass = labels.materials[part.material].sold_by == "g"
            amount = (part.mass_g if by_mass else part.volume_ml).number * scene.copies
            take(
                part.material,
                title + (f", part {part.part}" if part.part else ""),
                amount,
                "g" if by_mass else "ml",
            )
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
        )
        for name, parts in sorted(terms.items())
    )
