"""What is left of a pack, from what was entered of it in order."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

What = Literal["counted", "taken", "back"]


@dataclass(frozen=True, slots=True)
class Entered:
    """One line of a pack: it was `counted` to hold so much, or so much was `taken` out of it or put `back`. `holds`:
    the mark by which it was made still stands."""

    what: What
    amount: float
    holds: bool = True


def left(size: float, lines: Iterable[Entered]) -> float:
    """What is left of a pack of a size, never below nothing: what was counted last, less what was taken since. What
    was entered before a count no longer matters, and what was entered by a mark that was taken back never does.

    >>> left(500, [Entered("taken", 120), Entered("taken", 30, holds=False), Entered("back", 20)])
    400
    >>> left(500, [Entered("taken", 120), Entered("counted", 350), Entered("taken", 50)])
    300
    """
    there = size
    for line in lines:
        if line.what == "counted":
            there = line.amount
        elif line.holds:
            there = there - line.amount if line.what == "taken" else there + line.amount
    return max(there, 0.0)
