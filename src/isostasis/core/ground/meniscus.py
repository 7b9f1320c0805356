"""How liquid climbs banks and dams."""

from __future__ import annotations

from math import cos, radians, sin, sqrt, tan

import numpy as np

from .field import Ground
from .filling import Pool
from .raster import Array

GRAVITY = 9.81


def capillary_length(tension_n_m: float, density: float) -> float:
    """sqrt(gamma / (rho g)) in mm, `density` kg/m3.

    >>> round(capillary_length(0.035, 1110), 2)
    1.79
    """
    return sqrt(tension_n_m / (density * GRAVITY)) * 1000


def climb(bank_deg: float, contact_deg: float, capillary_mm: float) -> tuple[float, float]:
    """(height climbed in mm, extra volume in ml per metre of shore) on a bank; 90 is an upright wall or dam.

    phi = bank - contact angle: height a sqrt(2 (1 - cos phi)), volume a^2 sin phi - height^2 / (2 tan bank).
    Nothing climbs a bank flatter than the contact angle. Source: Young and Laplace, on a plane wall.
    Raises ValueError unless a bank is 0 to 90 degrees, a contact angle 0 to below 90.

    >>> [round(part, 2) for part in climb(90, 20, 1.79)]
    [2.05, 3.01]
    """
    if not 0 <= bank_deg <= 90 or not 0 <= contact_deg < 90:
        raise ValueError("a bank is 0 to 90 degrees, a contact angle 0 to below 90")
    phi = radians(bank_deg - contact_deg)
    if phi <= 0:
        return 0.0, 0.0
    height = capillary_mm * sqrt(2 * (1 - cos(phi)))
    under = height**2 / (2 * tan(radians(bank_deg))) if bank_deg < 90 else 0.0
    return height, max(0.0, capillary_mm**2 * sin(phi) - under)


def shore(ground: Ground, z: Array, pool: Pool) -> tuple[Array, Array, float]:
    """A pool's shore: lengths in mm of its pieces along banks, the bank's angle at each in degrees, and the
    length in mm along the base's edge (dams)."""
    from contourpy import contour_generator

    cells, cell = pool.cells, ground.cell_mm
    rows, columns = np.nonzero(cells)
    window = tuple(slice(max(axis.min() - 2, 0), axis.max() + 3) for axis in (rows, columns))
    z_here, mine, on = z[window], cells[window], ground.on_base[window]
    near = mine.copy()
    near[1:] |= mine[:-1]
    near[:-1] |= mine[1:]
    near[:, 1:] |= near[:, :-1]
    near[:, :-1] |= near[:, 1:]
    # Other hollows at the same level are kept out by standing them above it.
    heights = np.where(near & on, z_here, np.maximum(z_here, pool.level_mm + 1))
    lengths: list[Array] = []
    angles: list[Array] = []
    if min(heights.shape) >= 2:
        steep = np.degrees(np.arctan(np.hypot(*np.gradient(z_here, cell))))
        for line in contour_generator(z=heights).lines(pool.level_mm):
            step = np.diff(line, axis=0)
            middle = ((line[1:] + line[:-1]) / 2).round().astype(int)
            lengths.append(np.hypot(step[:, 0], step[:, 1]) * cell)
            angles.append(steep[middle[:, 1], middle[:, 0]])
    padded_on, padded = np.pad(ground.on_base, 1), np.pad(cells, 1)
    inner = (slice(1, -1), slice(1, -1))
    faces = sum(
        int((padded[inner] & ~np.roll(padded_on, shift, axis)[inner]).sum()) for axis in (0, 1) for shift in (-1, 1)
    )
    empty = np.zeros(0)
    return (
        np.concatenate(lengths) if lengths else empty,
        np.concatenate(angles) if angles else empty,
        faces * cell,
    )
