"""How mixes look: the colour of a mix once it is dry, and what a coat of it hides."""

from __future__ import annotations

import numpy as np

from ..catalogue import Material, Mix
from ..colour.blend import dry_blend, paint_blend
from ..colour.light import Colours, linear
from ..colour.recipe import LEAST_GRAIN_MM
from ..colour.tint import DROP_ML, drop_strength
from ..document.scene import Tint
from ..stages import cached_stage
from .labels import Labels

TINT_STRENGTH = 12.0  # how far a drop of paint pulls a compound, against as much of the compound; craft estimate
FOAM = "#e9d9b4"  # what lies under all lifts where no ground says otherwise


def _arrays(parts: list[tuple[Material, float]]) -> tuple[Colours, Colours, Colours]:
    return (
        np.array([amount for _, amount in parts]),
        np.array([material.grain_mm or LEAST_GRAIN_MM for material, _ in parts]),
        np.array([linear(material.colour) for material, _ in parts]),
    )


def colour_of(mix: Mix, labels: Labels) -> Colours:
    """Linear colour (3,) of a mix as it looks dry: a strewn blend by its grains, paints stirred together, else the
    label's own."""
    parts = [(labels.materials[one.material], one.parts) for one in mix.ingredients if one.parts > 0]
    if mix.family == "texture":
        return dry_blend(*_arrays(parts))
    paints = [(material, amount) for material, amount in parts if material.family == "colour"]
    if len(paints) > 1:
        amounts, _, colours = _arrays(paints)
        return paint_blend(amounts, np.array([material.strength for material, _ in paints]), colours)
    return linear(paints[0][0].colour if paints and mix.family == "colour" else mix.colour)


def tinted(tint: tuple[Tint, ...], mix: Mix, labels: Labels, drop_ml: float) -> Colours:
    """Linear colour (3,) of a compound with its tint stirred in; a drop holds `drop_ml`."""
    tins = [labels.materials[one.material] for one in tint]
    colours = [linear(mix.colour), *(linear(tin.colour) for tin in tins)]
    drops = [
        one.per_100_ml * (1 / tin.density if tin.weighed else drop_ml) for one, tin in zip(tint, tins, strict=True)
    ]
    strengths = [1.0, *(TINT_STRENGTH * tin.strength for tin in tins)]
    return paint_blend(np.array([100 - sum(drops), *drops]), np.array(strengths), np.array(colours))


def opacity_of(mix: Mix, labels: Labels) -> float:
    """What one full coat of a mix hides, 0 to 1: the most opaque of its paints, seals and varnishes."""
    paints = [one for one in mix.ingredients if labels.materials[one.material].family in ("colour", "seal", "varnish")]
    return max((labels.materials[one.material].opacity for one in paints), default=0.0)


def covered_with(below: Colours, hides: float, mix: Mix, labels: Labels) -> Colours:
    """Linear colours of a surface of which a mix hides a share, 0 to 1; what is clear changes nothing."""
    if hides <= 0:
        return below
    return np.asarray(hides * colour_of(mix, labels) + (1 - hides) * below)


@cached_stage
def dyes(
    tint: tuple[Tint, ...], tins: tuple[Material, ...], drop_ml: float
) -> tuple[tuple[Colours, Colours, float], ...]:
    """(K, S, drops in 100 ml) of each colour of a tint."""
    known = {one.id: one for one in tins}
    amounts = []
    for dye in tint:
        ink = known[dye.material]
        each = 1 / ink.density / DROP_ML if ink.weighed else drop_ml / DROP_ML
        if dye.per_100_ml:
            amounts.append((*drop_strength(linear(ink.colour), ink.opacity, ink.strength), dye.per_100_ml * each))
    return tuple(amounts)
