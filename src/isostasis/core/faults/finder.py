"""Causes ranked by what is known: odds before, times what each fact makes of them (naive Bayes, weights by hand)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import log

from .facts import FACTS, Known
from .model import Apart, Cause, Symptom

# How many times likelier a cause is where a fact that speaks for it holds, or does not; craft estimates.
HOLDS, FAILS = 3.0, 0.5
STRONG_HOLDS, STRONG_FAILS = 9.0, 0.2
SPEAKS_AGAINST = 0.2
MAX_ASKED = 5


@dataclass(frozen=True, slots=True)
class Ranked:
    """A cause, how likely it is among those of its symptom, and what speaks for it, against it, and is not known."""

    cause: Cause
    share: float
    speaks_for: tuple[str, ...]
    speaks_against: tuple[str, ...]
    unknown: tuple[str, ...]

    @property
    def words(self) -> str:
        """Its likelihood in words."""
        tenths = round(self.share * 10)
        return "less than 1 in 10" if tenths < 1 else "all but sure" if tenths > 9 else f"about {tenths} in 10"


def _weight(cause: Cause, known: Mapping[str, Known]) -> float:
    weight = cause.prior
    for code in cause.for_:
        if code in known:
            strong = code in cause.strong
            if known[code].holds:
                weight *= STRONG_HOLDS if strong else HOLDS
            else:
                weight *= STRONG_FAILS if strong else FAILS
    for code in cause.against:
        if code in known and known[code].holds:
            weight *= SPEAKS_AGAINST
    return weight


def rank(symptom: Symptom, known: Mapping[str, Known]) -> tuple[Ranked, ...]:
    """Its causes, the likeliest first."""
    weights = {cause.code: _weight(cause, known) for cause in symptom.causes}
    whole = sum(weights.values())
    ranked = []
    for cause in symptom.causes:
        seen = [(code, known[code]) for code in cause.for_ if code in known]
        counter = [(code, known[code]) for code in cause.against if code in known and known[code].holds]
        ranked.append(
            Ranked(
                cause,
                weights[cause.code] / whole,
                tuple(fact.said for _, fact in seen if fact.holds),
                (*(fact.said for _, fact in seen if not fact.holds), *(fact.said for _, fact in counter)),
                tuple(FACTS[code].asks for code in cause.for_ if code not in known),
            )
        )
    return tuple(sorted(ranked, key=lambda one: -one.share))


def telling(symptom: Symptom, ranked: tuple[Ranked, ...]) -> Apart | None:
    """The test that tells the likeliest apart: between the first two if there is one, else the first that names the
    likeliest."""
    first, second = ranked[0].cause.code, ranked[1].cause.code
    return symptom.test(first, second) or next((one for one in symptom.tests if first in one.between), symptom.tests[0])


def _spread(symptom: Symptom, known: Mapping[str, Known]) -> float:
    """How undecided it is, nats."""
    return -sum(one.share * log(one.share) for one in rank(symptom, known) if one.share > 0)


def questions(symptom: Symptom, known: Mapping[str, Known], asked: int = 0) -> tuple[str, ...]:
    """The facts that are not known, those that would tell most first; no more than five over all."""
    open_facts = {code for cause in symptom.causes for code in (*cause.for_, *cause.against)} - known.keys()
    now = _spread(symptom, known)

    def gain(code: str) -> float:
        shares = {one.cause.code: one.share for one in rank(symptom, known)}
        holds = sum(
            shares[cause.code] * (0.8 if code in cause.for_ else 0.1 if code in cause.against else 0.3)
            for cause in symptom.causes
        )
        left = sum(
            chance * _spread(symptom, {**known, code: Known(answer, "")})
            for answer, chance in ((True, holds), (False, 1 - holds))
        )
        return now - left

    best = sorted(open_facts, key=lambda code: (-gain(code), code))
    return tuple(best[: max(MAX_ASKED - asked, 0)])
