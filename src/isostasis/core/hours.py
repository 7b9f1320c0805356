"""The user's bench hours: a weekly pattern, written "mon-fri 19:00-22:00; sat 09:00-17:00", as sessions in minutes."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta

from .fault import fault

DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
_PIECE = re.compile(r"^([a-z]{3})(?:-([a-z]{3}))?\s+(\d{1,2}):(\d{2})-(\d{1,2}):(\d{2})$")
_RIGHT = 'write something like "mon-fri 19:00-22:00; sat 09:00-17:00"'


@dataclass(frozen=True, slots=True)
class BenchHours:
    """When the bench is free: (weekday from 0 for Monday, minute of the day from, to), and days on which it is not."""

    weekly: tuple[tuple[int, int, int], ...]
    closed: frozenset[date] = frozenset()

    @property
    def longest_min(self) -> int:
        """The longest session, minutes."""
        return max(to - begin for _, begin, to in self.weekly)

    def sessions(self, start: datetime, days: int) -> list[tuple[int, int]]:
        """Sessions as whole minutes after `start` (with a zone), as they fall in that zone: a clock that is put forward
        or back moves them as it moves the people. A session under way at the start counts from then."""
        if start.tzinfo is None:
            raise ValueError("a start has a zone")
        begin_utc = start.astimezone(UTC)
        found = []
        for number in range(days + 1):
            day = start.date() + timedelta(days=number)
            if day in self.closed:
                continue
            for weekday, begin, to in self.weekly:
                if weekday != day.weekday():
                    continue
                ends = [
                    (_at(day, minute, start).astimezone(UTC) - begin_utc).total_seconds() / 60 for minute in (begin, to)
                ]
                first, last = max(0, -int(-ends[0] // 1)), int(ends[1] // 1)
                if last > first:
                    found.append((first, last))
        return sorted(found)


def _at(day: date, minute: int, start: datetime) -> datetime:
    midnight = datetime.combine(day + timedelta(days=minute // 1440), time(), start.tzinfo)
    return midnight.replace(hour=minute % 1440 // 60, minute=minute % 60)


def parse_hours(text: str) -> BenchHours:
    """Bench hours as people write them. Raises Faults that name the piece.

    >>> parse_hours("sat 09:00-12:30").weekly
    ((5, 540, 750),)
    """
    weekly: list[tuple[int, int, int]] = []
    for piece in filter(None, (one.strip().lower() for one in text.split(";"))):
        match = _PIECE.match(piece)
        if match is None or match[1] not in DAYS or (match[2] or "mon") not in DAYS:
            raise fault("hours", f"“{piece}” is no day with its hours", _RIGHT)
        begin, to = int(match[3]) * 60 + int(match[4]), int(match[5]) * 60 + int(match[6])
        if not 0 <= begin < to <= 1440 or int(match[4]) > 59 or int(match[6]) > 59:
            raise fault("hours", f"“{piece}” does not run from an earlier to a later time of the day", _RIGHT)
        first, last = DAYS.index(match[1]), DAYS.index(match[2] or match[1])
        days = range(first, last + 1) if first <= last else (*range(first, 7), *range(last + 1))
        weekly += [(day, begin, to) for day in days]
    if not weekly:
        raise fault("hours", "there are no bench hours", _RIGHT)
    for (day, _, to), (other, begin, _) in zip(sorted(weekly), sorted(weekly)[1:], strict=False):
        if day == other and begin < to:
            raise fault("hours", f"two sessions of {DAYS[day]} overlap", "let each begin when the other is over")
    return BenchHours(tuple(sorted(weekly)))
