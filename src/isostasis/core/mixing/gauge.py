"""The gauge beside a cup on the scale: pour, slow down, stop, over by.

Source: craft estimate; a ratio off by a fiftieth is within what labels allow.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

SLOW_SHARE, SLOW_LEAST_G, SLOW_MOST_G = 0.08, 1.0, 20.0  # of a part: the last of it goes in as a thin thread
GOOD_SHARE = 0.02  # of a part, over or short: good
GOOD_LEAST_G = 0.1

State = Literal["pour", "slow", "stop", "over"]


@dataclass(frozen=True, slots=True)
class Gauge:
    """How far a part is: g to go, or g over; `good_g` is as much as may be over or short; `slow_g` from where on it
    goes in slowly."""

    state: State
    to_go_g: float
    good_g: float
    slow_g: float

    @property
    def over_g(self) -> float:
        """g more than wanted; 0 where it is not over."""
        return max(-self.to_go_g, 0.0)


def gauge(wanted_g: float, in_g: float) -> Gauge:
    """The gauge of a part of which so much is in.

    Raises ValueError for a part of nothing.

    >>> gauge(97.1, 90.7).state, gauge(97.1, 98.0).state, gauge(97.1, 100.5).state
    ('slow', 'stop', 'over')
    """
    if wanted_g <= 0:
        raise ValueError("a part of nothing is not weighed")
    good = max(GOOD_SHARE * wanted_g, GOOD_LEAST_G)
    slow = min(max(SLOW_SHARE * wanted_g, SLOW_LEAST_G), SLOW_MOST_G)
    to_go = wanted_g - in_g
    if to_go < -good:
        state: State = "over"
    elif to_go <= good:
        state = "stop"
    else:
        state = "slow" if to_go <= slow else "pour"
    return Gauge(state, to_go, good, slow)
