"""A hollow that was measured: its lip, and how far its bed lies below a straightedge across it, spot by spot."""

from __future__ import annotations

from math import log
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from ...document.outline import Coordinate, Ring
from ...document.scene import Form
from ...fault import Refusal, fault
from ...stages import cached_stage
from ..field import Ground, Shaped, shape_in
from ..raster import Array, centres, covered_in, edge_length, ring_distance
from .within import MARGIN, NO_CELL, Within

MAX_DIPS = 400
LIP_EVERY_MM = 5.0  # along the lip, where the dip is known to be nothing
MAX_LIP = 400  # such places at most
STEEP = 1.4  # how round a bed is between lip and middle
SMOOTHING = 5.0
# How far off a volume from N dips is, percent: at the median, and in 19 of 20.
OFF_BY = ((8, 5.0, 12.0), (15, 4.0, 11.0), (30, 2.0, 5.0))

Dip = tuple[Coordinate, Coordinate, Annotated[float, Field(ge=0, le=1000)]]


class Dips(Form):
    """A hollow by its lip and its dips [[x, y, mm below the straightedge], ...]; the bed between them is worked out."""

    kind: Literal["dips"] = "dips"
    outline: Ring
    dips: Annotated[tuple[Dip, ...], Field(max_length=MAX_DIPS)] = ()
    cuts: ClassVar[bool] = True
    do: ClassVar[str] = "Cut the hollow {}"

    @model_validator(mode="after")
    def _inside(self) -> Dips:
        from shapely import Point, Polygon

        lip = Polygon(self.outline)
        for x, y, _ in self.dips:
            if not lip.covers(Point(x, y)):
                raise Refusal(
                    f"the dip at x {x:g} y {y:g} mm lies outside its lip", "tap inside it, or draw the lip wider"
                )
        places = [dip[:2] for dip in self.dips]
        if len(set(places)) < len(places):
            x, y = next(place for number, place in enumerate(places) if place in places[:number])
            raise Refusal(f"two dips have the same place, x {x:g} y {y:g} mm", "keep one of them")
        return self


MODEL = Dips


def volume_off_by(count: int) -> tuple[float, float]:
    """How far off, as a share, the volume of a hollow from N dips is: at the median, and in 19 of 20.

    Source: measured on rendered beds (docs/science.md); interpolated by the logarithm of the count; under the
    fewest measured it grows as dips get fewer.

    >>> volume_off_by(15), volume_off_by(4)
    ((0.04, 0.11), (0.1, 0.24))
    """
    few, many = OFF_BY[0], OFF_BY[-1]
    if count <= few[0]:
        more = few[0] / max(count, 1)
        return round(few[1] * more / 100, 4), round(few[2] * more / 100, 4)
    if count >= many[0]:
        return many[1] / 100, many[2] / 100
    at = [log(known) for known, _, _ in OFF_BY]
    return tuple(round(float(np.interp(log(count), at, [row[place] for row in OFF_BY])) / 100, 4) for place in (1, 2))  # type: ignore[return-value]


@cached_stage
def bed(form: Dips, shape: tuple[int, int], cell_mm: float) -> Array:
    """How deep (mm) the bed lies below the lip on the cells of the window round the outline.

    depth = a (1 - (1 - min(d / b, 1))^1.4), d the distance from the lip, fitted to the dips; what is left is laid on it
    by linear functions that are nothing along the lip. Source: docs/science.md; Wendland, Scattered Data Approximation
    (2005), ch. 8, as SciPy's RBFInterpolator.
    """
    from scipy.interpolate import RBFInterpolator
    from scipy.optimize import least_squares
    from shapely import LinearRing, Point

    box, from_lip = ring_distance(form.outline, shape, cell_mm, MARGIN)
    if not form.dips:
        return np.zeros_like(from_lip)
    lip = LinearRing(form.outline)
    places = np.array([dip[:2] for dip in form.dips])
    depths = np.array([dip[2] for dip in form.dips])
    runs = np.array([lip.distance(Point(place)) for place in places])
    furthest = max(float(from_lip.max()), float(runs.max()), cell_mm)

    def rounded(run: Array, deep: float, reach: float) -> Array:
        return np.asarray(deep * (1 - (1 - np.minimum(run / reach, 1)) ** STEEP))

    start = [max(float(depths.max()), 0.1), furthest / 2]
    fit = least_squares(
        lambda one: rounded(runs, *one) - depths,
        start,
        bounds=([0.0, 0.2 * cell_mm], [3 * float(depths.max()) + 1, 2 * furthest]),
    ).x
    count = min(int(lip.length / LIP_EVERY_MM) + 4, MAX_LIP)
    rim = np.array([lip.interpolate(share, normalized=True).coords[0] for share in np.arange(count) / count])
    x, y = centres(shape, cell_mm)
    grid = np.stack(np.meshgrid(x[box[1]], y[box[0]]), axis=-1).reshape(-1, 2)
    left = RBFInterpolator(
        np.vstack([places, rim]),
        np.concatenate([depths - rounded(runs, *fit), np.zeros(count)]),
        kernel="linear",
        smoothing=SMOOTHING,
        neighbors=min(60, len(places) + count),
    )(grid).reshape(from_lip.shape)
    return np.asarray(np.maximum(rounded(from_lip, *fit) + left, 0.0))


def shape(form: Dips, ground: Ground, where: str) -> Shaped:
    """Cut the hollow: below the lip, the ground nearest outside, by its dips and what lies between them. Raises Faults
    for a bed below the board's top."""
    inner = Within.of(form.outline, ground)
    if not inner.mask.any():
        raise fault(f"{where}.outline", *NO_CELL)
    if not inner.outside.any():
        raise fault(f"{where}.outline", "takes the whole base and leaves no ground for a lip", "draw it smaller")
    below = ground.z[inner.box]
    deep = bed(form, ground.shape, ground.cell_mm)
    part = np.where(inner.mask, np.minimum(below, inner.nearest_outside(below) - deep), below)
    if part.min() < -1e-6:
        lowest = float(below[inner.mask].min())
        raise fault(
            f"{where}.dips", f"its bed lies {-float(part.min()):.4g} mm below the board's top",
            f"dips of at most {lowest:.4g} mm, or more foam under it",
        )  # fmt: skip
    volume = float(((part - below) * ground.inside[inner.box]).sum()) * ground.cell_area / 1000
    area = float(covered_in(form.outline, ground.shape, ground.cell_mm)[1].sum()) * ground.cell_area
    return shape_in(
        form, ground, inner.box, part, volume, area, edge_length(form.outline), (), volume_off_by(len(form.dips))[1]
    )
