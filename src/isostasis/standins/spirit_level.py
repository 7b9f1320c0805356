"""A spirit level with two axes, and its stand-in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np

Corner = Literal["south-west", "south-east", "north-west", "north-east"]
CORNERS: tuple[Corner, ...] = ("south-west", "south-east", "north-west", "north-east")
RESOLUTION = 0.05  # mm/m that one mark shows
NOISE = 0.12  # mm/m, one reading from the next: a hand, a table


class SpiritLevel(Protocol):
    """What any level does: one reading of both axes, (to the east, to the north) in mm/m, rising positive."""

    def read(self) -> tuple[float, float]:
        """One reading."""
        ...


@dataclass
class SimulatedLevel:
    """A board that really leans by (`east`, `north`) mm/m, read with noise and in whole marks. The same `seed` and
    `taken` give the same readings."""

    east: float
    north: float
    seed: int
    taken: int = 0

    def read(self) -> tuple[float, float]:
        """One reading."""
        rng = np.random.default_rng((self.seed, self.taken))
        self.taken += 1
        off = rng.normal(0, NOISE, 2)
        east, north = (
            round(float(value) / RESOLUTION) * RESOLUTION for value in (self.east + off[0], self.north + off[1])
        )
        return round(east, 3), round(north, 3)

    def shim(self, corner: Corner, mm: float, width_mm: float, depth_mm: float) -> None:
        """Raise a corner: the board turns about the line between its two neighbours."""
        east, north = (1 if "east" in corner else -1), (1 if "north" in corner else -1)
        self.east += 1000 * east * mm / width_mm
        self.north += 1000 * north * mm / depth_mm


def mean_of(level: SpiritLevel, readings: int) -> tuple[float, float]:
    """The mean of several readings, to a hundredth of a mm/m."""
    taken = [level.read() for _ in range(readings)]
    return round(sum(east for east, _ in taken) / readings, 2), round(sum(north for _, north in taken) / readings, 2)
