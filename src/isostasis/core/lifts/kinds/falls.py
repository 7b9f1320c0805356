"""Falling water: teased fibre soaked in resin, draped from a lip to its foot in thin layers, each gelled before the
next."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from math import asin, ceil, degrees, floor
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...catalogue import Material, Mix, Reacts
from ...catalogue.model import Id, Positive
from ...colour.light import Colours, linear
from ...document.outline import Path
from ...document.scene import Lift
from ...fault import fault
from ...figure import Figure, Term
from ...ground.field import Ground
from ...ground.offset import laid
from ...ground.raster import Array
from ...hardening.flow import clinging_film, mobility
from ...hardening.layer import RESIN, Courses, heat_from_label, working_minutes
from ...mixing.parts import wet
from ..alternative import Alternative
from ..amounts import mixed
from ..areas import Cover, share_of
from ..beds import PASSES, Drinking
from ..estimate import (
    Act,
    Course,
    Hours,
    Ingredient,
    Layer,
    LiftEstimate,
    LiftPlan,
    Notice,
    Window,
    heavy_cup,
    range_of,
    span,
)
from ..hands import SETUP_MIN
from ..labels import Labels
from ..site import Site
from .pour.heat import bed_under, bond_end, courses_of

FIBRE_G_M2 = 60.0  # of fibre a m2 of veil and layer, default
HAND_MM, STRAND_MM = 180.0, 80.0  # a piece that can be soaked and draped in one go, craft estimate
PIECE_MIN = 3.0  # to soak and drape one, craft estimate
TRAY_MIN = 5.0  # to line a tray, set it and mark the drip line, craft estimate
WHITE = 0.35  # of what lies beneath that a layer veils, craft estimate
LOWER_MM = 1.0  # less than this is no fall
GOOD_LAYERS = (2, 4)


class Falls(Lift):
    """Water that falls down `path`, lip first, so wide, in layers of fibre and resin. `free`: its first stretch hangs
    clear of the ground; the rest, foot and rapids, runs along it. Without a path it goes straight from the highest to
    the lowest spot of its patch."""

    kind: Literal["falls"] = "falls"
    levels_itself: ClassVar[bool] = False
    raises_ground: ClassVar[bool] = True
    shares_batches: ClassVar[bool] = False
    dries_as_bed: ClassVar[bool] = False
    wants_dry_bed: ClassVar[bool] = False
    names_material: ClassVar[tuple[str, ...]] = ("material",)
    names_mix: ClassVar[tuple[str, ...]] = ("mix",)
    mix: Id = "casting-resin"
    material: Id = "teased-cotton"
    path: Path | None = None
    width_mm: Annotated[Positive, Field(le=2000)] = 20.0
    layers: Annotated[int, Field(ge=1, le=12)] = 3
    free: bool = False


MODEL = Falls


def _labels(lift: Falls, labels: Labels, where: str) -> tuple[Mix, Reacts, Material]:
    """The resin, its own label, and the fibre. Raises Faults for others."""
    mix, fibre = labels.mixes[lift.mix], labels.materials[lift.material]
    if mix.reacts is None:
        raise fault(f"{where}.mix", f"'{mix.id}' is no resin", "name one such as casting-resin")
    if "teased" not in fibre.tags or not fibre.takes_water:
        raise fault(f"{where}.material", f"'{fibre.id}' is no teased fibre", "name teased-cotton, or one of your own")
    return mix, mix.reacts, fibre


@dataclass(frozen=True, slots=True)
class Way:
    """How the water runs: mm hung free and mm along the ground, how far it drops, mm, and its foot (x, y)."""

    free_mm: float
    ground_mm: float
    drop_mm: float
    foot: tuple[float, float] | None

    @property
    def length_mm(self) -> float:
        """All of it."""
        return self.free_mm + self.ground_mm

    @property
    def slope_deg(self) -> float:
        """On the mean, from lip to foot."""
        return degrees(asin(min(self.drop_mm / self.length_mm, 1.0)))


def path_of(lift: Falls, site: Site) -> Path | None:
    """Where it runs, lip first; None on a face that the ground cannot hold. Raises Faults where its patch is level."""
    if lift.path is not None or site.cover.face:
        return lift.path
    mask = site.cover.mask
    z, wrong = site.ground.z, ("its patch has no lip and no foot", "give it a path, lip first, or a patch on a slope")
    if not mask.any():
        raise fault(f"{site.where}.path", *wrong)
    ends = []
    for spot in (np.where(mask, z, -np.inf).argmax(), np.where(mask, z, np.inf).argmin()):
        row, column = np.unravel_index(int(spot), z.shape)
        ends.append(site.ground.point_of(int(row), int(column)))
    if ends[0] == ends[1]:
        raise fault(f"{site.where}.path", *wrong)
    return tuple(ends)


def way_of(lift: Falls, site: Site) -> Way:
    """How it runs on the ground before it. Raises Faults where the foot is not below the lip."""
    path = path_of(lift, site)
    if path is None:
        assert site.cover.face is not None
        face, down = site.cover.face, np.sin(np.radians(site.cover.face.slope_deg))
        long = face.face_mm2 / lift.width_mm
        if long * down < LOWER_MM:
            raise fault(f"{site.where}.path", "the face is level: nothing falls there", "give it a steeper face")
        hung, along = (long, 0.0) if lift.free else (0.0, long)
        return Way(hung, along, long * float(down), None)
    outside = [point for point in path if not _on(site.ground, point)]
    if outside:
        raise fault(f"{site.where}.path", "it leaves the base at {:g}, {:g}".format(*outside[0]), "keep it on the base")
    heights = _heights(site.ground, path)
    legs = [float(np.hypot(to - at, low - high)) for (at, high), (to, low) in pairwise(heights)]
    drop = float(heights[0][1] - heights[-1][1])
    if drop < LOWER_MM:
        raise fault(
            f"{site.where}.path",
            f"its foot stands at {heights[-1][1]:.3g} mm, its lip at {heights[0][1]:.3g} mm: nothing falls there",
            "begin at the higher end",
        )
    hung = 0.0
    if lift.free:
        run = float(np.hypot(path[1][0] - path[0][0], path[1][1] - path[0][1]))
        first = next(number for number, spot in enumerate(heights) if spot[0] >= run - 1e-6)
        hung = float(np.hypot(run, heights[0][1] - heights[first][1]))
        legs = legs[first:]
    return Way(hung, sum(legs), drop, path[-1])


def _on(ground: Ground, point: tuple[float, float]) -> bool:
    """Whether a point lies on the base."""
    (ny, nx), (x, y) = ground.shape, point
    beyond = not (0 <= x <= nx * ground.cell_mm and 0 <= y <= ny * ground.cell_mm)
    return not beyond and bool(ground.inside[ground.cell_at(x, y)] > 0)


def _heights(ground: Ground, path: Path) -> list[tuple[float, float]]:
    """(mm along the plan, height mm) at every corner of a path and every cell's width between them."""
    from scipy.ndimage import map_coordinates

    corners = np.asarray(path, dtype=float)
    ends = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))))
    between = [np.linspace(a, b, ceil((b - a) / ground.cell_mm) + 1)[:-1] for a, b in pairwise(ends)]
    along = np.concatenate((*between, ends[-1:]))
    x, y = (np.interp(along, ends, corners[:, axis]) / ground.cell_mm - 0.5 for axis in (0, 1))
    heights = map_coordinates(ground.z, np.array([y, x]), order=1, mode="nearest")
    return list(zip(along.tolist(), heights.tolist(), strict=True))


