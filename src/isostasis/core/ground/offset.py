"""What laying a thickness does to the ground, and filling steps up to a slope."""

from __future__ import annotations

from collections.abc import Iterator
from math import radians, tan

import numpy as np

from .field import Ground
from .raster import Array, Mask, around
from .surface import one_sided, slopes


def _shifts(radius: float, cell: float) -> Iterator[tuple[int, int, float]]:
    """(rows, columns, distance in mm) of every other cell within `radius`."""
    reach = int(radius / cell + 1e-9)
    for rows in range(-reach, reach + 1):
        for columns in range(-reach, reach + 1):
            distance = cell * (rows * rows + columns * columns) ** 0.5
            if 0 < distance <= radius + 1e-9:
                yield rows, columns, distance


def _raise_to(target: Array, source: Array, rows: int, columns: int, rise: float = 0.0) -> None:
    """target(p) = max(target(p), source(p + shift) + rise), in place, where the shifted cell exists."""
    ny, nx = target.shape
    if abs(rows) >= ny or abs(columns) >= nx:
        return  # on a base smaller than the shift no cell has another there
    to = slice(max(0, -rows), ny - max(0, rows)), slice(max(0, -columns), nx - max(0, columns))
    of = slice(max(0, rows), ny - max(0, -rows)), slice(max(0, columns), nx - max(0, -columns))
    np.maximum(target[to], source[of] + rise, out=target[to])


def laid(ground: Ground, patch: Mask, thickness_mm: float | Array) -> Array:
    """Heights (ny, nx) after laying `thickness_mm` (one, or (ny, nx)) square to the surface on the cells of `patch`.

    The higher of z + t sqrt(1 + s^2) and the greatest z(q) + sqrt(t^2 - |p - q|^2) over cells q of the patch
    within t of p; s per axis from the smaller one-sided slope, so that no fence grows on a step.
    Source: docs/science.md, ground. Valid for t >= 0.
    Raises ValueError unless a thickness is 0 or more.

    >>> from .field import empty_ground
    >>> from ..document.scene import Base
    >>> board = empty_ground(Base(width_mm=20, depth_mm=20), 2.0)
    >>> float(laid(board, board.on_base, 3.0).max())
    3.0
    """
    thickest = float(np.max(thickness_mm))
    if np.min(thickness_mm) < 0:
        raise ValueError("a thickness is 0 or more")
    if not patch.any():
        return ground.z
    box = around(patch, margin=2)  # two more cells: their slopes are those of the whole
    z, mine, cell = ground.z[box], patch[box], ground.cell_mm
    lean = np.hypot(*(one_sided(z, ground.on_base[box], cell, axis) for axis in (1, 0)))
    deep = thickness_mm[box] if isinstance(thickness_mm, np.ndarray) else thickness_mm
    new, source = z + deep * np.sqrt(1 + lean**2), np.where(mine, z, -np.inf)
    for rows, columns, distance in _shifts(thickest, cell):
        if isinstance(deep, np.ndarray):
            rise = np.sqrt(np.maximum(deep**2 - distance**2, 0.0))
            _raise_to(new, np.where(deep >= distance, source + rise, -np.inf), rows, columns)
        else:
            _raise_to(new, source, rows, columns, (deep**2 - min(distance, deep) ** 2) ** 0.5)
    out = ground.z.copy()
    out[box] = np.where(mine, new, z)
    return out


def _cones(top: Array, under: Array, seeds: Mask, grade: float, cell: float) -> Array:
    """The higher (ny, nx) of `under` and of all cones that fall at `grade` from `top` at each of `seeds`. A seed's own
    cell stays as it is."""
    out = under.copy()
    spots = np.argwhere(seeds)
    if not len(spots):
        return out
    ny, nx = under.shape
    floor = float(under.min())
    reaches = np.ceil((top[seeds] - floor) / grade / cell).astype(int).clip(1, max(ny, nx))
    widest = int(reaches.max())
    around = np.arange(-widest, widest + 1)
    cone = -grade * cell * np.hypot(around[:, None], around[None, :])
    cone[widest, widest] = -np.inf
    for (row, column), reach in zip(spots, reaches, strict=True):
        south, north = max(row - reach, 0), min(row + reach + 1, ny)
        west, east = max(column - reach, 0), min(column + reach + 1, nx)
        part = cone[south - row + widest : north - row + widest, west - column + widest : east - column + widest]
        here = out[south:north, west:east]
        np.maximum(here, top[row, column] + part, out=here)
    return out


def _seeds(top: Array, z: Array, patch: Mask, grade: float, cell: float) -> Mask:
    """Cells of `patch` from whose `top` a cone at `grade` passes above a neighbour on the patch."""
    near = np.where(patch, -z, -np.inf)
    lowest_near = np.full(z.shape, np.inf)
    for rows, columns, distance in _shifts(cell * 1.5, cell):
        below = np.full(z.shape, -np.inf)
        _raise_to(below, near, rows, columns, -grade * distance)
        np.minimum(lowest_near, -below, out=lowest_near)
    return np.asarray(patch & (top > lowest_near + 1e-9))


def fill_to_slope(ground: Ground, patch: Mask, slope_deg: float) -> Array:
    """Heights (ny, nx) once steps on `patch` are filled until nothing there is steeper than `slope_deg`.

    The highest of the cones that fall at that slope from every nosing q (a cell whose neighbour lies below its
    cone). A step ends at the edge of its cell, so a cone starts half a cell out where the ground is flatter
    than the slope. The fill's volume is the sum of what it adds. Valid for 0 < slope < 90.
    Raises ValueError unless a slope is between 0 and 90 degrees.
    """
    if not 0 < slope_deg < 90:
        raise ValueError("a slope is between 0 and 90 degrees")
    grade, cell = tan(radians(slope_deg)), ground.cell_mm
    top = ground.z + np.maximum(grade - slopes(ground), 0) * cell / 2
    seeds = _seeds(top, ground.z, patch, grade, cell)
    if not seeds.any():
        return ground.z
    box = around(patch)
    under = np.where(patch[box], ground.z[box], float(ground.z[patch].min()))
    out = ground.z.copy()
    out[box] = np.where(patch[box], _cones(top[box], under, seeds[box], grade, cell), ground.z[box])
    return out


def carved_to_slope(start: Array, z: Array, patch: Mask, on: Mask, slope_deg: float, cell: float) -> Array:
    """Heights (ny, nx) once `patch` is carved until nothing on it is steeper than `slope_deg`: fill_to_slope turned
    over. `start` is at most z, where something else (the ground outside) already holds the surface down; the foot
    of a step on the patch starts half a cell out, at the step's own edge. `on` are the cells that lie on the base.
    Valid for 0 < slope < 90.
    Raises ValueError unless a slope is between 0 and 90 degrees.
    """
    if not 0 < slope_deg < 90:
        raise ValueError("a slope is between 0 and 90 degrees")
    grade = tan(radians(slope_deg))
    flat = start >= z - 1e-12  # what is held down from outside is on the slope already
    lean = np.hypot(one_sided(z, on, cell, 1), one_sided(z, on, cell, 0))
    top = -start + np.where(flat, np.maximum(grade - lean, 0) * cell / 2, 0.0)
    seeds = _seeds(top, -start, patch, grade, cell)
    under = np.where(patch, -start, -float(start[patch].max()))
    return np.where(patch, -_cones(top, under, seeds, grade, cell), z)
