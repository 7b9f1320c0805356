"""Where a given volume goes: hollows fill, spill over their saddles, merge, and are lost over open edges.

The ground is cut into basins, each the land that drains to one lowest place (a watershed: a cell of a basin that lies
below a level joins its lowest place below that level). A basin's cells lie sorted by height with running sums, its
saddles sorted too; a pool is a set of basins that rises through both. Work grows with the cells as n log n, once for
a ground; each pour then takes as long as it has saddles to pass.
"""

from __future__ import annotations

from dataclasses import dataclass
from heapq import heapify, heappop, heappush

import numpy as np
from numpy.typing import NDArray

from ..document.scene import Base
from ..stages import cached_stage
from .field import Ground, tilted
from .filling import Filled, Pool, level_for_volume, outlets, pool_of
from .raster import Array, Mask

_EPS = 1e-9
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Basins:
    """A ground's basins, numbered from 1; 0 lies beyond the base.

    `of` (ny, nx) the basin of each cell. Cells sorted by basin and height: `heights`, running sums of their width and
    width x height; basin b has those from `first[b]` to `first[b + 1]`. Ways out sorted by basin and height: `over` the
    height of a saddle or an open edge, `to` the basin beyond, or -1 - cell for an edge; b's from `way[b]` on.
    """

    z: Array
    of: Ints
    heights: Array
    wide: Array
    weighed: Array
    first: Ints
    over: Array
    to: Ints
    way: Ints


@cached_stage
def basins_of(ground: Ground, base: Base) -> Basins:
    """The basins of a ground as a spirit level sees it."""
    from scipy.ndimage import label
    from skimage.morphology import local_minima
    from skimage.segmentation import watershed

    z, on = tilted(ground, base), ground.on_base
    walled = np.where(on, z, np.inf)
    # Beyond the grid it stands higher, so that a ground that is level all over is a hollow too.
    bordered = np.pad(np.where(on, z, np.inf), 1, constant_values=np.inf)
    lowest = label(local_minima(bordered, connectivity=1)[1:-1, 1:-1] & on)[0]
    of = watershed(np.where(on, z, 0.0), lowest, connectivity=1, mask=on).astype(np.int64)
    count = int(of.max())
    flat, labels = walled.ravel(), of.ravel()
    order = np.lexsort((flat, labels))[int((labels == 0).sum()) :]
    heights, widths = flat[order], ground.inside.ravel()[order]
    wide, weighed = (np.concatenate(([0.0], np.cumsum(one))) for one in (widths, widths * heights))
    first = np.searchsorted(labels[order], np.arange(count + 2))
    over, to, way = _ways_out(z, of, outlets(ground, z, base), count)
    return Basins(z, of, heights, wide, weighed, first, over, to, way)


def _ways_out(z: Array, of: Ints, leaves: Array, count: int) -> tuple[Array, Ints, Ints]:
    """Saddles and open edges of every basin, sorted by basin and height."""
    begin, over, to = [], [], []
    for first, second in ((np.s_[:, :-1], np.s_[:, 1:]), (np.s_[:-1, :], np.s_[1:, :])):
        a, b = of[first].ravel(), of[second].ravel()
        meet = (a != b) & (a > 0) & (b > 0)
        high = np.maximum(z[first].ravel()[meet], z[second].ravel()[meet])
        begin += [a[meet], b[meet]]
        over += [high, high]
        to += [b[meet], a[meet]]
    cells = np.flatnonzero(np.isfinite(leaves.ravel()) & (of.ravel() > 0))
    begin.append(of.ravel()[cells])
    over.append(leaves.ravel()[cells])
    to.append(-1 - cells)
    whose, height, beyond = (np.concatenate(one) for one in (begin, over, to))
    order = np.lexsort((height, whose))
    return height[order], beyond[order].astype(np.int64), np.searchsorted(whose[order], np.arange(count + 2))


class _Body:
    """A pool while it rises: its basins, how much it holds (mm x cells), its level, and what it reaches next: cells to
    submerge and ways out, the lowest of each basin first."""

    __slots__ = ("basins", "cells", "held", "level", "ways", "weighed", "wide")

    def __init__(self, ground: Basins, basin: int) -> None:
        self.basins = [basin]
        begin = int(ground.first[basin])
        self.level = float(ground.heights[begin])
        self.held = self.wide = self.weighed = 0.0
        self.cells = [(self.level, begin, int(ground.first[basin + 1]))]
        start, end = int(ground.way[basin]), int(ground.way[basin + 1])
        self.ways = [(float(ground.over[start]), start, end)] if start < end else []

    def holds(self, ground: Basins, level: float) -> float:
        """mm x cells that it holds once it stands at a level no lower than before: its cells below that are wet."""
        while self.cells and self.cells[0][0] < level:
            _, begin, end = heappop(self.cells)
            reach = begin + int(np.searchsorted(ground.heights[begin:end], level))
            self.wide += float(ground.wide[reach] - ground.wide[begin])
            self.weighed += float(ground.weighed[reach] - ground.weighed[begin])
            if reach < end:
                heappush(self.cells, (float(ground.heights[reach]), reach, end))
        return level * self.wide - self.weighed

    def next_way(self, ground: Basins, owner: dict[int, _Body]) -> tuple[float, int] | None:
        """The lowest way out that leads beyond it: (height, basin or edge); None where dams hold any level."""
        while self.ways:
            height, place, end = self.ways[0]
            to = int(ground.to[place])
            if to < 0 or owner.get(to) is not self:
                return height, to
            heappop(self.ways)
            if place + 1 < end:
                heappush(self.ways, (float(ground.over[place + 1]), place + 1, end))
        return None

    def take_in(self, other: _Body, owner: dict[int, _Body]) -> None:
        """The other pool, which stands as high: from here on they rise as one."""
        for basin in other.basins:
            owner[basin] = self
        self.basins += other.basins
        self.held += other.held
        self.wide += other.wide
        self.weighed += other.weighed
        _pour_together(self.cells, other.cells)
        _pour_together(self.ways, other.ways)


