"""The ground: heights at cell centres, and how each came to stand as high as it does."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ..document.scene import EDGE_MM, Base, Form
from ..stages import cached_stage
from .banks import Bank
from .raster import Array, Mask, Window, around, centres, covered

SLIVER = 0.1


@dataclass(frozen=True, eq=False)
class Ground:
    """A field of heights z (ny, nx) in mm above the board's top, on square cells of `cell_mm`.

    Row 0 is the south edge. `inside` is the share of each cell that lies on the base, `edge` the base's ring.
    `history` holds, oldest first, what was laid or cut (an id of a material or mix, or None for a cut), the window of
    the grid in which that changed anything, and the heights there after it: from it follows the column of materials
    under any point. `banks` are those that forms have left, oldest first; `dressings` what was laid since: over
    how many of them, on which cells, how thick in mm. A Ground is never changed; it compares and hashes by identity, so
    that stages can be cached by the ground they start from.
    """

    z: Array
    cell_mm: float
    inside: Array
    edge: tuple[tuple[float, float], ...] = ()
    history: tuple[tuple[str | None, Window, Array], ...] = ()
    banks: tuple[Bank, ...] = ()
    dressings: tuple[tuple[int, Mask, float], ...] = ()

    def is_edge(self, point: tuple[float, float]) -> bool:
        """Whether a point in mm lies on the base's edge, as near as an outline may stand out."""
        from shapely import LinearRing, Point

        return bool(LinearRing(self.edge).distance(Point(point)) <= EDGE_MM)

    def large(self) -> Iterator[object]:
        """What of it is large, for the registry of stages: a ground shares most of it with those before."""
        yield from (self.z, self.inside, self.edge, *self.banks)
        yield from (z for _, _, z in self.history)
        yield from (patch for _, patch, _ in self.dressings)

    @property
    def shape(self) -> tuple[int, int]:
        """(ny, nx)."""
        return self.z.shape[0], self.z.shape[1]

    @property
    def cell_area(self) -> float:
        """Plan area of a whole cell, mm2."""
        return self.cell_mm**2

    @cached_property
    def on_base(self) -> Mask:
        """Cells that lie on the base; slivers under a tenth of a cell along its edge count as beyond it."""
        return np.asarray(self.inside > SLIVER)

    @property
    def everywhere(self) -> Window:
        """The window that is the whole grid."""
        return slice(0, self.shape[0]), slice(0, self.shape[1])

    def after(self, z: Array, what: str | None) -> Ground:
        """The ground once its heights are `z`, by laying `what` (None: by cutting)."""
        z.setflags(write=False)
        return replace(self, z=z, history=(*self.history, (what, self.everywhere, z)))

    def dressed(self, z: Array, what: str, patch: Mask, thickness_mm: float | Array) -> Ground:
        """The ground once `what` was laid square to it on the cells of `patch`, and its heights are `z`."""
        if not patch.any():
            return self.after(z, what)
        deep = float(np.mean(thickness_mm[patch])) if isinstance(thickness_mm, np.ndarray) else thickness_mm
        here = around(patch)
        return replace(
            self.after_in(here, z[here].copy(), what), dressings=(*self.dressings, (len(self.banks), patch, deep))
        )

    def after_in(self, box: Window, part: Array, what: str | None) -> Ground:
        """The ground once its heights in the window `box` are `part`; elsewhere they stay."""
        z = self.z.copy()
        z[box] = part
        z.setflags(write=False)
        part.setflags(write=False)
        return replace(self, z=z, history=(*self.history, (what, box, part)))

    def cell_at(self, x: float, y: float) -> tuple[int, int]:
        """Row and column of the cell that holds the point, the nearest on the grid."""
        ny, nx = self.shape
        return min(max(int(y // self.cell_mm), 0), ny - 1), min(max(int(x // self.cell_mm), 0), nx - 1)

    def point_of(self, row: int, column: int) -> tuple[float, float]:
        """x, y of a cell's centre in mm."""
        return (column + 0.5) * self.cell_mm, (row + 0.5) * self.cell_mm

    def column(self, row: int, column: int) -> list[tuple[str, float]]:
        """What stands on the board at a cell, bottom up: (id, thickness in mm). Cuts take from the top."""
        stack: list[tuple[str, float]] = []
        level = 0.0
        for what, (rows, columns), z in self.history:
            if not (rows.start <= row < rows.stop and columns.start <= column < columns.stop):
                continue
            rise = float(z[row - rows.start, column - columns.start]) - level
            level += rise
            if rise > 0 and what is not None:
                stack.append((what, rise))
            while rise < -1e-9 and stack:
                top, thickness = stack.pop()
                if thickness + rise > 1e-9:
                    stack.append((top, thickness + rise))
                rise = min(0.0, rise + thickness)
        return stack


@cached_stage
def dressed_bank(ground: Ground, number: int) -> Bank:
    """A bank with what was laid over it since: all that covers most of its foot."""
    bank = ground.banks[number]
    for known, patch, deep in ground.dressings:
        if number < known and bank.covered(patch, ground.cell_mm) > 0.5:
            bank = replace(bank, cover_mm=bank.cover_mm + deep)
    return bank


@cached_stage
def empty_ground(base: Base, cell_mm: float) -> Ground:
    """The bare board: heights 0, nothing on it."""
    shape = (max(1, round(base.depth_mm / cell_mm + 0.4999)), max(1, round(base.width_mm / cell_mm + 0.4999)))
    z = np.zeros(shape)
    z.setflags(write=False)
    return Ground(z=z, cell_mm=cell_mm, inside=covered(base.ring, shape, cell_mm), edge=base.ring)


@dataclass(frozen=True, slots=True)
class Shaped:
    """What one form did: ml added (negative: removed), plan area mm2 and length of edge mm, the ground after it; and by
    what share of itself its volume may be off in 19 of 20, where it was measured."""

    form: Form
    volume_ml: float
    area_mm2: float
    edge_mm: float
    ground: Ground
    off_by: float | None = None


def shape_in(
    form: Form,
    ground: Ground,
    box: Window,
    part: Array,
    volume_ml: float,
    area_mm2: float,
    edge_mm: float,
    banks: tuple[Bank, ...] = (),
    off_by: float | None = None,
) -> Shaped:
    """A form that leaves the heights `part` in the window `box`, and banks: what it is made of stands in the ground's
    history."""
    after = ground.after_in(box, part, form.made_of)
    return Shaped(form, volume_ml, area_mm2, edge_mm, replace(after, banks=(*after.banks, *banks)), off_by)


def tilted(ground: Ground, base: Base) -> Array:
    """Heights (ny, nx) as a spirit level sees them: the board's slope added, about the base's centre."""
    east, north = base.tilt_mm_per_m
    if not (east or north):
        return ground.z
    x, y = centres(ground.shape, ground.cell_mm)
    rise = (x - base.width_mm / 2)[None, :] * east + (y - base.depth_mm / 2)[:, None] * north
    return ground.z + rise / 1000
