"""The cup beside the gauge, to scale: what is in it, what goes in, and how far it may go."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ...store.planned import PlannedBatch, PlannedPart
from ...store.tables import BatchRow
from .weighing import Weighing

TOP, BOTTOM = 20.0, 246.0  # of the cup, px
WIDE, NARROW, MIDDLE = 84.0, 66.0, 106.0  # half widths at its rim and floor; where it stands
BAR_TOP, BAR_BOTTOM = 20.0, 234.0
LAST_G, OVER_SHARE = 20.0, 0.25  # what the gauge shows: the last grams, and beyond the mark so large a share of them


@dataclass(frozen=True)
class Filled:
    """So much of the cup: the outline of the part in it, its words, and where they stand."""

    d: str
    words: str
    y: float
    over: bool = False


@dataclass(frozen=True)
class DrawnCup:
    """What is in the cup, the line up to which it goes, and on the gauge of the last grams: where they are slow, good,
    over, and where the pointer stands."""

    filled: tuple[Filled, ...]
    mark: float | None
    slow: float = 0.0
    good: float = 0.0
    over: float = 0.0
    pointer: float | None = None
    last_g: float = LAST_G
    cup_ml: float = 0.0


def _half(y: float) -> float:
    return NARROW + (WIDE - NARROW) * (BOTTOM - y) / (BOTTOM - TOP)


def _between(low: float, high: float) -> str:
    return (
        f"M{MIDDLE - _half(high):.1f},{high:.1f}H{MIDDLE + _half(high):.1f}"
        f"L{MIDDLE + _half(low):.1f},{low:.1f}H{MIDDLE - _half(low):.1f}Z"
    )


def drawn_cup(
    planned: PlannedBatch,
    row: BatchRow,
    cup_ml: float,
    part: PlannedPart | None,
    weighing: Weighing | None,
    names: Mapping[str, str],
) -> DrawnCup:
    """The cup of an open batch; volumes by the densities that it was planned with, each part on top of the other."""
    size = max(cup_ml, planned.volume_ml)
    densities = {one.key: one.mass_g / one.volume_ml for one in planned.ingredients if one.volume_ml and one.mass_g}

    def height(ml: float) -> float:
        return max(BOTTOM - (BOTTOM - TOP) * min(ml / size, 1.0), TOP)

    filled, ml = [], 0.0
    for ingredient in planned.ingredients:
        grams = row.actual.get(ingredient.key, 0.0)
        if grams > 0 and ingredient.key in densities:
            low, ml = ml, ml + grams / densities[ingredient.key]
            y = (height(low) + height(ml)) / 2
            words = f"{ingredient.part or names.get(ingredient.key, '').split(',')[0]} {grams:.1f} g"
            filled.append(Filled(_between(height(low), height(ml)), words, y))
    if part is None or weighing is None or part.key not in densities or not weighing.wanted_g:
        return DrawnCup(tuple(filled), None, cup_ml=cup_ml)
    mark = height(ml + weighing.wanted_g / densities[part.key])
    if weighing.in_g > 0:
        top = height(ml + weighing.in_g / densities[part.key])
        filled.append(Filled(_between(height(ml), max(top, mark)), f"{weighing.in_g:.1f} g", (height(ml) + top) / 2))
        if top < mark - 0.5:
            filled.append(Filled(_between(mark, top), "", 0.0, over=True))
    gauge = weighing.gauge
    if gauge is None:
        return DrawnCup(tuple(filled), mark, cup_ml=cup_ml)
    span = min(LAST_G, weighing.wanted_g)
    beyond = max(span * OVER_SHARE, 2 * gauge.good_g)

    def on_bar(to_go: float) -> float:
        share = (to_go + beyond) / (span + beyond)
        return BAR_TOP + (BAR_BOTTOM - BAR_TOP) * min(max(share, 0.0), 1.0)

    return DrawnCup(
        tuple(filled), mark, on_bar(min(gauge.slow_g, span)), on_bar(gauge.good_g), on_bar(-gauge.good_g),
        on_bar(gauge.to_go_g), span, cup_ml,
    )  # fmt: skip
