"""How stiff a compound is mixed: its water by purpose, and the slump of a spoonful that measures it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from ..catalogue import Material, Mix

Purpose = Literal["floor", "general", "cliff"]
WATER: dict[Purpose, float] = {"floor": 1.25, "general": 1.0, "cliff": 0.85}
LOOK: dict[Purpose, str] = {
    "floor": "like cream: a tap on the board levels it",
    "cliff": "stiff: it stays on a knife held upright",
}
SLUMP: dict[Purpose, float] = {"floor": 1.5, "general": 1.0, "cliff": 0.75}


def for_purpose(mix: Mix, purpose: Purpose, materials: Mapping[str, Material]) -> Mix:
    """The mix with as much water as the purpose wants: a floor levels itself, a cliff holds; powders stay as they are.

    A ready-mixed paste has no water of its own to change and stays as it is. Source: craft estimate.

    >>> from isostasis.core.catalogue import shipped
    >>> tins = shipped()
    >>> stiff = for_purpose(tins.mixes['paper-plaster'], 'cliff', tins.materials)
    >>> [part.parts for part in stiff.ingredients]
    [2.0, 0.85]
    """
    if purpose == "general":
        return mix
    parts = tuple(
        part.model_copy(update={"parts": part.parts * WATER[purpose]})
        if materials[part.material].family == "water"
        else part
        for part in mix.ingredients
    )
    slump = None if mix.slump_mm is None or parts == mix.ingredients else mix.slump_mm * SLUMP[purpose]
    return mix.model_copy(update={"ingredients": parts, "slump_mm": slump or mix.slump_mm})
