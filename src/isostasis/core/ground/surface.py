"""True (draped) area and slopes of the ground."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..stages import cached_stage
from .field import Ground
from .raster import Array, Mask, Window


def _triangle(ax: Array, ay: Array, cell: float) -> Array:
    """Area of a right triangle over half a square of `cell`, whose heights rise by ax along x, ay along y."""
    return np.sqrt((ax * cell) ** 2 + (ay * cell) ** 2 + cell**4) / 2


def cell_true_area(ground: Ground) -> Array:
    """True area (ny, nx) in mm2 that belongs to each whole cell.

    The surface is triangulated through the cell centres, two triangles a square; each square's area goes to
    its four cells in equal quarters, and cells at the border take the quarters they lack from those they have.
    Multiply by a patch's share of each cell and sum. Source: docs/science.md, ground.
    """
    z, cell = ground.z, ground.cell_mm
    if min(z.shape) < 2:
        return np.full(z.shape, cell**2)
    south_west, south_east, north_west, north_east = z[:-1, :-1], z[:-1, 1:], z[1:, :-1], z[1:, 1:]
    square = _triangle(south_east - south_west, north_east - south_east, cell) + _triangle(
        north_east - north_west, north_west - south_west, cell
    )
    on = ground.on_base
    whole = on[:-1, :-1] & on[:-1, 1:] & on[1:, :-1] & on[1:, 1:]
    ratio = np.where(whole, square / cell**2, 0.0)
    total, count = np.zeros(z.shape), np.zeros(z.shape)
    for rows in (slice(None, -1), slice(1, None)):
        for columns in (slice(None, -1), slice(1, None)):
            total[rows, columns] += ratio
            count[rows, columns] += whole
    return np.where(count > 0, total / np.maximum(count, 1), 1.0) * cell**2


def wetted_area(ground: Ground, z: Array, wet: Mask, level_mm: float) -> tuple[Window, Array]:
    """True area (on a window) in mm2 of each whole cell under a pool: its bed, and of banks as much as its level wets.

    `z` (ny, nx) as a spirit level sees it, `wet` the pool's cells. What stands above the level counts as cut off at it;
    a cell beside the pool counts with what its bank has more than its plan.
    """
    rows, columns = np.nonzero(wet)
    box = (
        slice(max(int(rows.min()) - 2, 0), int(rows.max()) + 3),
        slice(max(int(columns.min()) - 2, 0), int(columns.max()) + 3),
    )
    cut = np.where(wet[box], np.minimum(z[box], level_mm), level_mm)
    whole = cell_true_area(replace(ground, z=cut, inside=ground.inside[box], history=(), banks=()))
    return box, whole - np.where(wet[box], 0.0, ground.cell_area)


def one_sided(z: Array, on: Mask, cell: float, axis: int) -> Array:
    """The smaller of the two one-sided slopes along an axis, 0 where they differ in sign; at the base's edge
    the one there is."""
    step = np.diff(z, axis=axis) / cell
    both = np.logical_and(*(np.take(on, range(start, on.shape[axis] - 1 + start), axis=axis) for start in (0, 1)))
    step = np.where(both, step, np.nan)
    pad = [(0, 0), (0, 0)]
    pad[axis] = (1, 0)
    before = np.pad(step, pad, constant_values=np.nan)
    pad[axis] = (0, 1)
    behind = np.pad(step, pad, constant_values=np.nan)
    before, behind = np.where(np.isnan(before), behind, before), np.where(np.isnan(behind), before, behind)
    smaller = np.where(np.abs(before) < np.abs(behind), before, behind)
    return np.nan_to_num(np.where(before * behind > 0, smaller, 0.0))


@cached_stage
def slopes(ground: Ground) -> Array:
    """Steepness (ny, nx) as rise over run, by the smaller one-sided slope on each axis: a step counts as flat above
    and below."""
    on, cell = ground.on_base, ground.cell_mm
    return np.hypot(one_sided(ground.z, on, cell, 1), one_sided(ground.z, on, cell, 0))


def steepness(ground: Ground) -> Array:
    """Steepness (ny, nx) as rise over run of the steepest square between four cell centres that touches each cell: a
    step counts as the face that it is, as steep as the grid can show it."""
    z, on = ground.z, ground.on_base
    steepest = np.zeros(z.shape)
    if min(z.shape) < 2:
        return steepest
    sw, se, nw, ne = z[:-1, :-1], z[:-1, 1:], z[1:, :-1], z[1:, 1:]
    square = np.hypot(se - sw + ne - nw, nw - sw + ne - se) / 2 / ground.cell_mm
    square = np.where(on[:-1, :-1] & on[:-1, 1:] & on[1:, :-1] & on[1:, 1:], square, 0.0)
    for rows in (slice(None, -1), slice(1, None)):
        for columns in (slice(None, -1), slice(1, None)):
            np.maximum(steepest[rows, columns], square, out=steepest[rows, columns])
    return steepest
