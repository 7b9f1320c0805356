"""What each patch owns of the ground: areas by outline and by rule, on the grid."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np

from ..document.areas import AboveArea, Area, BelowArea, FaceArea, NearArea, OnArea, OutlineArea, RestArea, SteeperArea
from ..document.scene import Scene
from ..ground.field import Ground
from ..ground.raster import Array, Mask, band, centres, centres_within, covered, distance_to_ring, nearest_side
from ..ground.surface import cell_true_area, steepness
from ..stages import cached_stage


@dataclass(frozen=True, eq=False)
class Cover:
    """The share (ny, nx) of each cell that a patch owns, and which cells count as its own."""

    share: Array
    inside: Array  # share of each cell that lies on the base
    face: FaceArea | None = None  # a surface that the ground cannot hold: it has an area and no cells
    rest_of: Cover | None = None  # the cover of which this is a thinner rest, on the same cells

    @cached_property
    def mask(self) -> Mask:
        """Cells of whose part on the base it has at least half, (ny, nx)."""
        if self.rest_of is not None:
            return self.rest_of.mask & (self.share > 0)
        return (self.share > 0) & (self.share >= 0.5 * self.inside)

    def scaled(self, scale: Array) -> Cover:
        """The same cover, with so much (ny, nx) of each cell's layer still to be laid."""
        return Cover(self.share * scale, self.inside, rest_of=self)


def shore_of(cover: Cover, water: Mask, within_mm: float, cell_mm: float) -> Cover:
    """What a patch owns of the shore: the cells whose centre lies within N mm of the edge of the water, on
    either side of it."""
    from scipy.ndimage import distance_transform_edt

    away = np.where(water, distance_transform_edt(water), distance_transform_edt(~water)) - 0.5
    return Cover(np.where(water.any() & (away * cell_mm <= within_mm), cover.share, 0.0), cover.inside)


Line = tuple[Literal["ring", "path"], tuple[tuple[float, float], ...], float]


def line_of(thing: Any) -> Line | None:
    """Where a form or a place lies: its outline, or its path with its width; None for what has neither."""
    if getattr(thing, "outline", None):
        return "ring", thing.outline, 0.0
    if getattr(thing, "path", None):
        return "path", thing.path, thing.width_mm
    return None


def share_of(line: Line, shape: tuple[int, int], cell_mm: float) -> Array:
    """The share (ny, nx) of each cell that a place covers."""
    kind, points, width = line
    if kind == "ring":
        return covered(points, shape, cell_mm)
    strip = band(points, width, shape, cell_mm)
    whole = np.zeros(shape)
    whole[strip.box] = strip.share
    return whole


def _distance(line: Line, shape: tuple[int, int], cell_mm: float) -> Array:
    """Distance (ny, nx) in mm from each cell centre to a place; 0 inside it."""
    kind, points, width = line
    x, y = centres(shape, cell_mm)
    if kind == "ring":
        return np.where(centres_within(points, x, y), 0.0, distance_to_ring(points, x, y))
    ends = np.asarray(points, dtype=float)
    return np.maximum(nearest_side(ends[:-1], ends[1:], x, y)[0] - width / 2, 0.0)


def _claim(area: Area, bare: Ground, near: Line | None) -> Array:
    """The share (ny, nx) of each cell that an area means, whoever owns it in the end. Rules go by the bare forms."""
    if isinstance(area, OutlineArea):
        return covered(area.outline, bare.shape, bare.cell_mm)
    if isinstance(area, SteeperArea):
        return (np.degrees(np.arctan(steepness(bare))) > area.steeper_deg).astype(float)
    if isinstance(area, BelowArea):
        return (bare.z < area.below_mm).astype(float)
    if isinstance(area, AboveArea):
        return (bare.z > area.above_mm).astype(float)
    if isinstance(area, OnArea):
        assert near is not None
        return share_of(near, bare.shape, bare.cell_mm)
    assert isinstance(area, NearArea)
    if near is None:
        x, y = centres(bare.shape, bare.cell_mm)
        return (distance_to_ring(bare.edge, x, y) <= area.within_mm).astype(float)
    return (_distance(near, bare.shape, bare.cell_mm) <= area.within_mm).astype(float)


