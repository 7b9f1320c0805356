"""The times of jobs as a model for OR-Tools' CP-SAT: a start for every job, a boolean for every job in every piece of a
session, waits constant within a session."""

from __future__ import annotations

from collections.abc import Callable
from math import ceil
from typing import Any

from .jobs import Job, JobTable, ScheduleRequest, Windowed
from .vapour import CLEARS_MIN, pairs

Taken = tuple[list[int], list[int]]  # for each job its start, and its session or -1


class Times:
    """What is to be found, under all that binds it. `loose`: windows may be missed.

    `finish` is when the last job is over, `ready` when each is. `late` are the minutes by which each window (job,
    number of its window) is missed, `passed` whether one is that can be mended; `split` (first, second, minutes,
    boolean) are jobs that could share a bowl and whether they are too far apart for it; `messes` are a boolean for
    each mess in each session.
    """

    def __init__(self, laid: JobTable, asked: ScheduleRequest, loose: bool) -> None:
        from ortools.sat.python import cp_model

        self.model = cp_model.CpModel()
        self.jobs, self.sessions, self._loose = laid.jobs, laid.sessions, loose
        self.starts: list[Any] = []
        self._holds: list[list[tuple[int, Any]]] = []  # (session, boolean) for each piece
        self._spans: list[Any] = []  # of these no two at once
        horizon = max([0, *(to for _, to in laid.sessions), *((job.fixed or 0) + job.takes for job in laid.jobs)])
        self.farthest = horizon + max((max(job.waits) for job in laid.jobs), default=0)
        for number, job in enumerate(self.jobs):
            self._place(number, job)
        self.ready = [
            self.starts[number] + job.takes + self._by_session(number, job.wait) for number, job in enumerate(self.jobs)
        ]
        self.late: dict[tuple[int, int], Any] = {}
        self.passed: dict[tuple[int, int], Any] = {}
        for number, job in enumerate(self.jobs):
            for before in job.after:
                self.model.add(self.starts[number] >= self.ready[before])
            for which, window in enumerate(job.windows):
                self._keep_window(number, which, window)
        self.split = self._split_bowls()
        self.messes = self._messes(ceil(asked.setup_min), ceil(asked.cleanup_min))
        self.model.add_no_overlap(self._spans)
        self._keep_from_vapour()
        if asked.cups is not None:
            self._share_cups(asked.cups)
        self.finish = self.model.new_int_var(0, max(self.farthest, *map(constant, self.ready), 0), "finish")
        for one in self.ready:
            self.model.add(self.finish >= one)

    def hint(self, taken: Taken) -> None:
        """Where the search is to begin."""
        for number, job in enumerate(self.jobs):
            if job.fixed is None:
                at = taken[0][number]
                self.model.add_hint(self.starts[number], at)
                for piece, (_, there) in zip(job.pieces, self._holds[number], strict=True):
                    self.model.add_hint(there, piece.first <= at <= piece.last)

    def hint_anew(self, taken: Taken) -> None:
        """Where the next search is to begin."""
        self.model.clear_hints()  # type: ignore[no-untyped-call]
        self.hint(taken)

    def taken(self, solver: Any) -> Taken:
        """What a search has found."""
        held = [next((session for session, one in kept if solver.value(one)), -1) for kept in self._holds]
        return [value(solver, at) for at in self.starts], held

    def used(self) -> list[Any]:
        """A boolean for each session that could be used: whether anything is done in it."""
        used = []
        for place in range(len(self.sessions)):
            held = [there for one in self._holds for session, there in one if session == place]
            if held:
                any_here = self.model.new_bool_var(f"u{place}")
                self.model.add_max_equality(any_here, held)
                used.append(any_here)
        return used

    def _place(self, number: int, job: Job) -> None:
        """A start for a job, and the pieces that it could run in."""
        from ortools.sat.python import cp_model

        self._holds.append([])
        if job.fixed is not None:
            self.starts.append(job.fixed)
            if job.fixed + job.takes > 0:
                begin = max(job.fixed, 0)
                length = job.fixed + job.takes - begin
                self._spans.append(self.model.new_fixed_size_interval_var(begin, length, f"i{number}"))
            return
        domain = cp_model.Domain.from_intervals([[piece.first, piece.last] for piece in job.pieces])
        at = self.model.new_int_var_from_domain(domain, f"s{number}")
        self.starts.append(at)
        self._spans.append(self.model.new_fixed_size_interval_var(at, job.takes, f"i{number}"))
        for place, piece in enumerate(job.pieces):
            there = self.model.new_bool_var(f"x{number}_{place}")
            self.model.add(at >= piece.first).only_enforce_if(there)
            self.model.add(at <= piece.last).only_enforce_if(there)
            self._holds[number].append((piece.session, there))
        self.model.add_exactly_one(there for _, there in self._holds[number])

    def _by_session(self, number: int, values: Callable[[int], int]) -> Any:
        """What a value comes to in the session that a job runs in."""
        least = {values(session) for session, _ in self._holds[number]} or {values(0)}
        if len(least) == 1:
            return least.pop()
        return sum(values(session) * there for session, there in self._holds[number])

    def _keep_window(self, number: int, which: int, window: Windowed) -> None:
        """Keep a job within one of its windows; or mend it when that has passed, or tell by how much it is missed."""
        start, name = self.starts[number], f"p{number}_{which}"
        end = self.starts[window.of] + self.jobs[window.of].takes
        self.model.add(start >= end + self._by_session(window.of, window.opens))
        if any(to is None for _, to in window.spans):
            return
        closes = end + self._by_session(window.of, window.closes)
        if window.mend is not None:
            minutes = window.mend_min
            self.passed[number, which] = over = self.model.new_bool_var(name)
            self.model.add(start <= closes).only_enforce_if(over.negated())
            self.model.add(start > closes).only_enforce_if(over)
            for piece, (_, there) in zip(self.jobs[number].pieces, self._holds[number], strict=True):
                self.model.add(start >= piece.first + minutes).only_enforce_if([over, there])
            mended = self.model.new_optional_fixed_size_interval_var(start - minutes, minutes, over, f"{name}i")
            self._spans.append(mended)
        elif self._loose:
            self.late[number, which] = over = self.model.new_int_var(0, self.farthest, f"late{number}_{which}")
            self.model.add(start <= closes + over)
        else:
            self.model.add(start <= closes)

    def _split_bowls(self) -> list[tuple[int, int, int, Any]]:
        """As `split`. In one visit they are never torn apart, by whatever else is done in it."""
        place = {job.step.id: number for number, job in enumerate(self.jobs)}
        splits = []
        for second, job in enumerate(self.jobs):
            for name, minutes in job.step.bowl:
                first = place[name]
                if job.fixed is None and self.jobs[first].fixed is None:
                    apart = self.model.new_bool_var(f"b{first}_{second}")
                    gap = self.starts[second] - self.starts[first] - self.jobs[first].takes
                    self.model.add(gap >= 0).only_enforce_if(apart.negated())
                    self.model.add(gap <= int(minutes)).only_enforce_if(apart.negated())
                    for session, there in self._holds[first]:
                        for other, here in self._holds[second]:
                            if session == other:
                                self.model.add_bool_or([there.negated(), here.negated(), apart.negated()])
                    splits.append((first, second, int(minutes), apart))
        return splits

    def _messes(self, before: int, behind: int) -> list[Any]:
        """As `messes`; with so many minutes of set-up before each and of clean-up behind it."""
        messes = []
        for mess in sorted({job.step.mess for job in self.jobs if job.step.mess}):
            for place, (begin, end) in enumerate(self.sessions):
                jobs_here = [
                    (number, there)
                    for number, job in enumerate(self.jobs)
                    if job.step.mess == mess
                    for session, there in self._holds[number]
                    if session == place
                ]
                if not jobs_here:
                    continue
                dirty = self.model.new_bool_var(f"m{mess}{place}")
                self.model.add_max_equality(dirty, [there for _, there in jobs_here])
                messes.append(dirty)
                for minutes, word in ((before, "setup"), (behind, "cleanup")):
                    if not minutes:
                        continue
                    at = self.model.new_int_var(begin, max(begin, end - minutes), f"{word}{mess}{place}")
                    span = self.model.new_optional_fixed_size_interval_var(at, minutes, dirty, f"{word}i{mess}{place}")
                    self._spans.append(span)
                    for number, there in jobs_here:
                        if word == "setup":
                            self.model.add(at + minutes <= self.starts[number]).only_enforce_if(there)
                        else:
                            over = self.starts[number] + self.jobs[number].takes
                            self.model.add(at >= over).only_enforce_if(there)
        return messes

    def _keep_from_vapour(self) -> None:
        """Nothing hot while what fumes has not cleared."""
        for fumes, hot in pairs(self.jobs):
            after = self.model.new_bool_var(f"v{fumes}_{hot}")
            cleared = self.starts[fumes] + self.jobs[fumes].takes + CLEARS_MIN
            self.model.add(self.starts[hot] >= cleared).only_enforce_if(after)
            over = self.starts[hot] + self.jobs[hot].takes
            self.model.add(self.starts[fumes] >= over).only_enforce_if(after.negated())

    def _share_cups(self, cups: int) -> None:
        """No more cups in use than there are; one is free again once what is in it has hardened."""
        spans = []
        for number, job in enumerate(self.jobs):
            if not job.step.takes_cup:
                continue
            if job.fixed is not None:
                end = job.fixed + job.takes + job.waits[0]
                if end > 0:
                    spans.append(self.model.new_fixed_size_interval_var(0, end, f"c{number}"))
                continue
            for place, (session, there) in enumerate(self._holds[number]):
                size, name = job.takes + job.wait(session), f"c{number}_{place}"
                spans.append(self.model.new_optional_fixed_size_interval_var(self.starts[number], size, there, name))
        self.model.add_cumulative(spans, [1] * len(spans), max(cups, 1))


def value(solver: Any, one: Any) -> int:
    """What a search has found of a minute, which may be known without."""
    found: int = one if isinstance(one, int) else solver.value(one)
    return found


def constant(one: Any) -> int:
    """A minute that is known without a search, else 0."""
    return one if isinstance(one, int) else 0
