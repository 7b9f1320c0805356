"""What stands once a pour is done, and how its depth is shared out into lifts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from ....fault import fault
from ....figure import Figure, Term
from ....ground.field import tilted
from ....ground.filling import Filled, Pool, level_for_volume, volume_for_level
from ....ground.raster import Array
from ....ground.spill import hollow_of
from ....hardening.layer import RESIN, heat_from_label, rested_in_cup
from ....units import show
from ...estimate import Notice, PoolFigures
from ...labels import Labels
from ...site import Site
from .heat import Split, bed_under, by_heat, courses_of
from .pools import PourLift, bed_drinks, displaced_ml, filled, start_of, stays_of

REFUSED_C = 100.0
CUP_C = 50.0  # a cup that gets as hot runs away
RESTS_TO = 0.6  # of the gel: beyond it can be poured no more, craft estimate


def layer_volumes(site: Site, z: Array, pools: tuple[Pool, ...], depths: tuple[float, ...]) -> tuple[float, ...]:
    """ml of each layer from the bed up, all pools together; layers are counted down from each pool's surface."""
    tops = [0.0]
    for depth in reversed(depths):
        tops.append(tops[-1] + depth)
    inside, area = site.ground.inside, site.ground.cell_area
    beds = [(pool.level_mm, z[pool.cells], inside[pool.cells]) for pool in pools]
    below = [
        sum(volume_for_level(bed, area, level - top, share) for level, bed, share in beds) for top in tops[:-1]
    ] + [0.0]
    return tuple(below[index] - below[index + 1] for index in reversed(range(len(depths))))


@dataclass(frozen=True, slots=True, eq=False)
class PourFill:
    """What stands once a pour is done: its pools, ml in them with what stands in them and ml of that, what the bed has
    drunk and what is lost, as poured; `volume` is the plan's figure of it. Where nothing stands, its depth is 0."""

    fill: Filled
    lowest: tuple[int, int]  # the cell of its deepest point
    depth_mm: float
    pools_ml: float
    stood_ml: float
    drunk: Figure
    lost: Figure
    volume: Figure
    notices: tuple[Notice, ...] = ()

    @property
    def liquid_ml(self) -> float:
        """ml of liquid in the pools."""
        return self.pools_ml - self.stood_ml


def pour_fill(lift: PourLift, site: Site, labels: Labels) -> PourFill:
    """Where a pour stands. Raises Faults where a level or depth fills nothing or runs over."""
    fill = filled(lift, site)
    pools = fill.pools
    pools_ml, stood_ml = sum(pool.volume_ml for pool in pools), displaced_ml(lift, pools)
    beds = bed_drinks(lift, site, pools)
    drunk_ml = sum(one.figure.number for one in beds)
    stays = stays_of(lift, labels)
    lost_ml = fill.lost_ml / stays
    if lift.volume_ml is not None and (beds or not pools):  # to the last cell that it wets, which may not be full
        drunk_ml = max(lift.volume_ml - (pools_ml - stood_ml) / stays - lost_ml, 0.0)
    elif lift.volume_ml is not None and stood_ml:  # likewise what stands in it, whose pools may meet at that very level
        stood_ml = max(pools_ml - (lift.volume_ml - lost_ml) * stays, 0.0)
    deepest = max(pools, key=lambda pool: pool.deepest_mm, default=None)
    terms: tuple[Term, ...] = ()
    if deepest:
        terms = (
            Term("in the pools" if len(pools) > 1 else "in the pool", pools_ml, "ml", "level × cells below it"),
            Term("level", deepest.level_mm, "mm"),
            Term("deepest", deepest.deepest_mm, "mm"),
            *((Term("what stands in it takes", stood_ml, "ml", "area × mean depth"),) if stood_ml else ()),
        )
    if lift.volume_ml is None:
        formula = "sum over wet cells of (level − ground) × cell area" + (" − what stands in it" if lift.stands else "")
        volume = Figure(pools_ml - stood_ml, "ml", formula, terms)
    else:
        gone = Term("drunk by the bed", drunk_ml, "ml"), Term("lost over the edge", lost_ml, "ml")
        dries = (Term("stays of what dries", stays),) if stays < 1 else ()
        formula = "as given: in pools + drunk + lost" + (", in pools with the water that leaves" if dries else "")
        volume = Figure(lift.volume_ml, "ml", formula, (*terms, *gone, *dries))
    drunk = Figure(drunk_ml, "ml", "wetted area × porous depth × voids × 0.6, up to its own level",
                   tuple(one.figure.term(one.patch.name, "unsealed") for one in beds))  # fmt: skip
    if lift.volume_ml is None and any(one.figure.low is not None for one in beds):
        low, high = (sum(_end(one.figure, end) for one in beds) for end in ("low", "high"))
        drunk = replace(drunk, low=low, high=high)
    lowest = deepest.lowest if deepest else start_of(lift, site, tilted(site.ground, site.scene.base))
    depth = deepest.deepest_mm if deepest else 0.0
    lost = Figure(lost_ml, "ml", "what ran over an open edge")
    return PourFill(fill, lowest, depth, pools_ml, stood_ml, drunk, lost, volume, _gone(fill, lost_ml, drunk_ml))


