"""A shell of plaster cloth on the Lay-up page."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ....core.lifts.estimate import LiftPlan
from ....core.lifts.kinds.shell import Shell, plan_of
from ...shared.fields import Field
from ...shared.scenes import OpenScene, materials_of
from .shapes import WATER_C, ShownFigure, many

KIND, STEM, WORDS = "shell", "shell", "a shell of plaster cloth"
HATCH, CUT_HATCH, TONE, LANE_PX = "shell", "shell", "earth", 8.0
TELLS_THIRST = False
ON_POUR = False
FIELDS = (
    Field("material", "Cloth", "choice", start="plaster-cloth", options=lambda opened: materials_of(opened, "cloth")),
    Field("layers", "Layers", "whole", start=1, hint="one over foam, two over paper"),
    Field("over", "Over", "choice", start="all", options=(("all", "everything"), ("voids", "paper and joints only"))),
    WATER_C,
)
COMPARED = {
    "amount": "takes", "next_h": "next lift after", "full_h": "dry through", "weight_g": "weight, dry",
    "cost": "costs", "strength_mpa": "strength",
}  # fmt: skip
COMPARED_NOTE = "Strength is that of pure plaster at this water, to compare by; cloth holds cracks together instead."
PICTURE = "layup/kinds/shell.html"
MAX_ROLLS = 6


def values(lift: Shell) -> dict[str, Any]:
    """What the fields hold."""
    return {"material": lift.material, "layers": lift.layers, "over": lift.over, "water": lift.water_c}


def document(read: dict[str, Any]) -> dict[str, Any]:
    """What the document holds; None takes a field away."""
    return {"material": read["material"], "layers": read["layers"], "over": read["over"], "water_c": read["water"]}


def begin(opened: OpenScene, patch_id: str, data: dict[str, Any]) -> dict[str, Any]:
    """A new one begins as its fields say."""
    return data


def summary(lift: Shell, lift_plan: LiftPlan, opened: OpenScene) -> str:
    """In a few words, after its mix."""
    assert lift_plan.strips is not None
    return f"{many(lift.layers, 'layer')}, {opened.plainly(lift_plan.strips.count.number)} strips"


def figures(lift: Shell, lift_plan: LiftPlan, opened: OpenScene) -> list[ShownFigure]:
    """Its own figures, besides what stands in place and the hours."""
    assert lift_plan.strips is not None
    shown = [
        ShownFigure("strips.count", lift_plan.strips.count, "strips to cut"),
        ShownFigure("strips.rolls", lift_plan.strips.rolls, "rolls"),
    ]
    if lift_plan.strips.cost_m2:
        shown.append(ShownFigure("strips.cost_m2", lift_plan.strips.cost_m2, "a covered square metre costs"))
    return [*shown, ShownFigure("ingredients.1.volume_ml", lift_plan.ingredients[1].volume_ml, "water taken up")]


@dataclass(frozen=True, slots=True)
class Cutting:
    """A cutting plan drawn: (x, y, width, height) px of rolls and strips, how high it is, rolls that are not drawn."""

    rolls: list[tuple[float, float, float, float]]
    strips: list[tuple[float, float, float, float]]
    count: int
    high: float
    more: int


def picture(lift: Shell, opened: OpenScene) -> Cutting:
    """The first rolls with the strips that are cut from them, to scale along and across."""
    cuts = plan_of(lift, opened.plan.built.stages[lift.id].site, opened.labels)
    length, width = opened.labels.materials[lift.material].roll_mm or (1.0, 1.0)
    along, across = 334 / length, 26 / width
    rolls, strips = [], []
    for number, roll in enumerate(cuts.rolls[:MAX_ROLLS]):
        top = number * 34 + 1.0
        rolls.append((1.0, top, 334.0, 26.0))
        strips += [
            (1 + one.begin_mm * along, top + one.lane * cuts.width_mm * across, one.length_mm * along - 1,
             cuts.width_mm * across)
            for one in roll
        ]  # fmt: skip
    return Cutting(rolls, strips, len(rolls), len(rolls) * 34 + 2.0, len(cuts.rolls) - len(rolls))
