"""A schedule as an iCalendar file (RFC 5545) and as CSV."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from io import StringIO

from .rows import defused

FIELDS = ("scene", "id", "do", "start", "end", "ready", "window_to", "state")
BEFORE = timedelta(minutes=10)  # a window's end is told so long before it


@dataclass(frozen=True, slots=True)
class Entry:
    """A step in a calendar. Times have a zone; `alarms`: when to be reminded."""

    scene: str
    id: str
    do: str
    start: datetime
    end: datetime
    ready: datetime
    window_to: datetime | None
    state: str
    notes: tuple[str, ...] = ()
    alarms: tuple[datetime, ...] = ()


def as_calendar(name: str, entries: Sequence[Entry], written_at: datetime, sequence: int, zone: str) -> bytes:
    """All entries as events; their ids stay the same however often the plan is made again, `sequence` rises."""
    from icalendar import Alarm, Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Isostasis//Clock//EN")
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar.add("x-wr-calname", name)
    calendar.add("x-wr-timezone", zone)
    for entry in entries:
        event = Event()
        event.add("uid", f"{entry.scene}.{entry.id}@isostasis")
        event.add("sequence", sequence)
        event.add("dtstamp", written_at)
        event.add("summary", entry.do)
        event.add("dtstart", entry.start)
        event.add("dtend", max(entry.end, entry.start + timedelta(minutes=1)))
        sentences = [f"Ready {entry.ready:%a %d %b %H:%M}."]
        if entry.window_to:
            sentences.append(f"Begin it before {entry.window_to:%H:%M}.")
        event.add("description", "\n".join((*sentences, *entry.notes)))
        for at in entry.alarms:
            alarm = Alarm()
            alarm.add("action", "DISPLAY")
            alarm.add("description", entry.do)
            alarm.add("trigger", at - entry.start)
            event.add_component(alarm)
        calendar.add_component(event)
    calendar.add_missing_timezones()
    return bytes(calendar.to_ical())


def alarms(start: datetime, window_to: datetime | None) -> tuple[datetime, ...]:
    """When to be reminded of a step with a window: as it comes, and shortly before it is too late."""
    if window_to is None:
        return ()
    return tuple(dict.fromkeys((start, max(start, window_to - BEFORE))))


def as_csv(entries: Sequence[Entry]) -> str:
    """One line a step."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(FIELDS)
    for entry in entries:
        times = [
            None if at is None else at.isoformat(timespec="minutes")
            for at in (entry.start, entry.end, entry.ready, entry.window_to)
        ]
        writer.writerow([*map(defused, (entry.scene, entry.id, entry.do)), *times, entry.state])
    return out.getvalue()
