"""A colour out of what is on the shelf: few paints stirred together, or few powders and grains blended dry."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from ..catalogue import Material
from ..colour.blend import recipes
from ..colour.light import difference, linear
from ..colour.recipe import Recipe, blended, judge
from ..fault import fault

MAX_TOGETHER = 3  # what a person stirs into one cup
HALVES = 10  # half measures at most
BEST = 4  # that are told
MAX_MATERIALS = 24


@dataclass(frozen=True, slots=True)
class Match:
    """A blend near a colour: of which materials, and the recipe with how far it is off."""

    materials: tuple[Material, ...]
    recipe: Recipe

    @property
    def scoops(self) -> list[str]:
        """Measures of each as they are typed."""
        return [f"{half / 2:g}" for half in self.recipe.halves]


def matches(wanted: str, materials: Sequence[Material]) -> tuple[Match, ...]:
    """The blends of at most three of these, paints or what is strewn, that come nearest to a colour (hex), each set of
    materials once, the nearest first. Raises Faults where there is nothing to blend, or more than can be tried."""
    if not materials:
        raise fault("match", "there is nothing with a colour on the shelf", "enter paints or powders on Shelf")
    if len(materials) > MAX_MATERIALS:
        raise fault("match", f"{len(materials)} are too many to try", f"choose {MAX_MATERIALS} at most")
    target = linear(wanted)
    ranked: list[tuple[float, tuple[Material, ...], tuple[int, ...]]] = []
    for group in (
        [one for one in materials if one.family == "colour"],
        [one for one in materials if one.family != "colour"],
    ):
        for count in range(1, min(MAX_TOGETHER, len(group)) + 1):
            ways = _with_all(count)
            for chosen in combinations(group, count):
                off = difference(blended(chosen, ways), target)
                best = int(off.argmin())
                ranked.append((float(off[best]), chosen, tuple(int(one) for one in ways[best])))
    ranked.sort(key=lambda one: (round(one[0], 1), len(one[1]), one[0]))
    return tuple(Match(chosen, judge(chosen, halves, wanted)) for _, chosen, halves in ranked[:BEST])


def _with_all(count: int) -> np.ndarray:
    """Every ratio in half measures that has some of each."""
    every = recipes(count, HALVES).astype(float)
    return np.asarray(every[(every > 0).all(axis=1)])
