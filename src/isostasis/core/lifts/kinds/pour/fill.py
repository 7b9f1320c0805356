"""What stands once a pour is done, and how its depth is shared out into lifts."""

from __future__ import annotations

from dataclasses import dataclass

from ....fault import fault
from ....figure import Figure, Term
from ....ground.filling import Filled, Pool, volume_for_level
from ....ground.raster import Array
from ...estimate import PoolFigures
from ...labels import Labels
from ...site import Site
from .heat import Split, bed_under, by_heat, courses_of
from .pools import PourLift, bed_drinks, displaced_ml, filled, stays_of

REFUSED_C = 100.0


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
    """What stands once a pour is done: its pools, ml in them and of what stands in them, what the bed has drunk and
    what is lost; `volume` is the plan's figure of it."""

    fill: Filled
    deepest: Pool
    pools_ml: float
    stood_ml: float
    drunk: Figure
    volume: Figure


def pour_fill(lift: PourLift, site: Site, labels: Labels) -> PourFill:
    """Where a pour stands. Raises Faults where none of it does."""
    fill = filled(lift, site)
    pools = fill.pools
    if not pools:
        raise fault(
            f"{site.where}.volume_ml",
            "none of it stays: it all runs off an open edge",
            "pour it into a hollow, or dam",
        )
    pools_ml, stood_ml = sum(pool.volume_ml for pool in pools), displaced_ml(lift, pools)
    beds = bed_drinks(lift, site, pools)
    drunk_ml = sum(one.figure.number for one in beds)
    stays = stays_of(lift, labels)
    if lift.volume_ml is not None and beds:  # to the last cell that it wets, which may not be full
        drunk_ml = max(lift.volume_ml * stays - (pools_ml - stood_ml) - fill.lost_ml, 0.0)
    deepest = max(pools, key=lambda pool: pool.deepest_mm)
    held = "in the pools" if len(pools) > 1 else "in the pool"
    terms = (
        Term(held, pools_ml, "ml", "level × cells of the ground below it"),
        Term("level", deepest.level_mm, "mm"),
        Term("deepest", deepest.deepest_mm, "mm"),
        *((Term("what stands in it takes", stood_ml, "ml", "area × mean depth"),) if stood_ml else ()),
    )
    if lift.volume_ml is None:
        formula = "sum over wet cells of (level − ground) × cell area" + (" − what stands in it" if lift.stands else "")
        volume = Figure(pools_ml - stood_ml, "ml", formula, terms)
    else:
        lost = Term("drunk by the bed", drunk_ml, "ml"), Term("lost over the edge", fill.lost_ml, "ml")
        dries = (Term("stays of what dries", stays),) if stays < 1 else ()
        formula = "as given: in pools + drunk + lost" + (", and the water that leaves" if dries else "")
        volume = Figure(lift.volume_ml, "ml", formula, (*terms, *lost, *dries))
    drunk = Figure(drunk_ml, "ml", "wetted area × porous depth × voids × 0.6, of the first lift",
                   tuple(one.figure.term(one.patch.name, "unsealed") for one in beds))  # fmt: skip
    return PourFill(fill, deepest, pools_ml, stood_ml, drunk, volume)


def touched_patches(site: Site, pools: tuple[Pool, ...]) -> frozenset[str]:
    """The patches on which pools lie."""
    return frozenset(
        name for name, cover in site.covers.items() if any((cover.share[pool.cells] > 0).any() for pool in pools)
    )


THINNEST_MM = 0.01


def split_of(lift: PourLift, site: Site, labels: Labels, stood: PourFill) -> Split:
    """The lifts of a pour of resin as the scene gives them, or by heat and label. Raises Faults for given ones that do
    not add up, or would run away."""
    mix, deepest = labels.mixes[lift.mix], stood.deepest
    label, bed = mix.reacts, bed_under(site, labels, deepest.lowest)
    assert label is not None
    depth = round(deepest.deepest_mm, 3)
    if depth < THINNEST_MM:
        raise fault(
            site.where, f"its pool would be {deepest.deepest_mm:.2g} mm deep", "a trace is no pour: give it more"
        )
    if lift.lifts == "auto":
        plan = by_heat(depth, bed, mix, label, site.climate)
    else:
        if abs(sum(lift.lifts) - depth) > max(0.25, 0.02 * depth):
            raise fault(
                f"{site.where}.lifts",
                f"they add up to {sum(lift.lifts):g} mm, but the pool is {depth:.4g} mm deep",
                f'make them add up to {depth:.4g}, or write "auto"',
            )
        depths = tuple(part * depth / sum(lift.lifts) for part in lift.lifts)
        plan = Split(depths, courses_of(depths, bed, mix, label, site.climate))
    hottest = max(course[0].peak_c for course in plan.courses)
    if hottest > REFUSED_C:
        raise fault(
            f"{site.where}.lifts",
            f"a lift of {max(plan.depths):.3g} mm would run away to {hottest:.0f} °C",
            "pour it in more and thinner lifts, or in a cooler room",
        )
    return plan


def pool_figures(pool: Pool) -> PoolFigures:
    """A pool as the plan tells it."""
    return PoolFigures(
        Figure(pool.level_mm, "mm", "above the board's top, at the base's centre"),
        Figure(pool.volume_ml, "ml", "sum over wet cells of (level − ground) × cell area"),
        Figure(pool.area_mm2, "mm2", "cells that are wet"),
        Figure(pool.deepest_mm, "mm", "level − lowest ground in it"),
    )
