"""What must stay: flat corridors and footprints, places that a figure must stand on, and what must not be splashed."""

from __future__ import annotations

from dataclasses import dataclass
from math import atan, degrees
from typing import ClassVar

import numpy as np

from ..document import ResolvedScene
from ..document.places import Flat, Protect
from ..document.scene import Lift, Patch
from ..fault import fault
from ..figure import Figure, Term
from ..ground.field import Ground
from ..ground.raster import Array, Mask, band, edge_length
from ..hardening.climate import Climate
from ..hardening.drying import READY_SHARE
from ..lifts.areas import line_of, share_of
from ..lifts.fold import Build
from ..lifts.wet_film import drying_hours
from ..stages import cached_stage

SPLASH_MM = 60.0  # how far wet work splashes, craft estimate
FILM_MM = 0.08  # of a coat whose label gives none: docs/science.md, drying
TAPE_MM = 10.0  # of tape along an edge beyond what it protects
STANDS_LEAN_DEG, STANDS_ROCK_MM = 5.0, 0.5
_TURNS = np.linspace(0, 2 * np.pi, 24, endpoint=False)
PUSHED = np.stack([np.cos(_TURNS), np.sin(_TURNS)])  # the directions in which a foot is pushed at its rim


@dataclass(frozen=True, slots=True)
class FlatAt:
    """A flat at one stage: how far off it is at its worst, and whether that is within what it may be."""

    JSON: ClassVar[tuple[str, ...]] = ("stage", "name", "off_mm", "holds")  # what machines read

    stage: str
    name: str
    off_mm: Figure
    holds: bool


@dataclass(frozen=True, slots=True)
class FlatPlan:
    """A corridor or footprint: every stage that touches it."""

    JSON: ClassVar[tuple[str, ...]] = ("name", "stages")  # what machines read

    name: str
    stages: tuple[FlatAt, ...]

    @property
    def broken_at(self) -> FlatAt | None:
        """The first stage at which it does not hold."""
        return next((one for one in self.stages if not one.holds), None)


@cached_stage
def _mask(flat: Flat, ground_shape: tuple[int, int], cell_mm: float) -> Mask:
    line = line_of(flat)
    assert line is not None
    return np.asarray(share_of(line, ground_shape, cell_mm) >= 0.5)


@cached_stage
def off_flat(flat: Flat, ground: Ground, done: bool = True) -> Figure:
    """The greatest distance in mm of the ground from where a flat should be: its height if it has one and all that
    goes on it is `done`; else, for an outline, its own best plane; for a path, the even grade along it that fits best.
    """
    mask = _mask(flat, ground.shape, ground.cell_mm) & ground.on_base
    rows, columns = np.nonzero(mask)
    if not len(rows):
        return Figure(0.0, "mm", "no cell of the grid lies in it; make it larger or the grid finer")
    z = ground.z[mask]
    if flat.height_mm is not None and done:
        target, formula = np.full(len(z), flat.height_mm), "distance from its height"
    else:
        x, y = (columns + 0.5) * ground.cell_mm, (rows + 0.5) * ground.cell_mm
        if flat.path:
            strip = band(flat.path, flat.width_mm or 1.0, ground.shape, ground.cell_mm)
            along = np.zeros(ground.shape)
            along[strip.box] = strip.along
            known, formula = (
                np.stack([np.ones(len(z)), along[mask]], axis=1),
                "distance from the best even grade along it",
            )
        else:
            known, formula = np.stack([np.ones(len(z)), x, y], axis=1), "distance from the best plane through it"
        target = known @ np.linalg.lstsq(known, z, rcond=None)[0]
    off = z - target
    worst = int(np.abs(off).argmax())
    at_x, at_y = ground.point_of(int(rows[worst]), int(columns[worst]))
    return Figure(
        round(float(abs(off[worst])), 3), "mm", f"greatest {formula}",
        (Term("where", f"x {at_x:.0f}, y {at_y:.0f}, {'above' if off[worst] > 0 else 'below'} it"),
         Term("ground there", float(z[worst]), "mm"), Term("should be", float(target[worst]), "mm"),
         Term("may be off by", flat.flat_mm, "mm", "this scene")),
    )  # fmt: skip


