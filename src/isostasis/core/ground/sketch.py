"""What was drawn by hand, made into outlines and paths of few corners; and names by place."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil, cos, pi, sin

import numpy as np

from ..fault import Refusal
from .raster import Array

Points = Sequence[Sequence[float]]
Line = list[list[float]]
MAX_DRAWN = 5000  # points of one stroke
SHORTEST_MM = 2.0
AROUND = 28  # corners of an ellipse


def _even(points: Array, step_mm: float, closed: bool) -> Array:
    """Points (n, 2) along the line at even distances; a ring does not repeat its first."""
    line = np.vstack([points, points[:1]]) if closed else points
    run = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))))
    count = max(ceil(run[-1] / step_mm), 3)
    at = np.linspace(0, run[-1], count + 1)[: count if closed else count + 1]
    return np.stack([np.interp(at, run, line[:, axis]) for axis in (0, 1)], axis=1)


def _steadied(points: Array, closed: bool) -> Array:
    """A stroke without the shake of the hand: each point between its neighbours; the ends of a path stay."""
    for _ in range(2):
        if closed:
            points = (np.roll(points, 1, axis=0) + 2 * points + np.roll(points, -1, axis=0)) / 4
        else:
            middle = (points[:-2] + 2 * points[1:-1] + points[2:]) / 4
            points = np.vstack([points[:1], middle, points[-1:]])
    return points


def freehand(points: Points, closed: bool, within_mm: float) -> Line:
    """A stroke as a ring or a path whose corners keep it within N mm, after the hand's shake is taken out. A ring
    that crosses itself is the largest part that it runs round. Raises Refusal for what is no line, or too short.

    >>> ring = freehand([(0, 0), (40, 0), (40, 30), (0, 30), (0, 1)], True, 1.0)
    >>> 4 <= len(ring) <= 16
    True
    """
    from shapely import LinearRing, LineString
    from shapely.ops import polygonize, unary_union

    stroke = _checked(points)
    run = float(np.hypot(*np.diff(stroke, axis=0).T).sum())
    if run < (3 if closed else 1) * max(SHORTEST_MM, within_mm):
        raise Refusal(f"it is {run:.0f} mm long", "draw it larger, or look closer first")
    even = _steadied(_even(stroke, within_mm, closed), closed)
    if not closed:
        return _rounded(LineString(even).simplify(within_mm).coords)
    shape = unary_union(list(polygonize(unary_union(LinearRing(even)))))
    parts = [part for part in getattr(shape, "geoms", [shape]) if part.geom_type == "Polygon"]
    if not parts or max(part.area for part in parts) < within_mm**2:
        raise Refusal("it runs round nothing", "draw round what you mean, and come back to where you began")
    largest = max(parts, key=lambda part: part.area).simplify(within_mm)
    return _rounded(largest.exterior.coords[:-1])


def _checked(points: Points) -> Array:
    try:
        stroke = np.array([[float(x), float(y)] for x, y in points], dtype=float)
    except (TypeError, ValueError):
        raise Refusal("it is no list of points", "give [[x, y], ...] in mm") from None
    if not 2 <= len(stroke) <= MAX_DRAWN or not np.isfinite(stroke).all() or np.abs(stroke).max() > 1e6:
        raise Refusal(f"it has {len(stroke)} points, or some that are nowhere", f"2 to {MAX_DRAWN} points, in mm")
    apart = np.concatenate(([True], np.hypot(*np.diff(stroke, axis=0).T) > 1e-6))
    if apart.sum() < 2:
        raise Refusal("it is one point", "drag, or click more than one place")
    return np.asarray(stroke[apart])


def _rounded(points: Sequence[Sequence[float]]) -> Line:
    return [[round(float(x), 1), round(float(y), 1)] for x, y in points]


def cornered(points: Points, closed: bool) -> Line:
    """Corner by corner, as they were clicked. Raises Refusal for too few."""
    corners = _rounded(list(_checked(points)))
    if len(corners) < (3 if closed else 2):
        raise Refusal(f"it has {len(corners)} corners", "three at least for an outline, two for a path")
    return corners


def boxed(points: Points, tool: str) -> Line:
    """A "rectangle" or an "ellipse" in the box from the first to the last point. Raises Refusal for a flat one."""
    stroke = _checked(points)
    west, south = np.minimum(stroke[0], stroke[-1])
    east, north = np.maximum(stroke[0], stroke[-1])
    if min(east - west, north - south) < SHORTEST_MM:
        raise Refusal(f"it is {min(east - west, north - south):.1f} mm across", "drag from corner to corner")
    if tool == "rectangle":
        return _rounded([(west, south), (east, south), (east, north), (west, north)])
    angles = [2 * pi * number / AROUND for number in range(AROUND)]
    x, y, across, along = (west + east) / 2, (south + north) / 2, (east - west) / 2, (north - south) / 2
    return _rounded([(x + across * cos(angle), y + along * sin(angle)) for angle in angles])


def kept_on(line: Points, width: float, depth: float) -> Line:
    """A line with every corner on the base."""
    return [[min(max(x, 0.0), width), min(max(y, 0.0), depth)] for x, y in line]


def middle_of(line: Points) -> tuple[float, float]:
    """The middle of an outline's or a path's corners."""
    return sum(x for x, _ in line) / len(line), sum(y for _, y in line) / len(line)


def by_place(what: str, middles: Sequence[tuple[float, float]], width: float, depth: float) -> list[str]:
    """A name for each by where it lies: "east pond"; numbered where two lie alike.

    >>> by_place("pond", [(50, 50), (250, 50), (250, 180)], 300, 200)
    ['south-west pond', 'south-east pond', 'north-east pond']
    """
    names: list[str] = []
    for x, y in middles:
        rows, columns = ("south", "", "north"), ("west", "", "east")
        words = [rows[min(int(3 * y / depth), 2)], columns[min(int(3 * x / width), 2)]]
        place = "-".join(word for word in words if word) or "middle"
        name = f"{place} {what}"
        number = 1 + sum(one.startswith(name) for one in names)
        names.append(name if number == 1 else f"{name} {number}")
    return names
