"""Lines as SVG has them."""

from __future__ import annotations

from collections.abc import Iterable

Point = tuple[float, float]


def line_d(points: Iterable[Point], close: bool = False) -> str:
    """A path's `d` along points (x, y) in px, to a tenth; closed on wish; empty for no points.

    >>> line_d([(0, 0), (10, 2.25)], close=True)
    'M0.0,0.0L10.0,2.2Z'
    """
    found = "L".join(f"{x:.1f},{y:.1f}" for x, y in points)
    return f"M{found}{'Z' if close else ''}" if found else ""
