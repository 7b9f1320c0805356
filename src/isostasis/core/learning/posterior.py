"""One factor learnt from records: how many times what was predicted really comes.

Prediction x factor, log-normal prior, records with an error of their own; what is known only as bounds ("not yet at
seven, ready on Friday") counts as bounds. Source: docs/science.md, learning; Turnbull (1976) for the censoring, here on
a grid.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, isfinite, log

import numpy as np

PRIOR_SIGMA = log(1.25)
RECORD_SIGMA = log(1.10)  # of a single record round its factor, default
WIDEST = 5.0  # of the prior's widths that the grid spans to either side
POINTS = 801
LOW, HIGH = 0.10, 0.90  # of the range that is told: eight times in ten


@dataclass(frozen=True, slots=True)
class Observed:
    """What really came over what was predicted: between two bounds, None where there is none; alike where it was
    measured."""

    low: float | None
    high: float | None

    @classmethod
    def of(cls, real: float, predicted: float) -> Observed:
        """An amount that was measured. Raises ValueError unless both are above 0."""
        if not (real > 0 and predicted > 0 and isfinite(real / predicted)):
            raise ValueError("what came and what was predicted are above 0")
        return cls(real / predicted, real / predicted)

    @classmethod
    def between(cls, not_yet: float | None, ready: float | None, predicted: float) -> Observed:
        """A wait that was not over after `not_yet` and over after `ready`, either of which may be unknown. Raises
        ValueError for a prediction of nothing, no bound at all, or bounds the wrong way round."""
        if predicted <= 0 or (not_yet is None and ready is None):
            raise ValueError("a wait is predicted and looked at")
        low = None if not_yet is None or not_yet <= 0 else not_yet / predicted
        high = None if ready is None else ready / predicted
        if high is not None and (high <= 0 or (low is not None and low > high)):
            raise ValueError("a wait is not over before it is not yet over")
        return cls(low, high)


@dataclass(frozen=True, slots=True)
class Learnt:
    """A factor: its posterior mean, where it lies eight times in ten, from how many records; and its density (n,) over
    factors (n,), to be drawn."""

    mean: float
    low: float
    high: float
    count: int
    factors: tuple[float, ...] = ()
    density: tuple[float, ...] = ()


def learn(records: Sequence[Observed], prior_sigma: float = PRIOR_SIGMA, sigma: float = RECORD_SIGMA) -> Learnt:
    """The factor by all records together; without any it is 1, as wide as the prior.

    >>> made = learn([Observed.of(130, 100)] * 4)
    >>> round(made.mean, 2), made.low < made.mean < made.high
    (1.29, True)
    >>> learn([]).count
    0
    """
    from scipy.special import log_ndtr, logsumexp

    grid = np.linspace(-WIDEST * prior_sigma, WIDEST * prior_sigma, POINTS)
    weight = -0.5 * (grid / prior_sigma) ** 2
    for record in records:
        if record.low is not None and record.low == record.high:
            weight = weight - 0.5 * ((log(record.low) - grid) / sigma) ** 2
            continue
        if record.low is None and record.high is None:
            continue
        above = np.full(POINTS, np.inf) if record.high is None else (log(record.high) - grid) / sigma
        below = np.full(POINTS, -np.inf) if record.low is None else (log(record.low) - grid) / sigma
        # Far out the difference of two tails is lost in rounding: it is taken on the side where it is not.
        flip = below > 0
        upper, lower = np.where(flip, -below, above), np.where(flip, -above, below)
        first, second = log_ndtr(upper), log_ndtr(lower)
        with np.errstate(divide="ignore", invalid="ignore"):
            inside = first + np.log1p(-np.exp(np.minimum(second - first, 0.0)))
        weight = weight + np.where(np.isfinite(inside), inside, -1e9)
    density = np.exp(weight - logsumexp(weight))
    share = np.cumsum(density)
    low, high = (exp(float(np.interp(at, share, grid))) for at in (LOW, HIGH))
    factors = np.exp(grid)
    return Learnt(
        float((factors * density).sum()), low, high, len(records), tuple(factors.tolist()), tuple(density.tolist())
    )
