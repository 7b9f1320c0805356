"""ASCII grids (.asc): a header of columns, rows, corner and cell size, then heights row by row from the north.

Here all lengths are millimetres. Written with three decimals: out and in again is within 0.0005 mm.
"""

from __future__ import annotations

import re

import numpy as np

from ..core.document.scene import MAX_CELLS
from ..core.fault import Faults, fault
from ..core.ground.field import Ground
from ..core.ground.forms.survey import Grid
from ..core.ground.raster import Array

NO_DATA = -9999.0
_KEYS = ("ncols", "nrows", "xllcorner", "yllcorner", "xllcenter", "yllcenter", "cellsize", "nodata_value")


def write_asc(ground: Ground) -> str:
    """The ground's heights in mm above the board's top; cells beyond the base have no data."""
    ny, nx = ground.shape
    z = np.where(ground.on_base, ground.z, NO_DATA)[::-1]
    head = f"ncols {nx}\nnrows {ny}\nxllcorner 0\nyllcorner 0\ncellsize {ground.cell_mm:g}\nNODATA_value {NO_DATA:g}\n"
    return head + "\n".join(" ".join(f"{value:.3f}" for value in row) for row in z) + "\n"


def _wrong(what: str, right: str) -> Faults:
    return fault("ASCII grid", what, right)


def _header(lines: list[str]) -> tuple[dict[str, float], int]:
    """The header's values by lower-case key, and how many lines it takes."""
    head: dict[str, float] = {}
    for number, line in enumerate(lines):
        words = line.split()
        if len(words) != 2 or words[0].lower() not in _KEYS:
            return head, number
        try:
            head[words[0].lower()] = value = float(words[1])
            if not abs(value) < 1e9:
                raise ValueError
        except ValueError:
            raise _wrong(
                f"line {number + 1}: “{words[1][:20]}” is no number that fits", "write a number there"
            ) from None
    return head, len(lines)


def read_asc(text: str) -> Grid:
    """A grid of mm. Raises Faults for anything that is no whole grid of finite numbers."""
    if re.match(r"\s*solid\b", text) or "\0" in text[:400]:
        raise _wrong(
            "this is an STL or another binary file, not a grid of heights",
            "export the ground as .asc, or choose a .png or .csv",
        )
    lines = text.splitlines()
    head, used = _header(lines)
    missing = [key for key in ("ncols", "nrows", "cellsize") if key not in head]
    if missing:
        raise _wrong(
            f"its header has no {' and no '.join(missing)}", "begin with ncols, nrows, xllcorner, yllcorner, cellsize"
        )
    columns, rows, cell = head["ncols"], head["nrows"], head["cellsize"]
    if not (columns >= 2 and rows >= 2 and columns == int(columns) and rows == int(rows)):
        raise _wrong(f"{columns:g} columns and {rows:g} rows make no grid", "give whole numbers from 2 up")
    if columns * rows > MAX_CELLS:
        raise _wrong(
            f"{columns:.0f} × {rows:.0f} are {columns * rows:,.0f} heights, more than {MAX_CELLS:,}",
            "thin it out first",
        )
    if not (0 < cell < 1e6):
        raise _wrong(f"a cell size of {cell:g} cannot be", "give mm above 0")
    z = _heights(lines[used:], used, int(columns), int(rows))
    z = np.where(z == head.get("nodata_value", NO_DATA), np.nan, z)
    if np.isnan(z).all():
        raise _wrong("it has no height at all", "export it again with data in it")
    half = cell / 2
    west = head.get("xllcorner", head.get("xllcenter", half) - half)
    south = head.get("yllcorner", head.get("yllcenter", half) - half)
    return Grid.of(z[::-1], cell, west, south)


def _heights(lines: list[str], skipped: int, columns: int, rows: int) -> Array:
    """The numbers (rows, columns), the first row northmost."""
    words = " ".join(lines).split()
    if len(words) != columns * rows:
        raise _wrong(f"it holds {len(words):,} heights where {columns} × {rows} = {columns * rows:,} are promised",
                     "export it again, or mend ncols and nrows")  # fmt: skip
    try:
        z = np.array(words, dtype=float)
    except ValueError:
        z = np.full(len(words), np.nan)
    if np.isfinite(z).all():
        return z.reshape(rows, columns)
    for number, line in enumerate(lines, start=skipped + 1):
        for word in line.split():
            try:
                bad = not np.isfinite(float(word))
            except ValueError:
                bad = True
            if bad:
                raise _wrong(
                    f"line {number}: “{word[:20]}” is no height",
                    "write a number, or the NODATA_value where there is none",
                )
    raise AssertionError("a height that is no number stands on some line")