_Heap = list[tuple[float, int, int]]


def _pour_together(into: _Heap, other: _Heap) -> None:
    """One heap into another; a small one entry by entry."""
    if len(other) < len(into) // 8:
        for one in other:
            heappush(into, one)
    else:
        into += other
        heapify(into)


def fill_from(ground: Ground, base: Base, start: tuple[int, int], volume_ml: float) -> Filled:
    """Pour `volume_ml` at the cell `start`: it runs downhill, fills hollows, spills over saddles, merges with what it
    meets, and is lost where it reaches an open edge. Poured = in pools + lost."""
    land = basins_of(ground, base)
    owner: dict[int, _Body] = {}
    left = volume_ml * 1000 / ground.cell_area
    lost_at: tuple[float, float] | None = None
    edge = outlets(ground, land.z, base)
    if edge[start] <= land.z[start]:
        return Filled((), volume_ml, ground.point_of(*start))

    def body_in(basin: int) -> _Body:
        if basin not in owner:
            owner[basin] = _Body(land, basin)
        return owner[basin]

    body = body_in(int(land.of[start]))
    while left > _EPS:
        way = body.next_way(land, owner)
        if way is None:
            body.held += left
            break
        height, to = way
        height = max(height, body.level)
        need = body.holds(land, height) - body.held
        if need >= left:
            body.held += left
            break
        left -= max(need, 0.0)
        body.held += max(need, 0.0)
        body.level = height
        if to < 0:
            lost_at = ground.point_of(*divmod(-1 - to, land.z.shape[1]))
            break
        other = body_in(to)
        if other.level >= height - _EPS and other.held > 0:
            # Two levels meet at a saddle.
            large, small = (body, other) if len(body.basins) >= len(other.basins) else (other, body)
            large.take_in(small, owner)
            large.level = height
            body = large
        elif other.level >= height - _EPS:
            large = body  # a step without a hollow of its own: the pool grows over it
            large.take_in(other, owner)
        else:
            body = other
    pools = []
    for filled in {id(one): one for one in owner.values()}.values():
        cells = np.isin(land.of, filled.basins)
        if filled.held <= _EPS:
            continue
        volume = filled.held * ground.cell_area / 1000
        level = level_for_volume(land.z[cells], ground.cell_area, volume, ground.inside[cells])
        pools.append(pool_of(ground, land.z, cells & (land.z < level), level))
    pools = [pool for pool in pools if pool.volume_ml > _EPS]
    return Filled(tuple(pools), left * ground.cell_area / 1000 if lost_at else 0.0, lost_at)


@dataclass(frozen=True, slots=True)
class Lip:
    """Where liquid that stands in some pools first leaves them, a point in mm and the level; over the base's edge, or
    into another hollow."""

    level_mm: float
    x_mm: float
    y_mm: float
    off_board: bool


def lip_of(ground: Ground, base: Base, pools: tuple[Pool, ...], dent_mm: float) -> Lip | None:
    """The lowest way out of all the hollows in which pools stand; None where dams hold any level. Hollows beside them
    that are shallower than `dent_mm` are no way out: the pool grows over them."""
    land = basins_of(ground, base)
    owner: dict[int, _Body] = {}
    basins = np.unique(np.concatenate([land.of[pool.cells] for pool in pools]))
    body = owner[int(basins[0])] = _Body(land, int(basins[0]))
    for basin in basins[1:]:
        body.take_in(_Body(land, int(basin)), owner)
    while (way := body.next_way(land, owner)) is not None:
        height, to = way
        if to < 0:
            return Lip(height, *ground.point_of(*divmod(-1 - to, land.z.shape[1])), True)
        if height - float(land.heights[land.first[to]]) > dent_mm:
            return Lip(height, *ground.point_of(*_saddle(land, body.basins, to)), False)
        body.take_in(_Body(land, to), owner)
    return None


def _saddle(land: Basins, basins: list[int], to: int) -> tuple[int, int]:
    """The cell of a basin at which its neighbours `basins` spill into it."""
    mine = np.pad(np.isin(land.of, basins), 1)
    beside = mine[:-2, 1:-1] | mine[2:, 1:-1] | mine[1:-1, :-2] | mine[1:-1, 2:]
    row, column = np.unravel_index(int(np.where(beside & (land.of == to), land.z, np.inf).argmin()), land.z.shape)
    return int(row), int(column)


def hollow_of(ground: Ground, base: Base, pool: Pool) -> Mask:
    """Cells (ny, nx) of all the land that drains to where a pool stands."""
    land = basins_of(ground, base)
    return np.asarray(np.isin(land.of, np.unique(land.of[pool.cells])))
