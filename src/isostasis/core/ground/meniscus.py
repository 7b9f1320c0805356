"""How liquid climbs banks and dams."""

from __future__ import annotations

from math import cos, radians, sin, sqrt, tan

import numpy as np
from numpy.typing import NDArray

from ..stages import cached_stage
from .banks import points_along
from .field import Ground, dressed_bank
from .filling import Pool
from .raster import Array, Mask, around, isolines

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


@cached_stage
def climb_ml(contact_deg: float, capillary_mm: float) -> Array:
    """Extra ml per metre of shore on banks of 0, 1, ... 90 degrees (91,), as `climb` gives it. Raises as it does."""
    return np.array([climb(float(bank_deg), contact_deg, capillary_mm)[1] for bank_deg in range(91)])


SLACK_MM = 50.0  # a board is never tilted by more between its middle and a bank
NEAR_CELLS = 1.5  # so near a bank's own line the grid's shore is that bank's


def shore(ground: Ground, z: Array, pool: Pool) -> tuple[Array, Array, float]:
    """A pool's shore: lengths in mm of its pieces along banks, the bank's angle at each in degrees, and the
    length in mm along the base's edge (dams).

    At a bank that a form left, both are the bank's own; elsewhere they are the grid's. `z` as a spirit level sees it.
    """
    middles, lengths, angles = _contour(ground, z, pool)
    tilt = z - ground.z
    laid = sum(deep for *_, deep in ground.dressings)
    for number in reversed(range(len(ground.banks))):
        bare = ground.banks[number]
        if not len(middles):
            break
        if not bare.foot_mm - SLACK_MM <= pool.level_mm <= bare.top_mm + laid + SLACK_MM:
            continue
        bank = dressed_bank(ground, number)
        row, column = ground.cell_at(*np.mean(bank.points, axis=0))
        line = bank.line_at(pool.level_mm - float(tilt[row, column]))
        if line is None:
            continue
        at, steps = points_along(line, ground.cell_mm)
        mine = _near(middles, at, NEAR_CELLS * ground.cell_mm)
        if mine.any():
            near = _near(at, middles, NEAR_CELLS * ground.cell_mm)
            kept = np.flatnonzero(~near)
            middles = middles[kept]
            lengths = np.concatenate((lengths[: len(near)][kept], lengths[len(near) :], steps[mine]))
            angles = np.concatenate(
                (angles[: len(near)][kept], angles[len(near) :], np.full(mine.sum(), bank.bank_deg))
            )
    return lengths, angles, _dammed_mm(ground, pool)


def _near(to: Array, points: Array, within_mm: float) -> Mask:
    """Which of the points (n, 2) lie within N mm of one of `to` (m, 2)."""
    from scipy.spatial import cKDTree

    tree = cKDTree(to, compact_nodes=False, balanced_tree=False)  # asked once: built for that
    return np.asarray(np.isfinite(tree.query(points, distance_upper_bound=within_mm)[0]))


def _contour(ground: Ground, z: Array, pool: Pool) -> tuple[Array, Array, Array]:
    """The pool's shore as the grid has it: middles (n, 2) in mm, lengths (n,) in mm and slopes (n,) in degrees."""
    cells, cell = pool.cells, ground.cell_mm
    box = around(cells, margin=2)
    top, left = box[0].start, box[1].start
    z_here, mine, on = z[box], cells[box], ground.on_base[box]
    near = mine.copy()
    near[1:] |= mine[:-1]
    near[:-1] |= mine[1:]
    near[:, 1:] |= near[:, :-1]
    near[:, :-1] |= near[:, 1:]
    # Other hollows at the same level are kept out by standing them above it.
    heights = np.where(near & on, z_here, np.maximum(z_here, pool.level_mm + 1))
    if min(heights.shape) < 2:
        return np.zeros((0, 2)), np.zeros(0), np.zeros(0)
    middles, lengths, angles = [np.zeros((0, 2))], [np.zeros(0)], [np.zeros(0)]
    for line in isolines(heights).lines(pool.level_mm):
        step = np.diff(line, axis=0)
        middle = (line[1:] + line[:-1]) / 2
        column, row = middle.round().astype(int).T
        middles.append((middle + np.array([left + 0.5, top + 0.5])) * cell)
        lengths.append(np.hypot(step[:, 0], step[:, 1]) * cell)
        angles.append(np.degrees(np.arctan(_rise_at(z_here, row, column, cell))))
    return np.concatenate(middles), np.concatenate(lengths), np.concatenate(angles)


def _rise_at(z: Array, row: NDArray[np.intp], column: NDArray[np.intp], cell_mm: float) -> Array:
    """How steep the ground is at cells (n,), mm a mm: as numpy's gradient of it all, at those alone."""

    def along(axis: int, at: NDArray[np.intp]) -> Array:
        before, after = np.maximum(at - 1, 0), np.minimum(at + 1, z.shape[axis] - 1)
        ends = (z[before, column], z[after, column]) if axis == 0 else (z[row, before], z[row, after])
        return np.asarray((ends[1] - ends[0]) / ((after - before) * cell_mm))

    return np.hypot(along(0, row), along(1, column))


def _dammed_mm(ground: Ground, pool: Pool) -> float:
    """Length of the base's edge along which the pool stands, mm."""
    rows, columns, lengths = _along_edge(ground.edge, ground.cell_mm, ground.shape)
    return float(lengths[pool.cells[rows, columns]].sum())


@cached_stage
def _along_edge(
    edge: tuple[tuple[float, float], ...], cell_mm: float, shape: tuple[int, int]
) -> tuple[NDArray[np.intp], NDArray[np.intp], Array]:
    """Rows and columns (n,) of the cells along the base's edge, and the length (n,) in mm of each there."""
    from shapely import LinearRing

    if not edge:
        return np.zeros(0, int), np.zeros(0, int), np.zeros(0)
    ring = LinearRing(edge)
    at, steps = points_along(ring if ring.is_ccw else ring.reverse(), cell_mm)
    along = np.roll(at, -1, axis=0) - np.roll(at, 1, axis=0)
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1) / np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    columns, rows = np.floor((at + inward * cell_mm * 0.75) / cell_mm).astype(int).T
    inside = (rows >= 0) & (columns >= 0) & (rows < shape[0]) & (columns < shape[1])
    return rows[inside], columns[inside], steps[inside]
