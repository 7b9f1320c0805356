"""Where a pour goes: the hollows that it fills, by level, by depth or by volume, and where it would run over."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from ....catalogue.model import Entry, Id, Positive
from ....document.outline import Point
from ....document.scene import Base, Lift, Patch, Tint
from ....fault import Faults, Refusal, fault
from ....figure import Figure
from ....ground.field import Ground, tilted
from ....ground.filling import Filled, Overrun, Pool, brim, level_for_volume, outlets, pools_at_level, spill_levels
from ....ground.raster import Array
from ....ground.spill import fill_from
from ....ground.surface import wetted_area
from ....mixing.parts import wet
from ....stages import cached_stage
from ...areas import Cover
from ...beds import drunk_by
from ...labels import Labels
from ...site import Site

MAX_LIFTS = 40
DENT_MM = 0.25  # hollows shallower than this hold nothing worth a pour


class Insert(Entry):
    """What stands in the water: so many stems, stakes or hulls of an area across each, up through its surface."""

    area_mm2: Positive
    count: Annotated[int, Field(ge=1, le=10_000)] = 1


class PourLift(Lift):
    """A level, a depth or a volume of a two-part mix."""

    kind: Literal["pour"] = "pour"
    levels_itself: ClassVar[bool] = True
    raises_ground: ClassVar[bool] = True
    shares_batches: ClassVar[bool] = True
    dries_as_bed: ClassVar[bool] = False
    wants_dry_bed: ClassVar[bool] = False
    names_material: ClassVar[tuple[str, ...]] = ()
    names_mix: ClassVar[tuple[str, ...]] = ("mix",)
    mix: Id
    tint: tuple[Tint, ...] = ()
    level_mm: Annotated[float, Field(ge=-1000, le=5000)] | None = None
    depth_mm: Annotated[float, Field(gt=0, le=1000)] | None = None
    volume_ml: Annotated[float, Field(gt=0, le=1_000_000)] | None = None
    at_mm: Point | None = None
    lifts: Literal["auto"] | Annotated[tuple[Positive, ...], Field(min_length=1, max_length=MAX_LIFTS)] = "auto"
    stands: tuple[Insert, ...] = ()
    bubbles: Literal["breath", "brush", "flame"] = "breath"
    rest_h: Annotated[float, Field(ge=0, le=24)] = 0.0
    waves: bool = False  # pushed into its last lift as it thickens

    @model_validator(mode="after")
    def _one_way(self) -> PourLift:
        ways = [self.level_mm, self.depth_mm, self.volume_ml]
        if sum(way is not None for way in ways) != 1:
            raise Refusal("a pour needs one of level_mm, depth_mm and volume_ml", "give just one")
        if self.at_mm is not None and self.volume_ml is None:
            raise Refusal("at_mm goes with volume_ml", "leave it out")
        return self


def owner_of(cell: tuple[int, int], covers: dict[str, Cover]) -> str | None:
    """The patch that owns most of a cell."""
    best = max(covers, key=lambda name: covers[name].share[cell], default=None)
    return best if best is not None and covers[best].share[cell] > 0 else None


@cached_stage
def _spill_levels(ground: Ground, base: Base) -> Array:
    return spill_levels(ground, tilted(ground, base), base)


@cached_stage
def _brim(ground: Ground, base: Base, cell: tuple[int, int]) -> Overrun | None:
    return brim(ground, tilted(ground, base), base, _spill_levels(ground, base), cell)


@cached_stage
def _by_volume(ground: Ground, base: Base, start: tuple[int, int], volume_ml: float) -> Filled:
    return fill_from(ground, base, start, volume_ml)


@dataclass(frozen=True, slots=True)
class Drunk:
    """What one patch's bed drinks of a pour: wetted true area mm2 and ml, with the working."""

    patch: Patch
    figure: Figure


def bed_drinks(lift: PourLift, site: Site, pools: tuple[Pool, ...], below_top_mm: float = 0.0) -> tuple[Drunk, ...]:
    """What the unsealed beds under a pour's pools drink, patch by patch: of what earlier pours have not covered, as far
    up as the pools stand, or once they stand `below_top_mm` lower."""
    drinking = [
        patch
        for patch in site.scene.patches
        if patch.id in site.open_beds and any(site.covers[patch.id].mask[pool.cells].any() for pool in pools)
    ]
    if not drinking:
        return ()
    z = tilted(site.ground, site.scene.base)
    areas = np.zeros(z.shape)
    for pool in pools:
        level = pool.level_mm - below_top_mm
        wet = pool.cells & (z < level)
        if wet.any():
            here, wetted = wetted_area(site.ground, z, wet, level)
            areas[here] += wetted - np.where(wet[here] & site.soaked[here], site.ground.cell_area, 0.0)
    areas *= site.ground.inside
    drinks = []
    for patch in drinking:
        area = float(areas[site.covers[patch.id].mask].sum())
        if area > 1e-6:
            drinks.append(Drunk(patch, drunk_by(site.open_beds[patch.id], area)))
    return tuple(drinks)


