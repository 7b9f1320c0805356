"""From a plan's steps to times: one pair of hands within the bench hours, waits round the clock, windows kept.

A model with a start for every step and a boolean for every step in every session, solved by OR-Tools' CP-SAT: the
earliest finish first, then the fewest sessions. One worker, a fixed seed and a deterministic time limit, so that the
same plan gives the same times.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from math import ceil
from typing import Any

from .figure import plain
from .hours import BenchHours
from .plan import Step
from .units import duration

MOST_DAYS = 400
EFFORT = 20.0  # of CP-SAT's deterministic time, about seconds
SEED = 7


@dataclass(frozen=True, slots=True)
class Timed:
    """When a step starts and ends, and when its wait is over; `window_to`: the latest that its window lets it start."""

    id: str
    start: str
    end: str
    ready: str
    window_to: str | None = None


@dataclass(frozen=True, slots=True)
class Schedule:
    """`status` optimal, feasible (then `bound` says what might still be reached) or infeasible (then `why`)."""

    status: str
    finish: str | None
    bound: str | None
    sessions: int
    steps: tuple[Timed, ...]
    why: tuple[str, ...] | None = None

    def as_json(self) -> dict[str, Any]:
        """As docs/formats.md has it."""
        data: dict[str, Any] = plain(self)
        return data


@dataclass(frozen=True, slots=True)
class _Job:
    """A step in whole minutes."""

    step: Step
    takes: int
    waits: int
    after: tuple[int, ...]
    windows: tuple[tuple[int, int, int | None, str], ...]  # (step, not before, not after, what)


def schedule(
    steps: Sequence[Step], start: datetime, hours: BenchHours, deadline: datetime | None = None, effort: float = EFFORT
) -> Schedule:
    """Times for all steps, from `start` (with a zone) on. A plan that cannot be kept is told why, in words."""
    never = [step.do for step in steps if step.wait_h is None]
    if never:
        return _refused(f"{never[0]}: it never dries or cures in this room")
    long = [step for step in steps if ceil(step.hands_on_min) > hours.longest_min]
    if long:
        most = " ".join(duration(hours.longest_min / 60))
        takes = " ".join(duration(long[0].hands_on_min / 60))
        return _refused(f"{long[0].do} takes {takes} at a stretch, and your longest session is {most}")
    jobs = _jobs(steps)
    found, days = None, 14
    while found is None and days <= MOST_DAYS:
        sessions = hours.sessions(start, days)
        found = _solved(jobs, sessions, effort, keep=True) if sessions else None
        days *= 2
    if found is None:
        return _refused(*_why(jobs, hours.sessions(start, MOST_DAYS // 4), effort, steps))
    starts, finish, bound, optimal, used = found
    lengths = [job.takes for job in jobs]
    made = Schedule(
        "optimal" if optimal else "feasible",
        _iso(start, finish),
        _iso(start, bound),
        used,
        tuple(_timed(job, at, starts, lengths, start) for job, at in zip(jobs, starts, strict=True)),
    )
    if deadline is not None and _minutes(start, deadline) < finish:
        late = " ".join(duration((finish - _minutes(start, deadline)) / 60))
        text = f"the earliest finish is {made.finish}, {late} after the deadline"
        return Schedule("infeasible", made.finish, made.bound, used, made.steps, (text,))
    return made


def _refused(*why: str) -> Schedule:
    return Schedule("infeasible", None, None, 0, (), why)


def _minutes(start: datetime, moment: datetime) -> int:
    return int((moment.astimezone(UTC) - start.astimezone(UTC)).total_seconds() // 60)


def _iso(start: datetime, minutes: int) -> str:
    moment = (start.astimezone(UTC) + timedelta(minutes=minutes)).astimezone(start.tzinfo)
    return moment.isoformat(timespec="minutes")


def _jobs(steps: Sequence[Step]) -> list[_Job]:
    place = {step.id: number for number, step in enumerate(steps)}
    return [
        _Job(
            step,
            max(1, ceil(step.hands_on_min - 1e-9)),
            ceil((step.wait_h or 0.0) * 60 - 1e-9),
            tuple(place[one] for one in step.after),
            tuple(
                (
                    place[one.of],
                    ceil(one.from_h * 60 - 1e-9),
                    None if one.to_h is None else int(one.to_h * 60),
                    one.what,
                )
                for one in step.windows
            ),
        )
        for step in steps
    ]


def _timed(job: _Job, at: int, starts: list[int], takes: list[int], start: datetime) -> Timed:
    ends = [starts[of] + takes[of] + most for of, _, most, _ in job.windows if most is not None]
    return Timed(
        job.step.id,
        _iso(start, at),
        _iso(start, at + job.takes),
        _iso(start, at + job.takes + job.waits),
        _iso(start, min(ends)) if ends else None,
    )


_Found = tuple[list[int], int, int, bool, int]


def _solved(jobs: list[_Job], sessions: list[tuple[int, int]], effort: float, keep: bool) -> _Found | None:
    """Starts, finish, its bound, whether that is proved, and how many sessions it takes; None where nothing fits. With
    `keep` false, windows need not be closed in time."""
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    horizon = sessions[-1][1]
    farthest = horizon + max((job.waits for job in jobs), default=0)
    starts: list[Any] = []
    holds: list[dict[int, Any]] = []
    spans: list[Any] = []
    for number, job in enumerate(jobs):
        free = [(begin, end - job.takes) for begin, end in sessions if end - begin >= job.takes]
        if not free:
            return None
        at = model.new_int_var_from_domain(cp_model.Domain.from_intervals([list(one) for one in free]), f"s{number}")
        starts.append(at)
        spans.append(model.new_fixed_size_interval_var(at, job.takes, f"i{number}"))
        holds.append({})
        for place, (begin, end) in enumerate(sessions):
            if end - begin >= job.takes:
                there = model.new_bool_var(f"x{number}_{place}")
                model.add(at >= begin).only_enforce_if(there)
                model.add(at <= end - job.takes).only_enforce_if(there)
                holds[number][place] = there
        model.add_exactly_one(holds[number].values())
    model.add_no_overlap(spans)
    finish = model.new_int_var(0, farthest, "finish")
    for number, job in enumerate(jobs):
        for before in job.after:
            model.add(starts[number] >= starts[before] + jobs[before].takes + jobs[before].waits)
        for of, least, most, _ in job.windows:
            model.add(starts[number] >= starts[of] + jobs[of].takes + least)
            if most is not None and keep:
                model.add(starts[number] <= starts[of] + jobs[of].takes + most)
        model.add(finish >= starts[number] + job.takes + job.waits)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = SEED
    solver.parameters.max_deterministic_time = effort
    model.minimize(finish)
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    best, bound = round(solver.objective_value), ceil(solver.best_objective_bound - 1e-6)
    optimal = status == cp_model.OPTIMAL
    values = [solver.value(at) for at in starts]
    # The same finish in as few sessions as can be found.
    model.add(finish <= best)
    used: list[Any] = []
    for place in range(len(sessions)):
        here = [one[place] for one in holds if place in one]
        if here:
            any_here = model.new_bool_var(f"u{place}")
            model.add_max_equality(any_here, here)
            used.append(any_here)
    for at, value in zip(starts, values, strict=True):
        model.add_hint(at, value)
    model.minimize(sum(used))
    solver.parameters.max_deterministic_time = effort / 4
    if solver.solve(model) in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        values = [solver.value(at) for at in starts]
    count = sum(any(begin <= at < end for at in values) for begin, end in sessions)
    return values, best, best if optimal else bound, optimal, count


def _why(jobs: list[_Job], sessions: list[tuple[int, int]], effort: float, steps: Sequence[Step]) -> list[str]:
    """Which windows cannot be kept in these hours, in words."""
    loose = _solved(jobs, sessions, effort, keep=False) if sessions else None
    if loose is None:
        return ["the steps do not fit into your bench hours within a year"]
    starts = loose[0]
    said = []
    for number, job in enumerate(jobs):
        for of, _, most, what in job.windows:
            late = starts[number] - starts[of] - jobs[of].takes - (most or 0)
            if most is not None and late > 0:
                span, over = (" ".join(duration(one / 60)) for one in (most, late))
                said.append(
                    f"{job.step.do}: {what} must come within {span} of “{steps[of].do}”, and your hours leave it "
                    f"{over} late; a longer or later session then would free it"
                )
    return said or ["its windows cannot all be kept in your bench hours; try longer sessions"]
