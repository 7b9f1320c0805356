"""A fix on the Lay-up page."""

from __future__ import annotations

from typing import Any

from ....core.lifts.estimate import Fixing, LiftPlan
from ....core.lifts.kinds.fix import Fix
from ....core.mixing.grains import hold_words
from ...shared.fields import Field
from ...shared.scenes import OpenScene, mixes_of
from .shapes import BINDER_HEADS, ShownFigure, many, soaking, to_mix

KIND, STEM, WORDS = "fix", "fix", "a fix, soaked in"
HATCH, CUT_HATCH, TONE, LANE_PX = "fix", "skin", "coat", 5.0
TELLS_THIRST = False
ON_POUR = False
FIELDS = (
    Field("mix", "Binder", "choice", start="glue-water-1-1", options=soaking),
    Field(
        "wetting", "Wetted with", "choice", optional=True, start="alcohol-water-1-1",
        options=lambda opened: [("", "nothing"), *mixes_of(opened, "wetting")],
    ),
    Field(
        "by", "Brought on", "choice", start="drip",
        options=(("drip", "dripped, reaches all the way"), ("spray", "sprayed, half as deep"),
                 ("brush", "brushed, the face alone")),
    ),
)  # fmt: skip
COMPARED = {
    "passes": "passes", "wetting_ml": "wetting", "binder_ml": "binder", "hold": "hold at the top",
    "hold_bottom": "at the bottom", **BINDER_HEADS,
}  # fmt: skip
COMPARED_NOTE = "Hold is glue solids in a millilitre of texture, at the top of the bed and at its bottom."
PICTURE = ""


def values(lift: Fix) -> dict[str, Any]:
    """What the fields hold."""
    return {"mix": lift.mix, "wetting": lift.wetting or "", "by": lift.by}


def document(read: dict[str, Any]) -> dict[str, Any]:
    """What the document holds; None takes a field away."""
    return {"mix": read["mix"], "by": read["by"], "wetting": read["wetting"] or None}


def begin(opened: OpenScene, patch_id: str, data: dict[str, Any]) -> dict[str, Any]:
    """A new one begins as its fields say."""
    return data


def summary(lift: Fix, lift_plan: LiftPlan, opened: OpenScene) -> str:
    """In a few words, after its mix."""
    assert lift_plan.fixing is not None
    return f"{many(lift_plan.fixing.passes.number, 'pass', 'es')}, {hold_words(lift_plan.fixing.hold.number)}"


def figures(lift: Fix, lift_plan: LiftPlan, opened: OpenScene) -> list[ShownFigure]:
    """Its own figures, besides what stands in place and the hours."""
    fixing = lift_plan.fixing
    assert fixing is not None
    reaches = f"one pass reaches {opened.show(fixing.reach_mm.value, 'mm')}"
    return [
        to_mix(lift_plan, opened),
        ShownFigure("fixing.passes", fixing.passes, "from the top down in", reaches),
        ShownFigure("fixing.wetting_ml", fixing.wetting_ml, "wetting first"),
        ShownFigure("fixing.binder_ml", fixing.binder_ml, "then binder"),
        ShownFigure("fixing.hold", fixing.hold, f"hold at the top: {hold_words(fixing.hold.number)}"),
        ShownFigure("fixing.hold_bottom", fixing.hold_bottom, f"at the bottom: {_bottom(fixing)}"),
    ]


def _bottom(fixing: Fixing) -> str:
    """How it holds at the bottom, in a word."""
    return hold_words(fixing.hold_bottom.number) if fixing.hold_bottom.value else "loose"


def picture(lift: Fix, opened: OpenScene) -> None:
    """No picture of its own."""
