"""The next-ready rule: whatever can be started first is started first. What people do without a plan; the solver starts
from it, and the benchmark measures what the solver saves."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Mapping, Sequence
from heapq import heapify, heappop, heappush
from operator import attrgetter, itemgetter

from ..hours import Span
from .jobs import Job, JobTable, in_order
from .vapour import clear_from, pairs

Key = Callable[[int], float]
_end = itemgetter(1)
last_of = attrgetter("last")  # pieces follow one another in time


def tails(jobs: list[Job]) -> list[int]:
    """For each job the minutes from its start to the end of all that waits for it, hands and hours left aside."""
    after = followers(jobs)
    lengths = [0] * len(jobs)
    for number in reversed(in_order(jobs)):
        job = jobs[number]
        longest = min(job.waits)
        for later in after[number]:
            waits = min(job.waits) if number in jobs[later].after else 0
            waits = max([waits, *(min(s[0] for s in w.spans) for w in jobs[later].windows if w.of == number)])
            longest = max(longest, waits + lengths[later])
        lengths[number] = job.takes + longest
    return lengths


def followers(jobs: list[Job]) -> list[list[int]]:
    """For each job those that need it."""
    after: list[list[int]] = [[] for _ in jobs]
    for number, job in enumerate(jobs):
        for before in job.needs:
            after[before].append(number)
    return after


def next_ready(laid: JobTable, key: Key) -> tuple[list[int], list[int]] | None:
    """(start, session) of every job, or None where a window is missed on the way. Of what could start at the same
    minute, that with the smallest `key` comes first. Sets up and cleans up between messes are not looked at."""
    jobs = laid.jobs
    placing = _Placing(jobs)
    waiting = [job.needs - placing.starts.keys() for job in jobs]
    # A slot that was found earlier can only have become later since: it is looked for again just before it is taken.
    queue = [
        (0, key(number), number)
        for number, job in enumerate(jobs)
        if number not in placing.starts and not waiting[number]
    ]
    heapify(queue)
    while queue:
        at, rank, number = heappop(queue)
        slots = placing.slots(number, at) if number not in placing.starts else []
        if slots is None:
            return None
        if slots and slots[0][1] > at:
            heappush(queue, (slots[0][1], rank, number))
            continue
        for placed, begin, session in slots:
            placing.put(placed, begin, session)
            for later in placing.after[placed]:
                waiting[later].discard(placed)
                if not waiting[later] and later not in placing.starts:
                    heappush(queue, (begin, key(later), later))
    if len(placing.starts) < len(jobs):
        return None
    order = range(len(jobs))
    return [placing.starts[number] for number in order], [placing.sessions[number] for number in order]


class _Placing:
    """What is placed so far, and where the next job could go: `starts` and `sessions` by job, the hands' `busy` spans,
    in order and apart; `after` the jobs that wait for each."""

    def __init__(self, jobs: list[Job]) -> None:
        self.jobs = jobs
        self.starts: dict[int, int] = {}
        self.sessions: dict[int, int] = {}
        self.busy: list[Span] = []
        self.after = followers(jobs)
        self.flammable = {number for pair in pairs(jobs) for number in pair}
        for number, job in enumerate(jobs):
            if job.fixed is not None:
                self.starts[number], self.sessions[number] = job.fixed, 0
                if job.fixed + job.takes > 0:
                    self._keep(max(job.fixed, 0), job.fixed + job.takes)

    def put(self, number: int, at: int, session: int) -> None:
        """A job placed, with what has to be mended before it."""
        self._keep(at - self._mended(number, at), at + self.jobs[number].takes)
        self.starts[number], self.sessions[number] = at, session

    def _keep(self, begin: int, end: int) -> None:
        first = bisect_left(self.busy, begin, key=_end)
        last = first
        while last < len(self.busy) and self.busy[last][0] <= end:
            begin, end = min(begin, self.busy[last][0]), max(end, self.busy[last][1])
            last += 1
        self.busy[first:last] = [(begin, end)]

    def _mended(self, number: int, at: int) -> int:
        """Minutes of mending that a start at a minute needs before it."""
        return sum(
            window.mend_min
            for window in self.jobs[number].windows
            if window.mend is not None
            and window.of in self.starts
            and window.passed_by(self.sessions[window.of], at - self.starts[window.of] - self.jobs[window.of].takes)
        )

    def _bounds(self, number: int, but: int | None = None) -> tuple[int, int | None]:
        """The first and the last minute at which a job may start, what hangs on the job `but` left aside."""
        job, jobs = self.jobs[number], self.jobs
        least, most = 0, None
        for one in job.after:
            if one != but:
                least = max(least, self.starts[one] + jobs[one].takes + jobs[one].wait(self.sessions[one]))
        for window in job.windows:
            if window.of == but:
                continue
            first, last = window.span(self.sessions[window.of])
            end = self.starts[window.of] + jobs[window.of].takes
            least = max(least, end + first)
            if last is not None and window.mend is None and but is None:
                most = end + last if most is None else min(most, end + last)
        return least, most

    def _slot(
        self, number: int, least: int, most: int | None, taken: Sequence[Span] = (), also: Mapping[int, int] = {}
    ) -> tuple[int, int] | None:
        """The first free (start, session) from `least` on; `taken` and `also`: by jobs about to be placed, and when."""
        takes = self.jobs[number].takes
        pieces = self.jobs[number].pieces
        for place in range(bisect_left(pieces, least, key=last_of), len(pieces)):
            piece = pieces[place]
            at = max(piece.first, least)
            while at <= piece.last and (most is None or at <= most):
                mend = self._mended(number, at)
                if at - mend < piece.first:
                    at = piece.first + mend
                    continue
                hit = self._busy_until(at - mend, at + takes)
                if hit is None:
                    hit = next((to for begin, to in taken if begin < at + takes and at - mend < to), None)
                if hit is not None:
                    at = hit + mend
                    continue
                clear = clear_from(self.jobs, number, at, {**self.starts, **also}) if number in self.flammable else None
                if clear is None:
                    return at, piece.session
                at = clear
        return None

    def _busy_until(self, begin: int, end: int) -> int | None:
        """When the hands are free again, if they are busy anywhere from `begin` to `end`."""
        place = bisect_right(self.busy, begin, key=_end)
        return self.busy[place][1] if place < len(self.busy) and self.busy[place][0] < end else None

    def slots(self, number: int, least: int) -> list[tuple[int, int, int]] | None:
        """(job, start, session) of a job from a minute on and, where their windows hang on it alone, of those that must
        follow it in time; None where there is no such place."""
        jobs = self.jobs
        first, most = self._bounds(number)
        hanging = [
            (other, window)
            for other in self.after[number]
            if other not in self.starts
            for window in jobs[other].windows
            if window.of == number
            and window.binds
            and all(one in self.starts or one == number for one in jobs[other].needs)
        ]
        least = first if hanging else max(least, first)
        for _ in range(200):
            slot = self._slot(number, least, most)
            if slot is None:
                return None
            at, session = slot
            end = at + jobs[number].takes
            out, taken = [(number, at, session)], [(at, end)]
            for other, window in hanging:
                opens, closes = window.span(session)
                lower = self._bounds(other, but=number)[0]
                if number in jobs[other].after:
                    lower = max(lower, end + jobs[number].wait(session))
                there = self._slot(
                    other,
                    max(lower, end + opens),
                    None if closes is None else end + closes,
                    taken,
                    {job: begin for job, begin, _ in out},
                )
                if there is None:
                    break
                out.append((other, *there))
                taken.append((there[0], there[0] + jobs[other].takes))
            else:
                return out
            least = at + 5
        return None
