"""An independent solution of one poured layer, for checking `layer`: plain, fine-grained and slow.

Method of lines on a fine uniform grid, integrated by SciPy's stiff solver. Tests and the benchmark hold
`layer` against it; nothing else uses it.

Source: the same balance of heat and rate law as `layer` and `cure`, solved otherwise.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from .cure import GAS_CONSTANT, KELVIN, ORDER, START, rate_constant
from .layer import ABOVE_W_M2K, BELOW_W_M2K, Array, Pour


@dataclass(frozen=True, slots=True)
class Reference:
    """Hours to gel and hard at the top face, and the greatest temperature in the resin in degC."""

    gel_h: float | None
    hard_h: float | None
    peak_c: float


def solve_reference(pour: Pour, resin_cells: int = 40, slab_cells: int = 20) -> Reference:
    """The layer in a steady room, on uniform cells, by BDF with tight tolerances. `pour` as for `layer.solve`."""
    from scipy.integrate import solve_ivp

    slabs = [(pour.depth_mm, pour.thermal, resin_cells), *((depth, slab, slab_cells) for depth, slab in pour.bed)]
    width = np.concatenate([np.full(count, depth / 1000 / count) for depth, _, count in slabs])
    k = np.concatenate([np.full(count, slab.k) for _, slab, count in slabs])
    capacity = np.concatenate(
        [np.full(count, depth / 1000 / count * slab.rho * slab.c) for depth, slab, count in slabs]
    )
    across = 2 / (width[:-1] / k[:-1] + width[1:] / k[1:])
    room, label = pour.climate.temp_c[0], pour.label
    rate0, barrier = rate_constant(label), label.activation_kj_mol * 1000 / GAS_CONSTANT
    top = 1 / (width[0] / 2 / k[0] + 1 / ABOVE_W_M2K)
    bottom = 1 / (width[-1] / 2 / k[-1] + 1 / BELOW_W_M2K)
    share = (2 * k[0] / width[0]) / (2 * k[0] / width[0] + ABOVE_W_M2K)
    heat = pour.heat_j_g * 1000 * pour.thermal.rho * width[:resin_cells]
    cells = len(width)

    def rates(temps: Array, cured: Array) -> Array:
        arrhenius = np.exp(barrier * (1 / (label.temp_c + KELVIN) - 1 / (temps + KELVIN)))
        return np.asarray(rate0 * arrhenius * (START + cured) * np.maximum(1 - cured, 0) ** ORDER)

    def flow(_: float, state: Array) -> Array:
        temps, cured = state[:cells], state[cells:]
        face = share * temps[0] + (1 - share) * room
        speed = rates(np.append(temps[:resin_cells], face), cured)
        gain = np.zeros(cells)
        passing = across * np.diff(temps)
        gain[:-1] += passing
        gain[1:] -= passing
        gain[0] += top * (room - temps[0])
        gain[-1] += bottom * (room - temps[-1])
        gain[:resin_cells] += heat * speed[:-1]
        return np.concatenate((gain / capacity, speed))

    def when(goal: float) -> Any:
        def passed(_: float, state: Array) -> float:
            return float(state[-1] - goal)

        return passed

    start = np.concatenate((np.full(cells, float(room)), np.zeros(resin_cells + 1)))
    end = label.hard_h * 3600 * 12
    run = solve_ivp(
        flow, (0, end), start, method="BDF", rtol=1e-6, atol=1e-7, events=[when(label.gel), when(label.hard)]
    )
    gel, hard = (float(times[0]) / 3600 if len(times) else None for times in run.t_events)
    return Reference(gel, hard, float(run.y[:resin_cells].max()))
