"""Spot heights as CSV: x_mm, y_mm, z_mm in a line, from the south-west corner and the board's top.

Commas, semicolons or tabs; a heading line and lines that begin with # are passed over. Written with three decimals.
"""

from __future__ import annotations

import numpy as np

from ..core.fault import Faults, fault
from ..core.ground.field import Ground
from .rows import rows_of

MAX_SPOTS = 20_000


def write_csv(ground: Ground) -> str:
    """The heights at cell centres, thinned evenly to what can be read in again."""
    every = max(1, int(np.ceil((ground.on_base.sum() / MAX_SPOTS) ** 0.5)))
    lines = [
        f"# every {every}. cell of {ground.cell_mm:g} mm" if every > 1 else f"# every cell of {ground.cell_mm:g} mm",
        "x_mm,y_mm,z_mm",
    ]
    ny, nx = ground.shape
    for row in range(every // 2, ny, every):
        for column in range(every // 2, nx, every):
            if ground.on_base[row, column]:
                x, y = ground.point_of(row, column)
                lines.append(f"{x:.3f},{y:.3f},{ground.z[row, column]:.3f}")
    return "\n".join(lines) + "\n"


def read_csv(text: str) -> list[list[float]]:
    """[[x, y, z], ...]. Raises Faults that name the line."""

    def wrong(number: int, what: str) -> Faults:
        return fault(f"spot heights, line {number}", what, "write x, y, z in mm, such as 120, 45, 31.5")

    sample = next((line for line in text.splitlines() if line.strip() and not line.startswith("#")), "")
    mark = next((one for one in (";", "\t", ",") if one in sample), ",")
    spots: list[list[float]] = []
    for number, row in rows_of(text, mark, "spot heights"):
        cells = [cell.strip() for cell in row if cell.strip()]
        if not cells or cells[0].startswith("#"):
            continue
        try:
            values = [float(cell) for cell in cells]
        except ValueError:
            if not spots and not any(cell[:1].isdigit() for cell in cells):
                continue  # the heading
            raise wrong(number, f"“{' '.join(cells)[:40]}” is no place and height") from None
        if len(values) != 3 or not np.isfinite(values).all():
            raise wrong(number, f"it has {len(values)} values" if len(values) != 3 else "a value is not finite")
        spots.append(values)
        if len(spots) > MAX_SPOTS:
            raise fault("spot heights", f"there are more than {MAX_SPOTS:,}", "thin them out, or bring a grid")
    if len(spots) < 3:
        raise fault("spot heights", f"there are {len(spots)}", "give at least three that lie on no line")
    return spots
