"""The inside of an outline on the grid, and the ground just outside it: shared by forms that work inwards."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ...fault import Faults, fault
from ..field import Ground
from ..raster import Array, Mask, Ring, Sides, Window, centres, centres_within, window

MARGIN = 2  # cells round the outline
NO_CELL = ("covers no cell of the grid", "make the outline larger or grid_mm smaller")


@dataclass(frozen=True, slots=True)
class Within:
    """On the window round an outline: cells whose centres lie inside it, those outside, both on the base, and which
    sides of the outline run along the base's edge."""

    box: Window
    mask: Mask
    outside: Mask
    along_edge: Sides

    @classmethod
    def of(cls, outline: Ring, ground: Ground) -> Within:
        """The inside of `outline`, with two cells round it."""
        box = window(outline, ground.shape, ground.cell_mm, MARGIN)
        x, y = centres(ground.shape, ground.cell_mm)
        x, y = x[box[1]], y[box[0]]
        on = ground.on_base[box]
        mask = centres_within(outline, x, y) & on
        return cls(box, mask, on & ~mask, _along_edge(outline, ground))

    def nearest_outside(self, heights: Array) -> Array:
        """For each cell the height of the nearest cell outside; `heights` are the window's."""
        return _nearest(self.outside, heights)

    def nearest_inside(self, heights: Array) -> Array:
        """For each cell the height of the nearest cell inside."""
        return _nearest(self.mask, heights)


def _nearest(to: Mask, heights: Array) -> Array:
    """For each cell the height of the nearest of the cells `to`."""
    from scipy.ndimage import distance_transform_edt

    nearest = distance_transform_edt(~to, return_distances=False, return_indices=True)
    return np.asarray(heights[nearest[0], nearest[1]])


def _along_edge(outline: Ring, ground: Ground) -> Sides:
    """Which sides of the outline run along the base's edge."""
    corners = [*outline, outline[0]]
    return tuple(
        all(ground.is_edge((ax * (1 - part) + bx * part, ay * (1 - part) + by * part)) for part in (0.1, 0.5, 0.9))
        for (ax, ay), (bx, by) in pairwise(corners)
    )


def too_deep(where: str, depth_mm: float, lowest: float) -> Faults:
    """The fault of a cut that would go through the board."""
    return fault(
        f"{where}.depth_mm",
        f"{depth_mm:g} mm cuts through the board: the lowest lip stands {lowest:.4g} mm above it",
        f"at most {lowest:.4g}" if lowest > 0 else "lay a sheet there first",
    )
