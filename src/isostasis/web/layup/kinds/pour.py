"""A pour on the Lay-up page; level, tint and lifts are set on Pour."""

from __future__ import annotations

from typing import Any

from ....core.lifts.estimate import LiftPlan
from ....core.lifts.kinds.pour.pools import PourLift
from ....core.plan.preview import first_level
from ...shared.fields import Field
from ...shared.scenes import OpenScene, poured_of
from .shapes import ShownFigure, many, to_mix

KIND, STEM, WORDS = "pour", "water", "a pour, levels itself"
HATCH, CUT_HATCH, TONE, LANE_PX = "pour", "", "water", 13.0
TELLS_THIRST = True
ON_POUR = True
FIELDS = (Field("mix", "Resin", "choice", start="casting-resin", options=poured_of),)
COMPARED = {
    "lifts": "in", "mix_ml": "to mix", "cost": "costs", "hands_h": "hands", "whole_h": "through after",
    "peak_c": "hottest", "flat_mm": "off level",
}  # fmt: skip
COMPARED_NOTE = "Off level is what a standing figure rocks by: a rim that climbed, a coat that sank, crests."
PICTURE = ""
FIRST_COATS_MM = 1.0


def values(lift: PourLift) -> dict[str, Any]:
    """What the fields hold."""
    return {"mix": lift.mix}


def document(read: dict[str, Any]) -> dict[str, Any]:
    """What the document holds."""
    return {"mix": read["mix"]}


def begin(opened: OpenScene, patch_id: str, data: dict[str, Any]) -> dict[str, Any]:
    """A new one fills its hollow to four fifths; what dries is built up shallow. Raises Faults where none holds."""
    mix = opened.catalogue.mixes.get(data["mix"])
    if mix is None or mix.reacts is None:
        return {**data, "depth_mm": FIRST_COATS_MM}
    patch = next(one for one in opened.scene.patches if one.id == patch_id)
    return {**data, "level_mm": first_level(opened.scene, patch, data["id"], mix)}


def summary(lift: PourLift, made: LiftPlan, opened: OpenScene) -> str:
    """In a few words, after its mix."""
    return many(len(made.layers), "lift")


def figures(lift: PourLift, made: LiftPlan, opened: OpenScene) -> list[ShownFigure]:
    """Its own figures, besides what stands in place and the hours."""
    return [to_mix(made, opened)]


def picture(lift: PourLift, opened: OpenScene) -> None:
    """No picture of its own: it is drawn on Pour."""
