"""Tinted water over a bed: what it looks like at a depth, how many drops make the bed just disappear or let stones
still show, and how a bed is painted that shall look so through it."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from .light import Colours, difference

CLEAR = 1e-4  # scattering per mm below which the dye is clear: Beer-Lambert there and back
DROP_ML = 0.05  # the drop that a strength is told for
SHOWS = 5.0  # CIEDE2000 from which stones are told from their bed at a glance, craft estimate
GONE = 2.3  # CIEDE2000 below which the bed is not told from none: "hard to tell apart"


def layer_look(bed: Colours, absorbs: Colours, scatters: Colours, depth_mm: ArrayLike) -> Colours:
    """Reflectance (...) of a tinted layer over a bed: R = (1 - Rg (a - b coth bSX)) / (a - Rg + b coth bSX).

    `bed` Rg 0 to 1, `absorbs` K and `scatters` S per mm, `depth_mm` X, each a number or an array; a = (S + K) / S,
    b = sqrt(a^2 - 1). A clear dye (S to 0) weakens light there and back, Rg exp(-2KX). Source: Kubelka (1948).
    Raises ValueError unless a depth is 0 or more; absorption and scattering are 0 or more.

    >>> one = np.array
    >>> [round(float(layer_look(one(0.3), one(0.05), one(0.2), depth)), 4) for depth in (3, 12)]
    [0.4246, 0.4952]
    """
    bed, k, s, deep = np.broadcast_arrays(*(np.asarray(one, dtype=float) for one in (bed, absorbs, scatters, depth_mm)))
    if (deep < 0).any():
        raise ValueError("a depth is 0 or more")
    if (k < 0).any() or (s < 0).any():
        raise ValueError("absorption and scattering are 0 or more")
    clear = bed * np.exp(-2 * k * deep)
    milky = np.maximum(s, CLEAR)
    a = (milky + np.maximum(k, 1e-12)) / milky
    b = np.sqrt(np.maximum(a**2 - 1, 1e-18))
    coth = 1 / np.tanh(np.clip(b * milky * deep, 1e-9, 350.0))
    body = (1 - bed * (a - b * coth)) / (a - bed + b * coth)
    return np.asarray(np.where((s > CLEAR) & (deep > 0), body, clear))


def drop_strength(colour: Colours, opacity: float, strength: float) -> tuple[Colours, Colours]:
    """K and S (3,) per mm of one drop of a colour in 100 ml, from how it looks and how much one coat of it hides.

    Craft estimate: a coat of 0.1 mm that hides `opacity` has S = opacity / (1 - opacity) / 0.1 per mm and K from its
    own K/S; a drop of 0.05 ml in 100 ml is one part in 2000 of that, `strength` times over. An ink (opacity 0) only
    absorbs: K = -ln(colour) a tenth of a mm undiluted.

    >>> drop_strength(np.array([0.5, 0.5, 0.5]), 0.5, 1.0)[1]
    array([0.005, 0.005, 0.005])
    """
    seen = np.clip(colour, 0.004, 0.996)
    share = DROP_ML / 100 * strength
    if opacity <= 0:
        return np.asarray(-np.log(seen) / 0.1 * share), np.zeros(3)
    hides = min(opacity, 0.97)
    scatter = hides / (1 - hides) / 0.1
    ratio = (1 - seen) ** 2 / (2 * seen)
    return np.asarray(ratio * scatter * share), np.full(3, scatter * share)


def tinted(bed: Colours, tints: list[tuple[Colours, Colours, float]], depth_mm: ArrayLike) -> Colours:
    """Linear colour (..., 3) of a bed under water with tints (K, S a drop, drops in 100 ml), `depth_mm` of it: a number
    or (..., 1).

    >>> tinted(np.full(3, 0.3), [(np.full(3, 0.05), np.full(3, 0.2), 1.0)], 3).round(4)
    array([0.4246, 0.4246, 0.4246])
    """
    absorbs = sum((k * drops for k, _, drops in tints), np.zeros(3))
    scatters = sum((s * drops for _, s, drops in tints), np.zeros(3))
    return layer_look(bed, absorbs, scatters, depth_mm)


def drops_until(
    beds: tuple[Colours, Colours], drop: tuple[Colours, Colours], depth_mm: float, threshold: float, most: float = 200.0
) -> float | None:
    """Drops in 100 ml at which dark and light parts of a bed (two colours) differ by `threshold` (CIEDE2000) at a
    depth: by GONE the bed just disappears, by SHOWS stones just still show. 0 where they differ by no more without a
    tint; None where `most` drops do not do it. Raises ValueError unless a depth is above 0.

    >>> round(drops_until((np.full(3, 0.1), np.full(3, 0.3)), (np.full(3, 0.05), np.full(3, 0.2)), 3, GONE), 1)
    1.4
    """
    if depth_mm <= 0:
        raise ValueError("a bed disappears at a depth above 0")

    def differ(drops: float) -> float:
        dark, light = (tinted(bed, [(*drop, drops)], depth_mm) for bed in beds)
        return float(difference(dark, light))

    if differ(0.0) <= threshold:
        return 0.0
    if differ(most) > threshold:
        return None
    low, high = 0.0, most
    while high - low > 0.005:
        middle = (low + high) / 2
        low, high = (middle, high) if differ(middle) > threshold else (low, middle)
    return high


def bed_to_look(look: Colours, tints: list[tuple[Colours, Colours, float]], depth_mm: float) -> Colours:
    """Linear colour (3,) of the bed that looks like `look` under `depth_mm` of tinted water; black or white in a
    channel in which no bed does.

    >>> bed = np.array([0.2, 0.4, 0.6])
    >>> tints = [(np.full(3, 0.05), np.full(3, 0.2), 1.0)]
    >>> bed_to_look(tinted(bed, tints, 2), tints, 2)
    array([0.2, 0.4, 0.6])
    """
    low, high = np.zeros(3), np.ones(3)
    for _ in range(60):
        middle = (low + high) / 2
        darker = tinted(middle, tints, depth_mm) < look
        low, high = np.where(darker, middle, low), np.where(darker, high, middle)
    return np.asarray((low + high) / 2)
