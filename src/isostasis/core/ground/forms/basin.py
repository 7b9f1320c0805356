"""A basin: a hollow with a level floor and banks that fall inward from its lip."""

from __future__ import annotations

from math import radians, tan
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...document.outline import Ring
from ...document.scene import Form
from ...fault import fault
from ..banks import Bank
from ..field import Ground, Shaped, shape_in
from ..raster import covered_in, edge_length, ring_distance
from .within import MARGIN, NO_CELL, Within, too_deep


class Basin(Form):
    """A hollow cut into what stands there."""

    kind: Literal["basin"] = "basin"
    outline: Ring
    depth_mm: Annotated[float, Field(gt=0, le=1000)]
    bank_deg: Annotated[float, Field(gt=0, le=90)] = 45.0
    cuts: ClassVar[bool] = True
    do: ClassVar[str] = "Cut the hollow {}"


MODEL = Basin


def shape(form: Basin, ground: Ground, where: str) -> Shaped:
    """Cut the basin: floor at depth below the lowest ground just outside the lip; banks start at the ground
    that stands nearest outside. Where the outline runs along the base's edge there is no ground to leave a bank
    on, so the floor runs out there. Refuses to cut through the board's top."""
    inner = Within.of(form.outline, ground)
    if not inner.mask.any():
        raise fault(f"{where}.outline", *NO_CELL)
    if not inner.outside.any():
        raise fault(f"{where}.outline", "takes the whole base and leaves no ground for a lip", "draw it smaller")
    _, distance = ring_distance(form.outline, ground.shape, ground.cell_mm, MARGIN, inner.along_edge)
    below = ground.z[inner.box]
    lip = inner.outside & (distance <= 1.5 * ground.cell_mm)
    lowest = float(below[lip if lip.any() else inner.outside].min())
    floor = lowest - form.depth_mm
    if floor < -1e-9:
        raise too_deep(where, form.depth_mm, lowest)
    fall = np.inf if form.bank_deg == 90 else distance * tan(radians(form.bank_deg))
    cut = np.maximum(floor, inner.nearest_outside(below) - fall)
    part = np.where(inner.mask, np.minimum(below, cut), below)
    volume = float(((part - below) * ground.inside[inner.box]).sum()) * ground.cell_area / 1000
    area = float(covered_in(form.outline, ground.shape, ground.cell_mm)[1].sum()) * ground.cell_area
    top = float(np.median(below[lip])) if lip.any() else lowest
    banks = (Bank(form.outline, form.bank_deg, floor, top),)
    return shape_in(form, ground, inner.box, part, volume, area, edge_length(form.outline), banks)
