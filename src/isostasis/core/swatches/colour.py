"""A colour read off a photo: the light of a patch over that of a card whose colour is known."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..colour.light import Colours, decoded, difference, hexed, linear
from ..fault import fault

Box = tuple[float, float, float, float]  # west, north, width, height as shares of the photo
GREY_CARD = "#777777"  # 18 % grey: reflects 0.184 in every channel
FEWEST_PX, SOME_PX = 64, 400
BURNT, BLACK = 0.985, 0.02  # of a channel as coded: beyond it nothing can be read
TRIM = 0.1  # of the pixels at either end that are let be: glints, crumbs, shade between grains


@dataclass(frozen=True, slots=True)
class Read:
    """A colour read off a photo: hex, how uneven the patch is (CIEDE2000, middle of the pixels against the mean), and
    what is doubtful about it, empty where nothing is."""

    colour: str
    uneven: float
    doubt: str


def _pixels(photo: Colours, box: Box, what: str) -> Colours:
    """The pixels (n, 3) of a box. Raises Faults for one that lies outside, or holds too few."""
    high, wide = photo.shape[:2]
    west, north, width, height = box
    if not (0 <= west < 1 and 0 <= north < 1 and width > 0 and height > 0 and west + width <= 1.0001
            and north + height <= 1.0001):  # fmt: skip
        raise fault(what, "its box lies outside of the photo", "draw it inside")
    part = photo[
        round(north * high) : max(round((north + height) * high), round(north * high) + 1),
        round(west * wide) : max(round((west + width) * wide), round(west * wide) + 1),
    ].reshape(-1, 3)
    if len(part) < FEWEST_PX:
        raise fault(what, f"its box holds {len(part)} px", f"draw it larger, over {FEWEST_PX} px at least")
    return part


def _middle(part: Colours) -> Colours:
    """The mean light (3,) of pixels, without the darkest and brightest."""
    light = np.sort(decoded(part), axis=0)
    cut = int(len(light) * TRIM)
    return np.asarray(light[cut : len(light) - cut].mean(axis=0))


def read_off(photo: Colours, box: Box, card: Box, known: str = GREY_CARD, what: str = "lane") -> Read:
    """The colour in a `box` of a photo (height, width, 3; sRGB as coded, 0 to 1), by a `card` in the same light whose
    colour is `known` (hex): light of the patch / light of the card x reflectance of the card, a channel (von Kries).

    Source: von Kries (1902), as ISO 17321 has white balance. Raises Faults for boxes outside, too small, and for a card
    that is burnt out or black.

    >>> from isostasis.core.colour.light import coded
    >>> photo = np.full((20, 40, 3), 0.5)
    >>> photo[:, 20:] = coded(linear("#777777") * 0.8)
    >>> photo[:, :20] = coded(linear("#406080") * 0.8)
    >>> read_off(photo, (0, 0, 0.5, 1), (0.5, 0, 0.5, 1)).colour
    '#406080'
    """
    patch, grey = _pixels(photo, box, what), _pixels(photo, card, "card")
    shown = np.median(grey, axis=0)
    if shown.max() > BURNT:
        raise fault("card", "it is burnt out in the photo", "take the photo darker, or out of the sun")
    if shown.min() < BLACK:
        raise fault("card", "it is black in the photo", "take the photo brighter, or move its box")
    reflects = np.maximum(linear(known), 1e-3)
    light = _middle(patch) / _middle(grey) * reflects
    colour = np.clip(light, 0.0, 1.0)
    doubts = []
    if float((patch.max(axis=1) > BURNT).mean()) > TRIM:
        doubts.append("part of it is burnt out")
    if light.max() > 1.02:
        doubts.append("it is brighter than white beside the card: the light differs between the two")
    spread = float((grey.max(axis=1) - grey.min(axis=1)).mean())
    if known == GREY_CARD and spread > 0.2:
        doubts.append("the card looks coloured: strong light of a lamp, or not the card")
    some = decoded(patch[:: max(len(patch) // SOME_PX, 1)]) / _middle(grey) * reflects
    uneven = float(np.median(difference(some, colour)))
    return Read(hexed(colour), uneven, "; ".join(doubts))