def check_flats(scene: ResolvedScene, built: Build) -> dict[str, FlatPlan]:
    """Every flat against the bare forms and after every lift that changes the ground in it."""
    checks = {}
    for flat in scene.flats:
        mask = _mask(flat, built.bare.shape, built.bare.cell_mm)

        grounds = [("bare", "Forms", built.bare)] + [
            (lift_id, stage.site.lift.title, stage.after)
            for lift_id, stage in built.stages.items()
            if np.any(stage.after.z[mask] != stage.site.ground.z[mask])
        ]
        stages = []
        for stage, name, ground in grounds:
            off = off_flat(flat, ground, done=ground is grounds[-1][2])
            stages.append(FlatAt(stage, name, off, off.number <= flat.flat_mm + 1e-9))
        checks[flat.id] = FlatPlan(flat.name, tuple(stages))
    return checks


@dataclass(frozen=True, slots=True)
class FootTest:
    """A figure's foot at one place: how it leans, how far its rim drops when it is pushed, and whether it stands."""

    JSON: ClassVar[tuple[str, ...]] = ("at", "lean_deg", "rock_mm", "stands")  # what machines read

    at: tuple[float, float]
    lean_deg: Figure
    rock_mm: Figure
    stands: bool


def _foot(ground: Ground, at: tuple[float, float], diameter_mm: float) -> tuple[Array, Array] | None:
    """Ground under a round foot: points (n, 2) from its middle and heights; None where it hangs over an edge."""
    radius, cell = diameter_mm / 2 + 1e-9, ground.cell_mm
    first = [int(np.ceil((to - radius) / cell - 0.5)) for to in at]
    dx, dy = (
        (np.arange(start, (to + radius) / cell + 0.5) + 0.5) * cell - to for start, to in zip(first, at, strict=True)
    )
    row, column = np.nonzero(np.hypot(dx, dy[:, None]) <= radius)
    if len(row) < 4:
        return None
    points = np.stack([dx[column], dy[row]], axis=1)
    row, column = row + first[1], column + first[0]
    ny, nx = ground.shape
    if row.min() < 0 or column.min() < 0 or row.max() >= ny or column.max() >= nx:
        return None
    if not ground.on_base[row, column].all():
        return None
    return points, ground.z[row, column]


def stand(ground: Ground, at: tuple[float, float], diameter_mm: float) -> FootTest | None:
    """Put a rigid round foot down at a place: it comes to rest on the highest points round its middle (the facet of
    the upper hull over the middle); pushed at the rim it rocks about the edge of its support until something else
    touches. Source: statics of a rigid body on points. None where the foot would hang over the base's edge.
    """
    foot = _foot(ground, at, diameter_mm)
    if foot is None:
        return None
    points, heights = foot
    plane = _rest(points, heights)
    gap = plane[0] + points @ plane[1:] - heights
    touching = points[gap <= 0.02 + 1e-9]
    support = (touching @ PUSHED).max(axis=0)
    unsupported = diameter_mm / 2 - support
    beyond = points @ PUSHED - support
    out = beyond > ground.cell_mm / 2 + 1e-9
    tilt = np.divide(gap[:, None], beyond, out=np.full(beyond.shape, np.inf), where=out).min(axis=0)
    rocks = (unsupported > ground.cell_mm + 1e-9) & out.any(axis=0)
    worst = float((tilt * unsupported)[rocks].max(initial=0.0))
    lean = degrees(atan(float(np.hypot(plane[1], plane[2]))))
    cells = Term("cells under the foot", len(points))
    return FootTest(
        at,
        Figure(lean, "deg", "tilt of the plane that it rests on", (Term("foot", diameter_mm, "mm"), cells)),
        Figure(worst, "mm", "how far its rim drops when it is pushed down where it has least support",
               (Term("foot", diameter_mm, "mm"), cells)),
        lean <= STANDS_LEAN_DEG and worst <= STANDS_ROCK_MM,
    )  # fmt: skip


def _rest(points: Array, heights: Array) -> Array:
    """The plane (height at the middle, slope x, slope y) on which a foot rests: the lowest at its middle that lies
    nowhere below the ground."""
    from scipy.spatial import ConvexHull, QhullError

    if np.ptp(heights) < 1e-9:
        return np.array([heights[0], 0.0, 0.0])
    try:
        hull = ConvexHull(np.column_stack([points, heights]))
    except QhullError:  # the ground under it is one plane
        known = np.column_stack([np.ones(len(points)), points])
        return np.asarray(np.linalg.lstsq(known, heights, rcond=None)[0])
    up = hull.equations[hull.equations[:, 2] > 1e-9]
    planes = np.stack([-up[:, 3] / up[:, 2], -up[:, 0] / up[:, 2], -up[:, 1] / up[:, 2]], axis=1)
    return np.asarray(planes[int(planes[:, 0].argmin())])


