"""A skin on the Lay-up page."""

from __future__ import annotations

from typing import Any

from ....core.lifts.estimate import LiftPlan
from ....core.lifts.kinds.skin import Skin
from ...shared.fields import Field
from ...shared.scenes import OpenScene, mixes_of
from .shapes import WATER_C, ShownFigure, tint_choice, tint_data, tints, to_mix

KIND, STEM, WORDS = "skin", "skin", "a skin, trowelled"
HATCH, CUT_HATCH, TONE, LANE_PX = "skin", "skin", "earth", 13.0
TELLS_THIRST = False
ON_POUR = False
FIELDS = (
    Field("mix", "Mix", "choice", start="paper-plaster", options=lambda opened: mixes_of(opened, "skin")),
    Field("depth", "Thickness", "mm", start=3.0),
    Field(
        "consistency", "Mixed for", "choice", start="general",
        options=(("general", "general work"), ("floor", "a floor, levels itself"), ("cliff", "a cliff, stiff")),
    ),
    Field("courses", "Courses", "whole", start=1, hint="each dry to the next"),
    WATER_C,
    Field("clouded", "the water is clouded with plaster", "flag"),
    Field("ink", "Coloured through with", "choice", start="paint-earth", options=tints),
    Field("drops", "So much in 100 ml", "number", optional=True, hint="so that chips do not show"),
    Field("feather", "Thins to nothing over", "mm", optional=True, hint="at its edge; empty: full to it"),
    Field("fill_steps", "Fill steps to, degrees", "deg", optional=True, hint="empty: steps stay"),
)  # fmt: skip
COMPARED = {
    "amount": "to mix", "next_h": "next lift after", "full_h": "dry through", "weight_g": "weight, dry",
    "cost": "costs", "strength_mpa": "strength",
}  # fmt: skip
COMPARED_NOTE = "Strength is that of pure plaster at this water, to compare by; cloth holds cracks together instead."
PICTURE = ""


def values(lift: Skin) -> dict[str, Any]:
    """What the fields hold."""
    tint = lift.tint[0] if lift.tint else None
    return {
        "mix": lift.mix, "depth": lift.depth_mm, "consistency": lift.consistency, "courses": lift.courses,
        "water": lift.water_c, "clouded": lift.clouded, "ink": tint_choice(lift.tint, "paint-earth"),
        "drops": tint.per_100_ml if tint else None, "feather": lift.feather_mm,
        "fill_steps": lift.fill_steps_deg,
    }  # fmt: skip


def document(read: dict[str, Any]) -> dict[str, Any]:
    """What the document holds; None takes a field away."""
    tint = tint_data(read["ink"], read["drops"])
    return {
        "mix": read["mix"], "depth_mm": read["depth"], "consistency": read["consistency"], "courses": read["courses"],
        "clouded": read["clouded"], "water_c": read["water"], "tint": tint, "feather_mm": read["feather"],
        "fill_steps_deg": read["fill_steps"],
    }  # fmt: skip


def begin(opened: OpenScene, patch_id: str, data: dict[str, Any]) -> dict[str, Any]:
    """A new one begins as its fields say."""
    return data


def summary(lift: Skin, made: LiftPlan, opened: OpenScene) -> str:
    """In a few words, after its mix."""
    return opened.show(lift.depth_mm, "mm") + (f" in {lift.courses} courses" if lift.courses > 1 else "")


def figures(lift: Skin, made: LiftPlan, opened: OpenScene) -> list[ShownFigure]:
    """Its own figures, besides what stands in place and the hours."""
    return [to_mix(made, opened)]


def picture(lift: Skin, opened: OpenScene) -> None:
    """No picture of its own."""
