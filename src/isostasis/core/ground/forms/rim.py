"""A rim: a rounded bank built up along a line, such as cork or wedges set in a ring round a pool."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from ...document.outline import Path, Ring
from ...document.scene import Form
from ...fault import Refusal, fault
from ..field import Ground, Shaped, shape_in
from ..raster import band, edge_length, ring_distance


class Rim(Form):
    """A bank of a height and a width, along a path or round a closed outline."""

    kind: Literal["rim"] = "rim"
    path: Path | None = None
    outline: Ring | None = None
    height_mm: Annotated[float, Field(gt=0, le=1000)]
    width_mm: Annotated[float, Field(gt=0, le=2000)]
    default_material: ClassVar[str | None] = "foam-xps"
    do: ClassVar[str] = "Build up the rim {}"
    by_edge: ClassVar[bool] = True

    @model_validator(mode="after")
    def _one_line(self) -> Rim:
        if (self.path is None) == (self.outline is None):
            raise Refusal("a rim needs a path or a closed outline", "give just one of them")
        return self


MODEL = Rim


def shape(form: Rim, ground: Ground, where: str) -> Shaped:
    """Add half a sine across the line: height cos(pi d / width) at distance d, 0 from half the width on.
    Raises Faults."""
    cell = ground.cell_mm
    if form.outline:
        box, away = ring_distance(form.outline, ground.shape, cell, int(form.width_mm / 2 / cell) + 1)
        on, length = away <= form.width_mm / 2, edge_length(form.outline)
    else:
        strip = band(form.path or (), form.width_mm, ground.shape, cell)
        box, away, on, length = strip.box, strip.away, strip.mask, strip.length
    rise = np.where(on, form.height_mm * np.cos(np.pi * np.minimum(away / form.width_mm, 0.5)), 0.0)
    if not (rise > 0.5 * form.height_mm).any():
        raise fault(f"{where}.width_mm", "the rim is narrower than the grid can show", "wider, or a smaller grid_mm")
    volume = float((rise * ground.inside[box]).sum()) * ground.cell_area / 1000
    return shape_in(form, ground, box, ground.z[box] + rise, volume, form.width_mm * length, 2 * length)
