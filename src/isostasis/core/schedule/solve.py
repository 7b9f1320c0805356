"""The search for times: OR-Tools' CP-SAT with one worker, a fixed seed and a deterministic time limit, so that the same
plan gives the same times; and what a rule gives where that takes too long."""

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
from .times import Taken, Times, constant, value

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
    jobs = laid.jobs
    if any(job.fixed is None and not job.pieces for job in jobs):
        return None
    times = Times(laid, asked, loose)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = SEED
    effort *= min(1.0, MANY_PIECES / max(1, sum(len(job.pieces) for job in jobs)))
    solver.parameters.max_deterministic_time = effort
    solved = (cp_model.OPTIMAL, cp_model.FEASIBLE)
    hint = next_ready(laid, _by_tail(jobs))
    if hint:
        times.hint(hint)
    if not loose and any(job.due is not None for job in jobs) and _keep_dates(times, solver, stop) in solved:
        times.hint_anew(times.taken(solver))
    times.model.minimize(sum(times.late.values()) * 10 + times.finish if loose else times.finish)
    with _watched(solver, stop):
        status = solver.solve(times.model, _listener(on_progress) if on_progress and not loose else None)
    if status == cp_model.UNKNOWN and not loose:  # time was too short for it
        return by_rule(laid, asked, ceil(solver.best_objective_bound - 1e-6))
    if status not in solved:
        return None
    best = solver.value(times.finish)
    optimal = status == cp_model.OPTIMAL
    bound = best if optimal or loose else min(best, ceil(solver.best_objective_bound - 1e-6))
    missed = {key: value(solver, one) for key, one in times.late.items() if value(solver, one)}
    taken = times.taken(solver)
    if not loose:
        solver.parameters.max_deterministic_time = effort / 4
        if _use_fewest_sessions(times, solver, taken, best, stop) in solved:
            taken = times.taken(solver)
    apart = tuple(
        (first, second)
        for first, second, minutes, _ in times.split
        if not 0 <= taken[0][second] - taken[0][first] - jobs[first].takes <= minutes
    )
    return Solution(*taken, best, bound, optimal, missed, apart)


def _use_fewest_sessions(times: Times, solver: Any, taken: Taken, best: int, stop: Stop) -> Any:
    """Look for the same finish in as few sessions as can be, from what was `taken` on; how that went."""
    times.model.add(times.finish <= best)
    used = sum(times.used())
    less = sum(one for *_, one in times.split) + sum(times.passed.values())
    times.model.minimize(10_000 * used + 100 * less + sum(times.messes))
    times.hint_anew(taken)
    with _watched(solver, stop):
        return solver.solve(times.model)


def _keep_dates(times: Times, solver: Any, stop: Stop) -> Any:
    """Hold the scenes to their dates: as many as can be kept are, and the others come as little late as can be. What
    was found is held. How the search for it went."""
    from ortools.sat.python import cp_model

    model = times.model
    late: dict[str, Any] = {}
    for ready, job in zip(times.ready, times.jobs, strict=True):
        if job.due is not None:
            scene = job.step.scene
            if scene not in late:
                late[scene] = model.new_int_var(0, max(times.farthest, constant(ready)), f"late_{scene}")
            model.add(late[scene] >= ready - job.due)
    missed = []
    for scene, minutes in late.items():
        over = model.new_bool_var(f"missed_{scene}")
        model.add(minutes == 0).only_enforce_if(over.negated())
        missed.append(over)
    model.minimize(sum(missed) * (times.farthest + 1) * len(missed) + sum(late.values()))
    with _watched(solver, stop):
        status = solver.solve(model)
    if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        for minutes in late.values():
            model.add(minutes <= solver.value(minutes))
    return status


def _by_tail(jobs: list[Job]) -> Callable[[int], float]:
    long = tails(jobs)
    return lambda number: -long[number]


def _earliest(laid: JobTable) -> list[int]:
    """For each job the first minute at which it could start, hands left aside."""
    jobs = laid.jobs
    least = [0] * len(jobs)
    for number in in_order(jobs):
        job = jobs[number]
        bounds = [0] if job.fixed is None else [job.fixed]
        if job.fixed is None:
            bounds += [least[one] + jobs[one].takes + min(jobs[one].waits) for one in job.after]
            bounds += [least[one.of] + jobs[one.of].takes + min(first for first, _ in one.spans) for one in job.windows]
            place = bisect_left(job.pieces, max(bounds), key=last_of)
            if place < len(job.pieces):
                bounds.append(job.pieces[place].first)
        least[number] = max(bounds)
    return least


def earliest_ends(laid: JobTable) -> list[int]:
    """For each job the first minute at which its wait could be over, hands left aside: bounds of the finish."""
    earliest = _earliest(laid)
    return [earliest[number] + job.takes + min(job.waits) for number, job in enumerate(laid.jobs)]


def by_rule(laid: JobTable, asked: ScheduleRequest, bound: int = 0) -> Solution | None:
    """What the next-ready rule finds, no earlier than `bound`; None where it finds nothing, or what it does not look at
    (setting up, cleaning up, cups) is asked for."""
    jobs = laid.jobs
    starts = (
        None if asked.setup_min or asked.cleanup_min or asked.cups is not None else next_ready(laid, _by_tail(jobs))
    )
    if starts is None:
        return None
    ends = [starts[0][number] + job.takes + job.wait(starts[1][number]) for number, job in enumerate(jobs)]
    last = max(ends, default=0)
    bound = max(0, bound, max(earliest_ends(laid), default=0))
    return Solution(*starts, last, min(bound, last), bound >= last, {})


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


def _listener(on_progress: OnProgress) -> Any:
    from ortools.sat.python import cp_model

    class Listener(cp_model.CpSolverSolutionCallback):
        def on_solution_callback(self) -> None:
            on_progress(round(self.objective_value), ceil(self.best_objective_bound - 1e-6))

    return Listener()
