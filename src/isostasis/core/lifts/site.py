"""Where a lift goes on, and what comes of it: the shapes that every kind of lift shares."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from ..catalogue import Bench, Material, Mix, Part
from ..document.scene import (
    AboveArea,
    Area,
    BelowArea,
    FaceArea,
    Lift,
    NearArea,
    OnArea,
    OutlineArea,
    Patch,
    RestArea,
    Scene,
    SteeperArea,
)
from ..figure import Figure, Term
from ..ground.field import Ground
from ..ground.raster import Array, Mask, band, centres, centres_within, covered, distance_to_ring, nearest_side
from ..ground.surface import cell_true_area, steepness
from ..hardening.climate import Climate
from ..mixing.batches import Batches
from ..stages import cached_stage


@dataclass(frozen=True, eq=False)
class Cover:
    """The share (ny, nx) of each cell that a patch owns."""

    share: Array
    inside: Array  # share of each cell that lies on the base
    face: FaceArea | None = None  # a surface that the ground cannot hold: it has an area and no cells

    @property
    def mask(self) -> Mask:
        """The cells that count as the patch's own: those of whose part on the base it has at least half."""
        return np.asarray((self.share > 0) & (self.share >= 0.5 * self.inside))


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
    whole[strip.here] = strip.share
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


def _clear(scene: Scene) -> tuple[tuple[str, Line], ...]:
    """Forms that no patch lies over: castings, to whose foot the compound is brought."""
    standing = [form for form in scene.forms if form.keeps_clear and not form.off and not form.after]
    return tuple((form.id, line) for form in standing if (line := line_of(form)) is not None)


def owned(scene: Scene, bare: Ground, board: Ground) -> dict[str, Cover]:
    """What each patch of the scene owns. Outlines do not look at the ground, so that forms can move beneath them and
    nothing is worked out again; rules look at the bare forms."""
    places = {one.id: line_of(one) for kind in (scene.forms, scene.protect, scene.flats) for one in kind}
    areas = tuple((patch.area, places.get(_beside(patch.area))) for patch in scene.patches)
    by_height = any(isinstance(area, SteeperArea | BelowArea | AboveArea) for area, _ in areas)
    found = covers(areas, bare if by_height else board, _clear(scene))
    return {patch.id: cover for patch, cover in zip(scene.patches, found, strict=True)}


def overlaps(scene: Scene, bare: Ground) -> list[tuple[str, str, Array]]:
    """Where two patches claim the same ground: (owner, the one that loses it, share (ny, nx)); the later owns it."""
    places = {one.id: line_of(one) for kind in (scene.forms, scene.protect, scene.flats) for one in kind}
    clear = {name for name, _ in _clear(scene)}
    claims = [
        (patch.id, _claim(patch.area, bare, places.get(_beside(patch.area))))
        for patch in scene.patches
        if not isinstance(patch.area, RestArea | FaceArea) and getattr(patch.area, "on", None) not in clear
    ]
    found = []
    for index, (loser, earlier) in enumerate(claims):
        for owner, later in claims[index + 1 :]:
            both = np.minimum(np.minimum(earlier, later), bare.inside)
            if both.sum() > 4:  # less is how outlines touch on the grid
                found.append((owner, loser, both))
    return found


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


@dataclass(frozen=True, eq=False)
class Site:
    """Where one lift goes on: the resolved scene, its patch, the ground before it, and what surrounds it."""

    scene: Scene
    patch: Patch
    lift: Lift
    where: str  # path in the document, for faults
    ground: Ground
    covers: dict[str, Cover]
    porous: frozenset[str]  # patches whose top is an unsealed skin when this lift goes on
    climate: Climate
    above: Lift | None  # what follows here
    below: Site | None = None  # where the lift beneath it in its own patch went on

    @property
    def cover(self) -> Cover:
        """What this lift's patch owns."""
        return self.covers[self.patch.id]

    @property
    def bench(self) -> Bench:
        """The user's things."""
        return self.scene.bench or Bench()


def kept_clear(site: Site) -> Mask:
    """Cells (ny, nx) under castings, to whose foot a skin is brought."""
    shape, cell = site.ground.shape, site.ground.cell_mm
    mask = np.zeros(shape, dtype=bool)
    for _, line in _clear(site.scene):
        mask |= share_of(line, shape, cell) >= 0.5
    return mask


@dataclass(frozen=True, slots=True)
class Labels:
    """Labels of a resolved scene by id; what a lift thins with water counts as thinned."""

    materials: dict[str, Material]
    mixes: dict[str, Mix]

    @classmethod
    def of(cls, scene: Scene) -> Labels:
        """The labels that the resolved scene embeds."""
        return cls({entry.id: entry for entry in scene.materials}, {entry.id: entry for entry in scene.mixes})

    def mix_of(self, lift: Lift) -> Mix:
        """The lift's mix; a material used from the tin is a mix of itself alone."""
        made, thin = self._unthinned(lift), getattr(lift, "thin", 0.0)
        if not thin:
            return made
        water = Part(material="water", parts=thin * sum(part.parts for part in made.ingredients))
        return made.model_copy(update={"ingredients": (*made.ingredients, water)})

    def _unthinned(self, lift: Lift) -> Mix:
        name = getattr(lift, "mix", None)
        if name:
            return self.mixes[name]
        material = self.materials[getattr(lift, "material")]  # noqa: B009 - kinds differ in their fields
        return Mix(
            id=material.id,
            name=material.name,
            family="skin" if material.family == "cloth" else "seal" if material.seals else "colour",
            ingredients=(Part(material=material.id, parts=1),),
            sets=material.sets,
            dries=material.dries,
            film_mm=material.film_mm,
            seals=material.seals,
            opacity=material.opacity,
            thermal=material.thermal,
            colour=material.colour,
            look_for=material.look_for,
            source=material.source,
        )

    def hazards(self, mix: Mix, extra: tuple[str, ...] = ()) -> frozenset[str]:
        """Hazards of all that goes into a mix."""
        names = [part.material for part in mix.ingredients] + list(extra)
        return frozenset(hazard for name in names for hazard in self.materials[name].hazards)