@dataclass(frozen=True, slots=True, eq=False)
class Veil:
    """One layer: mm of resin that clings on the mean and that the fibre holds, and how each layer cures."""

    way: Way
    film_mm: float
    fibre_mm: float
    courses: tuple[Courses, ...]
    mobile: float

    @property
    def deep_mm(self) -> float:
        """One layer, on the ground."""
        return self.film_mm + self.fibre_mm


def veil_of(lift: Falls, site: Site, labels: Labels) -> Veil:
    """What one layer is, on this ground in this room. The film is what has not run off when the resin gels: Jeffreys'
    film with the resin's own thickening, two thirds of that at the foot on the mean. Raises Faults."""
    mix, label, fibre = _labels(lift, labels, site.where)
    way = way_of(lift, site)
    density = wet(mix, labels.materials).density * 1000
    held = FIBRE_G_M2 * fibre.takes_water / 1000
    at = site.ground.cell_at(*way.foot) if way.foot else (0, 0)
    bed = bed_under(site, labels, at)
    courses = courses_of((held,) * lift.layers, bed, mix, label, site.climate)
    own = courses[0][0]
    mobile = mobility(own.hours, own.cure, label)
    film = 2 / 3 * clinging_film(1.0, way.length_mm, mobile, way.slope_deg, density) if mobile else 0.0
    return Veil(way, film, held, courses, mobile)


