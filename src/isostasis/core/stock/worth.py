"""What a useful unit costs: a covered square metre of cloth, a litre of wet compound, a gram of solids."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..catalogue import Bench, Catalogue, Material, Mix, Price
from ..figure import Figure, Term
from ..lifts.kinds.shell.cloth import cutting_plan
from ..mixing.parts import amounts
from ..plan.uses import sold

LITRE = 1000.0
SQUARE_METRE = 1e6


@dataclass(frozen=True, slots=True)
class Useful:
    """One way in which a material is useful: so much of it, in what it is sold by, makes one `unit`; `where`: in which
    mix or on which patch."""

    unit: str
    takes: float
    where: str = ""
    working: tuple[Term, ...] = ()

    def cost(self, price: Price) -> Figure:
        """What one unit costs at a price."""
        each = price.amount / price.holds
        pack = Term("price", price.amount, "money", price.seller or "your price list")
        terms = (pack, Term("holds, as it is sold", price.holds), *self.working)
        return Figure(each * self.takes, "money", "price / what it holds × what one takes", terms)


def _cloth(material: Material, bench: Bench) -> Useful | None:
    """A covered square metre, one layer: overlaps and the cut at the end of a roll taken off."""
    if material.roll_mm is None or material.family != "cloth":
        return None
    try:
        cuts = cutting_plan(SQUARE_METRE, 1, material.roll_mm, bench.tub_mm, material.overlap_mm)
    except ValueError:  # the tub is too small for a strip, which its own scene says
        return None
    share = cuts.covers_mm2 / cuts.area_mm2
    terms = (Term("share that covers", share, "", f"overlap {material.overlap_mm:g} mm, your tub"),)
    return Useful("covered m2, a layer", SQUARE_METRE / share, working=terms)


def _in_mix(material: Material, mix: Mix, known: Catalogue) -> Useful | None:
    """A litre of wet mix of it and water alone, or of its own parts."""
    others = {part.material for part in mix.ingredients} - {material.id}
    if any(known.materials[one].family != "water" for one in others if one in known.materials):
        return None
    made = [one for one in amounts(mix, known.materials, LITRE) if one.material == material.id]
    takes = sum(sold(material, one.volume_ml, one.mass_g)[0] for one in made)
    return Useful("litre, mixed", takes, mix.name, (Term("goes into a litre", takes, material.sold_by, mix.name),))


def useful_units(material: Material, known: Catalogue, bench: Bench) -> list[Useful]:
    """The ways in which a material is useful, what matters most first; never empty."""
    units: list[Useful] = []
    cloth = _cloth(material, bench)
    if cloth is not None:
        units.append(cloth)
    if material.family in ("powder", "resin", "paste"):
        mixes = [one for one in known.mixes.values() if any(part.material == material.id for part in one.ingredients)]
        units += [made for one in mixes[:3] if (made := _in_mix(material, one, known)) is not None]
    if material.dries is not None and material.dries.solids and material.family not in ("cloth", "paste"):
        grams = 1 / (material.dries.solids * (1.0 if material.sold_by == "g" else material.density))
        terms = (Term("stays when it is dry", material.dries.solids, "fraction", f"label of {material.name}"),)
        units.append(Useful("gram of solids", grams, working=terms))
    if material.roll_mm is not None and material.family == "tool":
        units.append(
            Useful("metre of edge", LITRE * material.roll_mm[1], working=(Term("wide", material.roll_mm[1], "mm"),))
        )
    if not units:
        whole = {"ml": ("litre", LITRE), "g": ("kilogram", LITRE), "mm2": ("m2", SQUARE_METRE), "piece": ("piece", 1.0)}
        units.append(Useful(*whole[material.sold_by]))
    return units


def a_millimetre(material: Material, mix: Mix, known: Catalogue, area_mm2: float, where: str) -> Useful | None:
    """One mm of a mix over a spot; None where the material is not in it."""
    parts = [one for one in amounts(mix, known.materials, area_mm2 / 1000) if one.material == material.id]
    if not parts:
        return None
    takes = sum(sold(material, one.volume_ml, one.mass_g)[0] for one in parts)
    return Useful("mm there", takes, where, (Term("a mm there", takes, material.sold_by, f"{area_mm2 / 100:.0f} cm2"),))


def cheapest_first(prices: Iterable[Price]) -> list[Price]:
    """Offers by what they cost for as much as they hold."""
    return sorted(prices, key=lambda one: (one.amount / one.holds, one.amount))