@cached_stage
def covers(
    areas: tuple[tuple[Area, Line | None], ...], bare: Ground, clear: tuple[tuple[str, Line], ...] = ()
) -> tuple[Cover, ...]:
    """What each patch owns: the last listed takes a cell, the rest what no other claims, wherever it stands.

    Each area comes with the place that it is near to or lies on, if it is that kind (None: the base's edge). What
    lies in `clear` (a form's id and its line) goes to no patch but one that lies on that form.
    """
    free = bare.inside.copy()
    kept: dict[str, Array] = {}
    for name, line in clear:
        kept[name] = np.minimum(share_of(line, bare.shape, bare.cell_mm), free)
        free = free - kept[name]
    shares: list[Array | None] = [None] * len(areas)
    for index in reversed(range(len(areas))):
        area, near = areas[index]
        if isinstance(area, FaceArea):
            shares[index] = np.zeros(bare.shape)
        elif isinstance(area, OnArea) and area.on in kept:
            shares[index] = kept[area.on]
            kept[area.on] = np.zeros(bare.shape)
        elif not isinstance(area, RestArea):
            claimed = np.minimum(_claim(area, bare, near), free)
            shares[index], free = claimed, free - claimed
    return tuple(
        Cover(free if share is None else share, bare.inside, area if isinstance(area, FaceArea) else None)
        for share, (area, _) in zip(shares, areas, strict=True)
    )


def _beside(area: Area) -> str:
    """The id of the place that an area is near to or lies on; empty for other areas."""
    return str(getattr(area, "near", "") or getattr(area, "on", ""))


def clear_places(scene: Scene) -> tuple[tuple[str, Line], ...]:
    """Forms that no patch lies over: castings, to whose foot the compound is brought."""
    standing = [form for form in scene.forms if form.keeps_clear and not form.off and not form.after]
    return tuple((form.id, line) for form in standing if (line := line_of(form)) is not None)


def owned(scene: Scene, bare: Ground, board: Ground) -> dict[str, Cover]:
    """What each patch of the scene owns. Outlines do not look at the ground, so that forms can move beneath them and
    nothing is worked out again; rules look at the bare forms."""
    places = {one.id: line_of(one) for kind in (scene.forms, scene.protect, scene.flats) for one in kind}
    areas = tuple((patch.area, places.get(_beside(patch.area))) for patch in scene.patches)
    by_height = any(isinstance(area, SteeperArea | BelowArea | AboveArea) for area, _ in areas)
    found = covers(areas, bare if by_height else board, clear_places(scene))
    return {patch.id: cover for patch, cover in zip(scene.patches, found, strict=True)}


def overlaps(scene: Scene, bare: Ground) -> list[tuple[str, str, Array]]:
    """Where two patches claim the same ground: (owner, the one that loses it, share (ny, nx)); the later owns it."""
    places = {one.id: line_of(one) for kind in (scene.forms, scene.protect, scene.flats) for one in kind}
    clear = {name for name, _ in clear_places(scene)}
    claims = [
        (patch.id, _claim(patch.area, bare, places.get(_beside(patch.area))))
        for patch in scene.patches
        if not isinstance(patch.area, RestArea | FaceArea) and getattr(patch.area, "on", None) not in clear
    ]
    pairs = []
    for index, (loser, earlier) in enumerate(claims):
        for owner, later in claims[index + 1 :]:
            both = np.minimum(np.minimum(earlier, later), bare.inside)
            if both.sum() > 4:  # less is how outlines touch on the grid
                pairs.append((owner, loser, both))
    return pairs


@cached_stage
def cell_areas(ground: Ground) -> Array:
    """True area (ny, nx) in mm2 of each whole cell, kept by the ground."""
    return cell_true_area(ground)


def true_area(ground: Ground, cover: Cover) -> float:
    """True area in mm2 of a patch on this ground; of a face as it was given."""
    if cover.face:
        return cover.face.face_mm2
    return float((cell_areas(ground) * cover.share).sum())


def mean_over(ground: Ground, cover: Cover, values: float | Array) -> float:
    """Mean of values (one, or (ny, nx)) over a patch's true area on this ground."""
    if isinstance(values, float):
        return values
    weights = cell_areas(ground) * cover.share
    total = float(weights.sum())
    return float((weights * values).sum()) / total if total else 0.0
