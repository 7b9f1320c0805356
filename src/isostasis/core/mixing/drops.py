"""Drops are whole: how a tint is counted, and what to do where a batch takes fewer than can be counted.

Source: docs/science.md, mixing.
"""

from __future__ import annotations

from dataclasses import dataclass

FEWEST = 3  # below, half a drop more or less is seen in the colour
STOCK = 10  # parts of a stock tint of which one is the tint


@dataclass(frozen=True, slots=True)
class Counted:
    """Whole drops of a tint, or with `stock` of one let down to a tenth; `error` is (counted - wanted) / wanted.
    `right_ml`: the batch for which one drop of the tint itself is right."""

    drops: int
    stock: bool
    error: float
    right_ml: float


def count_drops(drops: float, batch_ml: float) -> Counted:
    """How many drops to count for a batch that takes so many (not whole) of a tint.

    Raises ValueError unless drops and batch are above 0.

    >>> count_drops(12.4, 100).drops, count_drops(0.4, 20).drops, count_drops(0.4, 20).right_ml
    (12, 4, 50.0)
    """
    if drops <= 0 or batch_ml <= 0:
        raise ValueError("drops and batch are above 0")
    stock = drops < FEWEST and abs(round(drops) - drops) > 0.05 * drops
    wanted = drops * STOCK if stock else drops
    whole = max(round(wanted), 1)
    return Counted(whole, stock, whole / wanted - 1, batch_ml / drops)
