"""A casting: pieces of plaster from a mould, such as rock faces, set into the ground.

The compound is brought to their foot: no patch lies over them but one that is said to lie `on` them.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...catalogue.model import Id
from ...document.outline import Ring
from ...document.scene import Form
from ...fault import fault
from ...stages import cached_stage
from ..field import Ground, Shaped, shape_in
from ..raster import Array, centres, centres_within, covered_in, edge_length, ring_distance
from .within import NO_CELL


class Casting(Form):
    """N pieces from moulds of a volume, that stand out of the ground inside an outline."""

    kind: Literal["casting"] = "casting"
    outline: Ring
    height_mm: Annotated[float, Field(gt=0, le=500)]
    mould_ml: Annotated[float, Field(gt=0, le=20_000)]
    pieces: Annotated[int, Field(ge=1, le=500)] = 1
    moulds: Annotated[int, Field(ge=1, le=100)] = 1
    mix: Id = "plaster-2-3"
    default_material: ClassVar[str | None] = "plaster"
    keeps_clear: ClassVar[bool] = True
    do: ClassVar[str] = "Set {} into the ground and brace it"


MODEL = Casting


@cached_stage
def _profile(outline: Ring, shape: tuple[int, int], cell_mm: float, run_mm: float) -> Array:
    """Share (on the outline's window) of the height: it rises steeply over `run_mm` from the foot, then stays."""
    here, away = ring_distance(outline, shape, cell_mm, 0)
    x, y = centres(shape, cell_mm)
    inside = centres_within(outline, x[here[1]], y[here[0]])
    return np.asarray(np.where(inside, np.sin(np.pi / 2 * np.minimum(away / run_mm, 1.0)), 0.0))


def shape(form: Casting, ground: Ground, where: str) -> Shaped:
    """Add the pieces to the ground: they lie along its slope, half as wide at the foot as they are high.
    Raises Faults."""
    box, share = covered_in(form.outline, ground.shape, ground.cell_mm)
    if not (share >= 0.5).any():
        raise fault(f"{where}.outline", *NO_CELL)
    rise = form.height_mm * _profile(form.outline, ground.shape, ground.cell_mm, form.height_mm / 2)
    volume = float((rise * ground.inside[box]).sum()) * ground.cell_area / 1000
    area = float(share.sum()) * ground.cell_area
    return shape_in(form, ground, box, ground.z[box] + rise, volume, area, edge_length(form.outline))
