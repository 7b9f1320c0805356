"""Where a starter puts what it makes: outlines that look grown, places that keep apart."""

from __future__ import annotations

from math import cos, hypot, pi, sin

from ..document.scene import SHORT_MM

Ring = list[list[float]]
# Middles of N hollows, as shares of the base: kept apart, none in line with its neighbour.
SPREAD: dict[int, tuple[tuple[float, float], ...]] = {
    1: ((0.5, 0.5),),
    2: ((0.28, 0.6), (0.7, 0.42)),
    3: ((0.26, 0.27), (0.75, 0.45), (0.34, 0.76)),
    4: ((0.25, 0.28), (0.72, 0.26), (0.3, 0.74), (0.77, 0.72)),
    5: ((0.2, 0.25), (0.78, 0.24), (0.5, 0.52), (0.21, 0.77), (0.8, 0.76)),
    6: ((0.18, 0.28), (0.5, 0.24), (0.82, 0.3), (0.2, 0.74), (0.51, 0.76), (0.81, 0.72)),
}


def blob(x: float, y: float, across: float, along: float, turn: int = 0) -> Ring:
    """A ring of 20 corners like a pond's shore about a middle, half-axes in mm; `turn` makes each another one."""
    ring = []
    for number in range(20):
        angle = 2 * pi * number / 20
        reach = 1 + 0.09 * sin(2 * angle + 1.7 * turn) + 0.06 * sin(3 * angle + 0.9 + turn)
        ring.append([round(x + across * reach * cos(angle), 1), round(y + along * reach * sin(angle), 1)])
    return ring


def block(west: float, south: float, east: float, north: float) -> Ring:
    """A rectangle."""
    return [[west, south], [east, south], [east, north], [west, north]]


def wavy(west: float, east: float, y: float, swing: float, turn: int = 0, points: int = 16) -> Ring:
    """Points from west to east about a height, swinging N mm."""
    return [
        [
            round(west + (east - west) * place / points, 1),
            round(
                y + swing * (sin(2.1 * pi * place / points + turn) + 0.4 * sin(5.3 * pi * place / points + 2 * turn)), 1
            ),
        ]
        for place in range(points + 1)
    ]


def room_for(middles: list[tuple[float, float]], width: float, depth: float) -> float:
    """Half-axis in mm that hollows about these middles can have, with a fifth of it left between them and the edge."""
    edges = [min(x, width - x, y, depth - y) for x, y in middles]
    between = [hypot(a[0] - b[0], a[1] - b[1]) / 2 for place, a in enumerate(middles) for b in middles[:place]]
    return min(*edges, *between, 0.3 * min(width, depth) + 0.1 * max(width, depth)) / 1.3


def grid_of(width: float, depth: float) -> float:
    """Side of a cell in mm: fine enough for banks, coarse enough to answer at once."""
    longest = max(width, depth)
    if longest < 120:
        return max(0.25, round(longest / 120 * 4) / 4)
    return 2.0 if longest < SHORT_MM else 2.5 if longest <= 800 else 5.0 if longest <= 2500 else 10.0
