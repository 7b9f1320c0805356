"""Waves of tissue and glue on the Lay-up page."""

from __future__ import annotations

from typing import Any

from ....core.lifts.estimate import LiftPlan
from ....core.lifts.kinds.waves import Waves
from ...shared.fields import Field
from ...shared.scenes import OpenScene
from .shapes import ShownFigure, binders, to_mix

KIND, STEM, WORDS = "waves", "waves", "waves of tissue and glue"
HATCH, CUT_HATCH, TONE, LANE_PX = "waves", "skin", "water", 9.0
TELLS_THIRST = False
ON_POUR = False
FIELDS = (
    Field("mix", "In", "choice", start="glue-water-1-1", options=binders),
    Field("layers", "Layers of tissue", "whole", start=3, hint="smooth thin paper"),
)
COMPARED: dict[str, str] = {}
COMPARED_NOTE = ""
PICTURE = ""


def values(lift: Waves) -> dict[str, Any]:
    """What the fields hold."""
    return {"mix": lift.mix, "layers": lift.layers}


def document(read: dict[str, Any]) -> dict[str, Any]:
    """What the document holds."""
    return {"mix": read["mix"], "layers": read["layers"]}


def begin(opened: OpenScene, patch_id: str, data: dict[str, Any]) -> dict[str, Any]:
    """A new one begins as its fields say."""
    return data


def summary(lift: Waves, made: LiftPlan, opened: OpenScene) -> str:
    """In a few words, after its mix."""
    return f"{lift.layers} layers of tissue"


def figures(lift: Waves, made: LiftPlan, opened: OpenScene) -> list[ShownFigure]:
    """Its own figures, besides what stands in place and the hours."""
    return [to_mix(made, opened)]


def picture(lift: Waves, opened: OpenScene) -> None:
    """No picture of its own."""
