"""The wet line: what is hardening now and how long is left, from what was marked and planned then."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from .schedule.marks import Marks, factor

State = Literal["wet", "begun", "next"]
ORDER: dict[State, int] = {"begun": 0, "next": 1, "wet": 2}
SOON = timedelta(hours=14)  # a step that comes later is not shown yet
MAX_ITEMS = 5


def share_of(since: datetime, until: datetime, at: datetime) -> float:
    """How much of a span is over at a moment, 0..1."""
    whole = until - since
    return min(max((at - since) / whole, 0.0), 1.0) if whole > timedelta(0) else 1.0


def time_left(until: datetime, at: datetime) -> str:
    """From a moment until another, as a clock tells it: '12 min', '3 h 04', '2 d 5 h'; '−3 min' where it is over."""
    whole = round((until - at) / timedelta(minutes=1))
    hours, minutes = divmod(abs(whole), 60)
    days, hours_left = divmod(hours, 24)
    span = f"{days} d {hours_left} h" if days else f"{hours} h {minutes:02d}" if hours else f"{minutes} min"
    return f"−{span}" if whole < 0 else span


@dataclass(frozen=True, slots=True)
class HardeningItem:
    """One thing that is hardening, under way or to be done: where, what, from when to when; `urgent` marks an open cup.
    Where it never dries `until` is None."""

    scene: str
    slug: str
    spot: str
    what: str
    since: datetime
    until: datetime | None
    urgent: bool = False
    step: str = ""
    state: State = "wet"

    def share(self, at: datetime) -> float:
        """How far along, 0..1."""
        return 0.0 if self.until is None else share_of(self.since, self.until, at)

    def left(self, at: datetime) -> str:
        """What a person wants to know: the time left, or that it is over; for a step when it begins."""
        if self.state == "begun":
            return "under way"
        if self.state == "next":
            return "now" if self.since <= at else "to be done"
        if self.until is None:
            return "never dries in this room"
        if self.until <= at:
            return "over time" if self.urgent else "ready"
        span = time_left(self.until, at)
        return f"{span} left in the cup" if self.urgent else f"{span} to go"


@dataclass(frozen=True, slots=True)
class OpenCup:
    """A batch that is mixed and not emptied: into what it goes, since when, for how many minutes it can be worked; the
    number that it is kept under."""

    into: str
    since: datetime
    working_min: float | None
    row: int = 0


@dataclass(frozen=True, slots=True)
class UsedBowl:
    """A batch whose cup or bowl is empty and not washed: what it went into, when it was emptied, when what is left in
    it sets (None: it does not set by itself), and what mess it is."""

    row: int
    into: str
    emptied: datetime
    sets_at: datetime | None
    mess: str


@dataclass(frozen=True, slots=True)
class LaidStep:
    """A step of a lift that was done, as it was planned then: its wait in hours, None where it never dries."""

    step: str
    lift: str
    title: str
    at: datetime
    wait_h: float | None


@dataclass(frozen=True, slots=True)
class ComingStep:
    """A step of the newest schedule that is not done: its lift if it lays one, what it is called, when it begins."""

    step: str
    lift: str | None
    title: str
    at: datetime


@dataclass(frozen=True, slots=True)
class SceneWork:
    """What is known of the work on one scene: names of the spots by lift, open cups, steps done in the order of their
    times, steps to come, marks."""

    name: str
    slug: str
    spots: dict[str, str]
    cups: tuple[OpenCup, ...]
    laid: tuple[LaidStep, ...]
    coming: tuple[ComingStep, ...]
    marks: Marks


def wet_line(scenes: Iterable[SceneWork], at: datetime, most: int = MAX_ITEMS) -> list[HardeningItem]:
    """What is wet over all scenes, and what is to be done: open cups first, then work under way, then the next step,
    then what is ready soonest."""
    items: list[HardeningItem] = []
    for work in scenes:
        items += [_cup(work, cup) for cup in work.cups]
        items += _hardening(work, at)
        items += _hands(work, at)
    far = datetime.max.replace(tzinfo=at.tzinfo)
    return sorted(items, key=lambda item: (not item.urgent, ORDER[item.state], item.until or far))[:most]


def _cup(work: SceneWork, cup: OpenCup) -> HardeningItem:
    until = None if cup.working_min is None else cup.since + timedelta(minutes=cup.working_min)
    spot = work.spots.get(cup.into, work.name)
    return HardeningItem(work.name, work.slug, spot, "mixed cup", cup.since, until, urgent=True)


def _hardening(work: SceneWork, at: datetime) -> list[HardeningItem]:
    """The last finished step of each lift, while it hardens."""
    items = []
    for laid in {one.lift: one for one in work.laid}.values():
        until = None if laid.wait_h is None else ready_at(laid.step, laid.at, laid.wait_h, work.marks)
        if laid.wait_h != 0 and (until is None or until > at):
            spot = work.spots.get(laid.lift, work.name)
            items.append(HardeningItem(work.name, work.slug, spot, laid.title, laid.at, until, step=laid.step))
    return items


def ready_at(step: str, end: datetime, wait_h: float, marks: Marks) -> datetime:
    """When a step's wait is over, by what was planned when it ended and by touch."""

    def hours(at: datetime | None) -> float | None:
        return None if at is None else (at - end).total_seconds() / 3600

    times = factor(wait_h, hours(marks.not_yet.get(step)), hours(marks.ready.get(step)))
    return end + timedelta(hours=wait_h * times)


def _hands(work: SceneWork, at: datetime) -> list[HardeningItem]:
    """What is under way on a scene, or else its next step if that comes within SOON."""
    begun = [one for one in work.coming if one.step in work.marks.started]
    ahead = sorted((one for one in work.coming if one.at - at <= SOON), key=lambda one: (one.at, one.step))
    state: State = "begun" if begun else "next"
    return [
        HardeningItem(
            work.name,
            work.slug,
            work.spots.get(one.lift or "", work.name),
            one.title,
            one.at,
            None,
            step=one.step,
            state=state,
        )
        for one in begun or ahead[:1]
    ]
