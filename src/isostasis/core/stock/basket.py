"""Which packs to buy, so that all that is short is there at the least cost: solved exactly.

Packs of one material are a covering problem of their own, solved by CP-SAT. Postage ties materials together: every set
of sellers that one may order from is tried, and what a material costs from them is looked up.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from itertools import combinations
from math import ceil, inf

from ..stages import cached_stage
from .model import Key, Seller

CENTS = 100
GRAIN = 1000  # amounts are counted in thousandths of what a material is sold by
LIMIT_S = 20.0
MAX_SELLERS = 8  # with postage: every set of them is tried


@dataclass(frozen=True, slots=True)
class Offer:
    """One thing that can be bought: a purchase of a material holds so much of each part of it (None: it has no parts),
    for so much money, at that seller."""

    material: str
    holds: tuple[tuple[str | None, float], ...]
    amount: float
    seller: str = ""


@dataclass(frozen=True, slots=True)
class Basket:
    """How many of each offer, in their order; money for them, and postage by seller."""

    counts: tuple[int, ...]
    goods: float
    postage: tuple[tuple[str, float], ...] = ()

    @property
    def cost(self) -> float:
        """Money in all."""
        return round(self.goods + sum(amount for _, amount in self.postage), 2)


Needs = tuple[tuple[str | None, int], ...]  # by part, in grains
Pack = tuple[tuple[int, ...], int]  # what it holds of each part that is needed, in grains; its price in cents


@cached_stage
def _cover(need: tuple[int, ...], packs: tuple[Pack, ...]) -> tuple[int, ...] | None:
    """How many of each pack cover a need at the least cost, of equal cost the fewest; None where they cannot.

    Raises ValueError if no answer is proved best in time.
    """
    if any(all(not holds[place] for holds, _ in packs) for place in range(len(need))):
        return None
    if len(packs) == 1:
        return (max(ceil(amount / one) for amount, one in zip(need, packs[0][0], strict=True)),)
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    most = [
        max(ceil(amount / one) for amount, one in zip(need, holds, strict=True) if one) if any(holds) else 0
        for holds, _ in packs
    ]
    counts = [model.new_int_var(0, top, "") for top in most]
    for place, amount in enumerate(need):
        model.add(sum(holds[place] * count for (holds, _), count in zip(packs, counts, strict=True)) >= amount)
    price = sum(cents * count for (_, cents), count in zip(packs, counts, strict=True))
    model.minimize(price * (sum(most) + 1) + sum(counts))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.max_time_in_seconds = LIMIT_S
    if solver.solve(model) != cp_model.OPTIMAL:
        raise ValueError("no basket was proved best in time")
    return tuple(solver.value(one) for one in counts)


@dataclass(frozen=True)
class _Choice:
    """One material that is short, with the offers of it by number and who asks postage for them."""

    need: Needs
    offers: tuple[tuple[int, Offer], ...]
    posting: frozenset[str]

    def bought(self, sellers: frozenset[str]) -> tuple[float, dict[int, int]]:
        """Cents, and how many of which offer, if of those with postage one orders from these alone."""
        known = [(number, one) for number, one in self.offers if one.seller not in self.posting - sellers]
        packs = tuple(
            (tuple(round(dict(one.holds).get(part, 0.0) * GRAIN) for part, _ in self.need), round(one.amount * CENTS))
            for _, one in known
        )
        counts = _cover(tuple(amount for _, amount in self.need), packs) if packs else None
        if counts is None:
            return inf, {}
        found = {number: count for (number, _), count in zip(known, counts, strict=True) if count}
        return sum(round(one.amount * CENTS) * found.get(number, 0) for number, one in known), found


def _choices(wanted: Mapping[Key, float], offers: tuple[Offer, ...], posting: frozenset[str]) -> Iterator[_Choice]:
    by_material: dict[str, list[tuple[int, Offer]]] = {}
    for number, offer in enumerate(offers):
        by_material.setdefault(offer.material, []).append((number, offer))
    for material, known in by_material.items():
        parts = {part for _, one in known for part, holds in one.holds if round(holds * GRAIN) > 0}
        need = tuple((part, ceil(wanted[material, part] * GRAIN - 1e-6)) for part in sorted(parts, key=str)
                     if (material, part) in wanted)  # fmt: skip
        if need:
            yield _Choice(need, tuple(known), frozenset(one.seller for _, one in known) & posting)


def _sets(names: Iterable[str]) -> Iterator[frozenset[str]]:
    known = sorted(names)
    for size in range(len(known) + 1):
        yield from map(frozenset, combinations(known, size))


def least_cost(short: Iterable[tuple[Key, float]], offers: tuple[Offer, ...], sellers: Iterable[Seller] = ()) -> Basket:
    """The basket of least cost that covers all that is `short`, postage of the sellers counted. What nobody offers is
    left out.

    Raises ValueError for more than 8 sellers with postage, or if no basket is proved best in time.
    """
    postage = {one.name: round(one.postage * CENTS) for one in sellers if one.postage > 0}
    posting = frozenset(one.seller for one in offers) & frozenset(postage)
    if len(posting) > MAX_SELLERS:
        raise ValueError(f"more than {MAX_SELLERS} sellers ask postage")
    choices = list(_choices({key: amount for key, amount in short if amount > 0}, offers, posting))
    answers = [{sellers: one.bought(sellers) for sellers in _sets(one.posting)} for one in choices]

    def cents(from_these: frozenset[str]) -> float:
        goods = sum(known[from_these & one.posting][0] for one, known in zip(choices, answers, strict=True))
        return goods + sum(postage[name] for name in from_these)

    best = min(_sets(posting), key=cents)
    counts = [0] * len(offers)
    for one, known in zip(choices, answers, strict=True):
        for number, count in known[best & one.posting][1].items():
            counts[number] = count
    paid = tuple((name, postage[name] / CENTS) for name in sorted(best))
    goods = sum(round(offer.amount * CENTS) * count for offer, count in zip(offers, counts, strict=True)) / CENTS
    return Basket(tuple(counts), goods, paid)
