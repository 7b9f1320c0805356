"""A survey: heights that were measured, spot by spot with a dip stick or as a grid from a file."""

from __future__ import annotations

import base64
import binascii
import zlib
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from ...catalogue.model import Entry, Positive
from ...document.outline import Coordinate, Ring
from ...document.scene import MAX_CELLS, Form
from ...fault import Refusal, fault
from ...stages import cached_stage
from ..field import Ground, Shaped, shape_in
from ..raster import Array, Mask, centres, centres_within, nearest_side, window

Height = Annotated[float, Field(ge=-1000, le=5000)]
NOTHING = 65_535  # a cell of a grid that nothing is known of


class Grid(Entry):
    """Heights on square cells from the south-west corner: low_mm + step_mm x a whole number for each cell centre.

    `heights` is text: base64 of zlib of big-endian 16-bit numbers, rows from the south; 65535 stands for no height.
    """

    columns: Annotated[int, Field(ge=2, le=MAX_CELLS)]
    rows: Annotated[int, Field(ge=2, le=MAX_CELLS)]
    cell_mm: Positive
    west_mm: Coordinate = 0.0
    south_mm: Coordinate = 0.0
    low_mm: Height = 0.0
    step_mm: Positive
    heights: str

    @classmethod
    def of(cls, z: Array, cell_mm: float, west_mm: float = 0.0, south_mm: float = 0.0) -> Grid:
        """A grid of heights z (rows, columns) in mm, NaN for none, at the finest step that 16 bits hold."""
        low, high = float(np.nanmin(z)), float(np.nanmax(z))
        step = max((high - low) / (NOTHING - 1), 0.001)
        return cls.exactly(
            np.where(np.isnan(z), NOTHING, np.rint((z - low) / step)), low, step, cell_mm, west_mm, south_mm
        )

    @classmethod
    def exactly(
        cls, numbers: Array, low_mm: float, step_mm: float, cell_mm: float, west_mm: float, south_mm: float
    ) -> Grid:
        """A grid of whole numbers (rows, columns) of `step_mm` above `low_mm`."""
        packed = zlib.compress(numbers.astype(">u2").tobytes(), 9)
        rows, columns = numbers.shape
        return cls(
            columns=columns, rows=rows, cell_mm=cell_mm, west_mm=west_mm, south_mm=south_mm, low_mm=low_mm,
            step_mm=step_mm, heights=base64.b64encode(packed).decode(),
        )  # fmt: skip

    @model_validator(mode="after")
    def _whole(self) -> Grid:
        if self.columns * self.rows > MAX_CELLS:
            raise Refusal(
                f"a grid of {self.columns} x {self.rows} has {self.columns * self.rows:,} heights, "
                f"more than {MAX_CELLS:,}",
                "thin it out",
            )
        _unpacked(self.heights, self.rows, self.columns)
        return self

    def z(self) -> Array:
        """Heights (rows, columns) in mm, NaN where there is none."""
        numbers = _unpacked(self.heights, self.rows, self.columns)
        return np.where(numbers == NOTHING, np.nan, self.low_mm + self.step_mm * numbers)


@cached_stage
def _unpacked(heights: str, rows: int, columns: int) -> Array:
    """The numbers of a grid. Never unpacks more than the grid can hold, whatever the text claims."""
    wanted = rows * columns * 2
    try:
        unpack = zlib.decompressobj()
        data = unpack.decompress(base64.b64decode(heights, validate=True), wanted + 1)
    except (binascii.Error, zlib.error, ValueError):
        raise Refusal("the heights are no packed grid", "import the grid's file again") from None
    if len(data) != wanted:
        more = "more" if len(data) > wanted else "fewer"
        raise Refusal(
            f"the heights are {more} than {columns} x {rows}",
            "give columns and rows that fit, or import the file again",
        )
    return np.frombuffer(data, dtype=">u2").reshape(rows, columns).astype(np.float64)


