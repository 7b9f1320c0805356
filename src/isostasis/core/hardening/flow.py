"""How resin flows while it cures: thickening, bubbles, waves, the film that clings to a slope."""

from __future__ import annotations

import numpy as np

from ..catalogue import Reacts
from .layer import Array, Cured

GRAVITY = 9.81


def viscosity(label: Reacts, alpha: Array | float) -> Array:
    """Pa.s at a degree of cure below gel: mu0 (a_g / (a_g - alpha))^(1.5 + alpha); inf from gel on.

    Source: Castro and Macosko (1982).

    >>> from isostasis.core.catalogue import shipped
    >>> label = shipped().mixes['coating-resin'].reacts
    >>> viscosity(label, [0.0, 0.4, 0.6]).round(1)
    array([0.8, 9.4, inf])
    """
    cured = np.asarray(alpha, dtype=float)
    liquid = cured < label.gel
    rest = np.where(liquid, label.gel - cured, 1.0)
    return np.where(liquid, label.viscosity_pa_s * (label.gel / rest) ** (1.5 + cured), np.inf)


def ripple_decay(ripple_mm: float, depth_mm: float, mu: Array, density: float, tension_n_m: float) -> Array:
    """1/tau in 1/s at which a ripple of that length dies in a layer of that depth, for each viscosity in Pa.s.

    (rho g + gamma k^2) / (2 mu k) x (sinh kh cosh kh - kh) / (cosh^2 kh + (kh)^2). `density` kg/m3.
    Source: Orchard (1962), with gravity. Valid for ripples small against the depth.
    Raises ValueError unless a ripple and a depth are above 0.

    >>> round(float(ripple_decay(15, 2, np.array([0.8]), 1110, 0.035)[0]), 2)
    4.43
    """
    if ripple_mm <= 0 or depth_mm <= 0:
        raise ValueError("a ripple and a depth are above 0")
    k = 2 * np.pi / (ripple_mm / 1000)
    kh = min(k * depth_mm / 1000, 300.0)
    shape = (np.sinh(kh) * np.cosh(kh) - kh) / (np.cosh(kh) ** 2 + kh**2)
    return np.asarray((density * GRAVITY + tension_n_m * k**2) / (2 * np.asarray(mu) * k) * shape)


def wave_kept(hours: Array, cure: Array, label: Reacts, depth_mm: float, ripple_mm: float, density: float) -> Array:
    """Share of a ripple that is still there at the gel, if it is pushed at each of `hours` (rising, with the
    degree of cure at those hours); 1 from the gel on."""
    rate = ripple_decay(ripple_mm, depth_mm, viscosity(label, cure), density, label.surface_tension_n_m) * 3600
    steps = np.diff(hours) * (rate[1:] + rate[:-1]) / 2
    still = np.concatenate((np.cumsum(steps[::-1])[::-1], [0.0]))
    return np.exp(-np.minimum(still, 700.0))


def wave_window(
    cured: Cured, label: Reacts, depth_mm: float, ripple_mm: float, density: float
) -> tuple[float, float] | None:
    """Hours from which half of a ripple is kept, and the gel; None if the layer does not gel."""
    if cured.gel_h is None:
        return None
    hours = np.linspace(0, cured.gel_h, 1500)
    cure = np.interp(hours, cured.hours, cured.cure)
    cure[-1] = label.gel
    kept = wave_kept(hours, cure, label, depth_mm, ripple_mm, density)
    return float(hours[int(np.argmax(kept >= 0.5))]), cured.gel_h


def clinging_film(mu: float, below_mm: float, seconds: float, slope_deg: float, density: float) -> float:
    """Thickness in mm of the film left on a slope: sqrt(mu x / (rho g t sin theta)), x below the top.

    `mu` Pa.s, `density` kg/m3, slope above 0. Source: Jeffreys (1930).
    Raises ValueError unless viscosity, time, slope and density are above 0.

    >>> round(clinging_film(0.8, 100, 1800, 60, 1110), 4)
    0.0687
    """
    if min(mu, seconds, slope_deg, density) <= 0 or below_mm < 0:
        raise ValueError("viscosity, time, slope and density are above 0")
    return float(np.sqrt(mu * below_mm / 1000 / (density * GRAVITY * seconds * np.sin(np.radians(slope_deg)))) * 1000)


