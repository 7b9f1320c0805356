"""The level of the board: what to put under which corner."""

from __future__ import annotations

from dataclasses import dataclass

from ..document.scene import Base
from ..figure import Figure, Term


@dataclass(frozen=True, slots=True)
class Levelling:
    """How far the corners stand apart, and mm to put under each of the three lower ones."""

    apart_mm: Figure
    shims: dict[str, Figure]


def levelling(base: Base) -> Levelling:
    """Shims that bring all corners up to the highest.

    >>> made = levelling(Base(width_mm=1000, depth_mm=500, tilt_mm_per_m=(2, 0)))
    >>> {name: figure.value for name, figure in made.shims.items()}
    {'south-west': 2.0, 'south-east': 0.0, 'north-west': 2.0, 'north-east': 0.0}
    """
    east, north = base.tilt_mm_per_m
    across, along = east * base.width_mm / 1000, north * base.depth_mm / 1000
    corners = {"south-west": 0.0, "south-east": across, "north-west": along, "north-east": across + along}
    highest = max(corners.values())
    terms = (
        Term("rise over its width", across, "mm", "lean to the east × width"),
        Term("rise over its depth", along, "mm", "lean to the north × depth"),
    )
    apart = Figure(highest - min(corners.values()), "mm", "highest corner − lowest corner", terms)
    return Levelling(
        apart,
        {
            name: Figure(highest - height, "mm", "highest corner − this corner", terms)
            for name, height in corners.items()
        },
    )
