"""How fast hands are: minutes of brushing, strewing, misting, laying. Defaults; what a kind does in which order is its
own."""

from __future__ import annotations

from ..catalogue import Bench, Tool

# cm2 a minute. Source: docs/science.md, hands.
CM2_PER_MIN: dict[Tool, float] = {
    "broad brush": 250.0,
    "small brush": 60.0,
    "drybrush": 120.0,
    "sponge": 200.0,
    "strewing": 300.0,
    "mist": 400.0,
    "drip": 120.0,
    "tissue": 120.0,
    "cloth": 80.0,
}
SETUP_MIN = 5.0
CUT_IN_MM2 = 10_000.0  # edges and corners, done with the small brush; craft estimate


def minutes_over(area_mm2: float, tool: Tool, bench: Bench) -> float:
    """Minutes to work over an area with a tool, at the user's own rate where they measured it.

    >>> minutes_over(60_000, "strewing", Bench())
    2.0
    """
    return area_mm2 / 100 / (bench.rate_of(tool) or CM2_PER_MIN[tool])


def brushing_minutes(area_mm2: float, bench: Bench) -> float:
    """Minutes to brush a coat on: a square decimetre is cut in with the small brush, the rest goes on with the broad.

    >>> round(brushing_minutes(600 * 600, Bench()))
    16
    """
    cut_in = min(area_mm2, CUT_IN_MM2)
    return minutes_over(cut_in, "small brush", bench) + minutes_over(area_mm2 - cut_in, "broad brush", bench)
