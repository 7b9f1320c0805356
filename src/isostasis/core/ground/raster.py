"""Outlines on the grid: which share of each cell they cover, and how far cell centres are from them."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Ring = tuple[tuple[float, float], ...]


def centres(shape: tuple[int, int], cell_mm: float) -> tuple[Array, Array]:
    """x (nx,) and y (ny,) of the cell centres in mm."""
    ny, nx = shape
    return (np.arange(nx) + 0.5) * cell_mm, (np.arange(ny) + 0.5) * cell_mm


def _window(ring: Ring, shape: tuple[int, int], cell_mm: float, margin: int = 1) -> tuple[slice, slice]:
    """Rows and columns that the ring's box touches, and `margin` more."""
    corners = np.asarray(ring)
    low = np.floor(corners.min(axis=0) / cell_mm).astype(int) - margin
    high = np.ceil(corners.max(axis=0) / cell_mm).astype(int) + margin
    ny, nx = shape
    return slice(max(low[1], 0), min(high[1], ny)), slice(max(low[0], 0), min(high[0], nx))


def distance_to_ring(ring: Ring, x: Array, y: Array) -> Array:
    """Distance in mm from each point of the grid x (nx,) by y (ny,) to the ring's line."""
    corners = np.asarray(ring, dtype=float)
    best = np.full((len(y), len(x)), np.inf)
    for (ax, ay), (bx, by) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        dx, dy = bx - ax, by - ay
        along = ((x - ax) * dx)[None, :] + ((y - ay) * dy)[:, None]
        share = np.clip(along / (dx * dx + dy * dy), 0, 1)
        gap = (x[None, :] - ax - share * dx) ** 2 + (y[:, None] - ay - share * dy) ** 2
        np.minimum(best, gap, out=best)
    return np.sqrt(best)


def centres_within(ring: Ring, x: Array, y: Array) -> Mask:
    """Which points of the grid x (nx,) by y (ny,) lie inside the ring (even-odd rule)."""
    corners = np.asarray(ring, dtype=float)
    inside = np.zeros((len(y), len(x)), dtype=bool)
    for (ax, ay), (bx, by) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        if ay == by:
            continue
        rows = (y >= min(ay, by)) & (y < max(ay, by))
        crossing = ax + (y[rows] - ay) * (bx - ax) / (by - ay)
        inside[rows] ^= x[None, :] < crossing[:, None]
    return inside


@lru_cache(maxsize=128)
def covered(ring: Ring, shape: tuple[int, int], cell_mm: float) -> Array:
    """The share (ny, nx) of each cell that the ring covers, exact by clipping the cells on its line."""
    import shapely

    share = np.zeros(shape)
    rows, columns = _window(ring, shape, cell_mm)
    x, y = (axis[part] for axis, part in zip(centres(shape, cell_mm), (columns, rows), strict=True))
    part = centres_within(ring, x, y).astype(float)
    on_line = distance_to_ring(ring, x, y) < cell_mm * 0.7072
    row, column = np.nonzero(on_line)
    half = cell_mm / 2
    boxes = shapely.box(x[column] - half, y[row] - half, x[column] + half, y[row] + half)
    outline = shapely.Polygon(ring)
    shapely.prepare(outline)
    part[row, column] = shapely.area(shapely.intersection(boxes, outline)) / cell_mm**2
    share[rows, columns] = part
    share.setflags(write=False)
    return share
