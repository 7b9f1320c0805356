"""What the whole scene takes of each material, and what that costs where the user has priced it."""

from __future__ import annotations

from math import ceil

from ..catalogue import Bench, Price
from ..figure import Figure, Term
from ..lifts.labels import Labels
from .model import Need, Use


def _cheapest(name: str, need: float, bench: Bench) -> tuple[int, Price] | None:
    """So many packs of the one offer that covers a need alone at the least cost."""
    offers = [one for one in bench.prices if one.material == name]
    counted = [(max(ceil(need / one.holds - 1e-9), 0), one) for one in offers]
    return min(counted, key=lambda one: (one[0] * one[1].amount, one[0]), default=None)


def _bought(name: str, need: float, unit: str, bench: Bench, panels: bool) -> tuple[Figure | None, Figure | None]:
    """Packs and their cost, where the user gave a price. How many panels depends on how pieces nest, not on area."""
    cheapest = None if panels else _cheapest(name, need, bench)
    if cheapest is None:
        return None, None
    packs, price = cheapest
    holds = Term("one pack", price.holds, unit, "your price list")
    formula = "need / what a pack holds, rounded up; of several sizes the one that comes cheapest alone"
    return (
        Figure(packs, "packs", formula, (Term("need", need, unit), holds)),
        Figure(
            packs * price.amount, "money", "packs × price", (Term("packs", packs), Term("price", price.amount, "money"))
        ),
    )


def needs_of(uses: tuple[Use, ...], labels: Labels, bench: Bench) -> tuple[Need, ...]:
    """Everything that the scene, all copies, still takes, by material in the order of their ids."""
    by_material: dict[str, dict[str, float]] = {}
    units: dict[str, str] = {}
    for use in uses:
        amounts = by_material.setdefault(use.material, {})
        amounts[use.what] = amounts.get(use.what, 0.0) + use.amount
        units[use.material] = use.unit
    needs = []
    for name, amounts in sorted(by_material.items()):
        unit, whole = units[name], sum(amounts.values())
        terms = tuple(Term(what, amount, unit) for what, amount in amounts.items())
        panels = name in labels.materials and labels.materials[name].panel_mm is not None
        need = Figure(whole, unit, "sum over the scene, waste included", terms)
        needs.append(Need(name, need, unit, *_bought(name, whole, unit, bench, panels)))
    return tuple(needs)
