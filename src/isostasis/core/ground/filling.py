"""Liquids in hollows: level for a volume, volume for a level, pools, spills and merges.

Water passes between cells that share a side. It leaves the base where an edge cell has no dam, or over
the dam's top. Heights given here are as a spirit level sees them (`field.tilted`).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..document.scene import Base
from .field import Ground
from .raster import Array, Mask

_EPS = 1e-9
_SIDES = ((-1, 0, "south"), (1, 0, "north"), (0, -1, "west"), (0, 1, "east"))


def volume_for_level(z: Array, cell_area: float, level: float, weights: Array | None = None) -> float:
    """ml that stand over the heights z (any shape, mm) up to `level`; weights are shares of cells.

    >>> volume_for_level(np.array([0.0, 5.0, 20.0]), 100.0, 10.0)
    1.5
    """
    depth = np.maximum(level - z, 0.0)
    return float((depth if weights is None else depth * weights).sum()) * cell_area / 1000


def level_for_volume(z: Array, cell_area: float, volume_ml: float, weights: Array | None = None) -> float:
    """The level in mm at which `volume_ml` stand over the heights z (any shape), all of them one pool.

    Sorts the heights and cumulates; exact to rounding, so that it undoes volume_for_level. Raises
    ValueError for a volume below 0 or no heights.

    >>> level_for_volume(np.array([0.0, 5.0, 20.0]), 100.0, 1.5)
    10.0
    """
    if volume_ml < 0 or not z.size:
        raise ValueError("a volume is 0 or more, over at least one cell")
    heights = z.ravel()
    need = volume_ml * 1000 / cell_area
    if weights is None:
        heights = np.sort(heights)
        below = np.cumsum(heights)

        def held(index: int) -> float:
            """mm x cells that the first `index` + 1 cells hold when the level is at the last of them."""
            return float((index + 1) * heights[index] - below[index])
    else:
        order = np.argsort(heights)
        heights, shares = heights[order], weights.ravel()[order]
        wide, below = np.cumsum(shares), np.cumsum(heights * shares)

        def held(index: int) -> float:
            return float(wide[index] * heights[index] - below[index])

    low, high = 0, len(heights)
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if held(middle) <= need else (low, middle)
    width = float(low + 1) if weights is None else float(wide[low])
    return float((need + below[low]) / width) if width > 0 else float(heights[low])


def outlets(ground: Ground, z: Array, base: Base) -> Array:
    """Height (ny, nx) at which water leaves each cell over the base's edge: inf inside and behind a dam
    that is as high as needed. `z` are the heights as a spirit level sees them: a dam stands on the board and tilts
    with it."""
    on = ground.on_base
    leaves = np.full(z.shape, np.inf)
    padded = np.pad(on, 1)
    for down, right, side in _SIDES:
        open_face = on & ~padded[1 + down : 1 + down + z.shape[0], 1 + right : 1 + right + z.shape[1]]
        if side in base.dammed or "all" in base.dammed:
            wall = np.inf if base.dam_mm is None else np.maximum(z, base.dam_mm + z - ground.z)
        else:
            wall = z
        leaves = np.where(open_face, np.minimum(leaves, wall), leaves)
    return leaves


@dataclass(frozen=True, slots=True, eq=False)
class Pool:
    """A body of liquid with one level: which cells (mask), its lowest cell, ml, mm2, deepest mm."""

    cells: Mask
    lowest: tuple[int, int]
    level_mm: float
    volume_ml: float
    area_mm2: float
    deepest_mm: float


@dataclass(frozen=True, slots=True)
class Overrun:
    """Where liquid would leave the base: the point in mm, and the level from which it does."""

    x_mm: float
    y_mm: float
    level_mm: float
    side: str


def pool_of(ground: Ground, z: Array, cells: Mask, level: float) -> Pool:
    """The pool that stands at a level on these cells."""
    depth = np.where(cells, level - z, 0.0)
    row, column = np.unravel_index(int(depth.argmax()), z.shape)
    held = depth * ground.inside
    return Pool(
        cells=cells,
        lowest=(int(row), int(column)),
        level_mm=level,
        volume_ml=float(held.sum()) * ground.cell_area / 1000,
        area_mm2=float(ground.inside[cells].sum()) * ground.cell_area,
        deepest_mm=float(depth.max()),
    )


def pools_at_level(ground: Ground, z: Array, level: float) -> list[Pool]:
    """Every hollow of the whole ground filled to `level`, each a pool, whoever owns it."""
    from scipy.ndimage import find_objects, label

    labels, _ = label((z < level) & ground.on_base)
    pools = []
    for number, box in enumerate(find_objects(labels), start=1):
        cells = np.zeros(z.shape, dtype=bool)
        cells[box] = labels[box] == number
        pools.append(pool_of(ground, z, cells, level))
    return pools


def spill_levels(ground: Ground, z: Array, base: Base) -> Array:
    """The level (ny, nx) up to which liquid can stand on each cell before some of it leaves the base: z itself
    where nothing can stand, inf where dams hold any level. By greyscale reconstruction (Vincent, 1993)."""
    from skimage.morphology import reconstruction

    leaves = outlets(ground, z, base)
    finite = np.isfinite(leaves)
    if not finite.any():
        return np.full(z.shape, np.inf)
    top = float(max(z[ground.on_base].max(), leaves[finite].max())) + 1
    floor = np.where(ground.on_base, z, top)
    seed = np.where(finite, np.maximum(leaves, z), top)
    cross = np.array([[0, 1, 0], [1, 1, 1], [0, 1, 0]])
    level = reconstruction(np.maximum(seed, floor), floor, method="erosion", footprint=cross)
    return np.where(level >= top, np.inf, level)


def brim(ground: Ground, z: Array, base: Base, levels: Array, cell: tuple[int, int]) -> Overrun | None:
    """Where and at what level liquid standing at `cell` first leaves the base; None if dams hold any level.

    `levels` is `spill_levels` of the same ground.
    """
    level = float(levels[cell])
    if level == np.inf:
        return None
    out = np.where(levels <= level + _EPS, outlets(ground, z, base), np.inf)
    rows, columns = np.indices(z.shape)
    near = np.hypot(rows - cell[0], columns - cell[1])
    row, column = np.unravel_index(int(np.where(out <= level + _EPS, near, np.inf).argmin()), z.shape)
    x, y = ground.point_of(int(row), int(column))
    gaps = {"south": row, "north": z.shape[0] - 1 - row, "west": column, "east": z.shape[1] - 1 - column}
    return Overrun(x, y, level, min(gaps, key=lambda side: gaps[side]))


@dataclass(frozen=True, slots=True, eq=False)
class Filled:
    """Where a given volume went: pools and ml lost over the edge (and where)."""

    pools: tuple[Pool, ...]
    lost_ml: float
    lost_at: tuple[float, float] | None