@dataclass(frozen=True, slots=True)
class Ingredient:
    """What to measure out of one material."""

    material: str
    part: str | None
    volume_ml: Figure
    mass_g: Figure
    drops: Figure | None = None
    _aside: str = ""  # what it is for, where it is no part of the lift's own mix: the key, the wetting


@dataclass(frozen=True, slots=True)
class Layer:
    """One pour, coat or course of a lift, from the bed up."""

    depth_mm: Figure
    volume_ml: Figure
    peak_c: Figure | None = None


@dataclass(frozen=True, slots=True)
class PoolFigures:
    """A pool of a pour."""

    level_mm: Figure
    volume_ml: Figure
    area_mm2: Figure
    deepest_mm: Figure


@dataclass(frozen=True, slots=True)
class Hours:
    """From laying the last layer: how long it can be worked, when the next lift may go on, when it is all through."""

    workable: Figure
    next: Figure
    full: Figure


@dataclass(frozen=True, slots=True)
class Window:
    """When something can be done, in hours from laying the last layer; `to_h` None: from then on. `look` is what to
    look at, to know that it is open."""

    what: str
    from_h: float
    to_h: float | None
    look: str = ""

    def as_json(self) -> dict[str, float | str | None]:
        """With an explicit null where it stays open."""
        return {"what": self.what, "from_h": self.from_h, "to_h": self.to_h}


@dataclass(frozen=True, slots=True)
class Notice:
    """Something that is about to go wrong, with a code for machines, and why where a rule says so."""

    code: str
    text: str
    _reason: str = ""

    @property
    def reason(self) -> str:
        """Why; empty where the text says it."""
        return self._reason


WONT_DRY = Notice("wont-dry", "The room is too damp: it never dries there. Warm or air the room.")


@dataclass(frozen=True, slots=True)
class Strips:
    """Cloth cut for one copy: strips in all, the rolls that they come from, what a covered m2 costs if it is priced."""

    count: Figure
    rolls: Figure
    cost_m2: Figure | None = None


@dataclass(frozen=True, slots=True)
class Strewn:
    """What is strewn: ml that fall beside, ml of that swept up for the next time, how deep the bed is held, mm; and for
    a bed on a wet key how large an area to spread at a time, mm2."""

    lost_ml: Figure
    swept_ml: Figure
    held_mm: Figure
    at_a_time_mm2: Figure | None = None


@dataclass(frozen=True, slots=True)
class Fixing:
    """How a bed is bound: passes, how deep one reaches, ml of wetting liquid and binder taken up, the hold index in g
    of glue solids a ml of texture."""

    passes: Figure
    reach_mm: Figure
    wetting_ml: Figure
    binder_ml: Figure
    hold: Figure


@dataclass(frozen=True, slots=True)
class LiftPlan:
    """All figures of one lift, for one copy of the scene."""

    patch: str
    kind: str
    volume_ml: Figure
    mix_ml: Figure
    mass_g: Figure
    ingredients: tuple[Ingredient, ...]
    layers: tuple[Layer, ...]
    hours: Hours
    windows: tuple[Window, ...]
    look_for: tuple[str, ...]
    warnings: tuple[Notice, ...]
    pools: tuple[PoolFigures, ...] | None = None
    drunk_ml: Figure | None = None
    lost_ml: Figure | None = None
    strips: Strips | None = None
    left_mm: Figure | None = None  # of coats: the film that stays once its water has left
    strewn: Strewn | None = None
    fixing: Fixing | None = None
    _mixed_ml: float | None = None  # of mix_ml, what comes out of batches; None: all of it


@dataclass(frozen=True, slots=True)
class Course:
    """One stretch of hands-on work of a lift (a pour, a coat) and the wait after it."""

    do: str
    batches: Batches
    working_min: float | None
    hands_on_min: float
    wait_h: float | None
    next_window: tuple[Window, ...] = ()  # for the course that follows, counted from this one


@dataclass(frozen=True, slots=True, eq=False)
class Work:
    """A lift's figures, the courses in which it is laid, the hazards in hand, and the patches it lies on."""

    plan: LiftPlan
    mix: Mix
    courses: tuple[Course, ...]
    hazards: frozenset[str]
    touches: frozenset[str] = field(default_factory=frozenset)


def span(value: float | None, law: str, *working: Term, low: float | None = None, high: float | None = None) -> Figure:
    """A figure in hours; None means that it never comes in this room."""
    return Figure(value, "h", law, working, low, high, "" if value is not None else "wont-dry")
