"""Falling water on the Lay-up page."""

from __future__ import annotations

from typing import Any

from ....core.fault import fault
from ....core.lifts.estimate import LiftPlan
from ....core.lifts.kinds.falls.way import Falls
from ...shared.fields import Field
from ...shared.scenes import OpenScene, mixes_of
from .shapes import ShownFigure, many, to_mix

KIND, STEM, WORDS = "falls", "falls", "falling water"
HATCH, CUT_HATCH, TONE, LANE_PX = "falls", "falls", "water", 9.0
TELLS_THIRST = False
ON_POUR = False
FIELDS = (
    Field("mix", "Soaked in", "choice", start="casting-resin", options=lambda opened: mixes_of(opened, "resin")),
    Field("width", "Width", "mm", start=20.0, low=1, high=2000),
    Field("layers", "Layers of fibre", "whole", start=3, hint="two to four"),
    Field("free", "Falls", "choice", start="along",
          options=(("along", "down the ground"), ("free", "free, clear of it, at first"))),
    Field("way", "From its lip to its foot, mm", "text", optional=True,
          hint="x, y; x, y; empty: from the highest spot to the lowest"),
)  # fmt: skip
COMPARED: dict[str, str] = {}
COMPARED_NOTE = ""
PICTURE = ""


def _path(text: str) -> list[list[float]]:
    """Points of a way as they are typed. Raises Faults."""
    points = []
    for part in text.strip(" ;").split(";"):
        try:
            x, y = (float(one) for one in part.split(","))
        except ValueError:
            wrong = f"“{part.strip()[:20]}” is no point"
            raise fault("from its lip to its foot", wrong, "write x, y; x, y in mm, as 120, 80; 140, 60") from None
        points.append([x, y])
    if len(points) < 2:
        raise fault("from its lip to its foot", "that is one point", "write the lip, a semicolon, and the foot")
    return points


def values(lift: Falls) -> dict[str, Any]:
    """What the fields hold."""
    way = "; ".join(f"{x:g}, {y:g}" for x, y in lift.path) if lift.path else None
    return {"mix": lift.mix, "width": lift.width_mm, "layers": lift.layers, "free": "free" if lift.free else "along",
            "way": way}  # fmt: skip


def document(read: dict[str, Any]) -> dict[str, Any]:
    """What the document holds; None takes a field away. Raises Faults."""
    return {
        "mix": read["mix"], "width_mm": read["width"], "layers": read["layers"], "free": read["free"] == "free",
        "path": _path(read["way"]) if read["way"] else None,
    }  # fmt: skip


def begin(opened: OpenScene, patch_id: str, data: dict[str, Any]) -> dict[str, Any]:
    """A new one begins as its fields say."""
    return data


def summary(lift: Falls, made: LiftPlan, opened: OpenScene) -> str:
    """In a few words, after its mix."""
    return f"{many(lift.layers, 'layer')} of fibre, {opened.show(lift.width_mm, 'mm')} wide"


def figures(lift: Falls, lift_plan: LiftPlan, opened: OpenScene) -> list[ShownFigure]:
    """Its own figures, besides what stands in place and the hours."""
    fibre = len(lift_plan.ingredients) - 1
    return [
        to_mix(lift_plan, opened),
        ShownFigure(f"ingredients[{fibre}].mass_g", lift_plan.ingredients[fibre].mass_g, "fibre"),
    ]


def picture(lift: Falls, opened: OpenScene) -> None:
    """No picture of its own."""
