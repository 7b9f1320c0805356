"""Two-part resin: a rate law anchored to what the label says.

d(alpha)/dt = K exp(-Ea/R (1/T - 1/T_label)) (0.25 + alpha) (1 - alpha)^1.6. Source: the autocatalytic law of
Kamal and Sourour (1973). K follows from the label's hours to hard in a thin layer.
"""

from __future__ import annotations

import numpy as np

from ..catalogue import Reacts
from ..stages import cached_stage

GAS_CONSTANT = 8.314462618
KELVIN = 273.15
START = 0.25
ORDER = 1.6


@cached_stage
def reduced_time(alpha: float) -> float:
    """K t that brings the cure from 0 to `alpha` (0..<1) at the label's temperature, by quadrature (Gauss and
    Legendre) along v = (ORDER - 1) ln 1/(1 - a), in which nothing is steep.
    Raises ValueError unless a degree of cure is 0 or more and below 1.

    >>> round(reduced_time(0.55) / reduced_time(0.80), 2)
    0.52
    """
    if not 0 <= alpha < 1:
        raise ValueError("a degree of cure is 0 or more and below 1")
    power = ORDER - 1
    end = -power * np.log1p(-alpha)
    nodes, weights = np.polynomial.legendre.leggauss(64)
    v = end * (nodes + 1) / 2
    return float(end / 2 * np.sum(weights * np.exp(v) / (power * (START + 1 - np.exp(-v / power)))))


def rate_constant(label: Reacts) -> float:
    """K in 1/s, such that a thin layer at the label's temperature is hard in the label's hours.

    >>> f"{rate_constant(Reacts(hard_h=8, max_depth_mm=6, working_min=25)):.3e}"
    '1.288e-04'
    """
    return reduced_time(label.hard) / (label.hard_h * 3600)


def faster(label: Reacts, temp_c: float) -> float:
    """How many times faster it cures at `temp_c` than at the label's temperature (Arrhenius).

    >>> from isostasis.core.catalogue import shipped
    >>> label = shipped().mixes['coating-resin'].reacts
    >>> round(faster(label, 33.0), 2)
    1.99
    """
    from math import exp

    colder = 1 / (temp_c + KELVIN) - 1 / (label.temp_c + KELVIN)
    return exp(-label.activation_kj_mol * 1000 / GAS_CONSTANT * colder)


def isothermal_hours(label: Reacts, temp_c: float, alpha: float) -> float:
    """Hours to `alpha` in a thin layer that stays at `temp_c`.

    >>> label = Reacts(hard_h=8, max_depth_mm=6, working_min=25)
    >>> round(isothermal_hours(label, 15, label.gel), 3)
    7.469
    """
    return reduced_time(alpha) / rate_constant(label) / faster(label, temp_c) / 3600