def _band(lift: Falls, site: Site) -> Array:
    """The share (ny, nx) of each cell that it runs along; a free fall hangs above and touches nothing."""
    path = path_of(lift, site)
    if path is None or (lift.free and len(path) == 2):
        return np.zeros(site.ground.shape)
    way = path[1:] if lift.free else path
    share = share_of(("path", way, lift.width_mm), site.ground.shape, site.ground.cell_mm)
    return np.minimum(share, site.ground.inside)


def covers(lift: Falls, site: Site, labels: Labels) -> Cover:
    """The band along its path, whoever owns the ground there."""
    return Cover(_band(lift, site), site.ground.inside, site.cover.face)


def lay(lift: Falls, site: Site) -> Ground:
    """The ground after it, raised by its layers where it runs along."""
    mask = covers(lift, site, Labels.of(site.scene)).mask
    if not mask.any():
        return site.ground
    deep = lift.layers * veil_of(lift, site, Labels.of(site.scene)).deep_mm
    return site.ground.dressed(laid(site.ground, mask, deep), lift.mix, mask, deep)


def estimate(lift: Falls, site: Site, labels: Labels) -> LiftEstimate:
    """Resin and fibre of every layer, pieces, waits for the gel, the tray below. Raises Faults."""
    mix, label, fibre = _labels(lift, labels, site.where)
    veil = veil_of(lift, site, labels)
    way, density = veil.way, wet(mix, labels.materials).density
    veil_mm2 = way.length_mm * lift.width_mm
    film_mm2 = (way.ground_mm + 2 * way.free_mm) * lift.width_mm
    clings, held = film_mm2 * veil.film_mm / 1000, veil_mm2 * veil.fibre_mm / 1000
    each = clings + held
    where = "lip to foot, along the ground" if not way.free_mm else f"{way.free_mm:.3g} mm of it free"
    length = Term("length", way.length_mm, "mm", where)
    wide, count = Term("width", lift.width_mm, "mm", "this scene"), Term("layers", lift.layers, "", "this scene")
    film = Term(
        "film that clings", veil.film_mm, "mm",
        f"Jeffreys (1930), {way.slope_deg:.0f}° on the mean, until the gel" + ("; both sides" if way.free_mm else ""),
    )  # fmt: skip
    soaked = Term("held by the fibre", veil.fibre_mm, "mm", f"{FIBRE_G_M2:g} g a m² × {fibre.takes_water:g} ml a g")
    volume = Figure(
        each * lift.layers, "ml", "length × width × (film + what the fibre holds) × layers",
        (length, wide, film, soaked, count),
    )  # fmt: skip
    heat = heat_from_label(label, mix.thermal or RESIN)
    pieces = ceil(way.length_mm / HAND_MM - 1e-9) * ceil(lift.width_mm / STRAND_MM - 1e-9)

    def working(batch_ml: float) -> float:
        return working_minutes(label, round(batch_ml, 1) or 0.1, density, heat.j_g, site.climate.temp_c[0])

    in_time = max(1, floor(working(min(site.bench.cup_ml, each * site.scene.copies)) / PIECE_MIN))
    needs = (each,) * lift.layers
    reckoned = mixed(
        site, labels, mix, needs, (volume.term("in place"),), site.bench.cup_ml, each / pieces * in_time
    )  # fmt: skip
    biggest = max(one.each_ml for one in reckoned.batches)
    workable = span(
        working(biggest) / 60, "the label's working time × gel of this batch here / gel of the label's batch",
        Term("on the label", label.working_min, "min", f"{label.pot_mass_g:g} g at {label.temp_c:g} °C"),
        Term("batch", biggest, "ml"),
    )  # fmt: skip
    fibre_g = Figure(
        veil_mm2 / 1e6 * FIBRE_G_M2 * lift.layers, "g", "length × width × 60 g a m² × layers", (length, wide, count)
    )
    fibre_ml = Figure(fibre_g.number / fibre.density, "ml", "mass / density, teased", (fibre_g.term("fibre"),))
    last, slow, quick = veil.courses[-1]
    cure = [
        span(
            getattr(last, name), f"a layer {veil.deep_mm:.2g} mm thick is {what}",
            Term("hard on the label", label.hard_h, "h", f"thin layer at {label.temp_c:g} °C"),
            **range_of(getattr(slow, name), getattr(quick, name)),
        )
        for name, what in (("gel_h", "gelled"), ("hard_h", "hard to touch"), ("full_h", "cured through"))
    ]  # fmt: skip
    gel, hard, full = cure
    bonds = site.above is None or site.above.levels_itself or site.above.kind == "falls"
    hours = Hours(workable, gel if bonds else hard, full, hard)
    windows = [Window("soak and drape, a piece at a time", 0.0, workable.value, "it still drips off the stick")]
    if gel.value is not None:
        windows.append(
            Window("next layer bonds", gel.value, bond_end(label, gel.value), "tacky, leaves no thread", code="gel")
        )
    if hard.value is not None:
        windows.append(Window("cut the drips off", hard.value, 2 * hard.value, "it cuts like cheese"))
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=reckoned.mix_ml,
        mass_g=reckoned.mass_g,
        ingredients=(*reckoned.ingredients, Ingredient(fibre.id, None, fibre_ml, fibre_g, aside="fibre")),
        layers=tuple(
            Layer(
                Figure(veil.deep_mm, "mm", "film + what the fibre holds", (film, soaked)),
                Figure(each, "ml", "all layers / layers", (volume.term("all"), count)),
            )
            for _ in needs
        ),
        hours=hours,
        windows=tuple(windows),
        look_for=(*fibre.look_for, "strands hang plumb, thinner towards the foot"),
        warnings=(*_warnings(lift, site, veil), *heavy_cup(biggest * density)),
    )
    minutes = SETUP_MIN + PIECE_MIN * pieces * site.scene.copies
    courses = tuple(
        Course(
            do=f"Soak {pieces} piece{'s' if pieces > 1 else ''} of {fibre.name.lower()} in {mix.name.lower()}, one at "
            f"a time, and drape {'them' if pieces > 1 else 'it'} on {site.patch.name} from lip to foot"
            + (f", layer {number} of {lift.layers}" if lift.layers > 1 else ""),
            batches=batches,
            working_min=working(batches.each_ml),
            hands_on_min=minutes,
            wait_h=course[0].gel_h if number < lift.layers else hours.wait_h(site.above is None),
            before=_tray(lift, site) if number == 1 else None,
            acts=_trim(site, course[0].hard_h) if number == lift.layers else (),
        )
        for number, (batches, course) in enumerate(zip(reckoned.batches, veil.courses, strict=True), start=1)
    )
    return LiftEstimate(plan, mix, courses, labels.hazards(mix) | {"drips"})


