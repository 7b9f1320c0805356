"""The drawing's frame: where mm of the scene stand in px of the plan and the cut, whole or looked at closer."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from ...core.document import Scene
from ...core.ground.forms import bare_ground
from ...core.stages import cached_stage
from .path import line_d

WIDE, GUTTER, RIGHT = 812.0, 44.0, 16.0
SHEETS = (480, 680)  # px: a tall plan is on a narrower drawing, which a phone shows larger; `.of-480`
PLAN_MOST, BOTH = 400.0, 600.0  # px: the plan alone; plan and cut together
CUT_LEAST, CUT_MOST = 128.0, 250.0
EXAGGERATIONS = (1, 1.25, 1.6, 2, 2.5, 3, 4, 5, 6, 8, 10, 15, 20)


HatchOf = Callable[[str], str]  # the hatch of a kind of lift, as its page module says
MAX_ZOOM = 32.0


@dataclass(frozen=True)
class Viewport:
    """Which part of the plan is looked at: how many times larger than whole, and its middle in mm."""

    zoom: float = 1.0
    x_mm: float = 0.0
    y_mm: float = 0.0


WHOLE = Viewport()


@dataclass(frozen=True)
class Projection:
    """Where things stand in the drawing: scale px/mm, plan's and cut's places, heights' exaggeration, the look."""

    scale: float
    left: float
    plan_top: float
    plan_height: float
    plan_width: float
    cut_zero: float  # y of height 0
    cut_top: float
    cut_bottom: float
    exaggeration: float
    west_mm: float  # what stands at the left and at the lower edge of the plan
    south_mm: float
    zoom: float

    @property
    def sheet(self) -> int:
        """Width of the drawing, in px, in the middle of WIDE."""
        return next((one for one in SHEETS if self.plan_width + GUTTER + RIGHT <= one), int(WIDE))

    @property
    def sheet_left(self) -> float:
        """Where the drawing begins."""
        return (WIDE - self.sheet) / 2

    @property
    def height(self) -> float:
        """Of the whole drawing."""
        return self.cut_bottom + 26

    def x(self, mm: float) -> float:
        """Across."""
        return self.left + (mm - self.west_mm) * self.scale

    def y(self, mm: float) -> float:
        """Down, on the plan: north is up."""
        return self.plan_top + self.plan_height - (mm - self.south_mm) * self.scale

    def z(self, mm: float) -> float:
        """Down, in the cut."""
        return self.cut_zero - mm * self.scale * self.exaggeration

    def shows(self, x: float, y: float) -> bool:
        """Whether a place in px is on the plan as it is looked at."""
        return self.left <= x <= self.left + self.plan_width and self.plan_top <= y <= self.plan_top + self.plan_height


def clamped_viewport(scene: Scene, look: Viewport) -> Viewport:
    """The look, kept within the base."""
    zoom = min(max(look.zoom, 1.0), MAX_ZOOM)
    if zoom == 1.0:
        return Viewport(1.0, scene.base.width_mm / 2, scene.base.depth_mm / 2)
    half_x, half_y = scene.base.width_mm / 2 / zoom, scene.base.depth_mm / 2 / zoom
    x = min(max(look.x_mm, half_x), scene.base.width_mm - half_x)
    return Viewport(zoom, x, min(max(look.y_mm, half_y), scene.base.depth_mm - half_y))


@cached_stage
def projection_of(scene: Scene, look: Viewport = WHOLE) -> Projection:
    """The drawing's frame: as large as fits, the same on every place and while a level is tried. Looked at closer,
    plan and cut are stretched along their common axis and heights stay as tall as they were."""
    width, depth = scene.base.width_mm, scene.base.depth_mm
    scale = min((WIDE - GUTTER - RIGHT) / width, PLAN_MOST / depth)
    board = board_mm(scene)
    bare, _ = bare_ground(scene.base, scene.cell_mm, scene.forms)
    laid = max(
        (sum(getattr(lift, "depth_mm", None) or 0.0 for lift in patch.lifts) for patch in scene.patches), default=0.0
    )
    levels = [getattr(lift, "level_mm", None) or 0.0 for patch in scene.patches for lift in patch.lifts]
    top = max(float(bare.z.max()) + laid, *levels, 1.0) * 1.12
    room = min(max(BOTH - depth * scale - 56, CUT_LEAST), CUT_MOST) / scale / (top + board)
    exaggeration = max((one for one in EXAGGERATIONS if one <= room), default=room)
    left = GUTTER + (WIDE - GUTTER - RIGHT - width * scale) / 2
    cut_top = depth * scale + 30
    cut_zero = cut_top + top * scale * exaggeration
    look = clamped_viewport(scene, look)
    return Projection(
        scale=scale * look.zoom,
        left=left,
        plan_top=2.0,
        plan_height=depth * scale,
        plan_width=width * scale,
        cut_zero=cut_zero,
        cut_top=cut_top,
        cut_bottom=cut_zero + board * scale * exaggeration,
        exaggeration=exaggeration / look.zoom,
        west_mm=look.x_mm - width / 2 / look.zoom,
        south_mm=look.y_mm - depth / 2 / look.zoom,
        zoom=look.zoom,
    )


def board_mm(scene: Scene) -> float:
    """Thickness of the board."""
    return next((entry.thickness_mm or 9.0 for entry in scene.materials if entry.id == scene.base.board), 9.0)


def path(rings: Iterable[ArrayLike], frame: Projection, close: bool = True) -> str:
    """Rings, each (n, 2) in mm, as an SVG path on the plan."""
    start = np.array([frame.left, frame.plan_top + frame.plan_height])
    west_south, scale = np.array([frame.west_mm, frame.south_mm]), np.array([frame.scale, -frame.scale])
    return "".join(line_d(start + (np.asarray(ring) - west_south) * scale, close) for ring in rings)