def displaced_ml(lift: PourLift, pools: tuple[Pool, ...]) -> float:
    """ml that what stands in the pools takes the place of: area x the mean depth of the largest."""
    if not lift.stands or not pools:
        return 0.0
    pool = max(pools, key=lambda one: one.volume_ml)
    across = sum(stand.area_mm2 * stand.count for stand in lift.stands)
    return min(across, pool.area_mm2) * pool.volume_ml / pool.area_mm2


def stays_of(lift: PourLift, labels: Labels) -> float:
    """Share of what is poured that stays in the pools: all of a resin, of what dries what is no water."""
    mix = labels.mixes[lift.mix]
    return 1.0 if mix.reacts else wet(mix, labels.materials).stays


SETTLED = 1e-5  # of the volume: poured = pools + drunk + lost, as near


def _settled(lift: PourLift, site: Site, start: tuple[int, int]) -> Filled:
    """The pools of a given volume, less what the bed drinks, more what stands in it takes the place of: found where
    what is poured is what stands, is drunk and is lost. No pool where the bed drinks all of it."""
    ground, base = site.ground, site.scene.base
    stays = stays_of(lift, Labels.of(site.scene))
    given = stays * (lift.volume_ml or 0.0)
    fill = _by_volume(ground, base, start, given)
    if not fill.pools or not (lift.stands or site.open_beds):
        return fill
    low, high, pours = 0.0, given * 2, given
    for _ in range(40):
        fill = _by_volume(ground, base, start, pours)
        drunk = sum(one.figure.number for one in bed_drinks(lift, site, fill.pools))
        off = pours - displaced_ml(lift, fill.pools) + drunk * stays - given
        if abs(off) <= SETTLED * given:
            break
        low, high = (low, pours) if off > 0 else (pours, high)
        nearer = pours - off
        pours = nearer if low < nearer < high else (low + high) / 2
    return fill if pours > SETTLED * given else Filled((), 0.0, None)


@cached_stage
def _at_level(ground: Ground, base: Base, level: float) -> tuple[Pool, ...]:
    return tuple(pools_at_level(ground, tilted(ground, base), level))


@cached_stage
def _leaves(ground: Ground, base: Base) -> Array:
    return outlets(ground, tilted(ground, base), base)


def lowest_cell(site: Site) -> tuple[int, int]:
    """The patch's deepest point. Raises Faults."""
    if site.lowest is None:
        raise fault(
            f"{site.where}",
            f"{site.patch.name} owns no ground to pour on",
            "give it an area of its own",
        )
    return site.lowest


def brim_of(site: Site) -> Overrun | None:
    """Where and at what level liquid in the patch's deepest hollow first leaves the base; None if never."""
    return _brim(site.ground, site.scene.base, lowest_cell(site))


def _hollow_in(site: Site, z: Array, pool: Pool) -> tuple[int, int] | None:
    """The deepest cell of the patch's own hollows under a pool that runs over; None if it has none there."""
    depth = np.where(pool.cells, _spill_levels(site.ground, site.scene.base) - z, 0.0)
    depth[~site.cover.mask] = 0.0
    row, column = np.unravel_index(int(depth.argmax()), z.shape)
    return (int(row), int(column)) if depth[row, column] > DENT_MM else None


def _runs_over(site: Site, lift: PourLift, z: Array, hollow: tuple[int, int], level: float) -> Faults:
    """The fault of a level or depth that an open edge does not hold."""
    over = _brim(site.ground, site.scene.base, hollow)
    assert over is not None
    field, value, most = "level_mm", level, over.level_mm
    if lift.depth_mm is not None:
        field, value, most = "depth_mm", lift.depth_mm, over.level_mm - float(z[hollow])
    dammed = over.side in site.scene.base.dammed or "all" in site.scene.base.dammed
    edge, dam = ("dam of the", f"dam the {over.side} edge higher") if dammed else ("open", f"dam the {over.side} edge")
    return fault(
        f"{site.where}.{field}",
        f"{value:.4g} mm stands above the lip: from {over.level_mm:.4g} mm up it runs over the {edge} {over.side} edge "
        f"near x {over.x_mm:.0f}, y {over.y_mm:.0f}",
        f"at most {most:.4g} mm, or {dam}" if most > DENT_MM else f"{dam}, or cut a hollow",
    )


