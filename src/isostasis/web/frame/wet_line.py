"""The wet line: what is hardening now and how long is left, from what was marked done and planned then."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from ...core.schedule import Marks, factor
from ...store import clock, scenes, work
from ...store.tables import SceneRow, StepEventRow


@dataclass(frozen=True, slots=True)
class Wet:
    """One thing that is hardening: where, what, from when to when; `urgent` marks an open cup."""

    scene: str
    slug: str
    spot: str
    what: str
    since: datetime
    until: datetime | None
    urgent: bool = False
    step: str = ""
    state: str = "wet"  # or begun, or next: a step that is to be done

    def share(self, at: datetime) -> float:
        """How far along, 0..1."""
        if self.until is None or self.until <= self.since:
            return 0.0
        return min(1.0, max(0.0, (at - self.since) / (self.until - self.since)))

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
        minutes = round((self.until - at).total_seconds() / 60)
        hours, rest = divmod(minutes, 60)
        days, hours_left = divmod(hours, 24)
        span = f"{days} d {hours_left} h" if days else f"{hours} h {rest:02d}" if hours else f"{rest} min"
        return f"{span} left in the cup" if self.urgent else f"{span} to go"


ORDER = {"begun": 0, "next": 1, "wet": 2}
SOON = timedelta(hours=14)


def wet_line(session: Session, at: datetime, most: int = 5) -> list[Wet]:
    """What is wet over all scenes, and what is to be done: open cups first, then work under way, then the next step,
    then what is ready soonest."""
    found: list[Wet] = []
    for row in scenes.all_scenes(session):
        document = scenes.document(row.head)
        spots = {lift["id"]: patch["name"] for patch in document.get("patches", []) for lift in patch.get("lifts", [])}
        name = document["name"]
        for batch in work.batches(session, row):
            if batch.finished_at is None:
                minutes = batch.planned.get("working_min")
                until = None if minutes is None else batch.started_at + timedelta(minutes=minutes)
                found.append(
                    Wet(
                        name,
                        row.slug,
                        spots.get(batch.lift, name),
                        "mixed cup",
                        batch.started_at,
                        until,
                        urgent=True,
                    )
                )
        events = work.events(session, row)
        marks = work.marks(events)
        for event in _latest(events, marks):
            wait = event.planned.get("wait_h")
            if event.lift is None or wait == 0:
                continue
            until = None if wait is None else _ready(event, wait, marks)
            if until is None or until > at:
                step = event.planned.get("do", event.step)
                spot, what = spots.get(event.lift, name), _short(event.lift, step)
                found.append(Wet(name, row.slug, spot, what, event.at, until, step=event.step))
        found += _hands(session, row, name, spots, marks, at)
    far = datetime.max.replace(tzinfo=at.tzinfo)
    return sorted(found, key=lambda wet: (not wet.urgent, ORDER[wet.state], wet.until or far))[:most]


def _hands(session: Session, row: SceneRow, name: str, spots: dict[str, str], marks: Marks, at: datetime) -> list[Wet]:
    """What is under way on a scene, or else the next step of its newest schedule if it comes within SOON."""
    forecast = clock.latest(session, row)
    if forecast is None:
        return []
    gone = {*marks.done, *marks.skipped}
    coming = []
    for one in forecast.made["steps"]:
        slug, _, step = one["id"].rpartition("/")
        if slug in ("", row.slug) and step not in gone and one["_state"] in ("planned", "begun"):
            coming.append((datetime.fromisoformat(one["start"]), step))
    begun = [(when, step) for when, step in coming if step in marks.started]
    soon = [(when, step) for when, step in sorted(coming) if when - at <= SOON][:1]
    return [
        Wet(name, row.slug, *_step_words(step, spots, name), when, None, step=step, state=state)
        for state, steps in (("begun", begun), ("next", [] if begun else soon))
        for when, step in steps
    ]


def _step_words(step: str, spots: dict[str, str], name: str) -> tuple[str, str]:
    """Where and what a step is, from its id: a lift and its number, or a form."""
    lift = next((one for one in (step, step.rpartition("-")[0]) if one in spots), None)
    if lift is None:
        return name, step.replace("-", " ")
    return spots[lift], lift_words(step)


def _latest(events: list[StepEventRow], marks: Marks) -> list[StepEventRow]:
    """The last finished step of each lift."""
    last = {event.lift: event for event in events if event.what == "done" and event.step in marks.done}
    return list(last.values())


def _ready(event: StepEventRow, wait_h: float, marks: Marks) -> datetime:
    """When its wait is over, by what was planned then and by touch."""

    def hours(found: Mapping[str, datetime]) -> float | None:
        at = found.get(event.step)
        return None if at is None else (at - event.at).total_seconds() / 3600

    times = factor(wait_h, hours(marks.not_yet), hours(marks.ready))
    return event.at + timedelta(hours=wait_h * times)


def lift_words(lift: str) -> str:
    """A lift in a word or two where its patch stands beside it: its id in words, without the first."""
    words = lift.split("-")
    return " ".join(words[1:] or words)


def _short(lift: str, step: str) -> str:
    """The lift in a word or two, the coat's or lift's number behind it."""
    number = (
        step.rpartition(", coat ")[2]
        if ", coat " in step
        else step.rpartition(", lift ")[2]
        if ", lift " in step
        else ""
    )
    return lift_words(lift) + (f" {number.split(' ')[0]}" if number else "")
