"""What to buy: what is short of each material, before which step, and which packs of which sizes at the least cost."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import ClassVar

from ..catalogue import Bench, Catalogue, Price
from .basket import Basket, Offer, least_cost
from .doubts import kit_parts
from .model import Key, Pack, Seller
from .reserve import LAST, Reserved


@dataclass(frozen=True, slots=True)
class Chosen:
    """So many of one offer."""

    JSON: ClassVar[tuple[str, ...]] = ("count", "pack", "packs", "seller", "amount")  # what machines read

    price: Price
    count: int

    @property
    def pack(self) -> float:
        """What one pack holds, in what the material is sold by."""
        return self.price.pack

    @property
    def packs(self) -> int:
        """How many packs are tied together."""
        return self.price.packs

    @property
    def seller(self) -> str:
        """Where."""
        return self.price.seller

    @property
    def amount(self) -> float:
        """Money for all of them."""
        return round(self.count * self.price.amount, 2)


@dataclass(frozen=True, slots=True)
class Line:
    """One material that is short: what the scenes need of it, what is there, what is short, the step that it is short
    for first, what to buy, what that costs and what of it will be left over. `parts` are what is short of each half of
    a kit."""

    JSON: ClassVar[tuple[str, ...]] = (
        "material",
        "unit",
        "need",
        "have",
        "short",
        "scene",
        "step",
        "before",
        "buy",
        "cost",
        "over",
        "by_scene",
    )  # fmt: skip - what machines read

    material: str
    unit: str
    need: float
    have: float
    short: float
    scene: str
    step: str
    at: datetime | None
    by_scene: dict[str, float]
    parts: tuple[tuple[Key, float], ...]
    buy: tuple[Chosen, ...] = ()
    cost: float | None = None
    over: float | None = None
    alternatives: tuple[tuple[Chosen, ...], ...] = ()

    @property
    def spare(self) -> float:
        """What of the shelf is there for these scenes, once those that come before them have had theirs."""
        return max(self.need - self.short, 0.0)

    @property
    def before(self) -> str | None:
        """When it is short, as machines read it."""
        return None if self.at is None else self.at.isoformat()


@dataclass(frozen=True, slots=True)
class Shopping:
    """All that is short, what runs out first at the top; money for packs and postage, and of what no price is known.
    `enough` is what is needed and there."""

    JSON: ClassVar[tuple[str, ...]] = ("lines", "goods", "postage", "cost", "unpriced", "enough")  # what machines read

    lines: tuple[Line, ...]
    goods: float
    postage: dict[str, float]
    unpriced: tuple[str, ...]
    enough: tuple[str, ...]

    @property
    def cost(self) -> float:
        """Money in all, of what is priced."""
        return round(self.goods + sum(self.postage.values()), 2)


def offer_of(price: Price, parts: Mapping[str, Mapping[str, float]]) -> Offer:
    """A price as what one purchase holds of each part: a kit is split as its parts are mixed."""
    measure = parts.get(price.material)
    if measure is None:
        return Offer(price.material, ((None, price.holds),), price.amount, price.seller)
    whole = sum(measure.values())
    holds = tuple((part, price.holds * share / whole) for part, share in sorted(measure.items()))
    return Offer(price.material, holds, price.amount, price.seller)


def parts_in(known: Catalogue) -> dict[str, dict[str, float]]:
    """What of each part of a kit goes into one measure, by material."""

    def density(material: str, part: str) -> float:
        return known.materials[material].density_of(part)

    by_material: dict[str, dict[str, float]] = {}
    for by_mass in (False, True):
        made = kit_parts(known.mixes.values(), density, by_mass)
        by_material |= {
            name: parts for name, parts in made.items()
            if name in known.materials and (known.materials[name].sold_by == "g") == by_mass
        }  # fmt: skip
    return by_material


def _lines(packs: Sequence[Pack], reserved: Sequence[Reserved]) -> list[Line]:
    grouped: dict[str, list[Reserved]] = {}
    for demand in reserved:
        grouped.setdefault(demand.demand.material, []).append(demand)
    lines = []
    for material, demands in grouped.items():
        parts: dict[Key, float] = {}
        by_scene: dict[str, float] = {}
        for demand in demands:
            if demand.short > 0:
                parts[demand.demand.key] = parts.get(demand.demand.key, 0.0) + demand.short
            by_scene[demand.demand.scene] = by_scene.get(demand.demand.scene, 0.0) + demand.demand.amount
        first = next((one.demand for one in demands if one.short > 0), demands[0].demand)
        have = sum(one.left for one in packs if one.material == material)
        lines.append(
            Line(material, first.unit, sum(by_scene.values()), have, sum(parts.values()), first.scene, first.step,
                 first.at, by_scene, tuple(parts.items()))
        )  # fmt: skip
    return lines


def _alternatives(line: Line, offers: Sequence[tuple[Price, Offer]]) -> tuple[tuple[Chosen, ...], ...]:
    """The line bought in one size alone, for every size that is offered, the cheapest first."""
    others = []
    for price, offer in offers:
        made = least_cost(line.parts, (offer,))
        if made.counts[0]:
            others.append((Chosen(price, made.counts[0]),))
    return tuple(sorted(others, key=lambda one: one[0].amount))


def shopping(
    packs: Sequence[Pack], reserved: Sequence[Reserved], known: Catalogue, bench: Bench, sellers: Iterable[Seller] = ()
) -> Shopping:
    """What to buy so that all demands are met. Raises ValueError where no basket is proved best in time."""
    all_lines = _lines(packs, reserved)
    short = [line for line in all_lines if line.short > 0]
    parts = parts_in(known)
    wanted = {line.material for line in short}
    priced = [(price, offer_of(price, parts)) for price in bench.prices if price.material in wanted]
    basket = least_cost([one for line in short for one in line.parts], tuple(offer for _, offer in priced), sellers)
    lines = [_bought(line, priced, basket) for line in short]
    lines.sort(key=lambda one: (one.at or LAST, one.material))
    return Shopping(
        tuple(lines), basket.goods, dict(basket.postage),
        tuple(line.material for line in lines if not line.buy),
        tuple(sorted(line.material for line in all_lines if line.short <= 0)),
    )  # fmt: skip


def _bought(line: Line, priced: Sequence[tuple[Price, Offer]], basket: Basket) -> Line:
    mine = [
        (price, offer, count)
        for (price, offer), count in zip(priced, basket.counts, strict=True)
        if price.material == line.material
    ]
    buy = tuple(Chosen(price, count) for price, _, count in mine if count)
    if not buy:
        return line
    holds = sum(one.price.holds * one.count for one in buy)
    other = _alternatives(line, [(price, offer) for price, offer, _ in mine])
    return replace(
        line, buy=buy, cost=round(sum(one.amount for one in buy), 2), over=max(holds - line.short, 0.0),
        alternatives=tuple(one for one in other if one != buy),
    )  # fmt: skip


def pack_words(price: Price, unit: str, shown: Callable[[float, str], str]) -> str:
    """What one purchase is, in words: "750 ml", "4 × 600 ml", "20 pieces"."""
    if unit == "piece":
        return "1 piece" if price.holds == 1 else f"{price.holds:g} pieces"
    return (f"{price.packs} × " if price.packs > 1 else "") + shown(price.pack, unit)


def as_text(shop: Shopping, name: Callable[[str], str], shown: Callable[[float, str], str], currency: str) -> str:
    """The list as lines to be read or sent, one a thing: what, how many of which size, what it costs; that
    a price is not known where others are."""
    unpriced = ", no price known" if any(line.buy for line in shop.lines) else ""
    lines = []
    for line in shop.lines:
        size = ", ".join(
            f"{one.count} × {pack_words(one.price, line.unit, shown)}" + (f" ({one.seller})" if one.seller else "")
            for one in line.buy
        )
        cost = "" if line.cost is None else f", {line.cost:.2f} {currency}".rstrip()
        lines.append(f"{name(line.material)}: {size or shown(line.short, line.unit) + unpriced}{cost}")
    return "\n".join(lines)
