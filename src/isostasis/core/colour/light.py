"""From a label's colour to linear light and back, and the difference between two colours in numbers and in words."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..fault import Refusal

Colours = NDArray[np.float64]

# Up to so many CIEDE2000, and what people say; craft estimate after what eyes tell apart side by side and from memory.
WORDS = ((1.0, "the same to the eye"), (2.3, "hard to tell apart"), (5.0, "near"), (10.0, "clearly another"))
FARTHEST = "a different colour"


def linear(colour: str) -> Colours:
    """Linear sRGB (3,) of "#rrggbb": the inverse of the sRGB transfer curve (IEC 61966-2-1).
    Raises Refusal.

    >>> [round(float(one), 4) for one in linear("#808080")]
    [0.2159, 0.2159, 0.2159]
    """
    if len(colour) != 7 or colour[0] != "#":
        raise Refusal(f"'{colour}' is no colour", "write it as #c0ffee")
    return decoded(np.array([int(colour[at : at + 2], 16) for at in (1, 3, 5)]) / 255)


def is_colour(text: str) -> bool:
    """Whether a text is "#rrggbb" in small letters.

    >>> is_colour("#c0ffee"), is_colour("teal")
    (True, False)
    """
    return len(text) == 7 and text[0] == "#" and all(one in "0123456789abcdef" for one in text[1:])


def decoded(shown: Colours) -> Colours:
    """Linear colours (..., 3) of sRGB values 0 to 1 (..., 3): the inverse of the sRGB transfer curve (IEC 61966-2-1).

    >>> decoded(np.array([0.5])).round(4)
    array([0.214])
    """
    return np.asarray(np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4))


def coded(colours: Colours) -> Colours:
    """sRGB values 0 to 1 (..., 3) of linear colours (..., 3): the sRGB transfer curve; what is outside is held in.

    >>> coded(np.array([0.2140])).round(2)
    array([0.5])
    """
    light = np.clip(colours, 0.0, 1.0)
    return np.asarray(np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055))


def hexed(colour: Colours) -> str:
    """ "#rrggbb" of one linear colour (3,).

    >>> hexed(linear("#cdbfa6"))
    '#cdbfa6'
    """
    return "#" + "".join(f"{round(float(one) * 255):02x}" for one in coded(colour))


def lab(colours: Colours) -> Colours:
    """CIELAB (..., 3), D65, of linear colours (..., 3).

    >>> lab(np.array([1.0, 1.0, 1.0])).round(1)[0]
    np.float64(100.0)
    """
    from skimage.color import rgb2lab

    return np.asarray(rgb2lab(coded(colours)))


def from_lab(values: Colours) -> Colours:
    """Linear colours (..., 3) of CIELAB values (..., 3); what sRGB cannot show is held to what it can.

    >>> from_lab(np.array([50.0, 0.0, 0.0])).round(3)
    array([0.184, 0.184, 0.184])
    """
    from skimage.color import lab2rgb

    return decoded(np.asarray(lab2rgb(values)))


def difference(first: Colours, other: Colours) -> Colours:
    """CIEDE2000 (...) between linear colours (..., 3); 0 for the same.

    >>> round(float(difference(np.array([0.2, 0.2, 0.2]), np.array([0.2, 0.2, 0.3]))), 1)
    11.7
    """
    from skimage.color import deltaE_ciede2000

    return np.asarray(deltaE_ciede2000(*np.broadcast_arrays(lab(first), lab(other))))


def words(delta: float) -> str:
    """What people say of a difference.

    >>> words(1.8)
    'hard to tell apart'
    """
    return next((said for most, said in WORDS if delta <= most), FARTHEST)


def mixed(shares: Sequence[float], colours: Sequence[Colours]) -> Colours:
    """What the eye sees of patches of colours (n of (3,)) that lie side by side in these shares: their mean light.
    Raises ValueError unless shares are 0 or more, and not all 0.

    >>> mixed([1, 3], [np.array([0.4, 0.4, 0.4]), np.array([0.0, 0.2, 0.4])]).round(2)
    array([0.1 , 0.25, 0.4 ])
    """
    weights = np.asarray(shares, dtype=float)
    if weights.min(initial=0.0) < 0 or weights.sum() <= 0:
        raise ValueError("shares are 0 or more, and not all 0")
    return np.asarray(weights @ np.asarray(colours) / weights.sum())


def wet_look(colours: Colours, index: float = 1.33) -> Colours:
    """Linear colours (..., 3) of a rough surface once it is wet: a / (n^2 (1 - a) + a) a channel.

    `index` is the liquid's refractive index. Source: Angstrom (1925).
    Raises ValueError unless a refractive index is 1 or more.

    >>> [round(float(one), 3) for one in wet_look(np.array([0.1, 0.3, 0.5]))]
    [0.059, 0.195, 0.361]
    """
    if index < 1:
        raise ValueError("a refractive index is 1 or more")
    albedo = np.clip(colours, 0.0, 1.0)
    return np.asarray(albedo / (index**2 * (1 - albedo) + albedo))
