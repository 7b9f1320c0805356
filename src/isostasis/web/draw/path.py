"""Lines as SVG has them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import chain

Point = Sequence[float]


def line_d(points: Iterable[Point], close: bool = False) -> str:
    """A path's `d` along points (x, y) in px, to a tenth; closed on wish; empty for no points.

    >>> line_d([(0, 0), (10, 2.25)], close=True)
    'M0.0,0.0L10.0,2.2Z'
    """
    numbers = tuple(chain.from_iterable(points))
    if not numbers:
        return ""
    return f"M{'%.1f,%.1fL' * (len(numbers) // 2) % numbers}"[:-1] + ("Z" if close else "")
