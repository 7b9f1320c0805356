"""Outlines made from outlines."""

from __future__ import annotations

from ..document.outline import Point


def grown(ring: tuple[Point, ...], by_mm: float, edge: tuple[Point, ...]) -> list[list[float]]:
    """A ring `by_mm` outside another, as far as the base's `edge` goes; corners to a tenth of a mm."""
    from shapely import Polygon

    found = Polygon(ring).buffer(by_mm, join_style="mitre").intersection(Polygon(edge)).simplify(0.2)
    return [[round(x, 1), round(y, 1)] for x, y in list(found.exterior.coords)[:-1]]
