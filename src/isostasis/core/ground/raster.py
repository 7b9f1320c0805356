"""Outlines on the grid: which share of each cell they cover, and how far cell centres are from them."""

from __future__ import annotations

from dataclasses import dataclass
from math import dist
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..stages import cached_stage

if TYPE_CHECKING:
    from contourpy import SerialContourGenerator

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Ring = tuple[tuple[float, float], ...]
Sides = tuple[bool, ...]
Window = tuple[slice, slice]
_BLOCK = 64  # cells a side that distances are worked out for at once


def centres(shape: tuple[int, int], cell_mm: float) -> tuple[Array, Array]:
    """x (nx,) and y (ny,) of the cell centres in mm."""
    ny, nx = shape
    return (np.arange(nx, dtype=np.float64) + 0.5) * cell_mm, (np.arange(ny, dtype=np.float64) + 0.5) * cell_mm


def around(cells: Mask, margin: int = 0) -> Window:
    """The window (rows, columns) that holds all `cells` (ny, nx), of which there is at least one, and `margin` more on
    each side where there are any."""
    spans = (np.flatnonzero(cells.any(axis=axis)) for axis in (1, 0))
    south_north, west_east = (slice(max(int(one[0]) - margin, 0), int(one[-1]) + 1 + margin) for one in spans)
    return south_north, west_east


def isolines(heights: Array) -> SerialContourGenerator:
    """What draws lines, and outlines with their holes apart, of equal height through `heights` (ny, nx), both 2 or more
    and all finite: x and y in cells from the first cell's centre. Made without the package's own way, which looks for
    cells that are masked first: half of the time of an outline."""
    from contourpy import FillType, LineType, SerialContourGenerator, ZInterp

    y, x = np.indices(heights.shape, dtype=np.float64)
    kinds = {"line_type": LineType.Separate, "fill_type": FillType.OuterOffset, "z_interp": ZInterp.Linear}
    return SerialContourGenerator(x, y, heights, None, corner_mask=False, quad_as_tri=False, **kinds)


def window(ring: Ring, shape: tuple[int, int], cell_mm: float, margin: int = 1) -> Window:
    """Rows and columns that the ring's box touches, and `margin` more."""
    corners = np.asarray(ring)
    low = np.floor(corners.min(axis=0) / cell_mm).astype(int) - margin
    high = np.ceil(corners.max(axis=0) / cell_mm).astype(int) + margin
    ny, nx = shape
    rows = slice(int(np.clip(low[1], 0, ny)), int(np.clip(high[1], 0, ny)))
    return rows, slice(int(np.clip(low[0], 0, nx)), int(np.clip(high[0], 0, nx)))


def nearest_side(
    starts: Array, ends: Array, x: Array, y: Array, reach: float = np.inf
) -> tuple[Array, NDArray[np.intp], Array]:
    """For each point of the grid x (nx,) by y (ny,): distance in mm to the nearest of some straight sides, which side
    that is, and how far along it (0..1). `starts`, `ends` (n, 2) in mm. Beyond `reach` mm the distance may be inf.

    Exact. Works in blocks, so that a side far from a block costs nothing there.
    """
    shape = len(y), len(x)
    gap, side, share = np.full(shape, np.inf), np.zeros(shape, dtype=np.intp), np.zeros(shape)
    run = ends - starts
    length2 = np.maximum((run**2).sum(axis=1), 1e-300)

    def measured(to: NDArray[np.intp], px: Array, py: Array) -> tuple[Array, Array]:
        """Squared distance and share (sides, *points) of points from the sides `to`."""
        ax, ay, dx, dy, size = (
            one[(slice(None), *(None,) * np.ndim(px))]
            for one in (starts[to, 0], starts[to, 1], run[to, 0], run[to, 1], length2[to])
        )
        along = np.clip(((px - ax) * dx + (py - ay) * dy) / size, 0, 1)
        return (px - ax - along * dx) ** 2 + (py - ay - along * dy) ** 2, along

    every = np.arange(len(starts))
    for south in range(0, len(y), _BLOCK):
        for west in range(0, len(x), _BLOCK):
            ys, xs = y[south : south + _BLOCK], x[west : west + _BLOCK]
            radius = np.hypot(xs[-1] - xs[0], ys[-1] - ys[0]) / 2
            middle = np.sqrt(measured(every, (xs[0] + xs[-1]) / 2, (ys[0] + ys[-1]) / 2)[0])
            if middle.min() - radius > reach:
                continue
            near = np.flatnonzero(middle <= middle.min() + 2 * radius + 1e-9)
            gap2, along = measured(near, xs[None, :], ys[:, None])
            best = gap2.argmin(axis=0)[None]
            box = slice(south, south + len(ys)), slice(west, west + len(xs))
            gap[box] = np.sqrt(np.take_along_axis(gap2, best, 0)[0])
            share[box] = np.take_along_axis(along, best, 0)[0]
            side[box] = near[best[0]]
    return gap, side, share


def distance_to_ring(ring: Ring, x: Array, y: Array, but: Sides | None = None) -> Array:
    """Distance in mm from each point of the grid x (nx,) by y (ny,) to the ring's line.

    Sides of the ring that `but` says True for (by their number) are left out; inf where none is left.
    """
    corners = np.asarray(ring, dtype=float)
    wanted = np.flatnonzero(~np.asarray(but)) if but is not None else np.arange(len(corners))
    if not len(wanted):
        return np.full((len(y), len(x)), np.inf)
    return nearest_side(corners[wanted], np.roll(corners, -1, axis=0)[wanted], x, y)[0]