def _tray(lift: Falls, site: Site) -> Act:
    """The lined tray below, and the line to which it may drip."""
    do = (
        f"Set a lined tray under {site.patch.name}, {lift.width_mm + 2 * STRAND_MM:.0f} mm wide, and mark the drip line"
    )
    return Act("tray", do, "", 0.0, None, TRAY_MIN)


def _trim(site: Site, hard_h: float | None) -> tuple[Act, ...]:
    """The drips cut off, between hard and twice hard."""
    if hard_h is None:
        return ()
    do = f"Cut the drips off {site.patch.name} along the drip line, and take the tray away"
    until = max(2 * hard_h, hard_h + 24.0)
    return (Act("trim", do, "hard, not aged", hard_h, until, TRAY_MIN, frozenset({"cutting"})),)


def _warnings(lift: Falls, site: Site, veil: Veil) -> list[Notice]:
    out = []
    low, high = GOOD_LAYERS
    if not low <= lift.layers <= high:
        looks = "shows as bare fibre" if lift.layers < low else "looks like wax"
        out.append(
            Notice("falls-layers", f"{lift.layers} layer{'s' * (lift.layers > 1)}: it {looks}. Take {low} to {high}.")
        )
    if veil.courses[-1][0].full_h is None:
        out.append(Notice("stays-soft", "In this room it never cures through. Warm the room."))
    pool = _pool_below(lift, site, veil.way)
    if pool:
        out.append(pool)
    return out


