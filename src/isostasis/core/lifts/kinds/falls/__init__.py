"""Falling water: teased fibre soaked in resin, draped from a lip to its foot in thin layers, each gelled before the
next."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import ceil, floor

import numpy as np

from ....catalogue import Material, Mix, Reacts
from ....colour.light import Colours, linear
from ....document.scene import Lift
from ....fault import fault
from ....figure import Figure, Term
from ....ground.field import Ground
from ....ground.offset import laid
from ....ground.raster import Array
from ....hardening.flow import clinging_film, mobility
from ....hardening.layer import RESIN, Courses, heat_from_label, working_minutes
from ....mixing.batches import Batches
from ....mixing.parts import wet
from ...alternative import Alternative
from ...amounts import mixed
from ...areas import Cover, share_of
from ...beds import PASSES, Drinking
from ...estimate import (
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
from ...hands import SETUP_MIN
from ...labels import Labels
from ...site import Site
from ..pour.heat import bed_under, bond_end, courses_of
from .way import Falls, Way, path_of, way_of

FIBRE_G_M2 = 60.0  # of fibre a m2 of veil and layer, default
HAND_MM, STRAND_MM = 180.0, 80.0  # a piece that can be soaked and draped in one go, craft estimate
PIECE_MIN = 3.0  # to soak and drape one, craft estimate
TRAY_MIN = 5.0  # to line a tray, set it and mark the drip line, craft estimate
WHITE = 0.35  # of what lies beneath that a layer veils, craft estimate
GOOD_LAYERS = (2, 4)


MODEL = Falls


def _labels(lift: Falls, labels: Labels, where: str) -> tuple[Mix, Reacts, Material]:
    """The resin, its own label, and the fibre. Raises Faults for others."""
    mix, fibre = labels.mixes[lift.mix], labels.materials[lift.material]
    if mix.reacts is None:
        raise fault(f"{where}.mix", f"'{mix.id}' is no resin", "name one such as casting-resin")
    if "teased" not in fibre.tags or not fibre.takes_water:
        raise fault(f"{where}.material", f"'{fibre.id}' is no teased fibre", "name teased-cotton, or one of your own")
    return mix, mix.reacts, fibre


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


@dataclass(frozen=True, slots=True)
class _Amounts:
    """What all layers take, and one of them; `terms` of its thickness, `count` of layers."""

    each_ml: float
    volume: Figure
    fibre_ml: Figure
    fibre_g: Figure
    terms: tuple[Term, Term]
    count: Term


def _amounts(lift: Falls, veil: Veil, fibre: Material) -> _Amounts:
    way = veil.way
    veil_mm2 = way.length_mm * lift.width_mm
    film_mm2 = (way.ground_mm + 2 * way.free_mm) * lift.width_mm
    each = film_mm2 * veil.film_mm / 1000 + veil_mm2 * veil.fibre_mm / 1000
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
    fibre_g = Figure(
        veil_mm2 / 1e6 * FIBRE_G_M2 * lift.layers, "g", "length × width × 60 g a m² × layers", (length, wide, count)
    )
    fibre_ml = Figure(fibre_g.number / fibre.density, "ml", "mass / density, teased", (fibre_g.term("fibre"),))
    return _Amounts(each, volume, fibre_ml, fibre_g, (film, soaked), count)


def _hours(site: Site, label: Reacts, veil: Veil, working_min: float, batch_ml: float) -> Hours:
    """From the batch mixed: workable, the next layer, cured through, hard. The last layer's course is theirs."""
    workable = span(
        working_min / 60, "the label's working time × gel of this batch here / gel of the label's batch",
        Term("on the label", label.working_min, "min", f"{label.pot_mass_g:g} g at {label.temp_c:g} °C"),
        Term("batch", batch_ml, "ml"),
    )  # fmt: skip
    last, slow, quick = veil.courses[-1]
    gel, hard, full = (
        span(
            getattr(last, name), f"a layer {veil.deep_mm:.2g} mm thick is {what}",
            Term("hard on the label", label.hard_h, "h", f"thin layer at {label.temp_c:g} °C"),
            **range_of(getattr(slow, name), getattr(quick, name)),
        )
        for name, what in (("gel_h", "gelled"), ("hard_h", "hard to touch"), ("full_h", "cured through"))
    )  # fmt: skip
    bonds = site.above is None or site.above.levels_itself or site.above.kind == "falls"
    return Hours(workable, gel if bonds else hard, full, hard)


