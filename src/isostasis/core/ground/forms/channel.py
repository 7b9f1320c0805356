"""A channel: a stream or a gully whose floor follows the ground along its path."""

from __future__ import annotations

from math import radians, tan
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...document.outline import Path
from ...document.scene import Form
from ...fault import fault
from ..banks import Bank
from ..field import Ground, Shaped, shape_in
from ..raster import Array, band
from .within import too_deep


class Channel(Form):
    """A cut of a width at the lip along a path, with flat ends and no end banks."""

    kind: Literal["channel"] = "channel"
    path: Path
    width_mm: Annotated[float, Field(gt=0, le=5000)]
    depth_mm: Annotated[float, Field(gt=0, le=1000)]
    bank_deg: Annotated[float, Field(gt=0, le=90)] = 45.0
    cuts: ClassVar[bool] = True
    runs_out: ClassVar[bool] = True
    do: ClassVar[str] = "Cut the channel {}"


MODEL = Channel


def _lips(form: Channel, ground: Ground) -> tuple[Array, Array, Array]:
    """Length along the path and the ground's height at the left and the right lip, a sample every half cell. Where a
    lip lies beyond the base, the other counts; where both do, the path itself, and beyond the base its nearest point on
    it."""
    path = np.asarray(form.path, dtype=float)
    run = np.diff(path, axis=0)
    lengths = np.hypot(run[:, 0], run[:, 1])
    stations = np.concatenate(([0.0], np.cumsum(lengths)))
    at = np.linspace(0.0, stations[-1], max(2, int(stations[-1] / ground.cell_mm * 2) + 1))
    leg = np.clip(np.searchsorted(stations, at, side="right") - 1, 0, len(run) - 1)
    ahead = run[leg] / lengths[leg, None]
    middle = path[leg] + ahead * (at - stations[leg])[:, None]
    out = np.stack([-ahead[:, 1], ahead[:, 0]], axis=1) * (form.width_mm / 2 + 0.5 * ground.cell_mm)
    ny, nx = ground.shape

    def height(points: Array) -> Array:
        cells = np.floor(points / ground.cell_mm).astype(int)
        column, row = np.clip(cells[:, 0], 0, nx - 1), np.clip(cells[:, 1], 0, ny - 1)
        here = (cells[:, 0] == column) & (cells[:, 1] == row) & ground.on_base[row, column]
        return np.where(here, ground.z[row, column], np.nan)

    left, right, bed = height(middle + out), height(middle - out), height(middle)
    left, right = np.where(np.isnan(left), right, left), np.where(np.isnan(right), left, right)
    on = np.flatnonzero(~np.isnan(bed))
    bed = np.interp(at, at[on], bed[on]) if len(on) else np.zeros_like(at)
    return at, np.where(np.isnan(left), bed, left), np.where(np.isnan(right), bed, right)


def shape(form: Channel, ground: Ground, where: str) -> Shaped:
    """Cut the channel: its floor lies at depth below the lower of its two lips; banks fall inward from either lip.
    Raises Faults."""
    strip = band(form.path, form.width_mm, ground.shape, ground.cell_mm)
    if not strip.mask.any():
        raise fault(f"{where}.width_mm", "the channel covers no cell of the grid", "make it wider or grid_mm smaller")
    at, left, right = _lips(form, ground)
    lower = np.minimum(left, right)
    if float(lower.min()) - form.depth_mm < -1e-9:
        raise too_deep(where, form.depth_mm, float(lower.min()))
    floor = np.interp(strip.along, at, lower) - form.depth_mm
    lip = np.where(strip.side > 0, np.interp(strip.along, at, left), np.interp(strip.along, at, right))
    inward = np.maximum(form.width_mm / 2 - strip.away, 0.0)
    fall = np.inf if form.bank_deg == 90 else inward * tan(radians(form.bank_deg))
    below = ground.z[strip.box]
    cut = np.minimum(below, np.maximum(floor, lip - fall))
    share = strip.share * ground.inside[strip.box]
    volume = float(((cut - below) * share).sum()) * ground.cell_area / 1000
    half, lowest = form.width_mm / 2, float(lower.min()) - form.depth_mm
    banks = tuple(
        Bank(form.path, form.bank_deg, lowest, float(np.median(lips)), half_mm=side * half)
        for lips, side in ((left, 1), (right, -1))
    )
    area = float(share.sum()) * ground.cell_area
    return shape_in(form, ground, strip.box, np.where(strip.mask, cut, below), volume, area, strip.edge, banks)