def _pool_below(lift: Falls, site: Site, way: Way) -> Notice | None:
    """What is told of the pool that its foot stands over: poured first, or after."""
    if way.foot is None:
        return None
    spot = site.ground.cell_at(*way.foot)
    owner = next((patch for patch in site.scene.patches if site.covers[patch.id].mask[spot]), None)
    pours = [one for one in owner.lifts if one.levels_itself] if owner else []
    if owner is None or not pours:
        return None
    lifts = site.patch.lifts
    earlier = {*lift.after, *(one.id for one in lifts[: lifts.index(site.lift)])}
    if any(one.id in earlier for one in pours):
        text = f"Its foot lies on the water in {owner.name}: stipple it on while that still bonds, or scuff it first."
        return Notice(
            "falls-on-pool", text, "Cured resin past its last hour to bond holds nothing that is only laid on."
        )
    text = (
        f"The water in {owner.name} is poured after it: its foot then stands in the pool, and drips lie under it. "
        f"For a foot on the water, let it wait for {pours[-1].title.lower()}."
    )
    return Notice("falls-in-pool", text, "Both are done; a pool poured first shows the foam on its face.")


def look(lift: Falls, below: Colours, labels: Labels, drop_ml: float) -> Colours:
    """White as foam, the more the more layers."""
    shows = (1 - WHITE) ** lift.layers
    return np.asarray(shows * below + (1 - shows) * linear(labels.materials[lift.material].colour))


def drinks(lift: Falls, labels: Labels, filled: float) -> Drinking:
    """It lies on a band of its patch alone: the rest stays as it was."""
    return PASSES


def edge_mm(lift: Falls, site: Site, labels: Labels) -> float:
    """Too thin for a step."""
    return 0.0


def mess(lift: Falls, mix: Mix) -> str:
    """Resin."""
    return "resin"


def traits(lift: Falls, labels: Labels) -> frozenset[str]:
    """Nothing that rules go by beyond its kind and family."""
    return frozenset()


ALTERNATIVE_FAMILIES: tuple[str, ...] = ()
SOONEST = ""  # the figure by which one alternative is over sooner than another; empty: none is tried for time


def alternatives(
    lift: Falls, site: Site, labels: Labels, beneath: Colours, try_out: Callable[[Lift], LiftEstimate]
) -> dict[str, Alternative]:
    """None are compared."""
    return {}


def chosen(lift: Falls) -> str:
    """No alternative is the present one."""
    return ""


def adopt(lift: Falls, name: str) -> Lift | None:
    """There is nothing to swap it for. Raises KeyError."""
    raise KeyError(name)


def may_replace(lift: Falls, name: str, labels: Labels) -> bool:
    """No alternative is tried for time."""
    return False


def quicker(lift: Falls, made: LiftPlan) -> list[tuple[str, Lift]]:
    """Fewer layers would be another fall."""
    return []


def as_planned(lift: Falls, made: LiftPlan) -> Lift:
    """It stays as it is in any room."""
    return lift


def extent(lift: Falls) -> float:
    """Layers of it."""
    return float(lift.layers)


def with_extent(lift: Falls, amount: float) -> Lift:
    """So many layers, a part of one counted whole."""
    return lift.model_copy(update={"layers": max(1, ceil(amount - 1e-9))})
