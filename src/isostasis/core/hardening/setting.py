"""What sets: plaster takes up water. Times from the label, adjusted for water and temperature."""

from __future__ import annotations

from math import exp

LABEL_TEMP_C = 20.0
WORKING_SHARE = 0.5  # of the initial set
CLOUDED = 0.6  # times the set, in water that is clouded with set plaster


def set_minutes(label_min: float, label_ratio: float, water_ratio: float, temp_c: float) -> float:
    """Initial set in minutes: the label's x (w/p) / (w/p of the label) x 0.97 per degC above 20.

    Ratios by mass; `temp_c` is held within 5..40. Colder is slower. Source: docs/science.md, setting.
    Raises ValueError unless times and water ratios are above 0.

    >>> round(set_minutes(40, 0.7, 0.7, 10), 1)
    54.2
    """
    if label_min <= 0 or label_ratio <= 0 or water_ratio <= 0:
        raise ValueError("times and water ratios are above 0")
    warmer = min(max(temp_c, 5.0), 40.0) - LABEL_TEMP_C
    return float(label_min * (water_ratio / label_ratio) * 0.97**warmer)


def mixed_temp(water_g: float, water_c: float, powder_g: float, room_c: float) -> float:
    """Temperature of a mix, degC, of water at `water_c` and powder that stood in the room: heat shared by mass and heat
    capacity (water 4.19, powder 0.9 J/g/K). Source: conservation of heat; what stirring adds is left out.
    Raises ValueError unless masses are 0 or more, and not both 0.

    >>> round(mixed_temp(50, 40, 100, 20), 1)
    34.0
    """
    if water_g < 0 or powder_g < 0 or water_g + powder_g <= 0:
        raise ValueError("masses are 0 or more, and not both 0")
    water, powder = 4.19 * water_g, 0.9 * powder_g
    return (water * water_c + powder * room_c) / (water + powder)


def dry_strength(water_ratio: float) -> float:
    """Strength of pure plaster once dry, MPa: 75 exp(-2.75 w/p), `water_ratio` w/p by mass.

    Indicative, for w/p 0.45 to 1.1 (held within); wet strength is about half. Source: docs/science.md, setting.
    Raises ValueError unless a water ratio is above 0.

    >>> round(dry_strength(0.6), 1), round(dry_strength(0.8), 1)
    (14.4, 8.3)
    """
    if water_ratio <= 0:
        raise ValueError("a water ratio is above 0")
    return float(75 * exp(-2.75 * min(max(water_ratio, 0.45), 1.1)))
