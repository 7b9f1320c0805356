"""A bevel: steps and edges inside an outline carved back to a slope."""

from __future__ import annotations

from math import radians, tan
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...document.outline import Ring
from ...document.scene import Form
from ...fault import fault
from ..field import Ground, Shaped, shape_in
from ..offset import carved_to_slope
from ..raster import covered_in, edge_length, placed, ring_distance
from .within import MARGIN, NO_CELL, Within


class Bevel(Form):
    """Nothing inside the outline stays steeper than a slope."""

    kind: Literal["bevel"] = "bevel"
    outline: Ring
    slope_deg: Annotated[float, Field(gt=0, lt=90)]
    cuts: ClassVar[bool] = True
    do: ClassVar[str] = "Carve the steps of {} to a slope"


MODEL = Bevel


def shape(form: Bevel, ground: Ground, where: str) -> Shaped:
    """Carve to the highest surface nowhere above the ground and nowhere steeper than the slope: from the ground just
    outside the outline inwards, and from the foot of every step inside it. Along the base's edge nothing holds it.
    Raises Faults."""
    inner = Within.of(form.outline, ground)
    if not inner.mask.any():
        raise fault(f"{where}.outline", *NO_CELL)
    below, grade = ground.z[inner.box], tan(radians(form.slope_deg))
    start = below
    if inner.outside.any():
        _, distance = ring_distance(form.outline, ground.shape, ground.cell_mm, MARGIN, inner.along_edge)
        start = np.where(inner.mask, np.minimum(below, inner.nearest_outside(below) + grade * distance), below)
    part = carved_to_slope(start, below, inner.mask, inner.mask | inner.outside, form.slope_deg, ground.cell_mm)
    cover = covered_in(form.outline, ground.shape, ground.cell_mm)
    share = placed(cover, inner.box) * ground.inside[inner.box]
    # A cell that an upright edge only grazes is not raised, though its part of the piece was counted: it goes too.
    grazed = np.where(inner.mask, 0.0, np.maximum(inner.nearest_inside(below) - below, 0.0))
    volume = float(((part - below - grazed) * share).sum()) * ground.cell_area / 1000
    area = float(cover[1].sum()) * ground.cell_area
    return shape_in(form, ground, inner.box, part, volume, area, edge_length(form.outline))
