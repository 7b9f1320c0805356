"""The ground as a solid (binary .stl, mm): its surface through the cell centres and out to the base's edge, upright
walls, and a flat underside at the board's."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..core.ground.field import Ground
from ..core.ground.raster import Array

Cells = NDArray[np.intp]
_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("extra", "<u2")])


def _axis(count: int, cell: float, end: float) -> Array:
    """Edge, cell centres, edge."""
    return np.concatenate(([0.0], (np.arange(count) + 0.5) * cell, [end]))


def write_stl(ground: Ground, width_mm: float, depth_mm: float, board_mm: float) -> bytes:
    """A closed solid of the ground at a stage over a board of a thickness."""
    ny, nx = ground.shape
    x, y = _axis(nx, ground.cell_mm, width_mm), _axis(ny, ground.cell_mm, depth_mm)
    z, on = np.pad(ground.z, 1, mode="edge"), np.pad(ground.on_base, 1, mode="edge")
    whole = on[:-1, :-1] & on[:-1, 1:] & on[1:, :-1] & on[1:, 1:]
    rows, columns = np.nonzero(whole)
    low = -board_mm

    def corner(down: Cells, right: Cells, top: bool) -> Array:
        height = z[down, right] if top else np.full(len(down), low)
        return np.stack([x[right], y[down], height], axis=1)

    faces = []
    for top in (True, False):
        sw, se = corner(rows, columns, top), corner(rows, columns + 1, top)
        nw, ne = corner(rows + 1, columns, top), corner(rows + 1, columns + 1, top)
        pair = [(sw, se, ne), (sw, ne, nw)]
        faces += [np.stack(face if top else face[::-1], axis=1) for face in pair]
    around = np.pad(whole, 1)
    walls = (((0, 0), (0, 1), (-1, 0)), ((0, 1), (1, 1), (0, 1)), ((1, 1), (1, 0), (1, 0)), ((1, 0), (0, 0), (0, -1)))
    for (r1, c1), (r2, c2), (down, right) in walls:
        edge = ~around[rows + 1 + down, columns + 1 + right]
        r, c = rows[edge], columns[edge]
        a, b = corner(r + r1, c + c1, True), corner(r + r2, c + c2, True)
        under_a, under_b = corner(r + r1, c + c1, False), corner(r + r2, c + c2, False)
        faces += [np.stack((under_a, under_b, b), axis=1), np.stack((under_a, b, a), axis=1)]
    corners = np.concatenate(faces)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(normal, axis=1, keepdims=True)
    out = np.zeros(len(corners), dtype=_RECORD)
    out["normal"], out["corners"] = normal / np.maximum(size, 1e-12), corners
    return b"ground, millimetres".ljust(80, b" ") + len(corners).to_bytes(4, "little") + out.tobytes()
