"""What a person writes of a pack: how much there is (an amount, a weight with or without the tin, by eye in quarters),
what it cost, and days."""

from __future__ import annotations

import re
from datetime import date

from ..catalogue import Material
from ..units import Measures, NotAMeasure, Quantity, parse, pointed

QUANTITY: dict[str, Quantity | None] = {"ml": "volume", "g": "mass", "mm2": "area", "piece": None}
BY_EYE = {
    "empty": 0.0, "a quarter": 0.25, "1/4": 0.25, "half": 0.5, "1/2": 0.5, "2/4": 0.5, "three quarters": 0.75,
    "3/4": 0.75, "full": 1.0, "4/4": 1.0,
}  # fmt: skip
MAX_MONEY = 1_000_000
MOST = 1_000_000_000.0  # of what a material is sold by
_SHARE = re.compile(r"(\d+(?:[.,]\d+)?)\s*%")


def parse_amount(text: str, material: Material, part: str | None = None, measures: Measures | None = None) -> float:
    """What was written, in what the material is sold by: in its own kind of unit, or a mass or volume by its density.
    Raises NotAMeasure.

    >>> from isostasis.core.catalogue import shipped
    >>> tins = shipped().materials
    >>> parse_amount("1.2 kg", tins["plaster"]), parse_amount("0.6 m2", tins["plaster-cloth"])
    (1200.0, 600000.0)
    """
    quantity = QUANTITY[material.sold_by]
    if quantity is None:
        amount = _pieces(text)
    else:
        try:
            amount = parse(text, quantity, measures)
        except NotAMeasure as problem:
            amount = _by_density(text, material, part, measures, problem)
    if not 0 <= amount <= MOST:
        raise NotAMeasure(f"“{text[:40]}” is outside 0 to {MOST:.0f}", "write what a tin holds")
    return amount


def _pieces(text: str) -> float:
    try:
        count = float(pointed(text.strip().removesuffix("pieces").removesuffix("piece").strip()))
    except ValueError:
        raise NotAMeasure(f"“{text[:40]}” is no number of pieces", "write 1, 2 or 12") from None
    return count


def _by_density(
    text: str, material: Material, part: str | None, measures: Measures | None, problem: NotAMeasure
) -> float:
    density = material.density_of(part)
    if material.sold_by == "ml":
        other, factor = "mass", 1 / density
    elif material.sold_by == "g":
        other, factor = "volume", density
    elif material.thickness_mm:  # a sheet, weighed
        other, factor = "mass", 1000 / (density * material.thickness_mm)
    else:
        raise problem
    try:
        return parse(text, "mass" if other == "mass" else "volume", measures) * factor
    except NotAMeasure:
        raise problem from None


def parse_left(
    text: str, material: Material, size: float, part: str | None = None, measures: Measures | None = None
) -> float:
    """What is left of a pack of a size: an amount, by eye ("half", "1/4", "40 %"), or on the scale with the tin, as
    "180 g - 60 g". Raises NotAMeasure.

    >>> from isostasis.core.catalogue import shipped
    >>> glue = shipped().materials["white-glue"]
    >>> parse_left("half", glue, 500), parse_left("1/4", glue, 500)
    (250.0, 125.0)
    """
    clean = " ".join(text.lower().split())
    if clean in BY_EYE:
        return size * BY_EYE[clean]
    share = _SHARE.fullmatch(clean)
    if share:
        return size * min(float(share[1].replace(",", ".")), 100.0) / 100
    gross, minus, tin = clean.partition("-") if "-" in clean else clean.partition("−")
    left = parse_amount(gross, material, part, measures)
    if minus:
        left -= parse_amount(tin, material, part, measures)
        if left < 0:
            raise NotAMeasure(f"“{text[:40]}”: the tin weighs more than all of it", "write it as 180 g - 60 g")
    return left


def parse_price(text: str) -> float:
    """Money, without what it is in. Raises NotAMeasure.

    >>> parse_price("12,50")
    12.5
    """
    with_point = pointed(text)
    try:
        value = float(with_point)
    except ValueError:
        raise NotAMeasure(f"“{text[:40]}” is no amount of money", "write it as 12.50") from None
    if not 0 <= value <= MAX_MONEY:
        raise NotAMeasure(f"{value:g} is outside 0 to {MAX_MONEY:,}", "write what the pack cost")
    return round(value, 2)


def parse_day(text: str) -> date:
    """A day. Raises NotAMeasure.

    >>> parse_day("2027-03-01")
    datetime.date(2027, 3, 1)
    """
    try:
        day = date.fromisoformat(text)
    except ValueError:
        raise NotAMeasure(f"“{text[:20]}” is no day", "write it as 2027-03-01") from None
    if not 2000 <= day.year <= 2100:
        raise NotAMeasure(f"{day.year} is outside 2000 to 2100", "mend the year")
    return day