@cached_stage
def ring_distance(
    ring: Ring, shape: tuple[int, int], cell_mm: float, margin: int, but: Sides | None = None
) -> tuple[Window, Array]:
    """The window round a ring with `margin` cells more, and the distance in mm of its cell centres to the ring's line
    (`but` as in distance_to_ring). It looks at no ground, so it holds while the ground beneath changes."""
    box = window(ring, shape, cell_mm, margin)
    x, y = centres(shape, cell_mm)
    away = distance_to_ring(ring, x[box[1]], y[box[0]], but)
    away.setflags(write=False)
    return box, away


@dataclass(frozen=True, slots=True)
class Band:
    """A strip of a width along a path, on its window of the grid: distance in mm from the path, length in mm along it,
    which side (1 left, -1 right), and the share of each cell that it covers. Ends are flat, corners round."""

    box: Window
    away: Array
    along: Array
    side: Array
    share: Array
    length: float
    area: float
    edge: float

    @property
    def mask(self) -> Mask:
        """Cells of which at least half is covered."""
        return np.asarray(self.share >= 0.5)


@cached_stage
def band(path: Ring, width_mm: float, shape: tuple[int, int], cell_mm: float) -> Band:
    """The strip of `width_mm` along an open path."""
    from shapely import LineString

    strip = LineString(path).buffer(width_mm / 2, cap_style="flat", join_style="round", quad_segs=16)
    pieces = [strip] if strip.geom_type == "Polygon" else list(strip.geoms)  # a wide turn of a short path comes apart
    corners = tuple(point for piece in pieces for point in piece.exterior.coords)
    box = window(corners, shape, cell_mm, margin=0)
    share = np.zeros(tuple(max(one.stop - one.start, 0) for one in box))
    for piece in pieces:
        share = share + placed(covered_in(tuple(piece.exterior.coords[:-1]), shape, cell_mm), box)
        for hole in piece.interiors:
            share = share - placed(covered_in(tuple(hole.coords[:-1]), shape, cell_mm), box)
    x, y = (axis[part] for axis, part in zip(centres(shape, cell_mm), (box[1], box[0]), strict=True))
    points = np.asarray(path, dtype=float)
    run = np.diff(points, axis=0)
    lengths = np.hypot(run[:, 0], run[:, 1])
    away, leg, part = nearest_side(points[:-1], points[1:], x, y, reach=width_mm)
    along = np.concatenate(([0.0], np.cumsum(lengths)))[leg] + part * lengths[leg]
    cross = run[leg, 0] * (y[:, None] - points[leg, 1]) - run[leg, 1] * (x[None, :] - points[leg, 0])
    side = np.where(cross >= 0, 1.0, -1.0)
    return Band(box, away, along, side, share, float(lengths.sum()), float(strip.area), float(strip.length))


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
    """Mean of min(p, x) for p running evenly from `low` to `high`."""
    part = np.clip((x - low) / np.maximum(high - low, 1e-300), 0, 1)
    below = np.minimum(x, high)
    return np.asarray(np.where(x <= low, x, part * (low + below) / 2 + (1 - part) * x))


def covered(ring: Ring, shape: tuple[int, int], cell_mm: float) -> Array:
    """The share (ny, nx) of each cell of the whole grid that the ring covers."""
    box, share = covered_in(ring, shape, cell_mm)
    if share.shape == shape:
        return share
    whole = np.zeros(shape)
    whole[box] = share
    return whole


def placed(part: tuple[Window, Array], box: Window) -> Array:
    """What `part` holds, on the window `box` that contains its own."""
    whole = np.zeros(tuple(one.stop - one.start for one in box))
    (rows, columns), values = part
    top, left = box[0].start, box[1].start
    whole[rows.start - top : rows.stop - top, columns.start - left : columns.stop - left] = values
    return whole


@cached_stage
def covered_in(ring: Ring, shape: tuple[int, int], cell_mm: float) -> tuple[Window, Array]:
    """The window of the grid that the ring's box touches, and the share of each cell there that the ring covers.

    Exact: Green's theorem on each cell. The area left of x within a row is the sum over the ring's edges of the
    integral of min(edge, x) dy; its difference from x to x + 1 is what a cell holds.
    """
    box = window(ring, shape, cell_mm, margin=0)
    ny, nx = (max(one.stop - one.start, 0) for one in box)
    start = np.asarray(ring, dtype=float) / cell_mm - (box[1].start, box[0].start)  # in cells from here on
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
    low, high = np.minimum(at_low, at_high), np.maximum(at_low, at_high)
    # West of a piece its row is covered whole, east of it not at all; only the cells that it crosses are in between.
    first_cell = np.clip(np.floor(low), 0, nx).astype(int)
    crossed = np.clip(np.clip(np.ceil(high), 0, nx).astype(int) - first_cell, 0, None)
    piece = np.repeat(np.arange(len(crossed)), crossed)
    cell = np.arange(len(piece)) - np.repeat(np.cumsum(crossed) - crossed, crossed) + first_cell[piece]
    partly = _mean_left(low[piece], high[piece], cell + 1.0) - _mean_left(low[piece], high[piece], cell * 1.0)
    width = nx + 1
    turns = np.bincount(row * width, rise, ny * width) - np.bincount(row * width + first_cell, rise, ny * width)
    whole = np.cumsum(turns.reshape(ny, width), axis=1)[:, :nx]
    whole += np.bincount(row[piece] * nx + cell, rise[piece] * partly, ny * nx).reshape(ny, nx)
    share = np.clip(np.abs(whole), 0, 1)
    share[share < 1e-12] = 0.0
    share.setflags(write=False)
    return box, share
