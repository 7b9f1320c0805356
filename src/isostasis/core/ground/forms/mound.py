"""A mound: a smooth hump, such as crumpled paper under tape; a hill with no weight."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...document.outline import Ring
from ...document.scene import Form
from ...fault import fault
from ...stages import cached_stage
from ..field import Ground, Shaped, shape_in
from ..raster import Array, centres, centres_within, covered_in, edge_length, ring_distance
from .within import NO_CELL


class Mound(Form):
    """A hump of a crown height, 0 at its outline."""

    kind: Literal["mound"] = "mound"
    outline: Ring
    crown_mm: Annotated[float, Field(gt=0, le=1000)]
    default_material: ClassVar[str | None] = "crumpled-paper"
    do: ClassVar[str] = "Crumple and tape the mound {}"


MODEL = Mound


@cached_stage
def _profile(outline: Ring, shape: tuple[int, int], cell_mm: float) -> Array:
    """Share (on the outline's window) of the crown: sin(pi/2 d/d_max), d the distance to the outline."""
    from shapely import Polygon, maximum_inscribed_circle

    box, away = ring_distance(outline, shape, cell_mm, 0)
    x, y = centres(shape, cell_mm)
    polygon = Polygon(outline)
    farthest = maximum_inscribed_circle(polygon, tolerance=polygon.length / 2000).length
    inside = centres_within(outline, x[box[1]], y[box[0]])
    return np.asarray(np.where(inside, np.sin(np.pi / 2 * np.minimum(away / farthest, 1.0)), 0.0))


def shape(form: Mound, ground: Ground, where: str) -> Shaped:
    """Add the hump to the ground. Raises Faults."""
    box, share = covered_in(form.outline, ground.shape, ground.cell_mm)
    if not (share >= 0.5).any():
        raise fault(f"{where}.outline", *NO_CELL)
    rise = form.crown_mm * _profile(form.outline, ground.shape, ground.cell_mm)
    volume = float((rise * ground.inside[box]).sum()) * ground.cell_area / 1000
    area = float(share.sum()) * ground.cell_area
    return shape_in(form, ground, box, ground.z[box] + rise, volume, area, edge_length(form.outline))