def _end(figure: Figure, end: Literal["low", "high"]) -> float:
    found = figure.low if end == "low" else figure.high
    return figure.number if found is None else found


def _gone(fill: Filled, lost_ml: float, drunk_ml: float) -> tuple[Notice, ...]:
    """What is said of a volume that is lost over an edge, or that the bed drinks whole."""
    said = []
    if lost_ml > 0 and fill.lost_at:
        x, y = fill.lost_at
        lost = " ".join(show(lost_ml, "ml"))
        whole = "all of it" if not fill.pools and not drunk_ml else lost
        runs = "runs" if whole != lost else "run"
        said.append(Notice("lost", f"{whole.capitalize()} {runs} over the open edge near x {x:.0f}, y {y:.0f}: "
                                   "dam it, or pour less."))  # fmt: skip
    if not fill.pools and drunk_ml:
        drunk = " ".join(show(drunk_ml, "ml"))
        said.append(Notice("drunk-whole", f"The bed drinks all {drunk} and nothing is left to stand: seal the bed "
                                          "first, or pour more."))  # fmt: skip
    return tuple(said)


def drunk_in_layers(
    lift: PourLift, site: Site, pools: tuple[Pool, ...], depths: tuple[float, ...], drunk_ml: float
) -> tuple[float, ...]:
    """ml that each layer from the bed up is drunk of: the bed that it newly wets. Together `drunk_ml`."""
    tops = [sum(depths[number + 1 :]) for number in range(len(depths))]
    reached = [sum(one.figure.number for one in bed_drinks(lift, site, pools, top)) for top in tops]
    if drunk_ml <= 0 or not reached[-1]:
        return (drunk_ml, *(0.0 for _ in depths[1:]))
    scale = drunk_ml / reached[-1]
    return tuple((one - before) * scale for before, one in zip([0.0, *reached], reached, strict=False))


def touched_patches(site: Site, pools: tuple[Pool, ...]) -> frozenset[str]:
    """The patches on which pools lie."""
    return frozenset(
        name for name, cover in site.covers.items() if any((cover.share[pool.cells] > 0).any() for pool in pools)
    )


THINNEST_MM = 0.01
FILM_MM = 1.0  # where nothing stands, what is left in the bed hardens as a film of that depth, craft estimate


def rested(lift: PourLift, site: Site, labels: Labels, stood: PourFill) -> float:
    """The degree of cure at which a pour leaves the cup that it rested in, a full one at most. Raises Faults where it
    would get hot or gel there."""
    if not lift.rest_h:
        return 0.0
    mix, room = labels.mixes[lift.mix], site.climate.temp_c[0]
    label = mix.reacts
    assert label is not None
    heat = heat_from_label(label, mix.thermal or RESIN).j_g
    batch = round(max(min(site.bench.cup_ml, stood.volume.number * site.scene.copies), 1.0), 1)

    def holds(hours: float, ml: float) -> bool:
        cure, peak = rested_in_cup(label, ml, heat, room, hours)
        return peak < CUP_C and cure < RESTS_TO * label.gel

    if not holds(lift.rest_h, batch):
        longest = _most(lambda hours: holds(hours, batch), lift.rest_h)
        largest = _most(lambda ml: holds(lift.rest_h, max(ml, 1.0)), batch)
        right = f"rest it {longest * 60:.0f} min at most" + (f", or {largest:.0f} ml at a time" if largest > 5 else "")
        raise fault(
            f"{site.where}.rest_h",
            f"{batch:.0f} ml resting {lift.rest_h * 60:.0f} min in a cup would pass {CUP_C:g} °C or begin to gel",
            right,
        )
    return rested_in_cup(label, batch, heat, room, lift.rest_h)[0]


