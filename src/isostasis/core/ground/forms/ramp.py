"""A ramp: a band that climbs at one grade, from one height above the board to another."""

from __future__ import annotations

from math import hypot
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from ...document.outline import Path
from ...document.scene import Form
from ...fault import Refusal, fault
from ..field import Ground, Shaped, shape_in
from ..raster import band

Height = Annotated[float, Field(ge=0, le=2000)]


class Ramp(Form):
    """An incline along a path. It only raises the ground, unless `cut`. Risers stand every `riser_mm` along it."""

    kind: Literal["ramp"] = "ramp"
    path: Path
    width_mm: Annotated[float, Field(gt=0, le=5000)]
    start_mm: Height
    end_mm: Height | None = None
    grade: Annotated[float, Field(ge=-2, le=2)] | None = None
    cut: bool = False
    riser_mm: Annotated[float, Field(gt=0, le=2000)] | None = None
    default_material: ClassVar[str | None] = "foam-xps"
    do: ClassVar[str] = "Cut the ramp {}"
    by_edge: ClassVar[bool] = True

    @model_validator(mode="after")
    def _one_way(self) -> Ramp:
        if (self.end_mm is None) == (self.grade is None):
            raise Refusal("a ramp needs end_mm or grade", "give just one of them")
        return self

    @property
    def length_mm(self) -> float:
        """Along the path."""
        return sum(hypot(bx - ax, by - ay) for (ax, ay), (bx, by) in zip(self.path, self.path[1:], strict=False))

    @property
    def rise_per_mm(self) -> float:
        """The grade as a fraction."""
        if self.grade is not None:
            return self.grade
        return ((self.end_mm or 0.0) - self.start_mm) / self.length_mm


MODEL = Ramp


def shape(form: Ramp, ground: Ground, where: str) -> Shaped:
    """Raise the ground inside the band to the ramp's top, and with `cut` lower what stands above it. Raises Faults."""
    strip = band(form.path, form.width_mm, ground.shape, ground.cell_mm)
    end = form.start_mm + form.rise_per_mm * strip.length
    if end < -1e-9:
        raise fault(
            f"{where}.grade",
            f"{form.grade:g} over {strip.length:.4g} mm ends {-end:.4g} mm below the board's top",
            f"at least {-form.start_mm / strip.length:.4g}",
        )
    if not strip.mask.any():
        raise fault(f"{where}.width_mm", "the band covers no cell of the grid", "make it wider or grid_mm smaller")
    below = ground.z[strip.box]
    top = form.start_mm + form.rise_per_mm * strip.along
    target = top if form.cut else np.maximum(below, top)
    share = strip.share * ground.inside[strip.box]
    volume = float(((target - below) * share).sum()) * ground.cell_area / 1000
    part = np.where(strip.mask, target, below)
    return shape_in(form, ground, strip.box, part, volume, strip.area, strip.edge)
