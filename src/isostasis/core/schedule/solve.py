"""The schedule as a model for OR-Tools' CP-SAT: a start for every job, a boolean for every job in every piece of a
session, waits constant within a session. One worker, a fixed seed and a deterministic time limit: the same plan gives
the same times."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from math import ceil
from threading import Event, Thread
from typing import Any

from .greedy import last_of, next_ready, tails
from .jobs import Job, JobTable, ScheduleRequest, in_order
from .vapour import CLEARS_MIN, pairs

SEED = 7
MANY_PIECES = 3000  # of sessions that jobs could run in: with more, a unit of deterministic time is many seconds
OnProgress = Callable[[int, int], None]  # minutes of the best finish so far, and of its bound
Stop = Callable[[], bool]
WATCH_S = 0.05  # how often a search looks whether it is still wanted


class Stopped(Exception):  # noqa: N818 - reads as what it is
    """Whoever asked wants no answer any more."""


def never() -> bool:
    """Go on to the end."""
    return False


@contextmanager
def _watched(solver: Any, stop: Stop) -> Iterator[None]:
    """While this holds, a search ends soon after `stop` says so. Raises Stopped then."""
    if stop is never:
        yield
        return
    over = Event()

    def watch() -> None:
        while not over.wait(WATCH_S):
            if stop():
                solver.stop_search()

    thread = Thread(target=watch, daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()
    if stop():
        raise Stopped


@dataclass(frozen=True, slots=True)
class Solution:
    """Starts and sessions of all jobs, the finish and its bound in minutes, whether they meet; `late`: minutes by which
    each window (job, number of its window) is missed, where windows were let go; `apart`: jobs that could have shared a
    bowl, too far apart for it."""

    starts: list[int]
    sessions: list[int]
    finish: int
    bound: int
    optimal: bool
    late: dict[tuple[int, int], int]
    apart: tuple[tuple[int, int], ...] = ()

    @property
    def used(self) -> int:
        """How many sessions something is planned in."""
        return len({session for session in self.sessions if session >= 0})


def solve(
    laid: JobTable,
    asked: ScheduleRequest,
    effort: float,
    on_progress: OnProgress | None = None,
    loose: bool = False,
    stop: Stop = never,
) -> Solution | None:
    """The earliest finish, then the fewest sessions, then the fewest sessions with a mess in them. None where nothing
    fits. `loose`: windows may be missed, as little as can be, and that comes before the finish. Raises Stopped soon
    after `stop` says so."""
    from ortools.sat.python import cp_model

    laid = laid if loose else _pruned(laid, asked)
    jobs, sessions = laid.jobs, laid.sessions
    if any(job.fixed is None and not job.pieces for job in jobs):
        return None
    model = cp_model.CpModel()
    horizon = max([0, *(to for _, to in sessions), *((job.fixed or 0) + job.takes for job in jobs)])
    farthest = horizon + max((max(job.waits) for job in jobs), default=0)
    starts: list[Any] = []
    holds: list[list[tuple[int, Any]]] = []  # (session, boolean) for each piece
    spans: list[Any] = []
    for number, job in enumerate(jobs):
        holds.append([])
        if job.fixed is not None:
            starts.append(job.fixed)
            if job.fixed + job.takes > 0:
                begin = max(job.fixed, 0)
                spans.append(model.new_fixed_size_interval_var(begin, job.fixed + job.takes - begin, f"i{number}"))
            continue
        domain = cp_model.Domain.from_intervals([[piece.first, piece.last] for piece in job.pieces])
        at = model.new_int_var_from_domain(domain, f"s{number}")
        starts.append(at)
        spans.append(model.new_fixed_size_interval_var(at, job.takes, f"i{number}"))
        for place, piece in enumerate(job.pieces):
            there = model.new_bool_var(f"x{number}_{place}")
            model.add(at >= piece.first).only_enforce_if(there)
            model.add(at <= piece.last).only_enforce_if(there)
            holds[number].append((piece.session, there))
        model.add_exactly_one(there for _, there in holds[number])

    def by_session(number: int, values: Callable[[int], int]) -> Any:
        """What a value comes to in the session that a job runs in."""
        least = {values(session) for session, _ in holds[number]} or {values(0)}
        if len(least) == 1:
            return least.pop()
        return sum(values(session) * there for session, there in holds[number])

    ready = [starts[number] + job.takes + by_session(number, job.wait) for number, job in enumerate(jobs)]
    late: dict[tuple[int, int], Any] = {}
    passed: dict[tuple[int, int], Any] = {}
    for number, job in enumerate(jobs):
        for before in job.after:
            model.add(starts[number] >= ready[before])
        for which, window in enumerate(job.windows):
            end = starts[window.of] + jobs[window.of].takes
            model.add(starts[number] >= end + by_session(window.of, window.opens))
            if all(to is not None for _, to in window.spans):
                closes = end + by_session(window.of, window.closes)
                if window.mend is not None:
                    minutes = window.mend_min
                    passed[number, which] = over = model.new_bool_var(f"p{number}_{which}")
                    model.add(starts[number] <= closes).only_enforce_if(over.negated())
                    model.add(starts[number] > closes).only_enforce_if(over)
                    for piece, (_, there) in zip(job.pieces, holds[number], strict=True):
                        model.add(starts[number] >= piece.first + minutes).only_enforce_if([over, there])
                    spans.append(
                        model.new_optional_fixed_size_interval_var(
                            starts[number] - minutes, minutes, over, f"p{number}_{which}i"
                        )
                    )
                elif loose:
                    late[number, which] = over = model.new_int_var(0, farthest, f"late{number}_{which}")
                    model.add(starts[number] <= closes + over)
                else:
                    model.add(starts[number] <= closes)
    split = _split_bowls(model, jobs, starts, holds)
    messes = _messes(model, jobs, holds, starts, spans, laid, asked)
    model.add_no_overlap(spans)
    for fumes, hot in pairs(jobs):
        after = model.new_bool_var(f"v{fumes}_{hot}")
        model.add(starts[hot] >= starts[fumes] + jobs[fumes].takes + CLEARS_MIN).only_enforce_if(after)
        model.add(starts[fumes] >= starts[hot] + jobs[hot].takes).only_enforce_if(after.negated())
    _cups(model, jobs, starts, holds, asked)
    finish = model.new_int_var(0, max(farthest, *(_constant(one) for one in ready), 0), "finish")
    for one in ready:
        model.add(finish >= one)

    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = SEED
    effort *= min(1.0, MANY_PIECES / max(1, sum(len(job.pieces) for job in jobs)))
    solver.parameters.max_deterministic_time = effort
    hint = next_ready(laid, _by_tail(jobs))
    if hint:
        _hinted(model, jobs, holds, starts, hint)
    if not loose and any(job.due is not None for job in jobs):
        hint = _dated(model, solver, jobs, starts, holds, ready, farthest, stop) or hint
    if loose:
        model.minimize(sum(late.values()) * 10 + finish)
    else:
        model.minimize(finish)
    with _watched(solver, stop):
        status = solver.solve(model, _listener(on_progress) if on_progress and not loose else None)
    if status == cp_model.UNKNOWN and not loose:  # time was too short for it
        return by_rule(laid, asked, ceil(solver.best_objective_bound - 1e-6))
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None

    def value(one: Any) -> int:
        return one if isinstance(one, int) else solver.value(one)

    def held(number: int) -> int:
        return next((session for session, one in holds[number] if solver.value(one)), -1)

    def taken() -> tuple[list[int], list[int]]:
        return [value(at) for at in starts], [held(number) for number in range(len(jobs))]

    best = solver.value(finish)
    optimal = status == cp_model.OPTIMAL
    bound = best if optimal or loose else min(best, ceil(solver.best_objective_bound - 1e-6))
    missed = {key: value(one) for key, one in late.items() if value(one)}
    result = taken()
    if not loose:  # the same finish in as few sessions as can be found
        model.add(finish <= best)
        used = sum(_used(model, holds, len(sessions)))
        less = sum(one for *_, one in split) + sum(passed.values())
        model.minimize(10_000 * used + 100 * less + sum(messes))
        model.clear_hints()  # type: ignore[no-untyped-call]
        _hinted(model, jobs, holds, starts, result)
        solver.parameters.max_deterministic_time = effort / 4
        with _watched(solver, stop):
            fewer = solver.solve(model)
        if fewer in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            result = taken()
    apart = tuple(
        (first, second)
        for first, second, minutes, _ in split
        if not 0 <= result[0][second] - result[0][first] - jobs[first].takes <= minutes
    )
    return Solution(*result, best, bound, optimal, missed, apart)


def _dated(
    model: Any, solver: Any, jobs: list[Job], starts: list[Any], holds: Any, ready: list[Any], farthest: int, stop: Stop
) -> tuple[list[int], list[int]] | None:
    """Hold the scenes to their dates: as many as can be kept are, and the others come as little late as can be. What
    was found is held; the order that does it is returned. None where none was found in time."""
    from ortools.sat.python import cp_model

    late: dict[str, Any] = {}
    for one, job in zip(ready, jobs, strict=True):
        if job.due is not None:
            scene = job.step.scene
            if scene not in late:
                late[scene] = model.new_int_var(0, max(farthest, _constant(one)), f"late_{scene}")
            model.add(late[scene] >= one - job.due)
    missed = []
    for scene, minutes in late.items():
        over = model.new_bool_var(f"missed_{scene}")
        model.add(minutes == 0).only_enforce_if(over.negated())
        missed.append(over)
    model.minimize(sum(missed) * (farthest + 1) * len(missed) + sum(late.values()))
    with _watched(solver, stop):
        status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    for minutes in late.values():
        model.add(minutes <= solver.value(minutes))
    at = [one if isinstance(one, int) else solver.value(one) for one in starts]
    held = [next((session for session, one in kept if solver.value(one)), -1) for kept in holds]
    model.clear_hints()
    _hinted(model, jobs, holds, starts, (at, held))
    return at, held


def _constant(one: Any) -> int:
    return one if isinstance(one, int) else 0


def _by_tail(jobs: list[Job]) -> Callable[[int], float]:
    long = tails(jobs)
    return lambda number: -long[number]


def _hinted(model: Any, jobs: list[Job], holds: Any, starts: list[Any], hint: tuple[list[int], list[int]]) -> None:
    for number, job in enumerate(jobs):
        if job.fixed is None:
            at = hint[0][number]
            model.add_hint(starts[number], at)
            for piece, (_, there) in zip(job.pieces, holds[number], strict=True):
                model.add_hint(there, piece.first <= at <= piece.last)


def _earliest(laid: JobTable) -> list[int]:
    """For each job the first minute at which it could start, hands left aside."""
    jobs = laid.jobs
    least = [0] * len(jobs)
    for number in in_order(jobs):
        job = jobs[number]
        found = [0] if job.fixed is None else [job.fixed]
        if job.fixed is None:
            found += [least[one] + jobs[one].takes + min(jobs[one].waits) for one in job.after]
            found += [least[one.of] + jobs[one.of].takes + min(first for first, _ in one.spans) for one in job.windows]
            place = bisect_left(job.pieces, max(found), key=last_of)
            if place < len(job.pieces):
                found.append(job.pieces[place].first)
        least[number] = max(found)
    return least


def earliest_ends(laid: JobTable) -> list[int]:
    """For each job the first minute at which its wait could be over, hands left aside: bounds of the finish."""
    earliest = _earliest(laid)
    return [earliest[number] + job.takes + min(job.waits) for number, job in enumerate(laid.jobs)]


def by_rule(laid: JobTable, asked: ScheduleRequest, bound: int = 0) -> Solution | None:
    """What the next-ready rule finds, no earlier than `bound`; None where it finds nothing, or what it does not look at
    (setting up, cleaning up, cups) is asked for."""
    jobs = laid.jobs
    found = None if asked.setup_min or asked.cleanup_min or asked.cups is not None else next_ready(laid, _by_tail(jobs))
    if found is None:
        return None
    ends = [found[0][number] + job.takes + job.wait(found[1][number]) for number, job in enumerate(jobs)]
    last = max(ends, default=0)
    bound = max(0, bound, max(earliest_ends(laid), default=0))
    return Solution(*found, last, min(bound, last), bound >= last, {})


def _pruned(laid: JobTable, asked: ScheduleRequest) -> JobTable:
    """Without pieces that are too early for what a job waits for, or too late for the next-ready rule's finish."""
    jobs, earliest = laid.jobs, _earliest(laid)
    upper = None
    if not asked.setup_min and not asked.cleanup_min and asked.cups is None and not asked.due:
        rule = next_ready(laid, _by_tail(jobs))
        if rule:
            ends = [rule[0][number] + job.takes + job.wait(rule[1][number]) for number, job in enumerate(jobs)]
            upper = max(ends, default=0)
    tail = tails(jobs)
    out = []
    for number, job in enumerate(jobs):
        latest = None if upper is None else upper - tail[number]
        pieces = tuple(
            piece
            for piece in job.pieces
            if piece.last >= earliest[number] and (latest is None or piece.first <= latest)
        )
        out.append(replace(job, pieces=pieces))
    return JobTable(out, laid.sessions, laid.notes)


