"""A texture on the Lay-up page."""

from __future__ import annotations

from typing import Any

from ....core.lifts.estimate import LiftPlan
from ....core.lifts.kinds.texture import Texture
from ...shared.fields import Field
from ...shared.scenes import OpenScene, materials_of, mixes_of
from .shapes import BINDER_HEADS, COVER, SHORE, ShownFigure, to_mix

KIND, STEM, WORDS = "texture", "texture", "a texture, strewn"
HATCH, CUT_HATCH, TONE, LANE_PX = "texture", "texture", "earth", 9.0
TELLS_THIRST = False
ON_POUR = False
FIELDS = (
    Field("mix", "Blend", "choice", start="quarry-dust", options=lambda opened: mixes_of(opened, "texture")),
    Field("depth", "Depth", "mm", start=2.0),
    Field("cover", COVER.label, "percent", start=1.0, hint="less: what is under it shows"),
    Field(
        "school", "Strewn", "choice", start="dry",
        options=(("dry", "dry, to be soaked"), ("onto-glue", "onto glue, the rest swept up"),
                 ("glue-twice", "onto glue, and soaked too"), ("into-soft", "pressed into what is still soft")),
    ),
    Field("key", "Onto", "choice", start="white-glue", options=lambda opened: materials_of(opened, "binder", "colour")),
    Field("straightedge", "Drawn level with an edge of", "mm", optional=True, hint="a road; empty: as it falls"),
    SHORE,
)  # fmt: skip
COMPARED = {
    "amount": "to strew", "held_mm": "stays", "key_ml": "key", "at_a_time_mm2": "at a time", **BINDER_HEADS,
}  # fmt: skip
COMPARED_NOTE = "At a time: what can be strewn while the key is open."
PICTURE = ""


def values(lift: Texture) -> dict[str, Any]:
    """What the fields hold."""
    return {
        "mix": lift.mix, "depth": lift.depth_mm, "cover": lift.cover, "key": lift.key,
        "school": "into-soft" if lift.into else lift.school,
        "straightedge": lift.straightedge_mm, "shore": lift.shore_mm,
    }  # fmt: skip


def document(read: dict[str, Any]) -> dict[str, Any]:
    """What the document holds; None takes a field away."""
    pressed = read["school"] == "into-soft"
    return {
        "mix": read["mix"], "depth_mm": read["depth"], "cover": read["cover"], "key": read["key"],
        "school": "dry" if pressed else read["school"], "into": "soft" if pressed else None,
        "straightedge_mm": read["straightedge"], "shore_mm": read["shore"],
    }  # fmt: skip


def begin(opened: OpenScene, patch_id: str, data: dict[str, Any]) -> dict[str, Any]:
    """A new one begins as its fields say."""
    return data


def summary(lift: Texture, made: LiftPlan, opened: OpenScene) -> str:
    """In a few words, after its mix."""
    depth = opened.show(made.layers[0].depth_mm.value, "mm")
    return depth + (f" on {lift.cover * 100:.0f} %" if lift.cover < 1 else "")


def figures(lift: Texture, lift_plan: LiftPlan, opened: OpenScene) -> list[ShownFigure]:
    """Its own figures, besides what stands in place and the hours."""
    assert lift_plan.strewn is not None
    swept = f"{opened.show(lift_plan.strewn.swept_ml.value, 'ml')} of it is swept up again"
    shown = [to_mix(lift_plan, opened), ShownFigure("strewn.lost_ml", lift_plan.strewn.lost_ml, "falls beside", swept)]
    if lift_plan.strewn.at_a_time_mm2:
        shown.append(ShownFigure("strewn.at_a_time_mm2", lift_plan.strewn.at_a_time_mm2, "spread at a time"))
    return shown


def picture(lift: Texture, opened: OpenScene) -> None:
    """No picture of its own."""
