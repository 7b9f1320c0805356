"""What a dry blend is as a bed: its voids, its grain, how deep binder reaches, what is lost when it is strewn."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..catalogue import Material, Mix
from ..fault import Refusal

VOIDS, GRAIN_MM, REACH_MM = 0.45, 0.5, 4.0  # where a label gives none
FINES_SHARE = 0.2  # of the volume: from here on the finest ingredient says how deep binder reaches, craft estimate
DRY_REACH = 1 / 3  # of the reach, without a wetting pass
LOSS_FLAT, LOSS_STEEP, STEEP_DEG = 0.10, 0.40, 45.0
SWEPT = 0.8  # of what falls beside: swept up and used again, craft estimate


@dataclass(frozen=True, slots=True)
class Bed:
    """A blend as it lies: share of voids, mean grain mm, how deep one pass reaches mm after wetting, its tags."""

    voids: float
    grain_mm: float
    reach_mm: float
    tags: frozenset[str]


def bed_of(mix: Mix, materials: Mapping[str, Material]) -> Bed:
    """The bed that a mix makes: voids and grain by volume, the reach of the finest that is a fifth of it or more.

    >>> from isostasis.core.catalogue import shipped
    >>> tins = shipped()
    >>> bed_of(tins.mixes['ballast'], tins.materials).voids
    0.42
    """
    parts = [(materials[one.material], one.parts) for one in mix.ingredients if one.parts > 0]
    volumes = [amount / (1.0 if mix.basis == "volume" else material.density) for material, amount in parts]
    total = sum(volumes)
    shares = [volume / total for volume in volumes]
    reaches = [
        material.reach_mm or REACH_MM
        for (material, _), share in zip(parts, shares, strict=True)
        if share >= FINES_SHARE or share == max(shares)
    ]
    return Bed(
        sum(share * (material.voids or VOIDS) for (material, _), share in zip(parts, shares, strict=True)),
        sum(share * (material.grain_mm or GRAIN_MM) for (material, _), share in zip(parts, shares, strict=True)),
        min(reaches),
        frozenset(tag for material, _ in parts for tag in material.tags),
    )


def strewing_loss(slope_deg: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share that falls beside when it is strewn: 0.10 on the flat, rising evenly to 0.40 at 45 degrees and beyond.

    Source: default, docs/science.md, texture.

    >>> [round(float(one), 2) for one in strewing_loss(np.array([0.0, 22.5, 70.0]))]
    [0.1, 0.25, 0.4]
    """
    return LOSS_FLAT + (LOSS_STEEP - LOSS_FLAT) * np.clip(np.asarray(slope_deg) / STEEP_DEG, 0.0, 1.0)


def taken_up(bed_ml: float, voids: float, wetting_share: float, left: float = 1.0) -> tuple[float, float]:
    """(ml of wetting liquid, ml of binder) that a bed takes: wetting fills `wetting_share` of the voids, binder fills
    them to 0.9 less what is `left` of the wetting then.

    Source: docs/science.md, texture.
    Raises ValueError unless a bed is 0 ml or more, voids between 0 and 1, wetting at most 0.9 of them.

    >>> [round(one, 6) for one in taken_up(100, 0.4, 0.3)]
    [12.0, 24.0]
    """
    if bed_ml < 0 or not 0 < voids < 1 or not 0 <= wetting_share <= FULL or not 0 <= left <= 1:
        raise ValueError("a bed is 0 ml or more, voids between 0 and 1, wetting at most 0.9 of them")
    space = bed_ml * voids
    return space * wetting_share, space * (FULL - wetting_share * left)


FULL = 0.9  # of the voids that binder and wetting fill together
WETTING_SHARE = 0.3
HOLD = ((0.03, "fragile"), (0.08, "sound"))


def hold_words(index: float) -> str:
    """What a hold index (g of glue solids in a ml of texture) means.

    >>> hold_words(0.02), hold_words(0.05), hold_words(0.2)
    ('fragile', 'sound', 'hard')
    """
    return next((word for below, word in HOLD if index < below), "hard")


def sack_for(need_g: float, yields: Mapping[str, float], mesh: str) -> float:
    """g of a sack to sieve for `need_g` of what passes one mesh: need / yield. `yields` are shares by mesh, from the
    user's own records. Raises ValueError for a mesh without a yield, or yields that are no shares.

    >>> sack_for(300, {"1 mm": 0.6}, "1 mm")
    500.0
    """
    share = yields.get(mesh, 0.0)
    if need_g < 0 or not 0 < share <= 1:
        raise Refusal(f"nothing is known of what passes {mesh}", "sieve a cup of it, and weigh both")
    return need_g / share