def _split_bowls(
    model: Any, jobs: list[Job], starts: list[Any], holds: list[list[tuple[int, Any]]]
) -> list[tuple[int, int, int, Any]]:
    """(first, second, minutes, boolean: too far apart to share a bowl) for jobs that could share one. In one visit they
    are never torn apart, by whatever else is done in it."""
    place = {job.step.id: number for number, job in enumerate(jobs)}
    found = []
    for second, job in enumerate(jobs):
        for name, minutes in job.step.bowl:
            first = place[name]
            if job.fixed is None and jobs[first].fixed is None:
                apart = model.new_bool_var(f"b{first}_{second}")
                gap = starts[second] - starts[first] - jobs[first].takes
                model.add(gap >= 0).only_enforce_if(apart.negated())
                model.add(gap <= int(minutes)).only_enforce_if(apart.negated())
                for session, there in holds[first]:
                    for other, here in holds[second]:
                        if session == other:
                            model.add_bool_or([there.negated(), here.negated(), apart.negated()])
                found.append((first, second, int(minutes), apart))
    return found


def _used(model: Any, holds: list[list[tuple[int, Any]]], count: int) -> list[Any]:
    """A boolean for each session: whether anything is done in it."""
    used = []
    for place in range(count):
        here = [there for one in holds for session, there in one if session == place]
        if here:
            any_here = model.new_bool_var(f"u{place}")
            model.add_max_equality(any_here, here)
            used.append(any_here)
    return used


