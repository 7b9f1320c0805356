"""The next-ready rule: whatever can be started first is started first. What people do without a plan; the solver starts
from it, and the benchmark measures what the solver saves."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from ..hours import Span
from .jobs import Job, JobTable
from .vapour import clear_from, pairs

Key = Callable[[int], float]


def tails(jobs: list[Job]) -> list[int]:
    """For each job the minutes from its start to the end of all that waits for it, hands and hours left aside."""
    after: list[list[int]] = [[] for _ in jobs]
    for number, job in enumerate(jobs):
        for before in (*job.after, *(window.of for window in job.windows)):
            after[before].append(number)
    found: dict[int, int] = {}

    def tail(number: int) -> int:
        if number not in found:
            job = jobs[number]
            longest = min(job.waits)
            for later in after[number]:
                waits = min(job.waits) if number in jobs[later].after else 0
                waits = max([waits, *(min(s[0] for s in w.spans) for w in jobs[later].windows if w.of == number)])
                longest = max(longest, waits + tail(later))
            found[number] = job.takes + longest
        return found[number]

    return [tail(number) for number in range(len(jobs))]


def next_ready(laid: JobTable, key: Key) -> tuple[list[int], list[int]] | None:
    """(start, session) of every job, or None where a window is missed on the way. Of what could start at the same
    minute, that with the smallest `key` comes first. Sets up and cleans up between messes are not looked at."""
    jobs = laid.jobs
    starts: dict[int, int] = {}
    sessions: dict[int, int] = {}
    busy: list[Span] = []
    for number, job in enumerate(jobs):
        if job.fixed is not None:
            starts[number], sessions[number] = job.fixed, 0
            if job.fixed + job.takes > 0:
                busy.append((max(job.fixed, 0), job.fixed + job.takes))

    def bounds(number: int) -> tuple[int, int | None]:
        job = jobs[number]
        least, most = 0, None
        for one in job.after:
            least = max(least, starts[one] + jobs[one].takes + jobs[one].wait(sessions[one]))
        for window in job.windows:
            if window.of in starts:
                first, last = window.span(sessions[window.of])
                end = starts[window.of] + jobs[window.of].takes
                least = max(least, end + first)
                if last is not None and window.mend is None:
                    most = end + last if most is None else min(most, end + last)
        return least, most

    def before(number: int, at: int) -> int:
        """Minutes of mending that a start at a minute needs before it."""
        return sum(
            window.mend_min
            for window in jobs[number].windows
            if window.of in starts
            and window.passed_by(sessions[window.of], at - starts[window.of] - jobs[window.of].takes)
        )

    fumes = pairs(jobs)
    flammable = {number for pair in fumes for number in pair}

    def slot(
        number: int, least: int, most: int | None, taken: list[Span], also: Mapping[int, int]
    ) -> tuple[int, int] | None:
        """The first free (start, session) from `least` on; `also`: jobs about to be placed, and when."""
        for piece in jobs[number].pieces:
            at = max(piece.first, least)
            while at <= piece.last and (most is None or at <= most):
                mend = before(number, at)
                if at - mend < piece.first:
                    at = piece.first + mend
                    continue
                hit = next((to for begin, to in taken if begin < at + jobs[number].takes and at - mend < to), None)
                if hit is not None:
                    at = hit + mend
                    continue
                clear = clear_from(jobs, number, at, {**starts, **also}) if number in flammable else None
                if clear is None:
                    return at, piece.session
                at = clear
        return None

    def place(number: int) -> list[tuple[int, int, int]] | None:
        """A slot for a job and, where their windows hang on it alone, for those that must follow it in time."""
        least, most = bounds(number)
        hanging = [
            (other, window)
            for other, job in enumerate(jobs)
            if other not in starts
            for window in job.windows
            if window.of == number
            and window.binds
            and all(one in starts or one == number for one in (*job.after, *(w.of for w in job.windows)))
        ]
        for _ in range(200):
            found = slot(number, least, most, busy, {})
            if found is None:
                return None
            at, session = found
            end = at + jobs[number].takes
            out, taken = [(number, at, session)], [*busy, (at, end)]
            for other, window in hanging:
                first, last = window.span(session)
                lower = bounds_but(other, number)
                if number in jobs[other].after:
                    lower = max(lower, end + jobs[number].wait(session))
                there = slot(
                    other,
                    max(lower, end + first),
                    None if last is None else end + last,
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

    def bounds_but(number: int, but: int) -> int:
        job = jobs[number]
        known = [one for one in job.after if one != but]
        least = max((starts[one] + jobs[one].takes + jobs[one].wait(sessions[one]) for one in known), default=0)
        for window in job.windows:
            if window.of != but:
                end = starts[window.of] + jobs[window.of].takes
                least = max(least, end + window.span(sessions[window.of])[0])
        return least

    while len(starts) < len(jobs):
        ready = [
            number
            for number, job in enumerate(jobs)
            if number not in starts and all(one in starts for one in (*job.after, *(w.of for w in job.windows)))
        ]
        options = [(found[0][1], key(number), number, found) for number in ready if (found := place(number))]
        if not options or len(options) < len(ready):
            return None
        for number, at, session in min(options, key=lambda one: one[:3])[3]:
            busy.append((at - before(number, at), at + jobs[number].takes))
            starts[number], sessions[number] = at, session
    order = range(len(jobs))
    return [starts[number] for number in order], [sessions[number] for number in order]
