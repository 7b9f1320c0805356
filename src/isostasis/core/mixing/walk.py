"""A batch mixed point by point: what comes next, how much of each part is wanted by what is in the cup already, and
what mends a cup into which too much went.

Source: craft practice for the order; proportion alone for the amounts.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

Kind = Literal["reacts", "wet", "dry"]
MIX_MIN = 3  # stirred for so long, craft estimate
AS_IF_BY_MASS = 0.02  # so near the ratio by volume weighed as if by mass it is taken for that


@dataclass(frozen=True, slots=True)
class WalkPart:
    """An ingredient of a batch: its key, what it is called and in a word, whether it is a liquid, whether it tints."""

    key: str
    name: str
    short: str
    liquid: bool = True
    tints: bool = False


@dataclass(frozen=True, slots=True)
class WalkPoint:
    """One point of the walk: its code, its name on the bar, what to do, what to look for, the key of the part."""

    code: str
    short: str
    do: str
    look: str = ""
    part: str = ""


def points(
    parts: Sequence[WalkPart], kind: Kind, rest_min: float, look: Sequence[str], powder_first: bool = False
) -> tuple[WalkPoint, ...]:
    """The points of a batch in their order: parts as a kit names them, else what the label puts first. `look` are the
    words of the mix's label, `rest_min` how long it rests in the cup.

    >>> kit = WalkPart("a", "Casting resin, A", "part A"), WalkPart("b", "Casting resin, B", "part B")
    >>> [one.short for one in points(kit, "reacts", 0, ())]
    ['lay out', 'part A', 'part B', 'mix', 'scrape', 'new cup', 'rest', 'pour it']
    """
    weighed = [one for one in parts if not one.tints]
    if kind != "reacts":
        weighed.sort(key=lambda one: one.liquid == powder_first)
    tints = ", ".join(one.name for one in parts if one.tints)
    things = "jar" if kind == "dry" else "cups, stick, cloth" if kind == "reacts" else "bowl, spatula, water to wash up"
    walked = [WalkPoint("lay-out", "lay out", f"Lay out {things} and what goes in; put on what protects you")]
    for one in weighed:
        walked.append(WalkPoint(f"part:{one.key}", one.short, f"{one.name}, up to the mark", part=one.key))
    if tints:
        look = "look through the cup against white paper"
        walked.append(WalkPoint("tint", "tint", f"Tint it: {tints}, a drop at a time", look))
    if kind == "dry":
        stir = WalkPoint("mix", "mix", "Shake it in a closed jar until it is of one colour", next(iter(look), ""))
        return (*walked, stir, WalkPoint("pour", "strew", "Strew it"))
    slow = "slowly, so that no air goes in" if kind == "reacts" else "until no dry lump is left"
    walked.append(WalkPoint("mix", "mix", f"Stir for {MIX_MIN} min, {slow}", next(iter(look), "")))
    walked.append(
        WalkPoint("scrape", "scrape", "Scrape walls, floor and stick, and stir once more", "no streak on the wall")
    )
    if kind == "reacts":
        do = "Pour it into a second cup, leave the walls of the first, and stir"
        walked.append(WalkPoint("second-cup", "new cup", do, "what sticks to the first wall never hardens"))
        rest = f"Let it rest {rest_min:.0f} min" if rest_min else "Let it rest a few minutes if there is much air in it"
        walked.append(WalkPoint("rest", "rest", rest, "bubbles rise and burst by themselves"))
    last = "pour it" if kind == "reacts" else "use it"
    return (*walked, WalkPoint("pour", last, last.capitalize()))


def wanted(planned: Mapping[str, float], within: Mapping[str, float]) -> dict[str, float]:
    """g of each part that the cup is to hold, by what is in it already: as planned, or in the same ratio to what is too
    much. Never less than what is in it.

    >>> wanted({"A": 200, "B": 100}, {"A": 208})["B"]
    104.0
    """
    most = max([1.0, *(within[key] / mass for key, mass in planned.items() if key in within and mass > 0)])
    return {key: mass * most for key, mass in planned.items()}


def to_add(planned: Mapping[str, float], within: Mapping[str, float], good: float = 0.02) -> dict[str, float]:
    """g to be added of each part so that the ratio holds; nothing where it is within `good` (a share of the part).

    >>> {key: round(add, 1) for key, add in to_add({"A": 230, "B": 97.1}, {"A": 230, "B": 100.5}).items()}
    {'A': 8.1}
    """
    full = wanted(planned, within)
    short = {key: full[key] - within.get(key, 0.0) for key in planned}
    return {key: add for key, add in short.items() if add > max(good * planned[key], 0.1)}


@dataclass(frozen=True, slots=True)
class Going:
    """Where a walk is: the point that is next (None: all are behind), and what goes into the cup now: the key of the
    part (empty: nothing), g of it, and whether it is added to mend the ratio."""

    point: WalkPoint | None
    part: str = ""
    grams: float = 0.0
    mends: bool = False


def going(
    walk: Sequence[WalkPoint],
    planned: Mapping[str, float],
    within: Mapping[str, float],
    behind: frozenset[str],
    leave_so: bool = False,
) -> Going:
    """What is next of a walk, with g `planned` of each weighed part, g of those `within` the cup, and the codes that
    are `behind`. A ratio that is off is mended once all parts are in and until it is stirred, unless it is to be left.

    >>> kit = WalkPart("a", "Resin, A", "part A"), WalkPart("b", "Resin, B", "part B")
    >>> made = going(points(kit, "reacts", 0, ()), {"a": 230, "b": 97.1}, {"a": 230, "b": 100.5},
    ...              frozenset({"lay-out", "part:a", "part:b"}))
    >>> made.part, round(made.grams, 1), made.mends
    ('a', 8.1, True)
    """
    point = next((one for one in walk if one.code not in behind), None)
    if point is not None and point.part:
        return Going(point, point.part, wanted(planned, within)[point.part])
    all_in = len(planned) > 1 and all(key in within for key in planned)
    if point is None or not all_in or leave_so or "mix" in behind:
        return Going(point)
    short = to_add(planned, within)
    if not short:
        return Going(point)
    part = max(short, key=lambda key: short[key])
    return Going(point, part, short[part], mends=True)


def as_if_by_mass(parts: tuple[float, float], within: tuple[float, float], right: tuple[float, float]) -> bool:
    """Whether the two parts in the cup stand in the ratio `parts` of a label by volume, weighed as if it were by mass;
    `right` are the grams that are right.

    >>> as_if_by_mass((2, 1), (200, 101), (200, 84.5))
    True
    """
    if min(*parts, *within, *right) <= 0:
        return False
    was, by_mass, good = within[1] / within[0], parts[1] / parts[0], right[1] / right[0]
    return abs(was / by_mass - 1) <= AS_IF_BY_MASS < abs(by_mass / good - 1)


def dilution(total: float, wanted_share: float, stock_share: float) -> tuple[float, float]:
    """(stock, water) that make `total` of a share `wanted_share` out of a stock of `stock_share`: C1 V1 = C2 V2, in any
    unit of volume. Raises ValueError unless shares are above 0 and at most 1, and the stock is as strong at least.

    >>> dilution(200, 0.3, 0.5)
    (120.0, 80.0)
    """
    if not 0 < wanted_share <= 1 or not 0 < stock_share <= 1 or total < 0:
        raise ValueError("shares are above 0 and at most 1, an amount 0 or more")
    if stock_share < wanted_share - 1e-12:
        raise ValueError("the stock is weaker than what is wanted")
    stock = total * wanted_share / stock_share
    return stock, total - stock