def _messes(
    model: Any, jobs: list[Job], holds: Any, starts: list[Any], spans: list[Any], laid: JobTable, asked: ScheduleRequest
) -> list[Any]:
    """A boolean for each mess in each session; with set-up before it and clean-up after it where they take time."""
    found = []
    before, behind = ceil(asked.setup_min), ceil(asked.cleanup_min)
    for mess in sorted({job.step.mess for job in jobs if job.step.mess}):
        for place, (begin, end) in enumerate(laid.sessions):
            here = [
                (number, there)
                for number, job in enumerate(jobs)
                if job.step.mess == mess
                for session, there in holds[number]
                if session == place
            ]
            if not here:
                continue
            dirty = model.new_bool_var(f"m{mess}{place}")
            model.add_max_equality(dirty, [there for _, there in here])
            found.append(dirty)
            for minutes, word in ((before, "setup"), (behind, "cleanup")):
                if not minutes:
                    continue
                at = model.new_int_var(begin, max(begin, end - minutes), f"{word}{mess}{place}")
                spans.append(model.new_optional_fixed_size_interval_var(at, minutes, dirty, f"{word}i{mess}{place}"))
                for number, there in here:
                    if word == "setup":
                        model.add(at + minutes <= starts[number]).only_enforce_if(there)
                    else:
                        model.add(at >= starts[number] + jobs[number].takes).only_enforce_if(there)
    return found


def _cups(model: Any, jobs: list[Job], starts: list[Any], holds: Any, asked: ScheduleRequest) -> None:
    """No more cups in use than there are; one is free again once what is in it has hardened."""
    if asked.cups is None:
        return
    spans = []
    for number, job in enumerate(jobs):
        if not job.step.takes_cup:
            continue
        if job.fixed is not None:
            end = job.fixed + job.takes + job.waits[0]
            if end > 0:
                spans.append(model.new_fixed_size_interval_var(0, end, f"c{number}"))
            continue
        for place, (session, there) in enumerate(holds[number]):
            size = job.takes + job.wait(session)
            spans.append(model.new_optional_fixed_size_interval_var(starts[number], size, there, f"c{number}_{place}"))
    model.add_cumulative(spans, [1] * len(spans), max(asked.cups, 1))


def _listener(on_progress: OnProgress) -> Any:
    from ortools.sat.python import cp_model

    class Listener(cp_model.CpSolverSolutionCallback):
        def on_solution_callback(self) -> None:
            on_progress(round(self.objective_value), ceil(self.best_objective_bound - 1e-6))

    return Listener()
