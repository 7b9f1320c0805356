"""Where a lift goes on: its patch, the ground before it, and what surrounds it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..catalogue import Bench
from ..document import ResolvedScene
from ..document.scene import Lift, Patch
from ..ground.field import Ground, tilted
from ..ground.raster import Mask
from ..hardening.climate import Climate
from .areas import Cover, clear_places, share_of
from .beds import OpenLayer


@dataclass(frozen=True, eq=False)
class Site:
    """Where one lift goes on: the resolved scene, its patch, the ground before it, and what surrounds it."""

    scene: ResolvedScene
    patch: Patch
    lift: Lift
    where: str  # path in the document, for faults
    ground: Ground
    covers: dict[str, Cover]
    porous: frozenset[str]  # patches whose top is an unsealed skin or texture when this lift goes on
    open_beds: Mapping[str, tuple[OpenLayer, ...]]  # of those: what they leave open to a pour, from the top down
    climate: Climate
    above: Lift | None  # what follows here
    soaked: Mask  # cells that earlier pours cover: their bed has had its share
    below: Site | None = None  # where the lift beneath it in its own patch went on

    @cached_property
    def lowest(self) -> tuple[int, int] | None:
        """Row and column of the deepest point that its patch owns, by the spirit level; None where it owns none."""
        mask = self.cover.mask & self.ground.on_base
        if not mask.any():
            return None
        z = tilted(self.ground, self.scene.base)
        row, column = np.unravel_index(int(np.where(mask, z, np.inf).argmin()), z.shape)
        return int(row), int(column)

    @property
    def cover(self) -> Cover:
        """What this lift's patch owns."""
        return self.covers[self.patch.id]

    @property
    def bench(self) -> Bench:
        """The user's things."""
        return self.scene.bench


def kept_clear(site: Site) -> Mask:
    """Cells (ny, nx) under castings, to whose foot a skin is brought."""
    shape, cell = site.ground.shape, site.ground.cell_mm
    mask = np.zeros(shape, dtype=bool)
    for _, line in clear_places(site.scene):
        mask |= share_of(line, shape, cell) >= 0.5
    return mask
