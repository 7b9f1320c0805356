"""Plaster cloth: strips for the user's tub, cut from rolls with the offcuts reused, and the water that they need."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

OVERLAP_MM = 20.0
SPARE = 1.05  # a twentieth more for torn and folded pieces
LEAST_REST_MM = 10.0  # at the end of a roll; nobody cuts less, craft estimate
LEAST_STRIP = 2.5  # overlaps: what is shorter covers next to nothing


@dataclass(frozen=True, slots=True)
class Strip:
    """One strip on a roll: which lane across it, where it begins along it, its length; all mm."""

    lane: int
    begin_mm: float
    length_mm: float


@dataclass(frozen=True, slots=True)
class CuttingPlan:
    """Strips roll by roll. A roll of (length, width) has `lanes` of `width_mm`; strips are `length_mm` long, offcuts
    shorter. `covers_mm2` is what all strips together cover, overlaps taken off."""

    rolls: tuple[tuple[Strip, ...], ...]
    lanes: int
    width_mm: float
    length_mm: float
    covers_mm2: float

    @property
    def count(self) -> int:
        """Strips in all."""
        return sum(len(roll) for roll in self.rolls)

    @property
    def area_mm2(self) -> float:
        """Cloth in the strips, mm2."""
        return sum(strip.length_mm for roll in self.rolls for strip in roll) * self.width_mm


def covered_by(width_mm: float, length_mm: float, overlap_mm: float = OVERLAP_MM) -> float:
    """What a strip covers once it overlaps its neighbours: (w - overlap)(l - overlap), mm2.

    >>> covered_by(150, 300)
    36400.0
    """
    return max(width_mm - overlap_mm, 0.0) * max(length_mm - overlap_mm, 0.0)


def cutting_plan(
    area_mm2: float,
    layers: int,
    roll_mm: tuple[float, float],
    tub_mm: tuple[float, float],
    overlap_mm: float = OVERLAP_MM,
) -> CuttingPlan:
    """Strips across the roll that go into the tub flat, enough for `layers` over `area_mm2`.

    A strip is as long as the tub; a roll wider than the tub is slit into equal lanes. The rest at the end of a lane
    becomes a shorter strip unless it is under 2.5 overlaps. Rolls are opened one after the other and none more than
    is needed. Raises ValueError for a tub in which no strip is wider than its overlap.
    """
    length, wide = roll_mm
    lanes = max(1, ceil(wide / min(tub_mm) - 1e-9))
    width = wide / lanes
    strip = min(max(tub_mm), length)
    if covered_by(width, strip, overlap_mm) <= 0:
        raise ValueError(
            f"a tub of {tub_mm[0]:g} x {tub_mm[1]:g} mm takes no strip wider than its overlap of {overlap_mm:g} mm"
        )
    cuts = [strip] * int(length / strip + 1e-9)
    rest = length - sum(cuts)
    if rest >= max(LEAST_STRIP * overlap_mm, LEAST_REST_MM):
        cuts.append(rest)
    need = layers * area_mm2 * SPARE
    rolls: list[tuple[Strip, ...]] = []
    covers = 0.0
    while covers < need - 1e-6:
        roll: list[Strip] = []
        for lane in range(lanes):
            at = 0.0
            for cut in cuts:
                if covers >= need - 1e-6:
                    break
                roll.append(Strip(lane, at, cut))
                covers += covered_by(width, cut, overlap_mm)
                at += cut
        rolls.append(tuple(roll))
    return CuttingPlan(tuple(rolls), lanes, width, strip, covers)