def _windows(label: Reacts, workable_h: float | None, gel_h: float | None, hard_h: float | None) -> list[Window]:
    windows = [Window("soak and drape, a piece at a time", 0.0, workable_h, "it still drips off the stick")]
    if gel_h is not None:
        windows.append(Window("next layer bonds", gel_h, bond_end(label, gel_h), "tacky, leaves no thread", code="gel"))
    if hard_h is not None:
        windows.append(Window("cut the drips off", hard_h, 2 * hard_h, "it cuts like cheese"))
    return windows


def _pieces(lift: Falls, way: Way) -> int:
    """Pieces of fibre of one layer, each soaked and draped in one go."""
    return ceil(way.length_mm / HAND_MM - 1e-9) * ceil(lift.width_mm / STRAND_MM - 1e-9)


def _courses(
    lift: Falls, site: Site, labels: Labels, veil: Veil, batches_of: Sequence[Batches],
    working: Callable[[float], float], wait_h: float | None,
) -> tuple[Course, ...]:  # fmt: skip
    """One for each layer: its pieces are soaked and draped; the tray before the first, the drips cut after the last."""
    pieces = _pieces(lift, veil.way)
    minutes = SETUP_MIN + PIECE_MIN * pieces * site.scene.copies
    fibre, resin = (one.name.lower() for one in (labels.materials[lift.material], labels.mixes[lift.mix]))
    many = pieces > 1
    words = (
        f"Soak {pieces} piece{'s' if many else ''} of {fibre} in {resin}, one at a time, and drape "
        f"{'them' if many else 'it'} on {site.patch.name} from lip to foot"
    )
    return tuple(
        Course(
            do=words + (f", layer {number} of {lift.layers}" if lift.layers > 1 else ""),
            batches=batches,
            working_min=working(batches.each_ml),
            hands_on_min=minutes,
            wait_h=course[0].gel_h if number < lift.layers else wait_h,
            before=_tray(lift, site) if number == 1 else None,
            acts=_trim(site, course[0].hard_h) if number == lift.layers else (),
        )
        for number, (batches, course) in enumerate(zip(batches_of, veil.courses, strict=True), start=1)
    )


def estimate(lift: Falls, site: Site, labels: Labels) -> LiftEstimate:
    """Resin and fibre of every layer, pieces, waits for the gel, the tray below. Raises Faults."""
    mix, label, fibre = _labels(lift, labels, site.where)
    veil = veil_of(lift, site, labels)
    density = wet(mix, labels.materials).density
    amounts = _amounts(lift, veil, fibre)
    heat = heat_from_label(label, mix.thermal or RESIN)

    def working(batch_ml: float) -> float:
        return working_minutes(label, round(batch_ml, 1) or 0.1, density, heat.j_g, site.climate.temp_c[0])

    each, cup_ml = amounts.each_ml, site.bench.cup_ml
    in_time = max(1, floor(working(min(cup_ml, each * site.scene.copies)) / PIECE_MIN))
    reckoned = mixed(
        site, labels, mix, (each,) * lift.layers, (amounts.volume.term("in place"),), cup_ml,
        each / _pieces(lift, veil.way) * in_time,
    )  # fmt: skip
    biggest = max(one.each_ml for one in reckoned.batches)
    hours = _hours(site, label, veil, working(biggest), biggest)
    layer = Layer(
        Figure(veil.deep_mm, "mm", "film + what the fibre holds", amounts.terms),
        Figure(each, "ml", "all layers / layers", (amounts.volume.term("all"), amounts.count)),
    )
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=amounts.volume,
        mix_ml=reckoned.mix_ml,
        mass_g=reckoned.mass_g,
        ingredients=(
            *reckoned.ingredients,
            Ingredient(fibre.id, None, amounts.fibre_ml, amounts.fibre_g, aside="fibre"),
        ),
        layers=(layer,) * lift.layers,
        hours=hours,
        windows=tuple(_windows(label, hours.workable.value, veil.courses[-1][0].gel_h, hours.usable.value)),
        look_for=(*fibre.look_for, "strands hang plumb, thinner towards the foot"),
        warnings=(*_warnings(lift, site, veil), *heavy_cup(biggest * density)),
    )
    wait_h = hours.wait_h(site.above is None)
    courses = _courses(lift, site, labels, veil, reckoned.batches, working, wait_h)
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
