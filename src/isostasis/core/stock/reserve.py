"""Which pack serves which step: in the order of their dates, so that no two scenes count on the same bottle."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime

from .model import Demand, Key, Pack

LAST = datetime.max.replace(tzinfo=UTC)
LEAST = 1e-6  # of a unit; less is rounding


@dataclass(frozen=True, slots=True)
class Reserved:
    """A demand, from which packs it is met (number, amount), and what it is short of."""

    demand: Demand
    taken: tuple[tuple[int, float], ...]
    short: float


def in_turn(packs: Iterable[Pack]) -> list[Pack]:
    """Packs in the order in which they are used up: opened ones first, then what goes off first.

    >>> [one.id for one in in_turn([Pack(1, "glue", None, 9, 9), Pack(2, "glue", None, 9, 3, opened=date(2027, 1, 1))])]
    [2, 1]
    """
    return sorted(
        packs, key=lambda one: (one.opened is None, one.opened or date.max, one.best_before or date.max, one.id)
    )


def by_date(demands: Iterable[Demand]) -> list[Demand]:
    """Demands in the order of their dates; what has none comes last, scene by scene."""
    return sorted(demands, key=lambda one: (one.at or LAST, one.scene, one.order))


def reserve(packs: Iterable[Pack], demands: Iterable[Demand]) -> list[Reserved]:
    """Each demand in the order of its date with the packs that meet it; a pack never gives more than is left of it."""
    waiting: dict[Key, list[list[float]]] = {}
    for pack in in_turn(packs):
        waiting.setdefault(pack.key, []).append([pack.id, max(pack.left, 0.0)])
    reserved = []
    for demand in by_date(demands):
        open_amount, taken = demand.amount, []
        for pack_left in waiting.get(demand.key, ()):
            part = min(open_amount, pack_left[1])
            if part > 0:
                pack_left[1] -= part
                open_amount -= part
                taken.append((int(pack_left[0]), part))
        reserved.append(Reserved(demand, tuple(taken), open_amount if open_amount > LEAST else 0.0))
    return reserved
