"""How a pour of resin goes, hour by hour: its heat and cure, its waves, how far it runs, whether bubbles get out, and
what its tint does to the bed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ....catalogue import Material, Mix
from ....colour.light import Colours, hexed, linear
from ....colour.tint import DROP_ML, GONE, SHOWS, bed_to_look, drop_strength, drops_until, tinted
from ....figure import Figure, Term
from ....ground.field import tilted
from ....ground.filling import volume_for_level
from ....ground.meniscus import shore
from ....ground.raster import Array
from ....hardening.flow import bubble_height, channel_reach, least_cover, mobility, puddle_reach, wave_kept
from ....hardening.layer import RESIN, gel_in_cup, heat_from_label
from ....mixing.parts import wet
from ...labels import Labels
from ...site import Site
from .fill import PourFill, pour_fill, split_of
from .pools import PourLift

POINTS = 120  # of a curve: what a screen shows
RIPPLES_MM = (5.0, 15.0, 40.0)
KEPT_CUP = 0.05  # of the cup, left on its walls and floor
KEPT = 0.01  # of a ripple: less is nothing
BUBBLE_MM = 0.5
BED_CONTRAST = 0.35  # how much darker the dark parts of a bed are than its mean light, craft estimate


@dataclass(frozen=True, slots=True)
class Curve:
    """One lift hour by hour (n,): core and top face in degC, degree of cure; hours to gel and hard (None: never)."""

    lift: int
    hours: Array
    core_c: Array
    top_c: Array
    cure: Array
    gel_h: float | None
    hard_h: float | None


def curves(lift: PourLift, site: Site, labels: Labels) -> tuple[Curve, ...]:
    """The course of every lift of a pour. Empty for what dries."""
    if labels.mixes[lift.mix].reacts is None:
        return ()
    lines = []
    for number, (course, _, _) in enumerate(
        split_of(lift, site, labels, pour_fill(lift, site, labels)).courses, start=1
    ):
        end = course.full_h or float(course.hours[-1])
        hours = np.linspace(0.0, end * 1.05, POINTS)
        core, top, cure = (np.interp(hours, course.hours, one) for one in (course.core_c, course.top_c, course.cure))
        lines.append(Curve(number, hours, core, top, cure, course.gel_h, course.hard_h))
    return tuple(lines)


def waves(lift: PourLift, site: Site, labels: Labels) -> dict[float, tuple[Array, Array]]:
    """Of the last lift, by ripple length in mm: hours from when anything is kept to the gel, and the share of a ripple
    pushed then that is kept. Empty for what dries or never gels."""
    mix = labels.mixes[lift.mix]
    if mix.reacts is None:
        return {}
    plan = split_of(lift, site, labels, pour_fill(lift, site, labels))
    last, depth = plan.courses[-1][0], plan.depths[-1]
    if last.gel_h is None:
        return {}
    density = wet(mix, labels.materials).density * 1000
    hours = np.linspace(0.0, last.gel_h, 4000)
    cure = np.interp(hours, last.hours, last.cure)
    cure[-1] = mix.reacts.gel
    kept = {ripple: wave_kept(hours, cure, mix.reacts, depth, ripple, density) for ripple in RIPPLES_MM}
    first = min(int(np.argmax(one >= KEPT)) for one in kept.values())
    step = np.linspace(first, len(hours) - 1, POINTS).astype(int)
    return {ripple: (hours[step], one[step]) for ripple, one in kept.items()}


@dataclass(frozen=True, slots=True)
class Flow:
    """How the first lift runs before it gels: how far it spreads from one point and, in a channel of the pool's width,
    along it; how many points to pour at; the thinnest film that closes by itself; how high a small bubble gets."""

    spreads_mm: Figure
    runs_mm: Figure
    points: Figure
    closes_mm: Figure
    bubble_mm: Figure
    cup_h: Figure


@dataclass(frozen=True, slots=True)
class Dam:
    """What stands against the base's edge: mm of dam that is wetted, how high, and ml that a leak at its foot, and one
    half way up, would lose."""

    length_mm: Figure
    height_mm: Figure
    foot_leak_ml: Figure
    half_leak_ml: Figure


def dams(lift: PourLift, site: Site, labels: Labels) -> Dam | None:
    """The dam that a pour leans on. None where no edge holds it."""
    stood, ground = pour_fill(lift, site, labels), site.ground
    z = tilted(ground, site.scene.base)
    wet = np.zeros(z.shape, dtype=bool)
    level = max((pool.level_mm for pool in stood.fill.pools), default=0.0)
    length = 0.0
    for pool in stood.fill.pools:
        wet |= pool.cells
        length += shore(ground, z, pool)[2]
    if length <= 0:
        return None
    padded = np.pad(ground.on_base, 1)
    inner = padded[:-2, 1:-1] & padded[2:, 1:-1] & padded[1:-1, :-2] & padded[1:-1, 2:]
    edge = wet & ground.on_base & ~inner
    foot = float(z[edge].min()) if edge.any() else level
    half = (foot + level) / 2

    def lost(at: float) -> float:
        return sum(
            pool.volume_ml
            - volume_for_level(z[pool.cells], ground.cell_area, min(at, pool.level_mm), ground.inside[pool.cells])
            for pool in stood.fill.pools
        )

    stands = Term("level", level, "mm")
    return Dam(
        Figure(length, "mm", "edge of the base under water", (stands,)),
        Figure(level - foot, "mm", "level − lowest ground at that edge", (stands, Term("foot", foot, "mm"))),
        Figure(lost(foot), "ml", "what stands above the leak, all pools", (stands, Term("leak at", foot, "mm"))),
        Figure(lost(half), "ml", "what stands above the leak, all pools", (stands, Term("leak at", half, "mm"))),
    )


def flow(lift: PourLift, site: Site, labels: Labels) -> Flow | None:
    """How a pour of resin runs. None for what dries, or never gels."""
    mix = labels.mixes[lift.mix]
    if mix.reacts is None:
        return None
    stood = pour_fill(lift, site, labels)
    plan = split_of(lift, site, labels, stood)
    first = plan.courses[0][0]
    if first.gel_h is None or not stood.fill.pools:
        return None
    density = wet(mix, labels.materials).density * 1000
    mobile = mobility(first.hours, first.cure, mix.reacts)
    share = plan.depths[0] / sum(plan.depths)
    volume = stood.pools_ml * share
    long, wide = _size(stood, site)
    spreads = puddle_reach(volume, mobile, density)
    runs = channel_reach(volume * 1000 / max(wide, site.ground.cell_mm), mobile, density)
    gel = Term("gels after", first.gel_h, "h", "this lift, on this bed")
    thick = Term("viscosity at first", mix.reacts.viscosity_pa_s, "Pa.s", f"label of {mix.name}, thickening to the gel")
    poured = Term("first lift", volume, "ml")
    reach = max(spreads, runs)
    count = max(1, int(np.ceil(long / (2 * reach) - 1e-9)))
    closes = least_cover(mix.reacts.surface_tension_n_m, density, mix.reacts.contact_angle_deg + 10)
    return Flow(
        Figure(spreads, "mm", "0.894 (g V³ / 3ν)^⅛ t^⅛, from a point (Huppert, 1982)", (poured, thick, gel)),
        Figure(runs, "mm", "1.411 (g q³ / 3ν)^⅕ t^⅕, along a channel (Huppert, 1982)",
               (poured, Term("pool across", wide, "mm"), thick, gel)),
        Figure(count, "points" if count > 1 else "point", "length of the pool / twice how far it reaches, rounded up",
               (Term("pool along", long, "mm"), Term("reaches", reach, "mm"))),
        Figure(closes, "mm", "2 a sin(θ/2), a the capillary length: thinner must be spread by hand",
               (Term("contact angle", mix.reacts.contact_angle_deg + 10, "deg", "advancing, craft estimate"),)),
        Figure(bubble_height(BUBBLE_MM, mobile, density), "mm", "ρ g d² / 12 μ to the gel (Hadamard, Rybczynski)",
               (Term("bubble", BUBBLE_MM, "mm"), thick, gel, Term("lift", plan.depths[0], "mm", "what it must rise"))),
        _kept_cup(lift, site, labels, mix, plan.courses[0][0].gel_h or 0.0),
    )  # fmt: skip


def _kept_cup(lift: PourLift, site: Site, labels: Labels, mix: Mix, gel_h: float) -> Figure:
    """When what is left in the mixing cup gels, beside the layer."""
    assert mix.reacts is not None
    heat = heat_from_label(mix.reacts, mix.thermal or RESIN)
    kept = site.bench.cup_ml * KEPT_CUP
    hours = gel_in_cup(mix.reacts, kept, heat.j_g, site.climate.temp_c[0])
    terms = Term("left in the cup", kept, "ml", "a twentieth of your cup"), Term("the layer gels after", gel_h, "h")
    return Figure(hours, "h", "the rest in the cup, its own heat kept in (lumped)", terms)


def _size(stood: PourFill, site: Site) -> tuple[float, float]:
    """(length, width) in mm of the largest pool's smallest rectangle."""
    pool = max(stood.fill.pools, key=lambda one: one.volume_ml)
    rows, columns = np.nonzero(pool.cells)
    spots = np.stack((columns, rows), axis=1).astype(float)
    spots -= spots.mean(axis=0)
    if len(spots) < 3:
        return site.ground.cell_mm, site.ground.cell_mm
    axes = np.linalg.svd(spots, full_matrices=False)[2]
    sides = np.ptp(spots @ axes.T, axis=0) + 1
    return float(sides.max()) * site.ground.cell_mm, float(sides.min()) * site.ground.cell_mm


