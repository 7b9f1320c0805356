"""The bench's plan: each spot of a scene filled by its state."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.bench import BenchScene, Spot
from ...core.ground.view import contours
from ...core.lifts.areas import Cover
from ...core.stages import cached_stage
from ..draw.panels import innermost
from ..draw.projection import Projection, path, projection_of


@dataclass(frozen=True)
class DrawnSpot:
    """A spot on the plan: its outline as a path, and where its name stands."""

    spot: Spot
    d: str
    x: float
    y: float


@dataclass(frozen=True)
class DrawnPlan:
    """The plan of a scene's spots."""

    frame: Projection
    spots: tuple[DrawnSpot, ...]


@cached_stage
def _outline(cover: Cover, cell_mm: float, frame: Projection) -> str:
    """The edge of what a patch owns; closed along the board's own edge too."""
    padded = np.pad(cover.share, 1)
    rings = [
        np.asarray(line) - cell_mm for _, lines in contours(padded, cell_mm, [0.5]) for line in lines if len(line) > 2
    ]
    return path(rings, frame)


def drawn_plan(scene: BenchScene, states: list[Spot]) -> DrawnPlan:
    """The spots of a scene where they lie, what has no place on the ground left out."""
    frame = projection_of(scene.scene)
    drawn: list[DrawnSpot] = []
    cell = scene.plan.built.bare.cell_mm
    for spot in states:
        cover = scene.plan.built.covers[spot.patch]
        if cover.face or not cover.mask.any():
            continue
        x, y = innermost(cover, cell)
        at_x, at_y = frame.x(x), frame.y(y)
        while any(abs(at_y - other.y) < 34 and abs(at_x - other.x) < 104 for other in drawn):
            at_y += 12
        at_x = min(max(at_x, frame.left + 52), frame.left + frame.plan_width - 52)
        drawn.append(DrawnSpot(spot, _outline(cover, cell, frame), at_x, at_y))
    return DrawnPlan(frame, tuple(drawn))
