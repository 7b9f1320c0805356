"""What laying a thickness does to the ground, and filling steps up to a slope."""

from __future__ import annotations

from collections.abc import Iterator
from math import radians, tan

import numpy as np

from .field import Ground
from .raster import Array, Mask
from .surface import slopes


def _shifts(radius: float, cell: float) -> Iterator[tuple[int, int, float]]:
    """(rows, columns, distance in mm) of every other cell within `radius`."""
    reach = int(radius / cell + 1e-9)
    for rows in range(-reach, reach + 1):
        for columns in range(-reach, reach + 1):
            distance = cell * (rows * rows + columns * columns) ** 0.5
            if 0 < distance <= radius + 1e-9:
                yield rows, columns, distance


def _raise_to(target: Array, source: Array, rows: int, columns: int, rise: float) -> None:
    """target(p) = max(target(p), source(p + shift) + rise), in place, where the shifted cell exists."""
    ny, nx = target.shape
    to = slice(max(0, -rows), ny - max(0, rows)), slice(max(0, -columns), nx - max(0, columns))
    of = slice(max(0, rows), ny - max(0, -rows)), slice(max(0, columns), nx - max(0, -columns))
    np.maximum(target[to], source[of] + rise, out=target[to])


def laid(ground: Ground, patch: Mask, thickness_mm: float) -> Array:
    """Heights (ny, nx) after laying `thickness_mm` square to the surface on the cells of `patch`.

    The higher of z + t sqrt(1 + s^2) and the greatest z(q) + sqrt(t^2 - |p - q|^2) over cells q of the patch
    within t of p; s per axis from the smaller one-sided slope, so that no fence grows on a step.
    Source: docs/science.md, ground. Valid for t >= 0.

    >>> from .field import empty_ground
    >>> from ..document.scene import Base
    >>> board = empty_ground(Base(width_mm=20, depth_mm=20), 2.0)
    >>> float(laid(board, board.on_base, 3.0).max())
    3.0
    """
    if thickness_mm < 0:
        raise ValueError("a thickness is 0 or more")
    new = ground.z + thickness_mm * np.sqrt(1 + slopes(ground) ** 2)
    source = np.where(patch, ground.z, -np.inf)
    for rows, columns, distance in _shifts(thickness_mm, ground.cell_mm):
        _raise_to(new, source, rows, columns, (thickness_mm**2 - min(distance, thickness_mm) ** 2) ** 0.5)
    return np.where(patch, new, ground.z)


def fill_to_slope(ground: Ground, patch: Mask, slope_deg: float) -> Array:
    """Heights (ny, nx) once steps on `patch` are filled until nothing there is steeper than `slope_deg`.

    The highest of the cones that fall at that slope from every nosing q (a cell whose neighbour lies below its
    cone). A step ends at the edge of its cell, so a cone starts half a cell out where the ground is flatter
    than the slope. The fill's volume is the sum of what it adds. Valid for 0 < slope < 90.
    """
    if not 0 < slope_deg < 90:
        raise ValueError("a slope is between 0 and 90 degrees")
    grade, cell = tan(radians(slope_deg)), ground.cell_mm
    source = ground.z + np.maximum(grade - slopes(ground), 0) * cell / 2
    source[~patch] = -np.inf
    near = np.where(patch, -ground.z, -np.inf)
    lowest_near = np.full(ground.shape, np.inf)
    for rows, columns, distance in _shifts(cell * 1.5, cell):
        below = np.full(ground.shape, -np.inf)
        _raise_to(below, near, rows, columns, -grade * distance)
        np.minimum(lowest_near, -below, out=lowest_near)
    nosing = np.argwhere(patch & (source > lowest_near + 1e-9))
    if not len(nosing):
        return ground.z
    reach = int((source.max() - ground.z[patch].min()) / grade / cell) + 1
    around = np.arange(-reach, reach + 1)
    cone = -grade * cell * np.hypot(around[:, None], around[None, :])
    cone[reach, reach] = -np.inf  # the nosing itself stays as it is
    filled = ground.z.copy()
    ny, nx = ground.shape
    for row, column in nosing:
        south, north = max(row - reach, 0), min(row + reach + 1, ny)
        west, east = max(column - reach, 0), min(column + reach + 1, nx)
        part = cone[south - row + reach : north - row + reach, west - column + reach : east - column + reach]
        here = filled[south:north, west:east]
        np.maximum(here, source[row, column] + part, out=here)
    return np.where(patch, filled, ground.z)