@dataclass(frozen=True, slots=True)
class TintChips:
    """What drops (`counted`), or grams, of a tint do over this bed: depths in mm, and for each count in 100 ml the
    colours (hex) at those depths, wet and cured; what the bed is painted to look at each depth as it does bare, with
    how that looks then; and how many let what is aimed at come true (None: more than can be told)."""

    material: str
    counted: str
    depths: tuple[float, ...]
    rows: tuple[tuple[float, tuple[tuple[str, str], ...]], ...]
    painted: tuple[tuple[str, str], ...]
    aimed: Figure


AIMS = {"vanish": GONE, "show": SHOWS}
MILKY = 0.7  # of what dries, wet, that hides what is under it, craft estimate


def tint_chips(
    ink: Material, mix: Mix, deepest_mm: float, bed: Colours, counts: tuple[float, ...], chosen: float,
    aim: str = "vanish", at_mm: float | None = None,
) -> TintChips:  # fmt: skip
    """A tint in a mix over a bed of one colour (linear), from the shore to the deepest, for counts of drops, or of
    grams of a powder, in 100 ml; `chosen` is the count that the bed is painted for. `aim` "vanish": the bed just
    vanishes at `at_mm` (the deepest unless given), "show": stones still show there."""
    drop = drop_strength(linear(ink.colour), ink.opacity, ink.strength)
    each = 1 / ink.density / DROP_ML if ink.weighed else 1.0  # drops that one of them counts for
    unit, what = ("g", "grams") if ink.weighed else ("drops", "drops")
    depths = tuple(float(deepest_mm * share) for share in (0.0, 0.1, 0.25, 0.5, 0.75, 1.0))

    def seen(over: Colours, count: float, depth: float) -> Colours:
        return np.clip(tinted(over, [(*drop, count * each)], depth), 0, 1)

    def both(count: float, depth: float) -> tuple[str, str]:
        cured = seen(bed, count, depth)
        milk = 0.0 if mix.reacts is not None or depth == 0 else MILKY
        return hexed(milk * linear(mix.colour) + (1 - milk) * cured), hexed(cured)

    rows = tuple((count, tuple(both(count, depth) for depth in depths)) for count in counts)
    paints = [np.clip(bed_to_look(bed, [(*drop, chosen * each)], depth), 0, 1) for depth in depths]
    painted = tuple(
        (hexed(paint), hexed(seen(paint, chosen, depth))) for paint, depth in zip(paints, depths, strict=True)
    )
    dark, light = np.clip(bed * (1 - BED_CONTRAST), 0, 1), np.clip(bed * (1 + BED_CONTRAST), 0, 1)
    at = max(deepest_mm if at_mm is None else at_mm, 0.1)
    drops = drops_until((dark, light), drop, at, AIMS[aim])
    terms = (
        Term("at a depth of", at, "mm"),
        Term("bed", hexed(bed), "", "as its lay-up leaves it"),
        Term("its dark and light parts", f"{hexed(dark)}, {hexed(light)}", "", f"± {BED_CONTRAST:.0%}, craft estimate"),
        Term(
            "differ there by",
            AIMS[aim],
            "",
            "CIEDE2000" + (": just not told" if aim == "vanish" else ": told at a glance"),
        ),
        Term("a drop in 100 ml absorbs", float(drop[0].max()), "1/mm", f"label of {ink.name}, craft estimate"),
        Term("and scatters", float(drop[1].max()), "1/mm"),
    )
    goal = "are hard to tell apart" if aim == "vanish" else "are still told at a glance"
    formula = f"Kubelka (1948): {what} at which dark and light parts of the bed {goal}"
    aimed = Figure(drops and drops / each, unit, formula, terms, code="" if drops is not None else "no-limit")
    return TintChips(ink.id, what, depths, rows, painted, aimed)