def bubble_rise(diameter_mm: float, mu: float, density: float) -> float:
    """mm a second at which a bubble rises: rho g d^2 / (12 mu). Source: Hadamard; Rybczynski (1911).
    Raises ValueError unless diameter, viscosity and density are above 0.

    >>> round(bubble_rise(0.5, 0.8, 1110) * 60, 1)
    17.0
    """
    if min(diameter_mm, mu, density) <= 0:
        raise ValueError("diameter, viscosity and density are above 0")
    return density * GRAVITY * (diameter_mm / 1000) ** 2 / (12 * mu) * 1000


def mobility(hours: Array, cure: Array, label: Reacts, from_h: float = 0.0) -> float:
    """Integral of dt / mu (1/Pa) from an hour to the gel, along the hours and degrees of cure of a layer or a cup: all
    that spreads or rises in it goes by this.

    >>> from isostasis.core.catalogue import shipped
    >>> label = shipped().mixes['coating-resin'].reacts
    >>> round(mobility([0.0, 1.0], [0.0, 0.0], label))
    4500
    """
    times = np.asarray(hours, dtype=float)
    flows = 1 / viscosity(label, np.asarray(cure, dtype=float))
    kept = times >= from_h
    if kept.sum() < 2:
        return 0.0
    return float(np.trapezoid(flows[kept], times[kept] * 3600))


def channel_reach(per_width_mm2: float, mobile: float, density: float) -> float:
    """mm that a pour runs along a level channel before the gel: 1.411 (g q^3 / 3 nu)^(1/5) t^(1/5).

    `per_width_mm2` q, ml a mm of width x 1000; `mobile` the integral of dt / mu to the gel, in which a thickening resin
    has its say. Source: Huppert (1982), for a volume let go at one end.
    Raises ValueError unless a volume and a time are 0 or more, a density above 0.

    >>> round(channel_reach(500, 600 / 0.8, 1110))
    286
    """
    if per_width_mm2 < 0 or mobile < 0 or density <= 0:
        raise ValueError("a volume and a time are 0 or more, a density above 0")
    q = per_width_mm2 * 1e-6
    return float(1.411 * (density * GRAVITY * q**3 / 3 * mobile) ** 0.2 * 1000)


def puddle_reach(volume_ml: float, mobile: float, density: float) -> float:
    """mm to which a puddle spreads on the flat before the gel: 0.894 (g V^3 / 3 nu)^(1/8) t^(1/8).

    Source: Huppert (1982), for a volume let go at a point.
    Raises ValueError unless a volume and a time are 0 or more, a density above 0.

    >>> round(puddle_reach(100, 600 / 0.8, 1110))
    180
    """
    if volume_ml < 0 or mobile < 0 or density <= 0:
        raise ValueError("a volume and a time are 0 or more, a density above 0")
    volume = volume_ml * 1e-6
    return float(0.894 * (density * GRAVITY * volume**3 / 3 * mobile) ** 0.125 * 1000)


def least_cover(tension_n_m: float, density: float, angle_deg: float) -> float:
    """mm below which a film does not close over its bed by itself: 2 a sin(theta / 2), a the capillary length.

    Source: docs/science.md, resin.
    Raises ValueError unless tension and density are above 0, an angle 0 to 180 degrees.

    >>> round(least_cover(0.035, 1110, 30), 2)
    0.93
    """
    if min(tension_n_m, density) <= 0 or not 0 <= angle_deg <= 180:
        raise ValueError("tension and density are above 0, an angle 0 to 180 degrees")
    length = (tension_n_m / density / GRAVITY) ** 0.5 * 1000
    return float(2 * length * np.sin(np.radians(angle_deg) / 2))


def bubble_height(diameter_mm: float, mobile: float, density: float) -> float:
    """mm that a bubble rises before the gel: its speed, 1 / (12 mu), summed until then.

    >>> round(bubble_height(0.5, 3600 / 0.8, 1110))
    1021
    """
    return bubble_rise(diameter_mm, 1.0, density) * mobile
