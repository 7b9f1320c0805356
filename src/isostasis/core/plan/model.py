"""The plan of a scene: its figures, batches, steps, cautions and needs, and how machines read them."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any, ClassVar

from ..built.remains import Work
from ..built.removals import Off
from ..figure import Figure, at_path, to_jsonable
from ..judging.neighbours import Check
from ..lifts.cast import CastPlan
from ..lifts.estimate import Layer, LiftPlan
from ..lifts.fold import Build
from ..lifts.labels import Labels


@dataclass(frozen=True, slots=True)
class PatchPlan:
    """A patch on the bare forms, before any lift."""

    JSON: ClassVar[tuple[str, ...]] = ("plan_area_mm2", "true_area_mm2")  # what machines read

    plan_area_mm2: Figure
    true_area_mm2: Figure


@dataclass(frozen=True, slots=True)
class FormPlan:
    """What a form added or, negative, removed."""

    JSON: ClassVar[tuple[str, ...]] = ("volume_ml", "glue_ml", "cast")  # what machines read

    volume_ml: Figure
    glue_ml: Figure | None = None
    cast: CastPlan | None = None


@dataclass(frozen=True, slots=True)
class Feed:
    """What a batch gives to one layer of one lift, or to one round of a casting (then `form` names it), its share of
    waste included; layers and rounds count from 1."""

    JSON: ClassVar[tuple[str, ...]] = ("layer", "volume_ml", "lift", "form")  # what machines read

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

    JSON: ClassVar[tuple[str, ...]] = ("id", "mix", "volume_ml", "working_min", "feeds")  # what machines read
    NULLS: ClassVar[tuple[str, ...]] = ("working_min",)

    id: str
    mix: str
    volume_ml: Figure
    working_min: float | None
    feeds: tuple[Feed, ...]


@dataclass(frozen=True, slots=True)
class StepWindow:
    """When a step should come, in hours after the end of the step `of`; `to_h` None: from then on. `mends`: the step
    that lets it come later all the same; `looks_h`: when to look, where it takes several looks."""

    JSON: ClassVar[tuple[str, ...]] = ("what", "from_h", "to_h", "of")  # what machines read
    NULLS: ClassVar[tuple[str, ...]] = ("to_h",)

    what: str
    from_h: float
    to_h: float | None
    of: str
    mends: str = ""
    looks_h: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Step:
    """One stretch of work. It may start when each step in `after` has ended and that step's wait has passed.

    `kind` says what work it is: a kind of lift, or form, glue, cast, trial-fit, separator, pull, mask, bare, gate.
    Lifts and castings are laid in courses: this is `course` of `of`, out of each `batch` in turn. `mess` is what it
    dirties bench and hands with, empty for clean work; `takes_cup`: a cup is taken until what is in it has hardened;
    `not_before`: when a gate opens, None for what no one has dated. `bowl`: (step, minutes), it uses up that step's
    bowl if it begins at most so long after its end. `forms`: further forms that are cut or glued with `form` in one
    go. `only_if`: the window whose passing calls for it. `brief`: a short act inside a wait, left out where nobody can
    be there; `built`: it was done; `tape_mm` of tape that it puts up, one copy. `name` is a word or two for lists.
    Where several scenes are scheduled together `scene` is the slug of its own, `local_id` its id there.
    """

    JSON: ClassVar[tuple[str, ...]] = (
        "id",
        "do",
        "after",
        "hands_on_min",
        "wait_h",
        "windows",
        "lift",
        "form",
        "gate",
        "place",
        "kind",
        "patch",
        "course",
        "of",
        "batch",
        "only_if",
    )  # what machines read
    NULLS: ClassVar[tuple[str, ...]] = ("wait_h",)

    id: str
    do: str
    after: tuple[str, ...]
    hands_on_min: float
    wait_h: float | None
    windows: tuple[StepWindow, ...] = ()
    kind: str = ""
    lift: str | None = None
    form: str | None = None
    forms: tuple[str, ...] = ()
    gate: str | None = None
    place: str | None = None
    patch: str | None = None
    course: int | None = None
    of: int | None = None
    batch: tuple[str, ...] = ()
    hazards: frozenset[str] = frozenset()
    mess: str = ""
    takes_cup: bool = False
    not_before: datetime | None = None
    bowl: tuple[tuple[str, float], ...] = ()
    name: str = ""
    scene: str = ""
    local_id: str = ""
    only_if: str = ""
    brief: bool = False
    built: bool = False
    tape_mm: float = 0.0

    @property
    def title(self) -> str:
        """What people call it where its spot stands beside it: a word or two."""
        return self.name or self.own_id.replace("-", " ")

    @property
    def own_id(self) -> str:
        """Its id in its own scene, also where several are scheduled together."""
        return self.local_id or self.id


TO_BE_READ = 4  # from this danger on


@dataclass(frozen=True, slots=True)
class PlanCaution:
    """What to beware of, and at which steps; how dangerous it is (5 the worst), and what to do if it happened."""

    JSON: ClassVar[tuple[str, ...]] = ("code", "text", "steps")  # what machines read

    code: str
    text: str
    reason: str
    steps: tuple[str, ...]
    danger: int = 3
    happened: str = ""

    @property
    def to_be_read(self) -> bool:
        """Whether it is to be read before each batch."""
        return self.danger >= TO_BE_READ

    @property
    def short(self) -> str:
        """In a word or two, where it has been told in full before."""
        return self.code.replace("-", " ")


@dataclass(frozen=True, slots=True)
class Use:
    """So much of a material (or of part A or B of a kit) that a step takes, all copies, in the `unit` that it is sold
    by; `what` is what for. `step` is empty for what must be there before the first. `mix`: measured out into its
    batches of that mix, of which the step takes `mix_ml`."""

    material: str
    part: str | None
    amount: float
    unit: str
    what: str
    step: str
    mix: str = ""
    mix_ml: float = 0.0

    def times(self, share: float) -> Use:
        """So large a share of it."""
        return replace(self, amount=self.amount * share, mix_ml=self.mix_ml * share)


@dataclass(frozen=True, slots=True)
class Need:
    """What the whole scene, all copies, takes of a material; packs and their cost where the user gave a price."""

    JSON: ClassVar[tuple[str, ...]] = ("material", "need", "unit", "packs", "cost")  # what machines read

    material: str
    need: Figure
    unit: str
    packs: Figure | None = None
    cost: Figure | None = None


@dataclass(frozen=True, slots=True)
class Plan:
    """All that follows from a scene. Every number is a Figure that can be opened by its path."""

    JSON: ClassVar[tuple[str, ...]] = (
        "plan",
        "scene",
        "patches",
        "forms",
        "lifts",
        "batches",
        "steps",
        "cautions",
        "buy",
        "off",
    )  # what machines read

    plan: int
    scene: str
    patches: dict[str, PatchPlan]
    forms: dict[str, FormPlan]
    lifts: dict[str, LiftPlan]
    batches: tuple[Batch, ...]
    steps: tuple[Step, ...]
    cautions: tuple[PlanCaution, ...]
    buy: tuple[Need, ...]
    off: tuple[Off, ...] | None
    checks: tuple[Check, ...]
    built: Build = field(repr=False)
    works: dict[str, Work] = field(repr=False)
    uses: tuple[Use, ...] = field(repr=False)

    def figure(self, path: str) -> Figure:
        """The figure at a path such as `lifts.tarn-water.mix_ml`. Raises KeyError."""
        value = at_path(self, path)
        if not isinstance(value, Figure):
            raise KeyError(path)
        return value

    def times(self, label: str, quantity: str) -> float:
        """What records made of a predicted quantity of a label here; 1 where they say nothing."""
        stage = next(iter(self.built.stages.values()), None)
        return 1.0 if stage is None else Labels.of(stage.site.scene).times(label, quantity)

    def layer(self, step: Step) -> Layer | None:
        """What a step is to lay; None for what lays nothing, and for what was done."""
        work = self.works.get(step.lift or "")
        if work is None or work.estimate is None or step.course is None or step.built:
            return None
        layers, place = work.estimate.plan.layers, step.course - work.first
        return layers[place] if 0 <= place < len(layers) else None

    def cautions_of(self, step_id: str) -> tuple[PlanCaution, ...]:
        """What to beware of at one step."""
        return tuple(caution for caution in self.cautions if step_id in caution.steps)

    def as_json(self) -> dict[str, Any]:
        """The plan as docs/formats.md has it."""
        data: dict[str, Any] = to_jsonable(self)
        return data
