"""Banks that forms leave: where they run and how steep they are, which the grid alone cannot tell.

A grid of 5 mm shows an upright bank as a slope over a cell, and a round one as stairs. What a cut or a sheet leaves is
known exactly, so that liquid at it is measured along the bank's own line and by the bank's own angle.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import radians, sin, tan
from typing import TYPE_CHECKING, ClassVar

import numpy as np

from .raster import Array, Mask, Ring

if TYPE_CHECKING:
    from shapely.geometry.base import BaseGeometry

STEP_CELLS = 0.25


@dataclass(frozen=True, slots=True)
class Bank:
    """A bank from `foot_mm` to `top_mm` above the board, falling at `bank_deg` from a line at its top.

    The line is the ring `points`, towards whose inside (`inward` 1: a hollow) or outside (-1: a sheet) it falls; or,
    with `half_mm`, runs beside the path `points` at that distance to its left (negative: right), falling towards the
    path. `cover_mm` is what was laid over it since, square to it.
    """

    WEIGHT: ClassVar[int] = 2000  # bytes in a registry of stages, its points included, about

    points: Ring
    bank_deg: float
    foot_mm: float
    top_mm: float
    inward: int = 1
    half_mm: float = 0.0
    cover_mm: float = 0.0

    def line_at(self, level_mm: float) -> BaseGeometry | None:
        """Where a level meets the bank; None below its foot and above its top."""
        if self.foot_mm + self.cover_mm - 1e-9 <= level_mm <= self.top_mm + self.cover_mm + 1e-9:
            return self._line(self._run(max(self.top_mm - level_mm, 0.0)))
        return None

    def covered(self, mask: Mask, cell_mm: float) -> float:
        """Share of its foot along which the cells of `mask` lie."""
        line = self._line(self._run(self.top_mm - self.foot_mm) + cell_mm)
        if line is None:
            return 0.0
        at, lengths = points_along(line, cell_mm)
        cells = np.floor(at / cell_mm).astype(int)
        ny, nx = mask.shape
        inside = (cells >= 0).all(axis=1) & (cells[:, 0] < nx) & (cells[:, 1] < ny)
        found = np.zeros(len(at))
        found[inside] = mask[cells[inside, 1], cells[inside, 0]]
        return float((found * lengths).sum() / lengths.sum())

    def _run(self, fall_mm: float) -> float:
        """How far from its line the bank is once it has fallen so far, mm in plan."""
        upright = self.bank_deg == 90
        return (0.0 if upright else fall_mm / tan(radians(self.bank_deg))) + self.cover_mm / sin(radians(self.bank_deg))

    def _line(self, run_mm: float) -> BaseGeometry | None:
        from shapely import LineString, Polygon

        if self.half_mm:
            away = abs(self.half_mm) - run_mm
            line = LineString(self.points).offset_curve(away if self.half_mm > 0 else -away) if away > 0 else None
        else:
            line = Polygon(self.points).buffer(-self.inward * run_mm, join_style="mitre").boundary
        return None if line is None or line.is_empty else line


def points_along(line: BaseGeometry, cell_mm: float) -> tuple[Array, Array]:
    """Points (n, 2) along a line a quarter of a cell apart, and the length in mm (n,) that each stands for."""
    from shapely import get_coordinates, get_parts

    at, lengths = [], []
    for part in get_parts(line):
        corners = get_coordinates(part)
        stations = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))))
        count = max(1, round(stations[-1] / (STEP_CELLS * cell_mm)))
        middles = (np.arange(count) + 0.5) * stations[-1] / count
        at.append(np.stack([np.interp(middles, stations, corners[:, axis]) for axis in (0, 1)], axis=1))
        lengths.append(np.full(count, stations[-1] / count))
    return np.concatenate(at), np.concatenate(lengths)