class Survey(Form):
    """Spot heights [[x, y, z], ...] or a grid; inside an outline, or as far as they reach."""

    kind: Literal["survey"] = "survey"
    points: Annotated[tuple[tuple[Coordinate, Coordinate, Height], ...], Field(max_length=20_000)] = ()
    grid: Grid | None = None
    outline: Ring | None = None
    default_material: ClassVar[str | None] = "foam-xps"
    do: ClassVar[str] = "Build up {} to the surveyed heights"

    @model_validator(mode="after")
    def _enough(self) -> Survey:
        if bool(self.points) == (self.grid is not None):
            raise Refusal("a survey needs points or a grid", "give just one of them")
        if self.points:
            spots = np.array([point[:2] for point in self.points])
            places, counts = np.unique(spots, axis=0, return_counts=True)
            if len(places) < len(spots):
                x, y = places[counts.argmax()]
                raise Refusal(f"two spots of the survey have the same place, x {x:g} y {y:g} mm", "keep one of them")
            if len(spots) < 3 or np.linalg.matrix_rank(spots - spots[0], tol=1e-6) < 2:
                raise Refusal("the spots lie on one line", "give at least three that do not")
        return self


MODEL = Survey


def _from_points(form: Survey, x: Array, y: Array) -> tuple[Array, Mask]:
    """Heights (ny, nx) on a triangulation of the spots, and which lie among them. Beyond the outermost spots the
    height of the nearest point of their hull goes on."""
    from scipy.interpolate import LinearNDInterpolator
    from shapely import MultiPoint, convex_hull

    spots = np.array(form.points)
    heights = LinearNDInterpolator(spots[:, :2], spots[:, 2])
    xs, ys = np.meshgrid(x, y)
    z = np.asarray(heights(xs, ys))
    beyond = np.isnan(z)
    if beyond.any():
        hull = np.asarray(convex_hull(MultiPoint(spots[:, :2])).exterior.coords)
        of_spot = {(float(a), float(b)): float(c) for a, b, c in spots}
        top = np.array([of_spot[(float(a), float(b))] for a, b in hull])
        _, side, share = nearest_side(hull[:-1], hull[1:], x, y)
        z = np.where(beyond, top[side] + share * (top[side + 1] - top[side]), z)
    return z, ~beyond


def _from_grid(grid: Grid, x: Array, y: Array) -> tuple[Array, Mask]:
    """Heights (ny, nx) between the grid's cell centres, level beyond the outermost, and where the grid has any."""
    from scipy.ndimage import map_coordinates

    z = grid.z()
    at = np.meshgrid((y - grid.south_mm) / grid.cell_mm - 0.5, (x - grid.west_mm) / grid.cell_mm - 0.5, indexing="ij")
    inside = (
        (at[0] >= -0.5 - 1e-9) & (at[0] <= grid.rows - 0.5 + 1e-9)
        & (at[1] >= -0.5 - 1e-9) & (at[1] <= grid.columns - 0.5 + 1e-9)
    )  # fmt: skip
    known = ~np.isnan(z)
    # Near a cell without a height only the known neighbours count.
    weight = map_coordinates(known.astype(float), at, order=1, mode="nearest")
    value = map_coordinates(np.nan_to_num(z), at, order=1, mode="nearest")
    there = inside & (weight >= 0.5)
    return np.where(there, value / np.maximum(weight, 1e-9), 0.0), there


def shape(form: Survey, ground: Ground, where: str) -> Shaped:
    """The ground inside the outline (or as far as the survey reaches) takes the surveyed heights. Raises Faults."""
    x, y = centres(ground.shape, ground.cell_mm)
    box = window(form.outline, ground.shape, ground.cell_mm) if form.outline else ground.everywhere
    x, y = x[box[1]], y[box[0]]
    z, there = _from_grid(form.grid, x, y) if form.grid else _from_points(form, x, y)
    there = there & ground.on_base[box] if form.outline is None or form.grid else ground.on_base[box]
    if form.outline:
        there = there & centres_within(form.outline, x, y)
    if not there.any():
        raise fault(where, "the survey covers no cell of the base", "move it on to the base")
    low = float(z[there].min())
    if low < -1e-6:
        raise fault(where, f"its lowest height is {low:.4g} mm, below the board's top", "measure from the board's top")
    below = ground.z[box]
    part = np.where(there, z, below)
    share = ground.inside[box] * there
    volume = float(((part - below) * share).sum()) * ground.cell_area / 1000
    area = float(share.sum()) * ground.cell_area
    return shape_in(form, ground, box, part, volume, area, 4 * area**0.5)
