"""A sheet: cut to an outline and glued on; its top is level, gaps beneath it are closed."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...document.outline import Ring
from ...document.scene import Form
from ...fault import fault
from ..banks import Bank
from ..field import Ground, Shaped, shape_in
from ..raster import covered_in, edge_length


class Sheet(Form):
    """A flat sheet with an outline."""

    kind: Literal["sheet"] = "sheet"
    outline: Ring
    thickness_mm: Annotated[float, Field(gt=0, le=1000)]
    default_material: ClassVar[str | None] = "foam-xps"
    do: ClassVar[str] = "Cut the sheet {}"
    by_edge: ClassVar[bool] = True


MODEL = Sheet


def shape(form: Sheet, ground: Ground, where: str) -> Shaped:
    """Lay the sheet: its top stands at the highest ground under its outline + thickness. Raises Faults."""
    box, share = covered_in(form.outline, ground.shape, ground.cell_mm)
    below = ground.z[box]
    under = (share > 0) & (share >= 0.5 * ground.inside[box])
    if not under.any():
        raise fault(f"{where}.outline", "covers no cell of the grid", "make the outline larger or grid_mm smaller")
    top = float(below[under].max()) + form.thickness_mm
    volume = float(((top - below) * share).sum()) * ground.cell_area / 1000
    area = float(share.sum()) * ground.cell_area
    banks = (Bank(form.outline, 90.0, float(below[under].min()), top, inward=-1),)
    return shape_in(form, ground, box, np.where(under, top, below), volume, area, edge_length(form.outline), banks)
