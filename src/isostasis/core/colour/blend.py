"""Blends: dry ones, in which fines dominate, paints, and scoops or drops that come nearest to a wanted colour."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations_with_replacement
from math import comb

import numpy as np

from ..fault import Refusal
from .light import Colours, difference

DARKEST = 0.004  # reflectance below which K/S would run away
MAX_RECIPES = 400_000


def dry_blend(volumes: Colours, grains_mm: Colours, colours: Colours) -> Colours:
    """Linear colours (..., 3) of dry blends: the ingredients' light by the face that they show, volume / grain size.

    `volumes` (..., n) in any unit, `grains_mm` (n,), `colours` (n, 3). Fines coat grains, so a little of a fine powder
    shifts a sand a long way. Source: docs/science.md, colour.

    >>> two = np.array([[0.1] * 3, [0.9] * 3])
    >>> [round(float(dry_blend(np.array([9.0, 1.0]), np.array(grain), two)[0]), 2) for grain in ([1, 1], [1, 0.1])]
    [0.18, 0.52]
    """
    faces = np.asarray(volumes) / np.asarray(grains_mm)
    return np.asarray(faces @ np.asarray(colours) / faces.sum(axis=-1, keepdims=True))


def paint_blend(parts: Colours, strengths: Colours, colours: Colours) -> Colours:
    """Linear colours (..., 3) of paints stirred together: K/S = (1 - R)^2 / 2R a channel, added by share x strength.

    `parts` (..., n), `strengths` (n,), `colours` (n, 3). Source: Kubelka and Munk (1931), one-constant.

    >>> round(float(paint_blend(np.array([1.0, 1.0]), np.ones(2), np.array([[0.9] * 3, [0.1] * 3]))[0]), 3)
    0.17
    """
    reflects = np.clip(np.asarray(colours, dtype=float), DARKEST, 1.0)
    ratio = (1 - reflects) ** 2 / (2 * reflects)
    weights = np.asarray(parts) * np.asarray(strengths)
    mixed = weights @ ratio / weights.sum(axis=-1, keepdims=True)
    return np.asarray(1 + mixed - np.sqrt(mixed**2 + 2 * mixed))


@dataclass(frozen=True, slots=True)
class Solved:
    """A recipe that comes nearest: half measures of each, its colour (linear), how far off (CIEDE2000)."""

    halves: tuple[int, ...]
    colour: Colours
    off: float


def recipes(count: int, most_halves: int) -> Colours:
    """Every way (m, count) to take 1 to `most_halves` half measures of `count` ingredients, each ratio just once.
    Raises ValueError unless a blend has an ingredient and a measure at least.

    >>> recipes(2, 2).tolist()
    [[1, 0], [0, 1], [1, 1]]
    """
    if count < 1 or most_halves < 1:
        raise ValueError("a blend has an ingredient and a measure at least")
    too_many = Refusal(f"more than {MAX_RECIPES:,} ways to try", "choose fewer ingredients or measures")
    if comb(count + most_halves, count) > 2 * MAX_RECIPES:  # at least six ways in ten are ratios of their own
        raise too_many
    recipes_by_parts: dict[tuple[int, ...], tuple[int, ...]] = {}
    for total in range(1, most_halves + 1):
        for chosen in combinations_with_replacement(range(count), total):
            halves = tuple(np.bincount(chosen, minlength=count).tolist())
            ratio = tuple(one // int(np.gcd.reduce(halves)) for one in halves)
            recipes_by_parts.setdefault(ratio, halves)
            if len(recipes_by_parts) > MAX_RECIPES:
                raise too_many
    return np.array(list(recipes_by_parts.values()))


def solve(
    target: Colours, count: int, blend: Callable[[Colours], Colours], most_halves: int, whole: bool = False
) -> Solved:
    """The recipe of `count` ingredients that comes nearest to `target` (3,), in half (or whole) measures; `blend` gives
    the looks (m, 3) of recipes (m, count).

    Tries every recipe of up to `most_halves` half measures, so that none is nearer; of those as near, the one with the
    fewest measures. Raises ValueError for no ingredients or too many recipes.

    >>> half = np.full(3, 0.5)
    >>> solve(half, 2, lambda parts: parts[:, :1] / parts.sum(1, keepdims=True) * np.ones(3), 4).halves
    (1, 1)
    """
    step = 2 if whole else 1
    tried = recipes(count, most_halves // step) * step
    looks = blend(tried.astype(float))
    off = difference(looks, target)
    best = int(np.lexsort((tried.sum(axis=1), np.round(off, 6)))[0])
    return Solved(tuple(int(one) for one in tried[best]), looks[best], float(off[best]))


def gradient(k: int, eased: bool = False) -> list[float]:
    """Shares of B in each of `k` mixes from A to B: even steps, or eased at both ends.
    Raises ValueError unless a gradient takes two mixes at least.

    >>> [round(share, 3) for share in gradient(5)], [round(share, 3) for share in gradient(5, eased=True)]
    ([0.0, 0.25, 0.5, 0.75, 1.0], [0.0, 0.146, 0.5, 0.854, 1.0])
    """
    if k < 2:
        raise ValueError("a gradient takes two mixes at least")
    even = np.linspace(0.0, 1.0, k)
    return [float(one) for one in ((1 - np.cos(np.pi * even)) / 2 if eased else even)]


def gradient_recipes(
    from_halves: Colours, to_halves: Colours, k: int, scoops: float, eased: bool = False
) -> list[tuple[int, ...]]:
    """`k` recipes (n ingredients each) in half scoops from one blend to another, each of about `scoops` scoops.

    `from_halves` and `to_halves` (n,) are parts of the same ingredients, any scale. Each recipe is rounded to half a
    scoop; what the share rounds to nothing is left out. Raises ValueError for a blend of nothing.

    >>> gradient_recipes(np.array([1, 0]), np.array([0, 1]), 3, 4)
    [(8, 0), (4, 4), (0, 8)]
    """
    ends = [np.asarray(one, dtype=float) for one in (from_halves, to_halves)]
    if min(one.sum() for one in ends) <= 0 or scoops <= 0:
        raise ValueError("both ends of a gradient hold something, and each mix is more than nothing")
    a, b = (one / one.sum() for one in ends)
    return [
        tuple(int(one) for one in np.round(((1 - share) * a + share * b) * scoops * 2).astype(int))
        for share in gradient(k, eased)
    ]
