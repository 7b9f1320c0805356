"""Where the water falls: what a document says of it, and its way from the lip to the foot on the ground before it."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from math import asin, ceil, degrees
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ....catalogue.model import Id, Positive
from ....document.outline import Path
from ....document.scene import Lift
from ....fault import fault
from ....ground.field import Ground
from ...site import Site

LOWER_MM = 1.0  # less than this is no fall


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
