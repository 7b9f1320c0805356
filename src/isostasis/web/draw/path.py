"""Lines as SVG has them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

Point = Sequence[float]
OFF_PX = 0.05  # so far from a straight line, no eye tells a point from one on it


def line_d(points: NDArray[np.float64] | Iterable[Point], close: bool = False) -> str:
    """A path's `d` along points (x, y) in px, to a tenth, without those that lie straight between others; closed on
    wish; empty for no points.

    >>> line_d([(0, 0), (5, 0), (10, 0), (10, 2.25)], close=True)
    'M0.0,0.0L10.0,0.0L10.0,2.2Z'
    """
    from shapely import get_coordinates, linestrings, simplify

    corners = np.array(points if isinstance(points, np.ndarray) else list(points), dtype=float)
    if not len(corners):
        return ""
    if len(corners) > 2:
        corners = get_coordinates(simplify(linestrings(corners), OFF_PX, preserve_topology=False))
    return f"M{'%.1f,%.1fL' * len(corners) % tuple(corners.ravel().tolist())}"[:-1] + ("Z" if close else "")
