"""What loses water: the constant-rate period, then the falling rate.

Source: drying theory in two periods (Lewis, 1921; Sherwood, 1929), constants default in docs/science.md.
"""

from __future__ import annotations

from math import ceil, log

from .climate import Climate

CRITICAL_SHARE = 0.35  # of the water: the face stays wet until then
READY_SHARE = 0.05  # of the water: ready to seal or to pour on
OPEN_LOSS = 1 / 3  # a spread film can be worked until this share has left


def hours_to_share(
    water_g_m2: float,
    depth_mm: float,
    diffusivity_m2_s: float,
    climate: Climate,
    share: float,
    faces: int = 1,
) -> float | None:
    """Hours until only `share` of the free water is left; None if it never gets there.

    `water_g_m2` g of free water per m2 of one face, `depth_mm` the layer's depth, `diffusivity_m2_s`, `share`
    0..1, `faces` 1 or 2 (two halve the depth and the water each face must pass). To the critical share
    t1 = w0 (1 - f_c) / J; beyond it t2 = (w0 f_c / J + d^2 / D) ln(f_c / f). In a room that changes, the rates
    are summed along its series.
    Raises ValueError unless water and depth are 0 or more, diffusivity above 0, faces 1 or 2, share in (0, 1].

    >>> room = Climate((0,), (21,), (0.5,))
    >>> round(hours_to_share(4400, 10, 4e-9, room, 0.05), 1)
    110.5
    """
    if water_g_m2 < 0 or depth_mm < 0 or diffusivity_m2_s <= 0 or faces not in (1, 2) or not 0 < share <= 1:
        raise ValueError("water and depth are 0 or more, diffusivity above 0, faces 1 or 2, share in (0, 1]")
    water, depth_m = water_g_m2 / faces, depth_mm / 1000 / faces
    spread_h = depth_m**2 / diffusivity_m2_s / 3600
    surface = water * (1 - max(share, CRITICAL_SHARE))  # g/m2 that leave at the constant rate
    inside = log(CRITICAL_SHARE / share) if share < CRITICAL_SHARE else 0.0
    passed = 0.0
    for span, rate, _ in climate.spans():
        if rate <= 0:
            if span == float("inf"):
                return None
            passed += span
            continue
        use = surface / rate
        if use > span:
            surface -= span * rate
            passed += span
            continue
        slow = water * CRITICAL_SHARE / rate + spread_h  # hours per unit of ln(share)
        need = use + inside * slow
        if need <= span:
            return passed + need
        inside -= (span - use) / slow
        surface = 0.0
        passed += span
    return None


def diffusivity_of_label(water_g_m2: float, depth_mm: float, hours: float, flux_g_m2_h: float) -> float:
    """Diffusivity by which a layer is dry in the hours that its tin gives: D = d^2 / (t' - w f_c / J) with
    t' = (t - w (1 - f_c) / J) / ln(f_c / f), the two periods solved for D; in m2/s.

    Args:
        water_g_m2: free water of the tin's layer, g per m2, > 0.
        depth_mm: its depth, > 0.
        hours: until it is dry, > 0.
        flux_g_m2_h: evaporation in the tin's room, g per m2 and hour, > 0 (`evaporation`).

    Raises:
        ValueError: outside those ranges, or for hours in which its face alone could not lose so much water.

    >>> room = Climate((0,), (20,), (0.5,))
    >>> hours = hours_to_share(2200, 5, 4e-9, room, 0.05)
    >>> from .climate import evaporation
    >>> round(diffusivity_of_label(2200, 5, hours, evaporation(20, 0.5)) * 1e9, 3)
    4.0
    """
    if min(water_g_m2, depth_mm, hours, flux_g_m2_h) <= 0:
        raise ValueError("water, depth, hours and evaporation are above 0")
    falling_h = (hours - water_g_m2 * (1 - CRITICAL_SHARE) / flux_g_m2_h) / log(CRITICAL_SHARE / READY_SHARE)
    spread_h = falling_h - water_g_m2 * CRITICAL_SHARE / flux_g_m2_h
    if spread_h <= 0:
        raise ValueError("its face alone would take longer to lose so much water")
    return float((depth_mm / 1000) ** 2 / (spread_h * 3600))


def open_hours(water_g_m2: float, climate: Climate) -> float | None:
    """Hours that a spread film stays open: until a third of its water has left.

    >>> round(open_hours(60.4, Climate((0,), (21,), (0.5,))), 2)
    0.33
    """
    return hours_to_share(water_g_m2, 0.0, 1.0, climate, 1 - OPEN_LOSS)


def coats_to_reach(height_mm: float, wet_coat_mm: float, solids_by_volume: float) -> int:
    """Coats that build up `height_mm`, where a wet coat leaves only its solids.
    Raises ValueError unless height is 0 or more, the coat above 0, solids in (0, 1].

    >>> coats_to_reach(2.0, 0.5, 0.4)
    10
    """
    if height_mm < 0 or wet_coat_mm <= 0 or not 0 < solids_by_volume <= 1:
        raise ValueError("height is 0 or more, the coat above 0, solids in (0, 1]")
    return ceil(height_mm / (wet_coat_mm * solids_by_volume) - 1e-9)


def coats_below_lip(
    height_mm: float, wet_coat_mm: float, solids_by_volume: float, room_mm: float, max_count: int
) -> tuple[float, ...]:
    """What each coat leaves, mm, so that together they build up `height_mm` and none stands over a lip while wet.

    As few as do it, each wet at most `wet_coat_mm` and at most what is left of the `room_mm` below the lip; alike as
    far as those allow. Empty where more than `max_count` are needed, or none suffices: the last reaches the lip itself.
    Raises ValueError unless height and room are 0 or more, the coat above 0, solids in (0, 1].

    >>> coats_below_lip(0.5, 1.0, 0.25, 10, 40)
    (0.25, 0.25)
    >>> [round(coat, 2) for coat in coats_below_lip(0.8, 1.0, 0.5, 1.0, 40)]
    [0.42, 0.24, 0.14]
    """
    if min(height_mm, room_mm) < 0 or wet_coat_mm <= 0 or not 0 < solids_by_volume <= 1:
        raise ValueError("height and room are 0 or more, the coat above 0, solids in (0, 1]")

    def laid(count: int, full: float) -> list[float]:
        coats: list[float] = []
        for _ in range(count):
            coats.append(full * min(wet_coat_mm, room_mm - sum(coats)) * solids_by_volume)
        return coats

    count = next((n for n in range(1, max_count + 1) if sum(laid(n, 1.0)) >= height_mm - 1e-9), 0)
    low, high = 0.0, 1.0
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if sum(laid(count, middle)) < height_mm else (low, middle)
    return tuple(laid(count, high))
