"""From a plan's steps to times: one pair of hands within the bench hours, waits round the clock, windows kept.

`jobs` lays the steps out in minutes over the sessions, `greedy` is the next-ready rule, `times` the model for CP-SAT,
`solve` the search over it, `slack` how much later a step could come, `marks` what was marked at the bench, `why` tells
what cannot be kept.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime, timedelta
from math import ceil
from typing import Any, ClassVar

from ..figure import to_jsonable
from ..plan import Step
from .greedy import next_ready, tails
from .jobs import Job, JobTable, ScheduleRequest, StepsAt, build_jobs
from .marks import Marks, factor
from .parts import attended, in_parts, is_over
from .slack import chain, latest_starts
from .solve import OnProgress, Solution, Stop, Stopped, by_rule, never, solve
from .vapour import CLEARS_MIN, waited_for
from .why import missed_windows, spoken

__all__ = [
    "EFFORT", "Job", "JobTable", "Marks", "Schedule", "ScheduleRequest", "StepsAt", "Stopped", "Timed", "build_jobs",
    "factor", "first_times", "greedy_finish", "schedule",
]  # fmt: skip

HORIZONS_DAYS = (14, 28, 56, 112, 224, 400)
MAX_DAYS = HORIZONS_DAYS[-1]
EFFORT = 20.0  # of CP-SAT's deterministic time, about seconds
MANY = 120  # so many jobs take the solver long; what the next-ready rule finds is told before


@dataclass(frozen=True, slots=True)
class Timed:
    """When a step starts and ends, and when its wait is over; `window_to`: the latest that its window lets it start.

    `state` is planned, begun, done, skipped or gate; `latest`: how late it may start with the finish kept. `title`,
    `lift`, `scene` and `step` are those of its step, `step` its id in its own scene.
    """

    JSON: ClassVar[tuple[str, ...]] = ("id", "start", "end", "ready", "window_to")  # what machines read

    id: str
    start: str
    end: str
    ready: str
    window_to: str | None = None
    state: str = "planned"
    latest: str | None = None
    decides: bool = False
    title: str = ""
    lift: str | None = None
    scene: str = ""
    step: str = ""

    @property
    def slack_min(self) -> int:
        """Minutes by which it may start later."""
        if self.latest is None:
            return 0
        return round((datetime.fromisoformat(self.latest) - datetime.fromisoformat(self.start)).total_seconds() / 60)


@dataclass(frozen=True, slots=True)
class Schedule:
    """`status` optimal, feasible (then `bound` says what might still be reached) or infeasible (then `why`).

    `why` may also on_progress what was taken for granted. `hands_min`: minutes of work that are still to be done.
    """

    JSON: ClassVar[tuple[str, ...]] = ("status", "finish", "bound", "sessions", "steps", "why")  # what machines read

    status: str
    finish: str | None
    bound: str | None
    sessions: int
    steps: tuple[Timed, ...]
    why: tuple[str, ...] | None = None
    hands_min: int = 0

    def as_json(self) -> dict[str, Any]:
        """As docs/formats.md has it."""
        data: dict[str, Any] = {"status": self.status, "finish": self.finish, "bound": self.bound, **to_jsonable(self)}
        return data

    def kept(self) -> dict[str, Any]:
        """All of it as JSON data, from which `of` makes it again."""
        return asdict(self)

    @classmethod
    def of(cls, data: dict[str, Any]) -> Schedule:
        """What `kept` gave."""
        steps = tuple(Timed(**one) for one in data["steps"])
        return cls(**{**data, "steps": steps, "why": None if data["why"] is None else tuple(data["why"])})


def schedule(
    steps: Sequence[Step] | StepsAt,
    asked: ScheduleRequest,
    effort: float = EFFORT,
    on_progress: OnProgress | None = None,
    stop: Stop = never,
    on_first: Callable[[Schedule], None] | None = None,
) -> Schedule:
    """Times for all steps from `asked.start` on; `steps` may depend on the moment at which they would run. A plan that
    cannot be kept is told why, in words. `on_progress` hears of every better finish, `on_first` of times by the
    next-ready rule, before a long search begins. Raises Stopped soon after `stop` says so."""
    start = asked.start.replace(second=0, microsecond=0)
    start += timedelta(minutes=1) if start < asked.start else timedelta()
    asked = replace(asked, start=start)
    steps_at: StepsAt = steps if callable(steps) else lambda _: steps
    base = [step for step in steps_at(start) if not is_over(step, start, asked.marks)]
    gone = {*asked.marks.done, *asked.marks.skipped}
    notes = [
        f"{step.do} has no date: it is taken as there from the start"
        for step in base
        if step.gate and not step.not_before
    ]
    open_steps = [step for step in base if step.id not in gone and not step.gate and not step.only_if]
    never = [step.do for step in open_steps if step.wait_h is None]
    if never:
        return _refused(f"{never[0]}: it never dries or cures in this room; warm it, dry it or air it")
    longest = max((to - begin for begin, to in asked.sessions(MAX_DAYS // 4)), default=0)
    fitted, parts = in_parts(base, longest, asked.marks)
    long = [
        step for step in fitted
        if step.id not in gone and ceil(step.hands_on_min) > longest and step.id not in asked.marks.started
        and not step.gate and not step.only_if
    ]  # fmt: skip
    if long:
        return _refused(
            f"{long[0].do} takes {spoken(ceil(long[0].hands_on_min))} at a stretch, and your longest session is "
            f"{spoken(longest)}; a session of {spoken(ceil(long[0].hands_on_min))} would free it"
        )
    alone = attended(fitted, longest)[1]
    fit = _fitting(steps_at, longest, asked)
    if on_first is not None and (first := _times_by_rule(fit, asked, (*notes, *parts, *alone), MANY)):
        on_first(first)
    scheduled = _scheduled(fit, asked, effort, on_progress, stop, (*notes, *parts, *alone))
    if scheduled.finish is None and any(step.brief for step in fitted):
        # Better a pour that nobody sees the bubbles out of than no schedule.
        without = _fitting(steps_at, longest, asked, none=True)
        alone = attended(fitted, longest, none=True)[1]
        freed = _scheduled(without, asked, effort, on_progress, stop, (*notes, *parts, *alone))
        return scheduled if freed.finish is None else freed
    return scheduled


def _fitting(steps_at: StepsAt, longest: int, asked: ScheduleRequest, none: bool = False) -> StepsAt:
    """The steps as these sessions can hold them: long ones in parts, without acts that nobody can be there for."""

    known: dict[int, tuple[Sequence[Step], Sequence[Step]]] = {}  # by identity: while the room stays, so do the steps

    def at(moment: datetime) -> Sequence[Step]:
        steps = steps_at(moment)
        if id(steps) not in known:
            still = [step for step in steps if not is_over(step, asked.start, asked.marks)]
            known[id(steps)] = steps, attended(in_parts(still, longest, asked.marks)[0], longest, none)[0]
        return known[id(steps)][1]

    return at


def _scheduled(
    steps_at: StepsAt,
    asked: ScheduleRequest,
    effort: float,
    on_progress: OnProgress | None,
    stop: Stop,
    notes: tuple[str, ...],
) -> Schedule:
    """Times for steps that each fit into some session. Raises Stopped."""
    if asked.due:
        return _due(steps_at, asked, effort, on_progress, stop, notes)
    for days in HORIZONS_DAYS:
        laid = build_jobs(steps_at, asked, days)
        solution = solve(laid, asked, effort, on_progress, stop=stop)
        if solution is None and any(window for job in laid.jobs for window in job.windows):
            # A longer horizon only helps where nothing fits; a window that cannot be kept shows in a loose solution.
            loose = solve(laid, asked, effort, loose=True, stop=stop)
            if loose is not None and loose.late and days > 28:
                break
        if solution is not None:
            break
    if solution is None:
        return _refused(*notes, *laid.notes, *missed_windows(steps_at, asked, min(days, MAX_DAYS // 4), effort, stop))
    scheduled = _made(laid, solution, asked, (*notes, *laid.notes))
    due = None if asked.deadline is None else asked.minutes(asked.deadline) - ceil(asked.buffer_h * 60)
    if due is not None and due < solution.finish:
        return replace(
            scheduled, status="infeasible", why=(*_too_late(laid, solution, asked, due), *(scheduled.why or ()))
        )
    return scheduled


def first_times(steps: Sequence[Step] | StepsAt, asked: ScheduleRequest) -> Schedule | None:
    """Times by the next-ready rule, in a blink: what holds before anything was searched for. None where it finds none,
    or what it does not look at is asked for (setting up, cleaning up, cups)."""
    steps_at: StepsAt = steps if callable(steps) else lambda _: steps
    longest = max((to - begin for begin, to in asked.sessions(MAX_DAYS // 4)), default=0)
    return _times_by_rule(_fitting(steps_at, longest, asked), asked, ())


def _times_by_rule(
    steps_at: StepsAt, asked: ScheduleRequest, notes: tuple[str, ...], least: int = 1
) -> Schedule | None:
    """The times that the next-ready rule finds for at least so many jobs."""
    for days in HORIZONS_DAYS:
        laid = build_jobs(steps_at, asked, days)
        if len(laid.jobs) < least:
            return None
        within = max(tails(laid.jobs)) < days * 1440  # no use in looking where the waits alone are longer
        found = by_rule(laid, asked) if within else None
        if found is not None:
            return _made(laid, found, asked, (*notes, *laid.notes))
    return None


def _due(
    steps_at: StepsAt,
    asked: ScheduleRequest,
    effort: float,
    on_progress: OnProgress | None,
    stop: Stop,
    notes: tuple[str, ...],
) -> Schedule:
    """With a date for each scene: as many kept as can be, the others as little late as can be, and told which."""
    scheduled = None
    for days in (28, 112):
        laid = build_jobs(steps_at, asked, days)
        found = solve(laid, asked, effort, on_progress, stop=stop)
        if found is not None:
            scheduled = _made(laid, found, asked, (*notes, *laid.notes))
            break
    if scheduled is None:
        scheduled = _scheduled(steps_at, replace(asked, due={}), effort, on_progress, stop, notes)
    late = []
    for slug, at in asked.due.items():
        ends = [asked.minutes(datetime.fromisoformat(one.ready)) for one in scheduled.steps if one.scene == slug]
        if ends and max(ends) > asked.minutes(at):
            over = spoken(max(ends) - asked.minutes(at))
            late.append(f"{slug} is ready {over} after the date it is wanted; not all dates can be kept")
    return replace(scheduled, status="infeasible", why=(*late, *(scheduled.why or ()))) if late else scheduled


def greedy_finish(steps: Sequence[Step] | StepsAt, asked: ScheduleRequest) -> datetime | None:
    """When all is ready if whatever can be started first is started first, in the order of the plan; None where that
    misses a window."""
    steps_at: StepsAt = steps if callable(steps) else lambda _: steps
    for days in (28, 112, MAX_DAYS):
        laid = build_jobs(steps_at, asked, days)
        found = next_ready(laid, float)
        if found:
            ends = [found[0][number] + job.takes + job.wait(found[1][number]) for number, job in enumerate(laid.jobs)]
            return asked.moment(max(ends, default=0))
    return None


def _refused(*why: str) -> Schedule:
    return Schedule("infeasible", None, None, 0, (), why)


def _state(job: Job, asked: ScheduleRequest) -> str:
    if job.step.gate:
        return "gate"
    for state, known in (
        ("skipped", asked.marks.skipped), ("done", asked.marks.done), ("begun", asked.marks.started),
    ):  # fmt: skip
        if job.step.id in known:
            return state
    return "planned"


def _made(laid: JobTable, solution: Solution, asked: ScheduleRequest, notes: tuple[str, ...]) -> Schedule:
    latest = latest_starts(laid, solution, asked, solution.finish)
    deciding = set(chain(laid, solution))
    timed, jobs = [], laid.jobs
    passed: list[str] = []
    for number, job in enumerate(jobs):
        at, session = solution.starts[number], max(solution.sessions[number], 0)
        closes = [
            solution.starts[window.of] + jobs[window.of].takes + most
            for window in job.windows
            if window.mend is None and (most := window.span(max(solution.sessions[window.of], 0))[1]) is not None
        ]
        for window in job.windows:
            late = at - solution.starts[window.of] - jobs[window.of].takes
            if window.mend is not None and window.passed_by(max(solution.sessions[window.of], 0), late):
                mend, minutes = window.mend, window.mend_min
                timed.append(
                    Timed(
                        mend.id, asked.iso(at - minutes), asked.iso(at), asked.iso(at), title=mend.title,
                        scene=mend.scene, step=mend.own_id,
                    )
                )  # fmt: skip
                passed.append(f"{job.step.do}: its window (“{window.what}”) has passed by then; scuff and wipe first")
        timed.append(
            Timed(
                job.step.id,
                asked.iso(at),
                asked.iso(at + job.takes),
                asked.iso(at + job.takes + job.wait(session)),
                asked.iso(min(closes)) if closes else None,
                _state(job, asked),
                asked.iso(latest[number]) if job.fixed is None else None,
                number in deciding,
                job.step.title,
                job.step.lift,
                job.step.scene,
                job.step.own_id,
            )
        )
    apart = tuple(
        f"{jobs[second].step.do}: too long after “{jobs[first].step.do}” for one bowl; mix it a bowl of its own"
        for first, second in solution.apart
    )
    passed += [
        f"{jobs[hot].step.do}: not before the vapour of “{jobs[fumes].step.do}” has gone, {CLEARS_MIN} min with the "
        "window open"
        for hot, fumes in waited_for(jobs, solution.starts)
    ]
    return Schedule(
        "optimal" if solution.optimal else "feasible",
        asked.iso(solution.finish),
        asked.iso(solution.bound),
        solution.used,
        tuple(timed),
        (*notes, *apart, *passed) or None,
        sum(job.takes for job in jobs if job.fixed is None),
    )


def _too_late(laid: JobTable, solution: Solution, asked: ScheduleRequest, due: int) -> list[str]:
    """Why a date is missed: by how much, and the longest waits in the chain that decides."""
    finish, late = asked.moment(solution.finish), spoken(solution.finish - due)
    before = f" less {asked.buffer_h:g} h to spare" if asked.buffer_h else ""
    said = [f"the earliest finish is {finish.isoformat(timespec='minutes')}, {late} after the deadline{before}"]
    waits = []
    for number in chain(laid, solution):
        job = laid.jobs[number]
        wait = job.wait(max(solution.sessions[number], 0))
        if wait >= 30:
            waits.append((wait, job.step.do))
    longest = sorted(waits, reverse=True)[:3]
    if longest:
        told = "; ".join(f"{spoken(wait)} after “{do}”" for wait, do in longest)
        said.append(f"what decides are the waits in one chain: {told}")
    if solution.optimal:
        said.append(f"no other order is earlier; a deadline of {finish:%a %d %b %H:%M} would hold")
    return said
