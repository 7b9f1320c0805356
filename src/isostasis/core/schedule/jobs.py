"""Steps as jobs in whole minutes: where each could start, how long it waits if it runs in this session or in that."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from graphlib import TopologicalSorter
from math import ceil

from ..hours import BenchHours, Span, both
from ..plan import Step
from .marks import Marks, factor

StepsAt = Callable[[datetime], Sequence[Step]]
SpansOf = Callable[[datetime, int], list[Span]]


@dataclass(frozen=True, slots=True)
class ScheduleRequest:
    """What a schedule is asked for.

    From when (with a zone), within which hours, by when, with how many hours to spare; by when the scenes of
    these slugs are `due`, where several are scheduled together; steps pinned to the session of a moment, not before
    it; what was marked; when one can work in which place; how many cups there are, and the minutes to set up for messy
    work and to clean up after it, once a session and mess; sessions beyond the bench hours.
    """

    start: datetime
    hours: BenchHours
    deadline: datetime | None = None
    buffer_h: float = 0.0
    due: Mapping[str, datetime] = field(default_factory=dict)
    pins: Mapping[str, datetime] = field(default_factory=dict)
    marks: Marks = field(default_factory=Marks)
    places: Mapping[str, SpansOf] = field(default_factory=dict)
    cups: int | None = None
    setup_min: float = 0.0
    cleanup_min: float = 0.0
    extra: tuple[tuple[datetime, datetime], ...] = ()

    def minutes(self, moment: datetime) -> int:
        """Whole minutes from the start to a moment; one without a zone is in the start's."""
        if moment.tzinfo is None:
            moment = moment.replace(tzinfo=self.start.tzinfo)
        return int((moment.astimezone(UTC) - self.start.astimezone(UTC)).total_seconds() // 60)

    def moment(self, minutes: int) -> datetime:
        """The moment so many minutes after the start, in its zone."""
        return (self.start.astimezone(UTC) + timedelta(minutes=minutes)).astimezone(self.start.tzinfo)

    def iso(self, minutes: int) -> str:
        """That moment as text."""
        return self.moment(minutes).isoformat(timespec="minutes")

    def sessions(self, days: int) -> list[Span]:
        """All sessions within so many days; an extra one that touches a session lengthens it."""
        spans = self.hours.sessions(self.start, days)
        spans += [(max(0, self.minutes(begin)), self.minutes(to)) for begin, to in self.extra]
        joined: list[Span] = []
        for begin, to in sorted(span for span in spans if span[1] > span[0]):
            if joined and begin <= joined[-1][1]:
                joined[-1] = (joined[-1][0], max(joined[-1][1], to))
            else:
                joined.append((begin, to))
        return joined


@dataclass(frozen=True, slots=True)
class Piece:
    """A part of a session in which a job can start: which session, the first and the last minute to start at."""

    session: int
    first: int
    last: int


@dataclass(frozen=True, slots=True)
class Windowed:
    """A job must start so long after the end of job `of`: (from, to) minutes, by the session that `of` runs in. With a
    `mend` it may come later as well, right after that step."""

    of: int
    spans: tuple[tuple[int, int | None], ...]
    what: str
    mend: Step | None = None

    @property
    def mend_min(self) -> int:
        """Minutes that the mending step takes before the job."""
        return 0 if self.mend is None else max(1, ceil(self.mend.hands_on_min - 1e-9))

    @property
    def binds(self) -> bool:
        """Whether a job cannot come after it closes."""
        return self.mend is None and any(to is not None for _, to in self.spans)

    def passed_by(self, session: int, late: int) -> bool:
        """Whether a start so many minutes after the end of `of` needs the mending step."""
        to = self.span(session)[1]
        return self.mend is not None and to is not None and late > to

    def span(self, session: int) -> tuple[int, int | None]:
        """For one session of `of`; what is fixed has one span only."""
        return self.spans[min(session, len(self.spans) - 1)]

    def opens(self, session: int) -> int:
        """Its first minute, after the end of `of`."""
        return self.span(session)[0]

    def closes(self, session: int) -> int:
        """Its last minute; only asked for where it has one."""
        return self.span(session)[1] or 0


@dataclass(frozen=True, slots=True)
class Job:
    """A step in whole minutes. `waits` by session; what is `fixed` (done, begun, skipped, a gate) starts then, and has
    one wait and no pieces."""

    step: Step
    takes: int
    waits: tuple[int, ...]
    after: tuple[int, ...]
    windows: tuple[Windowed, ...]
    pieces: tuple[Piece, ...]
    fixed: int | None = None
    due: int | None = None

    def wait(self, session: int) -> int:
        """The wait if it runs in that session."""
        return self.waits[min(session, len(self.waits) - 1)]

    @property
    def needs(self) -> set[int]:
        """The jobs that must be over, or begun, before it."""
        return {*self.after, *(window.of for window in self.windows)}


def in_order(jobs: Sequence[Job]) -> list[int]:
    """The jobs such that each comes after all that it needs."""
    sorter = TopologicalSorter({number: job.needs for number, job in enumerate(jobs)})
    return list(sorter.static_order())


@dataclass(frozen=True, slots=True)
class JobTable:
    """Jobs over sessions, and what is to be said about them that no time says."""

    jobs: list[Job]
    sessions: list[Span]
    notes: tuple[str, ...] = ()


def _minutes_up(hours: float) -> int:
    return ceil(hours * 60 - 1e-9)


def _fixed(step: Step, asked: ScheduleRequest) -> tuple[int, int, datetime] | None:
    """(start, minutes it took or takes, when its wait began) of what is no longer to be planned."""
    marks = asked.marks
    if step.gate:
        at = 0 if step.not_before is None else max(0, asked.minutes(step.not_before))
        return at, 0, asked.moment(at)
    if step.id in marks.skipped:
        at = min(0, asked.minutes(marks.skipped[step.id]))
        return at, 0, asked.moment(at)
    begun = marks.started.get(step.id)
    if step.id in marks.done:
        end = min(0, asked.minutes(marks.done[step.id]))
        start = end - max(1, ceil(step.hands_on_min)) if begun is None else min(end, asked.minutes(begun))
        return start, end - start, asked.moment(end)
    if begun is not None:
        start = min(0, asked.minutes(begun))
        return start, max(start + max(1, ceil(step.hands_on_min - 1e-9)), 0) - start, begun
    return None


def _tested(step_id: str, wait_h: float, end: datetime, marks: Marks) -> float:
    """The factor of a step's wait by its touch-tests."""

    def hours(found: Mapping[str, datetime]) -> float | None:
        at = found.get(step_id)
        return None if at is None else (at - end).total_seconds() / 3600

    return factor(wait_h, hours(marks.not_yet), hours(marks.ready))


def build_jobs(steps_at: StepsAt, asked: ScheduleRequest, days: int) -> JobTable:
    """All steps as jobs over the sessions of so many days. A step that a later room would not have keeps its own."""
    sessions = asked.sessions(days)
    every = list(steps_at(asked.start))
    base = [step for step in every if not step.only_if]
    mending = {step.id: step for step in every if step.only_if}
    mended = {*asked.marks.done, *asked.marks.started, *asked.marks.skipped}
    place = {step.id: number for number, step in enumerate(base)}
    by_session = _by_session(steps_at, asked, sessions)
    within = {name: both(sessions, spans(asked.start, days)) for name, spans in asked.places.items()}
    windows_of: dict[
        str, tuple[Step, float, int, int]
    ] = {}  # fixed steps in the room that they met: (step, factor, start, took)
    for step in base:
        if (found := _fixed(step, asked)) is not None:
            start, took, end = found
            then = next((one for one in steps_at(end) if one.id == step.id), step)
            windows_of[step.id] = (then, _tested(step.id, then.wait_h or 0.0, end, asked.marks), start, took)
    jobs, notes = [], []
    for step in base:
        if step.id in windows_of:
            then, times, start, took = windows_of[step.id]
            nothing = step.gate or step.id in asked.marks.skipped
            waits: tuple[int, ...] = (0 if nothing else _minutes_up((then.wait_h or 0.0) * times),)
            jobs.append(Job(then, took, waits, (), (), (), start))
            continue
        takes = max(1, ceil(step.hands_on_min - 1e-9))
        seen = [known.get(step.id, step) for known in by_session]
        windows = []
        for number, window in enumerate(step.windows):
            of = place[window.of]
            if window.of in asked.marks.skipped:
                continue
            if window.of in windows_of:
                then, times, start, took = windows_of[window.of]
                least, most = window.from_h * times, None if window.to_h is None else window.to_h * times
                closes = None if most is None else start + took + int(most * 60)
                if closes is not None and closes < 0 and not window.mends:
                    shut = f"{asked.moment(closes):%a %d %b %H:%M}"
                    notes.append(
                        f"{step.do}: its window (“{window.what}”) closed at {shut}; do it at once if it still can be "
                        "done, or skip it and say why"
                    )
                    most = None
                spans: list[tuple[int, int | None]] = [(_minutes_up(least), None if most is None else int(most * 60))]
            else:
                spans = [_span_of(known, step, number) for known in by_session]
            if window.mends in mended:
                spans = [(first, None) for first, _ in spans]
            windows.append(Windowed(of, tuple(spans), window.what, mending.get(window.mends)))
        pieces = _pieces(step, takes, sessions, within.get(step.place or ""), asked)
        waits = tuple(_minutes_up(one.wait_h or 0.0) for one in seen) or (_minutes_up(step.wait_h or 0.0),)
        after = tuple(place[one] for one in step.after)
        due = asked.minutes(asked.due[step.scene]) if step.scene in asked.due else None
        jobs.append(Job(step, takes, waits, after, tuple(windows), pieces, due=due))
    return JobTable(jobs, sessions, tuple(notes))


def _by_session(steps_at: StepsAt, asked: ScheduleRequest, sessions: list[Span]) -> Sequence[Mapping[str, Step]]:
    """The steps by id as they are in each session; one for all where the room stays as it is."""
    jobs, by_id = [], {}
    for begin, _ in sessions:
        steps = steps_at(asked.moment(begin))
        if id(steps) not in by_id:
            by_id[id(steps)] = steps, {one.id: one for one in steps}  # kept, so that an identity stays one step list's
        jobs.append(by_id[id(steps)][1])
    return jobs[:1] if len(by_id) == 1 else jobs


def _span_of(known: Mapping[str, Step], step: Step, number: int) -> tuple[int, int | None]:
    """A window as it stands where its `of` runs in that session."""
    same = known.get(step.id, step).windows
    window = same[number] if number < len(same) and same[number].of == step.windows[number].of else step.windows[number]
    return _minutes_up(window.from_h), None if window.to_h is None else int(window.to_h * 60)


def _pieces(
    step: Step, takes: int, sessions: list[Span], within: list[list[Span]] | None, asked: ScheduleRequest
) -> tuple[Piece, ...]:
    """Where a step could start: in any session that is long enough, in its place's hours, in its pin's session; a pin
    that is over holds it no more."""
    pin = asked.pins.get(step.id)
    least = 0 if pin is None else asked.minutes(pin)
    if least < 0:
        pin, least = None, 0
    messy = step.mess and (asked.setup_min or asked.cleanup_min)
    before, behind = (ceil(asked.setup_min), ceil(asked.cleanup_min)) if messy else (0, 0)
    pieces = []
    for number, (begin, end) in enumerate(sessions):
        if pin is not None and not begin <= least < end:
            continue
        for opens, closes in [(begin, end)] if within is None else within[number]:
            first, last = max(opens, begin + before, least), min(closes, end - behind) - takes
            if first <= last:
                pieces.append(Piece(number, first, last))
    return tuple(pieces)
