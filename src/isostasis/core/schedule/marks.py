"""What was marked at the bench: steps begun, done and skipped, and touch-tests as bounds on their waits."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from math import exp, log
from statistics import NormalDist

SIGMA = log(1.25)  # of the factor between predicted and real waits, docs/science.md
_NORMAL = NormalDist()
_SURE = 1e-6


@dataclass(frozen=True, slots=True)
class Marks:
    """By step id: when it was begun, when it ended, why it was skipped and when, and touch-tests: the latest moment at
    which it was `not_yet` ready and the earliest at which it was found `ready`; when it was `paused`, if it is."""

    started: Mapping[str, datetime] = field(default_factory=dict)
    done: Mapping[str, datetime] = field(default_factory=dict)
    skipped: Mapping[str, datetime] = field(default_factory=dict)
    not_yet: Mapping[str, datetime] = field(default_factory=dict)
    ready: Mapping[str, datetime] = field(default_factory=dict)
    paused: Mapping[str, datetime] = field(default_factory=dict)


def factor(wait_h: float, not_yet_h: float | None, ready_h: float | None) -> float:
    """What a predicted wait is multiplied by once it is known not to be over after `not_yet_h` hours and to be over
    after `ready_h` (None: not looked at): the median of a log-normal factor (median 1, sigma ln 1.25) between those
    bounds. A test that was ready lets work go on from that moment: the factor is no larger than that.

    Where the tests contradict each other, the later look is not known here and the longer wait is taken.

    >>> factor(10, None, None)
    1.0
    >>> round(factor(10, 10, None), 2)
    1.16
    """
    if wait_h <= 0 or (not_yet_h is None and ready_h is None):
        return 1.0
    low = None if not_yet_h is None or not_yet_h <= 0 else not_yet_h / wait_h
    high = None if ready_h is None else max(ready_h, 0.0) / wait_h
    if low is not None and high is not None and low >= high:
        high = None
    below = 0.0 if low is None else _NORMAL.cdf(log(low) / SIGMA)
    above = 1.0 if high is None else _NORMAL.cdf(log(high) / SIGMA) if high > 0 else 0.0
    if low is not None and below > 1 - _SURE:
        return low * 1.05  # farther out than the prior knows: a twentieth more, then look again
    if high is not None and above < _SURE:
        return high
    return exp(SIGMA * _NORMAL.inv_cdf((below + above) / 2))
