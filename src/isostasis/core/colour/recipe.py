"""A recipe judged: what it looks like dry and wet, how far it is from a wanted colour, and why it gets no nearer.

Source: differences as `light` has them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..catalogue import Material
from ..fault import Refusal, fault
from ..figure import Figure, Term
from .blend import dry_blend, paint_blend, solve
from .light import Colours, difference, hexed, lab, linear, wet_look, words

LEAST_GRAIN_MM = 0.03
NEAR = 5.0  # CIEDE2000 up to which a blend is near enough that nothing need be said


@dataclass(frozen=True, slots=True)
class Recipe:
    """Half measures of each material, the blend dry and wet (hex), how far it is from the target with words, and why
    it gets no nearer where it is far; without a target neither."""

    halves: tuple[int, ...]
    dry: str
    wet: str
    off: Figure | None
    off_words: str
    why: str


def blended(materials: Sequence[Material], amounts: Colours) -> Colours:
    """Linear colours (..., 3) of blends of paints, or of what is strewn: amounts (..., n)."""
    colours = np.array([linear(one.colour) for one in materials])
    if all(one.family == "colour" for one in materials):
        return paint_blend(amounts, np.array([one.strength for one in materials]), colours)
    return dry_blend(amounts, np.array([one.grain_mm or LEAST_GRAIN_MM for one in materials]), colours)


def _must_go_together(materials: Sequence[Material]) -> None:
    paints = [one.family == "colour" for one in materials]
    if any(paints) and not all(paints):
        dry = next(one.name for one, paint in zip(materials, paints, strict=True) if not paint)
        raise fault("blend", f"{dry.lower()} is strewn and the rest is paint", "blend paints, or what is strewn")


def judge(materials: Sequence[Material], halves: Sequence[int], target: str | None) -> Recipe:
    """A recipe as it is. Raises Faults for a blend of nothing, or of paints and dry stuff together."""
    if not materials or sum(halves) <= 0:
        raise fault("blend", "it is a blend of nothing", "give at least one ingredient half a scoop")
    _must_go_together(materials)
    look = blended(materials, np.asarray(halves, dtype=float))
    if target is None:
        return Recipe(tuple(halves), hexed(look), hexed(wet_look(look)), None, "", "")
    off = float(difference(look, linear(target)))
    terms = (
        Term("blend, dry", hexed(look), "", "paints by Kubelka and Munk" if materials[0].family == "colour" else
             "dry blend: volume / grain size"),
        Term("wanted", target),
        *(Term(one.name, half / 2, "measures") for one, half in zip(materials, halves, strict=True) if half),
    )  # fmt: skip
    return Recipe(
        tuple(halves), hexed(look), hexed(wet_look(look)), Figure(off, "ΔE", "CIEDE2000 between the two", terms),
        words(off), "" if off <= NEAR else _why(materials, linear(target)),
    )  # fmt: skip


def nearest(materials: Sequence[Material], target: str, most_halves: int, whole: bool) -> Recipe:
    """The recipe nearest to a colour, of every one in half (or whole) measures. Raises Faults as `judge` does, and for
    more ways than can be tried."""
    if not materials:
        raise fault("blend", "it is a blend of nothing", "choose what may go into it")
    _must_go_together(materials)
    try:
        solution = solve(
            linear(target), len(materials), lambda amounts: blended(materials, amounts), most_halves, whole
        )
    except Refusal as problem:
        raise fault("blend", problem.what, problem.right) from None
    return judge(materials, solution.halves, target)


def _why(materials: Sequence[Material], target: Colours) -> str:
    """Why no blend of these gets near a colour: it is paler, darker, or of another hue than all of them."""
    values = lab(np.array([linear(one.colour) for one in materials]))
    wanted = lab(target)
    lightness = values[:, 0]
    if wanted[0] > lightness.max() + 1:
        return f"it is paler than {materials[int(lightness.argmax())].name.lower()}, the palest of these"
    if wanted[0] < lightness.min() - 1:
        return f"it is darker than {materials[int(lightness.argmin())].name.lower()}, the darkest of these"
    beyond = {
        "redder": wanted[1] - values[:, 1].max(),
        "greener": values[:, 1].min() - wanted[1],
        "yellower": wanted[2] - values[:, 2].max(),
        "bluer": values[:, 2].min() - wanted[2],
    }
    word = max(beyond, key=lambda one: float(beyond[one]))
    if beyond[word] > 1:
        return f"it is {word} than all of these"
    return "it lies between them, off every line that their blends can take in so few measures"
