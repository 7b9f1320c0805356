"""Checks between neighbours, drawn where they bite: on the plan, along the cut, and with a number for the text."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.ground.view import contours
from ...core.judging.neighbours import Check
from ...core.lifts.fold import Build
from .path import line_d
from .projection import Projection, path

TICK = 10.0  # px above and below the ground of what bites beside the cut's place


@dataclass(frozen=True)
class Mark:
    """One check: its number, its line on the plan, its line in the cut, the place of its number, whose it is."""

    number: int
    check: Check
    patch: str
    d: str
    closed: bool
    cut_d: str
    x: float
    y: float


def marks(checks: tuple[Check, ...], built: Build, frame: Projection, row: int) -> list[Mark]:
    """Every check that bites, drawn; numbered from 1 in the plan's order."""
    drawn = []
    for number, check in enumerate(checks, start=1):
        site, cell = built.stages[check.lift].site, built.bare.cell_mm
        if check.cells is not None:
            grown = np.pad(check.cells.astype(float), 1)
            rings = [line - cell for _, lines in contours(grown, cell, [0.5]) for line in lines]
            rows, columns = np.nonzero(check.cells)
            middle = len(rows) // 2
            at = ((columns[middle] + 0.5) * cell, (rows[middle] + 0.5) * cell)
            drawn.append(Mark(number, check, site.patch.id, path(rings, frame), True,
                              _run(check.cells[row], site.ground.z[row], cell, frame),
                              frame.x(at[0]), frame.y(at[1])))  # fmt: skip
        else:
            lines = [list(segment) for segment in check.edges]
            here = [a[0] for a, b in check.edges if a[0] == b[0] and a[1] <= (row + 0.5) * cell <= b[1]]
            cut_d = "".join(_tick(x, built, row, frame) for x in here)
            at = check.edges[len(check.edges) // 2][0]
            drawn.append(Mark(number, check, site.patch.id, path(lines, frame, close=False), False, cut_d,
                              frame.x(at[0]), frame.y(at[1])))  # fmt: skip
    return drawn


def _run(cells: np.ndarray, z: np.ndarray, cell: float, frame: Projection) -> str:
    """The line under a lift along the cut, where it bites."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], cells, [False])).astype(int)))
    parts = []
    for start, end in zip(edges[::2], edges[1::2], strict=True):
        points = [(start * cell, z[start]), *(((one + 0.5) * cell, z[one]) for one in range(start, end)),
                  (end * cell, z[end - 1])]  # fmt: skip
        parts.append(line_d((frame.x(x), frame.z(float(height))) for x, height in points))
    return "".join(parts)


def _tick(x: float, built: Build, row: int, frame: Projection) -> str:
    """A stroke across the surface where a boundary meets the cut."""
    column = min(int(x / built.bare.cell_mm), built.bare.shape[1] - 1)
    height = frame.z(float(built.finished.z[row, column]))
    return line_d([(frame.x(x), height - TICK), (frame.x(x), height + TICK)])
