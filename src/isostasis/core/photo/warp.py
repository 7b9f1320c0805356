"""A picture laid straight: the board from above, to scale."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from .lens import Placement

if TYPE_CHECKING:
    from PIL.Image import Image

PX_PER_MM = 2.0
MAX_PX = 2400  # of the longer side
QUADS = (24, 16)


def scale_of(width_mm: float, depth_mm: float) -> float:
    """Px a mm of the straight picture of a board: fewer on a large board."""
    return min(PX_PER_MM, MAX_PX / max(width_mm, depth_mm))


def laid_straight(picture: Image, placement: Placement) -> Image:
    """The board alone, north up, `scale_of` it fine. Each of 24 by 16 quads is drawn by its corners."""
    from PIL.Image import Resampling, Transform

    scale = scale_of(placement.width_mm, placement.depth_mm)
    width, height = (max(round(side * scale), 1) for side in (placement.width_mm, placement.depth_mm))
    across, down = (np.linspace(0, 1, count + 1) for count in QUADS)
    grid = np.stack(np.meshgrid(across * placement.width_mm, (1 - down) * placement.depth_mm), axis=-1)
    seen = placement.to_picture(grid.reshape(-1, 2)).reshape(grid.shape)
    columns, rows = np.rint(across * width).astype(int), np.rint(down * height).astype(int)
    mesh = [
        (
            (int(columns[i]), int(rows[j]), int(columns[i + 1]), int(rows[j + 1])),
            tuple(float(one) for place in ((j, i), (j + 1, i), (j + 1, i + 1), (j, i + 1)) for one in seen[place]),
        )
        for j in range(QUADS[1])
        for i in range(QUADS[0])
        if columns[i + 1] > columns[i] and rows[j + 1] > rows[j]
    ]
    return picture.convert("RGB").transform((width, height), Transform.MESH, mesh, Resampling.BICUBIC)