@cached_stage
def standing_map(ground: Ground, diameter_mm: float, most: int = 700) -> tuple[FootTest, ...]:
    """The foot tried all over the board, at up to `most` places on a square lattice."""
    ny, nx = ground.shape
    width, depth = nx * ground.cell_mm, ny * ground.cell_mm
    step = max((width * depth / most) ** 0.5, ground.cell_mm)
    spots = [
        (x, y)
        for y in np.arange(step / 2, depth, step)
        for x in np.arange(step / 2, width, step)
    ]  # fmt: skip
    found = (stand(ground, (float(x), float(y)), diameter_mm) for x, y in spots)
    return tuple(one for one in found if one is not None)


@dataclass(frozen=True, slots=True)
class ProtectPlan:
    """What is masked, sealed or wiped: its area, length of tape or ml of sealer, and the lifts that could splash it."""

    JSON: ClassVar[tuple[str, ...]] = (
        "name",
        "how",
        "area_mm2",
        "near",
        "tape_mm",
        "seal_ml",
        "seal_h",
    )  # what machines read

    name: str
    how: str
    area_mm2: Figure
    near: tuple[str, ...]
    tape_mm: Figure | None = None
    seal_ml: Figure | None = None
    seal_h: Figure | None = None


def _wet_near(scene: ResolvedScene, built: Build, thing: Protect) -> list[tuple[Patch, Lift]]:
    """Lifts of patches within splashing distance, in the order of the document."""
    line = line_of(thing)
    assert line is not None
    from scipy.ndimage import distance_transform_edt

    masked = share_of(line, built.bare.shape, built.bare.cell_mm) > 0
    if not masked.any():
        return []
    away = distance_transform_edt(~masked) * built.bare.cell_mm
    near = away <= SPLASH_MM
    return [
        (patch, lift)
        for patch in scene.patches
        if built.covers[patch.id].mask[near].any()
        for lift in patch.lifts
    ]  # fmt: skip


@cached_stage
def _protected(thing: Protect) -> tuple[float, float]:
    """Plan area in mm2 and length of its edge in mm."""
    from shapely import LineString, Polygon

    if thing.outline:
        return float(Polygon(thing.outline).area), edge_length(thing.outline)
    strip = LineString(thing.path or ()).buffer((thing.width_mm or 0) / 2, cap_style="flat")
    return float(strip.area), float(strip.length)


def _sealed(thing: Protect, scene: ResolvedScene, area: Figure) -> tuple[Figure, Figure]:
    """(ml of the clear coat that seals it, hours until splashes wipe off). Raises Faults for what seals nothing."""
    material = next(one for one in scene.materials if one.id == thing.material)
    if not material.seals:
        where = f"protect[{scene.protect.index(thing)}].material"
        raise fault(where, f"'{material.id}' seals nothing", "name a varnish or a sealer, such as matt-varnish")
    film = material.film_mm or FILM_MM
    solids = material.dries.solids if material.dries else None
    water = film * material.density * 1000 * (1 - (1.0 if solids is None else solids))
    amount = Figure(
        area.number * film / 1000, "ml", "area × wet film",
        (area.term("area"), Term("wet film", film, "mm", f"label of {material.name}")),
    )  # fmt: skip
    return amount, drying_hours(
        water, film, material.dries.diffusivity_m2_s if material.dries else 1e-9, Climate.of(scene.room), READY_SHARE,
        "splashes wipe off at",
    )  # fmt: skip


def protections(scene: ResolvedScene, built: Build) -> dict[str, ProtectPlan]:
    """Everything on the protect list."""
    protected = {}
    for thing in scene.protect:
        area, edge = _protected(thing)
        wet = _wet_near(scene, built, thing)
        whole = Figure(area, "mm2", "plan area of what is protected", (Term("edge", edge, "mm"),))
        tape = Figure(
            edge * 1.05 + 4 * TAPE_MM, "mm", "edge + a twentieth for overlaps + corners",
            (Term("edge", edge, "mm"), Term("overlaps", 0.05 * edge, "mm", "craft estimate"),
             Term("corners", 4 * TAPE_MM, "mm", "craft estimate")),
        )  # fmt: skip
        protected[thing.id] = ProtectPlan(
            thing.name,
            thing.how,
            whole,
            tuple(lift.id for _, lift in wet),
            tape if thing.how == "mask" else None,
            *(_sealed(thing, scene, whole) if thing.how == "seal" else (None, None)),
        )
    return protected
