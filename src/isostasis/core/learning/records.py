"""What was predicted and what came: the records of a workshop, and the factors that they teach."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from ..catalogue import Factor
from .posterior import Learnt, Observed, learn

Quantity = Literal["volume", "hours", "hands", "cup", "bed"]
QUANTITIES: dict[Quantity, tuple[str, str]] = {
    "volume": ("amount", "ml"),
    "hours": ("hours until ready", "h"),
    "hands": ("minutes of hands", "min"),
    "cup": ("loss in the cup", "ml"),
    "bed": ("what the bed drinks", "ml"),
}
FEWEST = 3  # records from which a factor is used: fewer are told and move nothing
NOTICED = 0.1  # by so much more or less than said it is worth a line
NARROWEST, WIDEST = 0.2, 5.0  # a factor beyond is a mishap that nobody marked: it is held there


@dataclass(frozen=True, slots=True)
class Record:
    """One prediction and what came of it, in ml, hours or minutes: `low` to `high`, alike where it was measured, None
    where that side was not seen. `key` names what it was read off; a `mishap` teaches nothing. `lift`: its id in its
    scene, where there is one."""

    key: str
    label: str
    quantity: Quantity
    predicted: float
    low: float | None
    high: float | None
    scene: str
    title: str
    at: datetime
    mishap: str = ""
    lift: str = ""

    @property
    def observed(self) -> Observed | None:
        """It as the law of learning takes it; None where its bounds go against each other."""
        try:
            if self.low is not None and self.low == self.high:
                return Observed.of(self.low, self.predicted)
            return Observed.between(self.low, self.high, self.predicted)
        except ValueError:
            return None


@dataclass(frozen=True, slots=True)
class Choice:
    """What a person said of a factor: off, or that records before a moment are forgotten."""

    off: bool = False
    since: datetime | None = None


@dataclass(frozen=True, slots=True)
class Taught:
    """A factor with the records that taught it, whether it is in use, and why not."""

    label: str
    quantity: Quantity
    learnt: Learnt
    records: tuple[Record, ...]
    off: bool = False

    @property
    def used(self) -> bool:
        """Whether plans go by it."""
        return not self.off and self.learnt.count >= FEWEST

    @property
    def factor(self) -> Factor:
        """It as a resolved document holds it."""
        mean = min(max(self.learnt.mean, NARROWEST), WIDEST)
        return Factor(
            label=self.label, quantity=self.quantity, mean=mean, low=min(self.learnt.low, mean),
            high=max(self.learnt.high, mean), records=self.learnt.count,
        )  # fmt: skip


def taught(records: Iterable[Record], said: dict[tuple[str, str], Choice] | None = None) -> tuple[Taught, ...]:
    """Every factor that records teach, those of most records first. Mishaps, what was forgotten and what contradicts
    itself teach nothing."""
    by_quantity: dict[tuple[str, Quantity], list[tuple[Record, Observed]]] = {}
    said = said or {}
    for record in records:
        choice = said.get((record.label, record.quantity), Choice())
        seen = None if record.mishap or (choice.since is not None and record.at < choice.since) else record.observed
        if seen is not None:
            by_quantity.setdefault((record.label, record.quantity), []).append((record, seen))
    observed = [
        Taught(
            label, quantity, learn([seen for _, seen in mine]), tuple(one for one, _ in mine),
            said.get((label, quantity), Choice()).off,
        )
        for (label, quantity), mine in by_quantity.items()
    ]  # fmt: skip
    return tuple(sorted(observed, key=lambda one: (-one.learnt.count, one.label, one.quantity)))


@dataclass(frozen=True, slots=True)
class Came:
    """What came of a label's quantity: times what was said, from how many records."""

    label: str
    quantity: Quantity
    times: float
    count: int


def came_otherwise(records: Iterable[Record]) -> tuple[Came, ...]:
    """What came by a tenth or more otherwise than said, the furthest first: the mean of what was measured, or of the
    bounds that were seen, over what was said. Mishaps count for nothing."""
    groups: dict[tuple[str, Quantity], list[float]] = {}
    for record in records:
        ends = [end for end in (record.low, record.high) if end is not None]
        if ends and not record.mishap:
            groups.setdefault((record.label, record.quantity), []).append(sum(ends) / len(ends) / record.predicted)
    means = [Came(*group, sum(each) / len(each), len(each)) for group, each in groups.items()]
    return tuple(sorted((one for one in means if abs(one.times - 1) > NOTICED), key=lambda one: -abs(one.times - 1)))


def in_use(factors: Iterable[Taught], but: Collection[tuple[str, str]] = ()) -> tuple[Factor, ...]:
    """What a plan takes: the factors in use, but for some."""
    return tuple(one.factor for one in factors if one.used and (one.label, one.quantity) not in but)