def _most(holds: Callable[[float], bool], high: float) -> float:
    """The greatest value up to `high` that still holds, to a hundredth of it."""
    low = 0.0
    for _ in range(8):
        middle = (low + high) / 2
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low


def no_trace(stood: PourFill, site: Site) -> None:
    """Raises Faults for a pool that is hardly there."""
    if stood.depth_mm < THINNEST_MM:
        raise fault(site.where, f"its pool would be {stood.depth_mm:.2g} mm deep", "a trace is no pour: give it more")


def split_of(lift: PourLift, site: Site, labels: Labels, stood: PourFill) -> Split:
    """The lifts of a pour of resin as the scene gives them, or by heat and label. Raises Faults for given ones that do
    not add up, or would run away."""
    mix = labels.mixes[lift.mix]
    label, bed = mix.reacts, bed_under(site, labels, stood.lowest)
    assert label is not None
    depth = round(stood.depth_mm, 3)
    cured = rested(lift, site, labels, stood)
    if not stood.fill.pools:
        return Split((0.0,), courses_of((FILM_MM,), bed, mix, label, site.climate, cured))
    no_trace(stood, site)
    if lift.lifts == "auto":
        plan = by_heat(depth, bed, mix, label, site.climate, cured)
    else:
        if abs(sum(lift.lifts) - depth) > max(0.25, 0.02 * depth):
            raise fault(
                f"{site.where}.lifts",
                f"they add up to {sum(lift.lifts):g} mm, but the pool is {depth:.4g} mm deep",
                f'make them add up to {depth:.4g}, or write "auto"',
            )
        depths = tuple(part * depth / sum(lift.lifts) for part in lift.lifts)
        plan = Split(depths, courses_of(depths, bed, mix, label, site.climate, cured))
    hottest = max(course[0].peak_c for course in plan.courses)
    if hottest > REFUSED_C:
        raise fault(
            f"{site.where}.lifts",
            f"a lift of {max(plan.depths):.3g} mm would run away to {hottest:.0f} °C",
            "pour it in more and thinner lifts, or in a cooler room",
        )
    return plan


def pool_figures(lift: PourLift, site: Site, labels: Labels, stood: PourFill) -> tuple[PoolFigures, ...]:
    """The pools as the plan gives them: liquid as poured, without what stands in the largest of them; beside it, of a
    given volume of what dries, what is left."""
    pools, stays = stood.fill.pools, stays_of(lift, labels)
    largest = max(pools, key=lambda pool: pool.volume_ml, default=None)
    figures = []
    for pool in pools:
        level, volume, area, deepest = pool.level_mm, pool.volume_ml, pool.area_mm2, pool.deepest_mm
        stands = stood.stood_ml if pool is largest else 0.0
        dry: tuple[Figure | None, Figure | None] = (None, None)
        if labels.mixes[lift.mix].reacts is None:
            dry = (
                Figure(level, "mm", "once its water has left"),
                Figure(volume - stands, "ml", "what is left of it", (Term("stays of what dries", stays),)),
            )
            if lift.volume_ml is not None:
                level, area, deepest, volume = _wet_pool(site, pool, stands + (volume - stands) / stays)
        formula = "sum over wet cells of (level − ground) × cell area" + (" − what stands in it" if stands else "")
        figures.append(
            PoolFigures(
                Figure(level, "mm", "above the board's top, at the base's centre"),
                Figure(volume - stands, "ml", formula),
                Figure(area, "mm2", "cells that are wet"),
                Figure(deepest, "mm", "level − lowest ground in it"),
                *dry,
            )
        )
    return tuple(figures)


def _wet_pool(site: Site, pool: Pool, volume_ml: float) -> tuple[float, float, float, float]:
    """(level mm, area mm2, deepest mm, ml) of a pool before its water has left, all of it at once in its hollow."""
    base, ground = site.scene.base, site.ground
    hollow = hollow_of(ground, base, pool)
    z, share = tilted(ground, base)[hollow], ground.inside[hollow]
    level = level_for_volume(z, ground.cell_area, volume_ml, share)
    return level, float(share[z < level].sum()) * ground.cell_area, level - float(z.min()), volume_ml
