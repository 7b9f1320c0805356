"""Which way leads on a scrap, how surely, and which cannot be told apart: rounds of scores, redrawn."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil

import numpy as np
from numpy.typing import NDArray

Scores = NDArray[np.float64]  # (rounds, lanes), 0 to 10
DRAWS = 4000
SEED = 1
INNER = 0.1, 0.9  # eight times in ten
SURE = 1.28  # standard deviations that nine of ten lie above
JUDGE = 0.6  # of ten: how far one look at the same thing strays from the next, craft estimate
BEST = 10.0
MAX_ROUNDS = 24  # more than so many are not worth asking for


@dataclass(frozen=True, slots=True)
class LaneRank:
    """How a lane stands: its mean, where the true one lies eight times in ten, how often it comes first, its gain over
    the control with that gain's range, and from which place to which it may stand, 1 the first."""

    mean: float
    low: float
    high: float
    first: float
    gain: float
    gain_low: float
    gain_high: float
    places: tuple[int, int]


@dataclass(frozen=True, slots=True)
class Ranking:
    """All lanes in their order on the scrap; the `leader`; those that cannot be told from it (`ties`); and about how
    many rounds more would tell (None: more than are worth it, or nothing to tell)."""

    standings: tuple[LaneRank, ...]
    leader: int
    ties: tuple[int, ...]
    more: int | None


def weighted(scores: Mapping[str, float], weights: Mapping[str, float]) -> float:
    """One number out of ten of what was scored, by what counts how much. Raises ValueError where nothing counts.

    >>> weighted({"hold": 8, "colour": 5}, {"hold": 2, "colour": 1})
    7.0
    """
    whole = sum(weights.get(name, 0.0) for name in scores)
    if whole <= 0:
        raise ValueError("what is scored has to count for something")
    return sum(value * weights.get(name, 0.0) for name, value in scores.items()) / whole


def redrawn(scores: Scores, judge: float = JUDGE, draws: int = DRAWS) -> Scores:
    """Means (draws, lanes) of rounds drawn anew with replacement, whole rounds at a time, since a mild evening is mild
    to all; widened by sqrt(n / (n - 1)) for few rounds, and by how far a judge strays from himself.

    Source: Efron and Tibshirani, An Introduction to the Bootstrap (1993), ch. 6; the widening, section 5.3 there.
    Raises ValueError without a round.

    >>> redrawn(np.array([[8.0, 2.0], [6.0, 2.0]]), judge=0).mean(axis=0).round(1)
    array([7., 2.])
    """
    rounds, lanes = scores.shape
    if rounds < 1:
        raise ValueError("there is no round to rank by")
    chance = np.random.default_rng(SEED)
    counts = chance.multinomial(rounds, np.full(rounds, 1 / rounds), size=draws)
    middle = scores.mean(axis=0)
    widened = (rounds / (rounds - 1)) ** 0.5 if rounds > 1 else 1.0
    strays = chance.normal(0.0, judge / rounds**0.5, size=(draws, lanes)) if judge else 0.0
    return np.asarray(middle + (counts @ scores / rounds - middle) * widened + strays)


def ranked(scores: Sequence[Sequence[float]], control: int, judge: float = JUDGE) -> Ranking:
    """How lanes stand after rounds of scores (rounds of lanes), against the `control` lane. The control does not lead.

    A lane ties with the leader while the leader is better in fewer than nine redrawings of ten. Source: `redrawn`.
    Raises ValueError without a round, or with fewer lanes than two.

    >>> made = ranked([[8, 2, 7], [9, 1, 6], [8, 2, 7], [8, 3, 6]], control=1)
    >>> made.leader, made.ties, round(made.standings[0].gain, 2)
    (0, (), 6.25)
    """
    table = np.asarray(scores, dtype=float)
    if table.ndim != 2 or table.shape[1] < 2:
        raise ValueError("two lanes are the fewest that can be ranked")
    drawn = redrawn(table, judge)
    middle = table.mean(axis=0)
    lanes = range(table.shape[1])
    rivals = [lane for lane in lanes if lane != control]
    leader = max(rivals, key=lambda lane: (middle[lane], -lane))
    firsts = np.asarray(rivals)[drawn[:, rivals].argmax(axis=1)]
    low, high = np.quantile(drawn, INNER, axis=0)
    gains = drawn - drawn[:, [control]]
    gain_low, gain_high = np.quantile(gains, INNER, axis=0)
    places = {lane: _places(drawn, rivals, lane) for lane in rivals}
    standings = tuple(
        LaneRank(
            float(middle[lane]), float(low[lane]), float(high[lane]), float((firsts == lane).mean()),
            float(middle[lane] - middle[control]), float(gain_low[lane]), float(gain_high[lane]),
            places.get(lane, (0, 0)),
        )
        for lane in lanes
    )  # fmt: skip
    ties = tuple(lane for lane in rivals if lane != leader and _better(drawn, leader, lane) < INNER[1])
    more = _more(table, drawn, leader, ties) if ties else None
    return Ranking(standings, leader, ties, more)


def _better(drawn: Scores, one: int, other: int) -> float:
    """In which share of redrawings a lane is better than another."""
    return float((drawn[:, one] > drawn[:, other]).mean())


def _places(drawn: Scores, rivals: Sequence[int], lane: int) -> tuple[int, int]:
    """The best and the worst place that cannot be ruled out."""
    above = sum(_better(drawn, other, lane) >= INNER[1] for other in rivals if other != lane)
    below = sum(_better(drawn, lane, other) >= INNER[1] for other in rivals if other != lane)
    return 1 + above, len(rivals) - below


def _more(table: Scores, drawn: Scores, leader: int, ties: Sequence[int]) -> int | None:
    """About how many rounds more would tell the leader from the nearest of its ties, if they go on as they went."""
    rounds = len(table)
    nearest = max(ties, key=lambda lane: table[:, lane].mean())
    ahead = float((table[:, leader] - table[:, nearest]).mean())
    spread = float((drawn[:, leader] - drawn[:, nearest]).std()) * rounds**0.5
    if ahead <= 0:
        return None
    needed = ceil((SURE * spread / ahead) ** 2)
    more = max(needed - rounds, 1)
    return more if more <= MAX_ROUNDS else None
