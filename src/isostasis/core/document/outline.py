"""Outlines: rings of points in mm, without repeating the first; and paths."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated

from pydantic import AfterValidator, Field

from ..fault import Refusal

Coordinate = Annotated[float, Field(ge=-20_000, le=20_000)]
Point = tuple[Coordinate, Coordinate]


def _simple(ring: tuple[Point, ...]) -> tuple[Point, ...]:
    """Refuse rings that repeat a point or cross themselves, saying where."""
    from shapely import LinearRing, Polygon
    from shapely.validation import explain_validity

    if len(set(ring)) < len(ring):
        again = next(point for index, point in enumerate(ring) if point in ring[:index])
        raise Refusal(f"the point {again[0]:g}, {again[1]:g} stands twice", "leave out the repeated one")
    if not LinearRing(ring).is_simple:
        spot = explain_validity(Polygon(ring)).partition("[")[2].rstrip("]").replace(" ", ", ")
        raise Refusal(f"the outline crosses itself near {spot or 'its corners'}", "put its corners in walking order")
    if Polygon(ring).area < 1:
        raise Refusal("the outline holds less than 1 mm2", "give it corners that stand apart")
    return ring


Ring = Annotated[tuple[Point, ...], Field(min_length=3, max_length=2000), AfterValidator(_simple)]


def _walkable(path: tuple[Point, ...]) -> tuple[Point, ...]:
    """Refuse paths that stand still, saying where."""
    for here, there in pairwise(path):
        if here == there:
            raise Refusal(f"the path stands still at {here[0]:g}, {here[1]:g}", "leave out the repeated point")
    return path


Path = Annotated[tuple[Point, ...], Field(min_length=2, max_length=2000), AfterValidator(_walkable)]


def disc(diameter: float, centre: Point, corners: int = 96) -> tuple[Point, ...]:
    """A ring round a disc, of the disc's own area (the corners stand slightly outside the circle)."""
    from math import cos, pi, sin, sqrt

    radius = diameter / 2 * sqrt(2 * pi / corners / sin(2 * pi / corners))
    turns = [2 * pi * corner / corners for corner in range(corners)]
    return tuple((centre[0] + radius * cos(turn), centre[1] + radius * sin(turn)) for turn in turns)
