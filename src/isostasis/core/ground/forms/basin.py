"""A basin: a hollow with a level floor and banks that fall inward from its lip."""

from __future__ import annotations

from itertools import pairwise
from math import radians, tan
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ...document.outline import Ring
from ...document.scene import Form
from ...fault import fault
from ..field import Ground, Shaped
from ..raster import centres, centres_within, covered, distance_to_ring, edge_length, window


class Basin(Form):
    """A hollow cut into what stands there."""

    kind: Literal["basin"] = "basin"
    outline: Ring
    depth_mm: Annotated[float, Field(gt=0, le=1000)]
    bank_deg: Annotated[float, Field(gt=0, le=90)] = 45.0


MODEL = Basin


def shape(form: Basin, ground: Ground, where: str) -> Shaped:
    """Cut the basin: floor at depth below the lowest ground just outside the lip; banks start at the ground
    that stands nearest outside. Where the outline runs along the base's edge there is no ground to leave a bank
    on, so the floor runs out there. Refuses to cut through the board's top."""
    from scipy.ndimage import distance_transform_edt

    x, y = centres(ground.shape, ground.cell_mm)
    here = window(form.outline, ground.shape, ground.cell_mm, margin=2)
    within = np.zeros(ground.shape, dtype=bool)
    within[here] = centres_within(form.outline, x[here[1]], y[here[0]])
    within &= ground.on_base
    outside = ground.on_base & ~within
    if not within.any():
        raise fault(f"{where}.outline", "covers no cell of the grid", "make the outline larger or grid_mm smaller")
    if not outside.any():
        raise fault(f"{where}.outline", "takes the whole base and leaves no ground for a lip", "draw it smaller")
    distance = np.full(ground.shape, np.inf)
    distance[here] = distance_to_ring(form.outline, x[here[1]], y[here[0]], _along_edge(form.outline, ground))
    lip = outside & (distance <= 1.5 * ground.cell_mm)
    lowest = float(ground.z[lip if lip.any() else outside].min())
    floor = lowest - form.depth_mm
    if floor < -1e-9:
        raise fault(
            f"{where}.depth_mm",
            f"{form.depth_mm:g} mm cuts through the board: the lowest lip stands {lowest:g} mm above it",
            f"at most {lowest:g}" if lowest > 0 else "lay a sheet there first",
        )
    nearest = distance_transform_edt(within, return_distances=False, return_indices=True)
    fall = np.inf if form.bank_deg == 90 else distance * tan(radians(form.bank_deg))
    cut = np.maximum(floor, ground.z[nearest[0], nearest[1]] - fall)
    z = np.where(within, np.minimum(ground.z, cut), ground.z)
    volume = float(((z - ground.z) * ground.inside).sum()) * ground.cell_area / 1000
    area = float(covered(form.outline, ground.shape, ground.cell_mm).sum()) * ground.cell_area
    return Shaped(form, volume, area, edge_length(form.outline), ground.after(z, None))


def _along_edge(outline: Ring, ground: Ground) -> tuple[bool, ...]:
    """Which sides of the outline run along the base's edge."""
    corners = [*outline, outline[0]]
    return tuple(
        all(ground.is_edge((ax * (1 - part) + bx * part, ay * (1 - part) + by * part)) for part in (0.1, 0.5, 0.9))
        for (ax, ay), (bx, by) in pairwise(corners)
    )
