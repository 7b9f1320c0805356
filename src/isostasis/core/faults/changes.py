"""What can be done otherwise, as a change of the document: on every lift like the one that went wrong that is still to
be laid."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Any

from ..document import Scene
from ..document.edit import add, update
from ..document.scene import Lift
from ..plan import Plan

COLD_WATER_C, REST_H = 15.0, 10 / 60
NewId = Callable[[str], str]

# For each change: in words, what kinds of lift it is for, and what becomes of a lift's fields.
FIELDS: dict[str, tuple[str, tuple[str, ...], Callable[[Any], dict[str, Any]]]] = {
    "thinner-lifts": ("as many lifts as its label and its heat want", ("pour",), lambda one: {"lifts": "auto"}),
    "more-courses": ("a course more", ("skin",), lambda one: {"courses": one.courses + 1}),
    "stiffer": ("mixed for cliffs", ("skin",), lambda one: {"consistency": "cliff"}),
    "tint-less": ("half the tint", ("pour", "skin"), lambda one: {"tint": _halved(one)}),
    "more-coats": ("a coat more", ("coat",), lambda one: {"coats": one.coats + 1}),
    "more-layers": ("a layer more", ("waves", "shell"), lambda one: {"layers": one.layers + 1}),
    "rest": ("ten minutes of rest in the cup", ("pour",), lambda one: {"rest_h": REST_H}),
    "wet-first": ("a wetting pass first", ("fix",), lambda one: {"wetting": "alcohol-water-1-1"}),
    "waves": ("a step that says when to try the waves", ("pour",), lambda one: {"waves": True}),
    "clean-water": ("clean water", ("skin",), lambda one: {"clouded": False}),
    "cold-water": ("water at 15 °C", ("skin", "shell"), lambda one: {"water_c": COLD_WATER_C}),
}
SEAL = "seal"
WORDS = {code: words for code, (words, _, _) in FIELDS.items()} | {SEAL: "two coats of sealer before it"}


def _halved(lift: Any) -> list[dict[str, Any]]:
    """A lift's tint, half as strong."""
    halved = []
    for one in lift.tint:
        data = one.model_dump(mode="json", exclude_none=True)
        halved.append({key: value / 2 if isinstance(value, float) else value for key, value in data.items()})
    return halved


def alike(scene: Scene, plan: Plan, lift_id: str) -> tuple[Lift, ...]:
    """The lifts of the same kind and mix of which something is still to be laid. Raises KeyError."""
    lift = scene.lift(lift_id)
    mix = getattr(lift, "mix", getattr(lift, "material", None))
    return tuple(
        one
        for patch in scene.patches
        for one in patch.lifts
        if one.kind == lift.kind
        and getattr(one, "mix", getattr(one, "material", None)) == mix
        and plan.lifts[one.id].state not in ("done", "covered")
    )


def changes(scene: Scene, lift: Lift, code: str, new_id: NewId) -> Scene:
    """A scene in which a lift is done otherwise; as it was where that means nothing for it."""
    if code == SEAL and lift.levels_itself:
        patch = scene.patch_of(lift.id)
        place = [one.id for one in patch.lifts].index(lift.id)
        seal = {"id": new_id(f"{patch.id}-seal"), "kind": "coat", "material": "acrylic-sealer", "coats": 2}
        return add(scene, "lifts", seal, patch=patch.id, at=place)
    if code in FIELDS and lift.kind in FIELDS[code][1]:
        return update(scene, "lifts", lift.id, FIELDS[code][2](lift))
    return scene


def possible(lifts: Collection[Lift], code: str) -> bool:
    """Whether a change means anything for some of these lifts."""
    if code == SEAL:
        return any(one.levels_itself for one in lifts)
    return code in FIELDS and any(one.kind in FIELDS[code][1] for one in lifts)
