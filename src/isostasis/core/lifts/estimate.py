"""What comes of a lift: the shapes of its figures, which every kind fills in."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import ClassVar

from ..catalogue import Mix
from ..figure import Figure, Term
from ..mixing.batches import Batches


@dataclass(frozen=True, slots=True)
class Ingredient:
    """What to measure out of one material."""

    JSON: ClassVar[tuple[str, ...]] = ("material", "part", "volume_ml", "mass_g", "drops")  # what machines read

    material: str
    part: str | None
    volume_ml: Figure
    mass_g: Figure
    drops: Figure | None = None
    aside: str = ""  # what it is for, where it is no part of the lift's own mix: the key, the wetting


@dataclass(frozen=True, slots=True)
class Layer:
    """One pour, coat or course of a lift, from the bed up."""

    JSON: ClassVar[tuple[str, ...]] = ("depth_mm", "volume_ml", "peak_c")  # what machines read

    depth_mm: Figure
    volume_ml: Figure
    peak_c: Figure | None = None


@dataclass(frozen=True, slots=True)
class PoolFigures:
    """A pool of a pour as it is poured; of what dries, `dry_level_mm` and `dry_ml` are what is left of it."""

    JSON: ClassVar[tuple[str, ...]] = (
        "level_mm",
        "volume_ml",
        "area_mm2",
        "deepest_mm",
        "dry_level_mm",
        "dry_ml",
    )  # what machines read

    level_mm: Figure
    volume_ml: Figure
    area_mm2: Figure
    deepest_mm: Figure
    dry_level_mm: Figure | None = None
    dry_ml: Figure | None = None


@dataclass(frozen=True, slots=True)
class Hours:
    """From laying the last layer: how long it can be worked, when the next lift may go on, when it is all through, and
    when it can be touched and used: past its constant-rate period if it dries, hard if it reacts, set and past it."""

    JSON: ClassVar[tuple[str, ...]] = ("workable", "next", "full", "usable")  # what machines read

    workable: Figure
    next: Figure
    full: Figure
    usable: Figure

    def wait_h(self, last: bool) -> float | None:
        """Hours until what follows may go on or, where it is the last there, until it can be used."""
        return (self.usable if last else self.next).value


@dataclass(frozen=True, slots=True)
class Window:
    """When something can be done, in hours from laying the last layer; `to_h` None: from then on. `look` is what to
    look at, to know that it is open; `code` which timer tells of it, if any."""

    JSON: ClassVar[tuple[str, ...]] = ("what", "from_h", "to_h")  # what machines read
    NULLS: ClassVar[tuple[str, ...]] = ("to_h",)

    what: str
    from_h: float
    to_h: float | None
    look: str = ""
    code: str = ""


@dataclass(frozen=True, slots=True)
class Notice:
    """Something that is about to go wrong, with a code for machines, and why where a rule says so."""

    JSON: ClassVar[tuple[str, ...]] = ("code", "text")  # what machines read

    code: str
    text: str
    reason: str = ""


HEAVY_CUP_G = 1000.0  # of mixed resin in one cup, craft estimate
WONT_DRY = Notice("wont-dry", "The room is too damp: it never dries there. Warm or air the room.")


def heavy_cup(grams: float) -> tuple[Notice, ...]:
    """That so much mixed resin in one cup heats itself; nothing where it does not."""
    if grams <= HEAVY_CUP_G:
        return ()
    text = f"{grams:.0f} g in one cup heats itself fast: mix it in cups of {HEAVY_CUP_G:.0f} g at most."
    return (Notice("heavy-cup", text),)


@dataclass(frozen=True, slots=True)
class Strips:
    """Cloth cut for one copy: strips in all, the rolls that they come from, what a covered m2 costs if it is priced."""

    JSON: ClassVar[tuple[str, ...]] = ("count", "rolls", "cost_m2")  # what machines read

    count: Figure
    rolls: Figure
    cost_m2: Figure | None = None


@dataclass(frozen=True, slots=True)
class Strewn:
    """What is strewn: ml that fall beside, ml of that swept up for the next time, how deep the bed is held, mm; and for
    a bed on a wet key how large an area to spread at a time, mm2."""

    JSON: ClassVar[tuple[str, ...]] = ("lost_ml", "swept_ml", "held_mm", "at_a_time_mm2")  # what machines read

    lost_ml: Figure
    swept_ml: Figure
    held_mm: Figure
    at_a_time_mm2: Figure | None = None


@dataclass(frozen=True, slots=True)
class Fixing:
    """How a bed is bound: passes, how deep one reaches, ml of wetting liquid and binder taken up, the hold index in g
    of glue solids per ml of texture at the top, and at the bottom, 0 where no binder gets there."""

    JSON: ClassVar[tuple[str, ...]] = (
        "passes",
        "reach_mm",
        "wetting_ml",
        "binder_ml",
        "hold",
        "hold_bottom",
    )  # what machines read

    passes: Figure
    reach_mm: Figure
    wetting_ml: Figure
    binder_ml: Figure
    hold: Figure
    hold_bottom: Figure


@dataclass(frozen=True, slots=True)
class LiftPlan:
    """All figures of one lift, for one copy of the scene."""

    JSON: ClassVar[tuple[str, ...]] = (
        "patch",
        "kind",
        "volume_ml",
        "mix_ml",
        "mass_g",
        "ingredients",
        "layers",
        "hours",
        "windows",
        "look_for",
        "warnings",
        "pools",
        "drunk_ml",
        "lost_ml",
        "strips",
        "left_mm",
        "strewn",
        "fixing",
        "state",
        "remains_ml",
    )  # what machines read

    patch: str
    kind: str
    volume_ml: Figure
    mix_ml: Figure
    mass_g: Figure
    ingredients: tuple[Ingredient, ...]
    layers: tuple[Layer, ...]
    hours: Hours
    windows: tuple[Window, ...]
    look_for: tuple[str, ...]
    warnings: tuple[Notice, ...]
    pools: tuple[PoolFigures, ...] | None = None
    drunk_ml: Figure | None = None
    lost_ml: Figure | None = None
    strips: Strips | None = None
    left_mm: Figure | None = None  # of coats: the film that stays once its water has left
    strewn: Strewn | None = None
    fixing: Fixing | None = None
    state: str | None = None  # of a scene in which something was built: new, part, done, covered
    remains_ml: Figure | None = None
    mixed_ml: float | None = None  # of mix_ml, what comes out of batches; None: all of it


@dataclass(frozen=True, slots=True)
class Act:
    """A short act inside a wait: what work it is, in words, within which hours from the end of its course, minutes; mm
    of tape that it puts up; the hours at which to look, where it takes several looks."""

    kind: str
    do: str
    what: str
    from_h: float
    to_h: float | None
    minutes: float
    hazards: frozenset[str] = frozenset()
    tape_mm: float = 0.0
    looks_h: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Course:
    """One stretch of hands-on work of a lift (a pour, a coat) and the wait after it. `mend` is what lets the course
    that follows come after its window all the same."""

    do: str
    batches: Batches
    working_min: float | None
    hands_on_min: float
    wait_h: float | None
    next_window: tuple[Window, ...] = ()  # for the course that follows, counted from this one
    mend: Act | None = None
    acts: tuple[Act, ...] = ()
    rest: Act | None = None  # mixed before, and left in the cup until then
    before: Act | None = None  # put up before it


def course_ids(lift_id: str, count: int, first: int = 1, taken: frozenset[str] = frozenset()) -> tuple[str, ...]:
    """The ids of the steps of a lift's courses from its `first` on, in their order; `taken` are ids that others have.

    >>> course_ids("water", 1), course_ids("water", 2), course_ids("water", 1, first=2)
    (('water',), ('water-1', 'water-2'), ('water-2',))
    >>> course_ids("water", 2, taken=frozenset({"water-2"}))
    ('water-1', 'water-course-2')
    """
    numbers = range(first, first + count)
    names = [lift_id] if (count, first) == (1, 1) else [f"{lift_id}-{number}" for number in numbers]
    return tuple(
        f"{lift_id}-course-{number}" if name in taken else name for number, name in zip(numbers, names, strict=True)
    )


@dataclass(frozen=True, slots=True, eq=False)
class LiftEstimate:
    """A lift's figures, the courses in which it is laid, the hazards in hand, and the patches it lies on. `soft_h`: how
    long something can be pressed into it, `damp_h`: from when to when colour can be washed on its damp face, in hours
    from its last course; None where it never can."""

    plan: LiftPlan
    mix: Mix
    courses: tuple[Course, ...]
    hazards: frozenset[str]
    touches: frozenset[str] = field(default_factory=frozenset)
    soft_h: float | None = None
    damp_h: tuple[float, float] | None = None

    def warned(self, notices: Iterable[Notice]) -> LiftEstimate:
        """This with more warnings."""
        return replace(self, plan=replace(self.plan, warnings=(*self.plan.warnings, *notices)))


def span(
    value: float | None, formula: str, *working: Term, low: float | None = None, high: float | None = None
) -> Figure:
    """A figure in hours; None means that it never comes in this room."""
    return Figure(value, "h", formula, working, low, high, "" if value is not None else "wont-dry")


def range_of(one: float | None, other: float | None) -> dict[str, float | None]:
    """The range of a figure between two outcomes, as `span` takes it; none where one of them never comes."""
    return {} if one is None or other is None else {"low": min(one, other), "high": max(one, other)}
