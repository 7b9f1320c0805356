"""How well factors are learnt: simulated workshops whose true factors are known.

A workshop's factor is drawn from the prior; each record scatters by its own error. Amounts are measured; waits are
looked at once a day, at an hour of the workshop's own, so that only bounds are known.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from typing import Literal

import numpy as np

from isostasis.core.learning.posterior import PRIOR_SIGMA, RECORD_SIGMA, Observed, learn

DAY_H = 24.0
WAITS_H = (15.0, 60.0)  # what is predicted


@dataclass(frozen=True)
class Learning:
    """Over all workshops: how often the range of eight in ten held the truth, and the median error of the factor, in
    its logarithm, over that of the prior."""

    covered: float
    error: float


def _record(kind: Literal["amounts", "waits"], factor: float, draw: np.random.Generator) -> Observed:
    real = factor * float(np.exp(draw.normal(0, RECORD_SIGMA)))
    if kind == "amounts":
        return Observed.of(real, 1.0)
    predicted, first = float(draw.uniform(*WAITS_H)), float(draw.uniform(0, DAY_H))
    found = first + DAY_H * max(ceil((real * predicted - first) / DAY_H), 0)
    before = found - DAY_H
    return Observed.between(before if before > 0 else None, found, predicted)


def learning(kind: Literal["amounts", "waits"], workshops: int = 200, records: int = 10, seed: int = 0) -> Learning:
    """What comes of so many workshops with so many records each."""
    draw = np.random.default_rng(seed)
    covered, errors, before = [], [], []
    for _ in range(workshops):
        factor = float(np.exp(draw.normal(0, PRIOR_SIGMA)))
        made = learn([_record(kind, factor, draw) for _ in range(records)])
        covered.append(made.low <= factor <= made.high)
        errors.append(abs(float(np.log(made.mean / factor))))
        before.append(abs(float(np.log(factor))))
    return Learning(float(np.mean(covered)), float(np.median(errors) / np.median(before)))


if __name__ == "__main__":
    for kind in ("amounts", "waits"):
        made = learning(kind)
        print(
            f"{kind}: the range holds the truth {made.covered:.1%} of the time, error {made.error:.3f} of the prior's"
        )
