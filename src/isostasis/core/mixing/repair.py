"""Mending a cup into which the wrong amounts went: add to what is short, never remove.

Source: proportion alone.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Repair:
    """What to add to each part, the batch that results, and by how much it is more than planned."""

    add: tuple[float, ...]
    batch: float
    over: float


def repair(parts: tuple[float, ...], within: tuple[float, ...]) -> Repair:
    """Amounts to add so that what is in the cup stands in the ratio `parts` (any unit, the same for all).

    Adds only where there is too little. Raises ValueError for negative amounts or a ratio of nothing.

    >>> repair((2, 1), (200, 110)).add
    (20.0, 0.0)
    """
    if len(parts) != len(within) or min(within, default=0) < 0 or min(parts, default=0) < 0 or sum(parts) <= 0:
        raise ValueError("parts and amounts go together, are 0 or more, and the parts are not all 0")
    if any(amount > 0 and part == 0 for part, amount in zip(parts, within, strict=True)):
        raise ValueError("something is in the cup that the recipe has none of")
    measure = max(amount / part for part, amount in zip(parts, within, strict=True) if part > 0)
    add = tuple(part * measure - amount for part, amount in zip(parts, within, strict=True))
    return Repair(add, measure * sum(parts), sum(add))
