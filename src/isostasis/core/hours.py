"""The user's bench hours: a weekly pattern with exceptions, written "mon-fri 19:00-22:00; sat 09:00-17:00; closed
2027-04-02; 2027-04-05 10:00-12:00; quiet 22:00-07:00", as sessions in minutes."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from itertools import pairwise

from .fault import fault

FIRST_YEAR, LAST_YEAR = 2000, 2100  # no scene is older, nor planned further
DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
Span = tuple[int, int]
_SPAN = r"(\d{1,2}):(\d{2})-(\d{1,2}):(\d{2})"
_DATE = r"(\d{4}-\d{2}-\d{2})"
_WEEKLY = re.compile(rf"^([a-z]{{3}})(?:-([a-z]{{3}}))?\s+{_SPAN}$")
_ONCE = re.compile(rf"^{_DATE}\s+{_SPAN}$")
_CLOSED = re.compile(rf"^closed\s+{_DATE}(?:\s+to\s+{_DATE})?$")
_QUIET = re.compile(rf"^quiet\s+{_SPAN}$")
_RIGHT = 'write something like "mon-fri 19:00-22:00; sat 09:00-17:00"'


@dataclass(frozen=True, slots=True)
class BenchHours:
    """When the bench is free: (weekday from 0 for Monday, minute of the day from, to), days on which it is not, single
    days with hours of their own (date, from, to), and quiet hours (minute from, to; over midnight where to < from)."""

    weekly: tuple[tuple[int, int, int], ...]
    closed: frozenset[date] = frozenset()
    once: tuple[tuple[date, int, int], ...] = ()
    quiet: tuple[Span, ...] = ()

    @property
    def longest_min(self) -> int:
        """The longest session, minutes."""
        spans = [(begin, to) for _, begin, to in (*self.weekly, *self.once)]
        return max((to - begin for span in spans for begin, to in self._waking(span)), default=0)

    def of_day(self, day: date) -> list[Span]:
        """The sessions of one day, minutes after its midnight; a day with hours of its own has no others."""
        own = [(begin, to) for at, begin, to in self.once if at == day]
        usual = [] if day in self.closed else [(b, to) for weekday, b, to in self.weekly if weekday == day.weekday()]
        return sorted(piece for span in own or usual for piece in self._waking(span))

    def _waking(self, span: Span) -> list[Span]:
        """A span without the quiet hours."""
        pieces = [span]
        for begin, to in self.quiet:
            for first, last in ((begin, to),) if begin < to else ((0, to), (begin, 1440)):
                pieces = [
                    piece for a, b in pieces for piece in ((a, min(b, first)), (max(a, last), b)) if piece[1] > piece[0]
                ]
        return pieces

    def is_quiet(self, moment: datetime) -> bool:
        """Whether a moment, in its own zone, falls into quiet hours."""
        minute = moment.hour * 60 + moment.minute
        return any(begin <= minute < to if begin < to else minute >= begin or minute < to for begin, to in self.quiet)

    def sessions(self, start: datetime, days: int) -> list[Span]:
        """Sessions as whole minutes after `start` (with a zone), as they fall in that zone: a clock that is put forward
        or back moves them as it moves the people. A session under way at the start counts from then.
        Raises ValueError unless a start has a zone."""
        if start.tzinfo is None:
            raise ValueError("a start has a zone")
        begin_utc = start.astimezone(UTC)
        spans = []
        for number in range(days + 1):
            day = start.date() + timedelta(days=number)
            for span in self.of_day(day):
                ends = [(_at(day, at, start).astimezone(UTC) - begin_utc).total_seconds() / 60 for at in span]
                first, last = max(0, -int(-ends[0] // 1)), int(ends[1] // 1)
                if last > first:
                    spans.append((first, last))
        return sorted(spans)


def _at(day: date, minute: int, start: datetime) -> datetime:
    midnight = datetime.combine(day + timedelta(days=minute // 1440), time(), start.tzinfo)
    return midnight.replace(hour=minute % 1440 // 60, minute=minute % 60)


def both(sessions: Iterable[Span], other: Iterable[Span]) -> list[list[Span]]:
    """For each session the parts of it that lie in `other` as well."""
    others = list(other)
    return [
        [piece for a, b in others if (piece := (max(begin, a), min(to, b)))[1] > piece[0]] for begin, to in sessions
    ]


def _span(numbers: tuple[str, ...], piece: str, over_night: bool = False) -> Span:
    begin, to = int(numbers[0]) * 60 + int(numbers[1]), int(numbers[2]) * 60 + int(numbers[3])
    sound = all(int(minute) < 60 for minute in (numbers[1], numbers[3])) and begin < 1440 and to <= 1440
    if not sound or begin == to or (begin > to and not over_night):
        raise fault("hours", f"“{piece}” does not run from an earlier to a later time of the day", _RIGHT)
    return begin, to


def _date(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise fault("hours", f"there is no day {text}", "write it as 2027-04-02") from None


def _closed(first: str, last: str | None) -> list[date]:
    begin, end = _date(first), _date(last or first)
    if not 0 <= (end - begin).days <= 400:
        raise fault("hours", f"{first} to {last} is no span of days", "write the earlier day first, a year at most")
    return [begin + timedelta(days=number) for number in range((end - begin).days + 1)]


def parse_hours(text: str) -> BenchHours:
    """Bench hours as people write them. Raises Faults that name the piece.

    >>> parse_hours("sat 09:00-12:30; quiet 22:00-07:00").weekly
    ((5, 540, 750),)
    """
    weekly: list[tuple[int, int, int]] = []
    once: list[tuple[date, int, int]] = []
    closed: list[date] = []
    quiet: list[Span] = []
    for piece in filter(None, (" ".join(one.lower().split()) for one in text.split(";"))):
        if match := _CLOSED.match(piece):
            closed += _closed(match[1], match[2])
        elif match := _ONCE.match(piece):
            once.append((_date(match[1]), *_span(match.groups()[1:], piece)))
        elif match := _QUIET.match(piece):
            quiet.append(_span(match.groups(), piece, over_night=True))
        elif (match := _WEEKLY.match(piece)) and match[1] in DAYS and (match[2] or "mon") in DAYS:
            begin, to = _span(match.groups()[2:], piece)
            first, last = DAYS.index(match[1]), DAYS.index(match[2] or match[1])
            days = range(first, last + 1) if first <= last else (*range(first, 7), *range(last + 1))
            weekly += [(day, begin, to) for day in days]
        else:
            raise fault("hours", f"“{piece}” is no day with its hours", _RIGHT)
    if not weekly and not once:
        raise fault("hours", "there are no bench hours", _RIGHT)
    _apart([((DAYS[day],), begin, to) for day, begin, to in weekly])
    _apart([((str(day),), begin, to) for day, begin, to in once])
    hours = BenchHours(tuple(sorted(weekly)), frozenset(closed), tuple(sorted(once)), tuple(quiet))
    if not hours.longest_min:
        raise fault("hours", "the quiet hours leave no bench hours", "let them end before a session or begin after it")
    return hours


def _apart(spans: list[tuple[tuple[str], int, int]]) -> None:
    ordered = sorted(spans)
    for (day, _, to), (other, begin, _) in pairwise(ordered):
        if day == other and begin < to:
            raise fault("hours", f"two sessions of {day[0]} overlap", "let each begin when the other is over")


def daylight(latitude: float, longitude: float, start: datetime, days: int) -> list[Span]:
    """Sunrise to sunset as whole minutes after `start`, through astral; a day without night is light all through."""
    from astral import Observer
    from astral.sun import elevation, sun

    observer, zone = Observer(latitude, longitude), start.tzinfo or UTC
    spans = []
    for number in range(days + 1):
        day = start.date() + timedelta(days=number)
        try:
            times = sun(observer, date=day, tzinfo=zone)
            rise, sets = times["sunrise"], times["sunset"]
        except ValueError:  # the sun does not rise, or does not set, on that day
            noon = datetime.combine(day, time(12), zone)
            if elevation(observer, noon) < 0:
                continue
            rise = datetime.combine(day, time(), zone)
            sets = rise + timedelta(days=1)
        first, last = ((one.astimezone(UTC) - start.astimezone(UTC)).total_seconds() / 60 for one in (rise, sets))
        if last > max(first, 0):
            spans.append((max(0, -int(-first // 1)), int(last // 1)))
    return spans


def is_left_out(at: datetime) -> bool:
    """Whether a time on the wall (with its zone) does not exist, because the clocks go forward over it.

    >>> from zoneinfo import ZoneInfo
    >>> is_left_out(datetime(2027, 3, 28, 2, 30, tzinfo=ZoneInfo("Europe/Berlin")))
    True
    """
    return at.astimezone(UTC).astimezone(at.tzinfo).replace(tzinfo=None, fold=0) != at.replace(tzinfo=None, fold=0)


def outside_years(at: datetime) -> str:
    """What is wrong with a moment beyond the years that are reckoned with; empty for any other."""
    return "" if FIRST_YEAR <= at.year < LAST_YEAR else f"the year {at.year} is outside {FIRST_YEAR} to {LAST_YEAR - 1}"
