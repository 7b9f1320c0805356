"""How much to mix so that enough leaves the cup, and in how many equal batches.

What stays behind, a share and a film that goes with the cup's face, is a craft estimate.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

from ..fault import fault

LEFT_SHARE = 0.05
LEFT_FILM = 0.14
MAX_BATCHES = 500  # nobody mixes more for one layer


def left_behind(batch_ml: float, share: float = LEFT_SHARE, film: float = LEFT_FILM) -> float:
    """ml of a batch that stay in the cup and on tools: a share of it, and a film that goes with the cup's face.
    Raises ValueError unless a batch is 0 ml or more.

    >>> round(left_behind(100) - 5, 1), round(left_behind(2) - 0.1, 1)
    (3.0, 0.2)
    """
    if batch_ml < 0:
        raise ValueError("a batch is 0 ml or more")
    return float(share * batch_ml + film * batch_ml ** (2 / 3))


def to_mix(need_ml: float, times: float = 1.0) -> float:
    """The batch of which `need_ml` leave the cup: batch - times x left_behind(batch) = need. `times`: as records have
    it.
    Raises ValueError unless a need is 0 ml or more.

    >>> round(to_mix(100 - left_behind(100)), 6)
    100.0
    """
    if need_ml < 0:
        raise ValueError("a need is 0 ml or more")
    batch = need_ml
    for _ in range(60):
        batch = need_ml + times * left_behind(batch)
    return float(batch)


@dataclass(frozen=True, slots=True)
class Batches:
    """`count` equal batches of `each_ml`, together `total_ml`, of which `left_ml` stay behind."""

    count: int
    each_ml: float
    total_ml: float
    left_ml: float


def split(need_ml: float, cup_ml: float, placeable_ml: float, wasted: bool = True, times: float = 1.0) -> Batches:
    """Equal batches, never a runt, each no more than the cup holds and than can be placed within the working time.

    Of all of them together `need_ml` leave the cups. What is dry (`wasted` false) leaves nothing in them; else `times`
    what is left by default, as records have it. Raises
    ValueError for limits of 0, Faults for more than MAX_BATCHES.

    >>> split(250, 150, 400).count
    2
    """
    most = min(cup_ml, placeable_ml)
    if most <= 0:
        raise ValueError("a batch needs a cup and a working time above 0")
    if need_ml <= 0:
        return Batches(0, 0.0, 0.0, 0.0)
    useful = most - (times * left_behind(most) if wasted else 0.0)
    if need_ml > useful * MAX_BATCHES:
        raise fault(
            "batches",
            f"{need_ml:,.0f} ml take more than {MAX_BATCHES} batches of {most:.3g} ml",
            "mix in a larger vessel",
        )
    count = max(1, ceil(need_ml / useful - 1e-9))
    each = to_mix(need_ml / count, times) if wasted else need_ml / count
    return Batches(count, each, each * count, each * count - need_ml)
