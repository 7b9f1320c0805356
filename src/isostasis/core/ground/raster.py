"""Outlines on the grid: which share of each cell they cover, and how far cell centres are from them."""

from __future__ import annotations

from functools import lru_cache
from math import dist

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Ring = tuple[tuple[float, float], ...]
Sides = tuple[bool, ...]


def centres(shape: tuple[int, int], cell_mm: float) -> tuple[Array, Array]:
    """x (nx,) and y (ny,) of the cell centres in mm."""
    ny, nx = shape
    return (np.arange(nx, dtype=np.float64) + 0.5) * cell_mm, (np.arange(ny, dtype=np.float64) + 0.5) * cell_mm


def window(ring: Ring, shape: tuple[int, int], cell_mm: float, margin: int = 1) -> tuple[slice, slice]:
    """Rows and columns that the ring's box touches, and `margin` more."""
    corners = np.asarray(ring)
    low = np.floor(corners.min(axis=0) / cell_mm).astype(int) - margin
    high = np.ceil(corners.max(axis=0) / cell_mm).astype(int) + margin
    ny, nx = shape
    return slice(max(low[1], 0), min(high[1], ny)), slice(max(low[0], 0), min(high[0], nx))


def distance_to_ring(ring: Ring, x: Array, y: Array, but: Sides | None = None) -> Array:
    """Distance in mm from each point of the grid x (nx,) by y (ny,) to the ring's line.

    Sides of the ring that `but` says True for (by their number) are left out; inf where none is left.
    """
    corners = np.asarray(ring, dtype=float)
    best = np.full((len(y), len(x)), np.inf)
    for side, ((ax, ay), (bx, by)) in enumerate(zip(corners, np.roll(corners, -1, axis=0), strict=True)):
        if but is not None and but[side]:
            continue
        dx, dy = bx - ax, by - ay
        along = ((x - ax) * dx)[None, :] + ((y - ay) * dy)[:, None]
        share = np.clip(along / (dx * dx + dy * dy), 0, 1)
        gap = (x[None, :] - ax - share * dx) ** 2 + (y[:, None] - ay - share * dy) ** 2
        np.minimum(best, gap, out=best)
    return np.asarray(np.sqrt(best))


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


def edge_length(ring: Ring) -> float:
    """Length of a ring in mm."""
    return sum(dist(one, other) for one, other in zip(ring, (*ring[1:], ring[0]), strict=True))


def _mean_left(low: Array, high: Array, x: Array) -> Array:
    """Mean of min(p, x) for p running evenly from `low` to `high`: (pieces, x)."""
    low, high = low[:, None], high[:, None]
    part = np.clip((x - low) / np.maximum(high - low, 1e-300), 0, 1)
    below = np.minimum(x, high)
    return np.asarray(np.where(x <= low, x, part * (low + below) / 2 + (1 - part) * x))


@lru_cache(maxsize=128)
def covered(ring: Ring, shape: tuple[int, int], cell_mm: float) -> Array:
    """The share (ny, nx) of each cell that the ring covers, exact: Green's theorem on each cell.

    The area left of x within a row is the sum over the ring's edges of the integral of min(edge, x) dy.
    """
    ny, nx = shape
    start = np.asarray(ring, dtype=float) / cell_mm  # in cells from here on
    end = np.roll(start, -1, axis=0)
    start, end = start[start[:, 1] != end[:, 1]], end[start[:, 1] != end[:, 1]]
    south, north = np.minimum(start[:, 1], end[:, 1]), np.maximum(start[:, 1], end[:, 1])
    first, last = np.maximum(south.astype(int), 0), np.minimum(np.ceil(north).astype(int), ny)
    # Each edge is cut into pieces at the rows' borders.
    count = np.maximum(last - first, 0)
    edge = np.repeat(np.arange(len(count)), count)
    row = np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count) + first[edge]
    low_y, high_y = np.maximum(row, south[edge]), np.minimum(row + 1, north[edge])
    lean = ((end[:, 0] - start[:, 0]) / (end[:, 1] - start[:, 1]))[edge]
    at_low, at_high = (start[edge, 0] + (y - start[edge, 1]) * lean for y in (low_y, high_y))
    rise = (high_y - low_y) * np.sign(end[:, 1] - start[:, 1])[edge]
    left_of = _mean_left(np.minimum(at_low, at_high), np.maximum(at_low, at_high), np.arange(nx + 1, dtype=float))
    left = np.zeros((ny, nx + 1))
    if len(row):
        order = np.argsort(row, kind="stable")
        rows, begins = np.unique(row[order], return_index=True)
        left[rows] = np.add.reduceat((rise[:, None] * left_of)[order], begins, axis=0)
    share = np.clip(np.abs(np.diff(left, axis=1)), 0, 1)
    share[share < 1e-12] = 0.0
    share.setflags(write=False)
    return share
