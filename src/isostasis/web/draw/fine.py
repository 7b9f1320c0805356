"""The ground finer than its cells, for pictures: edges as the forms have them, shores where water meets the ground."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ...core.document import ResolvedScene
from ...core.document.scene import Base, Form
from ...core.ground.field import Ground
from ...core.ground.forms import bare_ground
from ...core.ground.raster import Array, Mask
from ...core.lifts.fold import Build
from ...core.lifts.kinds.pour.pools import PourLift
from ...core.stages import unkept
from ...core.surface import water_looks

MOST = 600_000  # cells
SHORE = 2  # cells that a shore may lie off the grid's own
WHOLE = 0.999  # share of a cell on the base from which its height is the ground's own
LAID_SOFT = 1.3  # cells of the ground
# Water without a tint, from its shore to its deepest, as the plan's bands have it.
WATERS = np.array([[0x6D, 0xB3, 0xA6], [0x47, 0x93, 0x89], [0x2A, 0x7D, 0x74], [0x15, 0x60, 0x5A]], dtype=float)


@dataclass(frozen=True, eq=False)
class Pool:
    """What one lift has poured: the level and depth (ny, nx) in mm on the ground's cells, and its colours (n, 3), 0 to
    255, at depths spread evenly from 0 to its deepest."""

    level: Array
    deep: Array
    colours: Array


@dataclass(frozen=True, eq=False)
class FineGround:
    """A base and its forms on cells of `cell_mm`, `times` as fine as the ground's; which of the ground's cells lie on
    the base, and what lies on the forms there, (ny, nx) in mm; and what is poured over that."""

    base: Base
    kept: tuple[Form, ...]
    cell_mm: float
    times: int
    on_base: Mask
    laid: Array
    pools: tuple[Pool, ...] = ()

    @cached_property
    def forms(self) -> Ground:
        """The forms alone. Many times as large as the ground, so that just what is drawn of it is kept."""
        with unkept():
            return bare_ground(self.base, self.cell_mm, self.kept)[0]

    @property
    def about(self) -> Hashable:
        """What it shows, to know it again by."""
        pools = tuple((pool.level.tobytes(), pool.deep.tobytes(), pool.colours.tobytes()) for pool in self.pools)
        return self.base, self.kept, self.cell_mm, self.laid.tobytes(), pools

    def finer(self, cells: Array) -> Array:
        """Values (ny, nx) of the ground's cells on the fine ones, straight between them; single precision."""
        from PIL import Image

        size = cells.shape[1] * self.times, cells.shape[0] * self.times
        made = np.asarray(Image.fromarray(cells.astype(np.float32)).resize(size, Image.Resampling.BILINEAR))
        return made[: self.forms.shape[0], : self.forms.shape[1]]

    def dry(self) -> Array:
        """Heights of the ground under the water, mm; beyond the base its edge goes on, so that it has no shadow."""
        from scipy.ndimage import gaussian_filter

        laid = gaussian_filter(self.laid, LAID_SOFT, mode="nearest")
        formed = beyond(self.forms.z, self.forms.inside > WHOLE)  # at the edge a cell is lower by what it lacks
        return np.asarray(formed.astype(np.float32) + self.finer(laid))

    def inside(self) -> Mask:
        """What lies on the base."""
        return np.asarray(self.forms.inside >= 0.5)

    def deep(self, pool: Pool, dry: Array) -> Array:
        """How deep a pool stands on the fine cells, mm, over heights `dry`."""
        from scipy.ndimage import binary_dilation

        wet = pool.deep > 1e-6
        level = self.finer(beyond(pool.level, wet))
        reach = self.finer(binary_dilation(wet, iterations=SHORE)) > 0.5
        return np.where(reach, np.maximum(level - dry, 0.0), 0.0)


def fine_ground(scene: ResolvedScene, built: Build, stage: str, water: bool = False) -> FineGround:
    """The ground at a stage, as fine as MOST cells allow; with `water` what was poured by then. Raises KeyError for a
    stage that is not there."""
    ground = built.at(stage)
    times = max(1, min(6, int((MOST / ground.z.size) ** 0.5)))
    kept, under = scene.forms, built.bare
    alone = next((place for place, one in enumerate(scene.forms) if one.id == stage), None)
    if alone is not None and stage not in built.stages:
        kept, under = scene.forms[: alone + 1], ground
    order = list(built.stages)
    reached = len(order) if stage == "finished" else order.index(stage) + 1 if stage in built.stages else 0
    poured = [built.stages[name] for name in order[:reached] if built.stages[name].site.lift.levels_itself]
    depths = [np.maximum(one.after.z - one.site.ground.z, 0.0) for one in poured]
    laid = ground.z - under.z - np.sum(depths, axis=0) if depths else ground.z - under.z
    laid = beyond(laid, ground.inside > WHOLE)
    pools = tuple(
        Pool(one.after.z, deep, _colours(scene, one.site.lift, float(deep.max())))
        for one, deep in zip(poured, depths, strict=True)
        if water and isinstance(one.site.lift, PourLift)
    )
    return FineGround(scene.base, kept, ground.cell_mm / times, times, ground.on_base, laid, pools)


def beyond(cells: Array, on: Mask) -> Array:
    """Values on the base, gone on beyond it as they are at its edge."""
    from scipy.ndimage import distance_transform_edt

    if on.all() or not on.any():
        return cells
    near = distance_transform_edt(~on, return_distances=False, return_indices=True)
    return np.asarray(cells[near[0], near[1]])


def _colours(scene: ResolvedScene, lift: PourLift, deepest: float) -> Array:
    """Colours (n, 3), 0 to 255, of a pour from its shore to its deepest."""
    tinted = water_looks(scene, lift, [deepest * share for share in np.linspace(0.04, 1, 12)])
    if not tinted:
        return WATERS
    return np.array([[int(one[place : place + 2], 16) for place in (1, 3, 5)] for one in tinted], dtype=float)