def start_of(lift: PourLift, site: Site, z: Array) -> tuple[int, int]:
    """The cell at which a volume is poured. Raises Faults for a point beside the base."""
    if lift.at_mm is None:
        return lowest_cell(site)
    base, start = site.scene.base, site.ground.cell_at(*lift.at_mm)
    x, y = lift.at_mm
    if not (0 <= x <= base.width_mm and 0 <= y <= base.depth_mm and site.ground.on_base[start]):
        raise fault(f"{site.where}.at_mm", f"{x:g}, {y:g} is not on the base", "pour somewhere on it")
    return start


def filled(lift: PourLift, site: Site) -> Filled:
    """The pools of this pour. Raises Faults where it finds no hollow or would run over an open edge."""
    base, ground = site.scene.base, site.ground
    z = tilted(ground, base)
    if lift.volume_ml is not None:
        return _settled(lift, site, start_of(lift, site, z))
    lowest = lowest_cell(site)
    level = lift.level_mm if lift.level_mm is not None else float(z[lowest]) + (lift.depth_mm or 0.0)
    leaves = _leaves(ground, base)
    pools = []
    for pool in _at_level(ground, base, level):
        over = bool((leaves[pool.cells] < level - 1e-9).any())
        if lift.depth_mm is not None:
            mine, hollow = bool(pool.cells[lowest]), lowest
        else:
            # A pool that runs over drains from any hollow under it; one that holds belongs to its lowest point.
            found = _hollow_in(site, z, pool) if over else None
            mine = found is not None if over else owner_of(pool.lowest, site.covers) == site.patch.id
            hollow = found or pool.lowest
        if mine and over:
            raise _runs_over(site, lift, z, hollow, level)
        if mine:
            pools.append(pool)
    if not pools:
        low, own_brim = float(z[lowest]), _brim(ground, base, lowest)
        if level > low and own_brim is not None and own_brim.level_mm <= level:
            raise _runs_over(site, lift, z, lowest, level)
        most = f" and at most {own_brim.level_mm:.4g}" if own_brim and own_brim.level_mm > low + DENT_MM else ""
        raise fault(
            f"{site.where}.{'level_mm' if lift.depth_mm is None else 'depth_mm'}",
            f"{level:.4g} mm fills nothing: the lowest ground of {site.patch.name} stands at {low:.4g} mm",
            f"above {low:.4g}{most} mm",
        )
    return Filled(tuple(pools), 0.0, None)


def so_far(lift: PourLift, site: Site, share: float) -> PourLift:
    """The pour once a share of it (above 0, to 1) stands: a level or depth as far as that share of its pools fills, a
    volume as much of it. Raises Faults as the pour does."""
    if not 0 < share <= 1:
        raise ValueError("a share is above 0 and at most 1")
    if lift.volume_ml is not None:
        return lift.model_copy(update={"volume_ml": lift.volume_ml * share})
    z, inside = tilted(site.ground, site.scene.base), site.ground.inside
    pools = filled(lift, site).pools
    cells = np.zeros(z.shape, dtype=bool)
    for pool in pools:
        cells |= pool.cells
    whole = sum(pool.volume_ml for pool in pools)
    level = level_for_volume(z[cells], site.ground.cell_area, whole * share, inside[cells])
    return lift.model_copy(update={"depth_mm": None, "level_mm": max(level, float(z[cells].min()) + 1e-3)})


def depth_map(lift: PourLift, site: Site) -> Array:
    """How deep the pour is on each cell (ny, nx), mm; 0 where it is dry."""
    z = tilted(site.ground, site.scene.base)
    depth = np.zeros(z.shape)
    for pool in filled(lift, site).pools:
        depth = np.where(pool.cells, pool.level_mm - z, depth)
    return depth


@cached_stage
def raised(ground: Ground, base: Base, pools: tuple[Pool, ...], mix: str) -> Ground:
    """`ground` once the pools stand on it."""
    z, level_view = ground.z.copy(), tilted(ground, base)
    for pool in pools:
        z[pool.cells] += pool.level_mm - level_view[pool.cells]
    return ground.after(z, mix)
