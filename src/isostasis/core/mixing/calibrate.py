"""What a cup, spoon or dropper really holds, from water weighed in it or drops counted out of it.

Source: density of water at 20 degC, Kell, J. Chem. Eng. Data 20 (1975), 97.
"""

from __future__ import annotations

WATER_G_ML = 0.9982


def held_ml(water_g: float, times: int = 1) -> float:
    """ml that a vessel holds of which so many fills of water weigh so much: m / (n 0.9982).

    Args:
        water_g: of all fills together, > 0.
        times: fills, or drops of a dropper, 1 or more.

    Raises:
        ValueError: outside those ranges.

    >>> round(held_ml(74.9, 5), 2)
    15.01
    """
    if water_g <= 0 or times < 1:
        raise ValueError("water is weighed in g above 0, in one fill or more")
    return water_g / WATER_G_ML / times
