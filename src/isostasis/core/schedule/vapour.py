"""Vapour and flame kept apart over all spots and scenes that share a pair of hands.

Source: docs/science.md, schedule; 30 min with the window open, default.
"""

from __future__ import annotations

from collections.abc import Mapping

from .jobs import Job

VAPOUR = frozenset({"alcohol", "solvent"})
HOT = frozenset({"flame", "hot-wire", "hot-glue"})
CLEARS_MIN = 30


def gives_off(job: Job) -> bool:
    """Whether a job leaves vapour in the room that can catch fire."""
    return bool(job.step.hazards & VAPOUR)


def is_hot(job: Job) -> bool:
    """Whether a job has a flame, a hot wire or a hot nozzle in it."""
    return bool(job.step.hazards & HOT)


def pairs(jobs: list[Job]) -> list[tuple[int, int]]:
    """(job that gives off vapour, hot job) of which one at least is still to be planned; what is both counts for
    neither with itself."""
    fumes = [number for number, job in enumerate(jobs) if gives_off(job)]
    hot = [number for number, job in enumerate(jobs) if is_hot(job)]
    return [
        (one, other)
        for one in fumes
        for other in hot
        if one != other and (jobs[one].fixed is None or jobs[other].fixed is None)
    ]


def clear_from(jobs: list[Job], number: int, at: int, placed: Mapping[int, int]) -> int | None:
    """The minute from which a job is clear of what is `placed` (job: start) and stands in its way at `at`; None if
    nothing does."""
    end = at + jobs[number].takes
    for other, begin in placed.items():
        over = begin + jobs[other].takes
        if is_hot(jobs[number]) and gives_off(jobs[other]) and begin < end and at < over + CLEARS_MIN:
            return over + CLEARS_MIN
        if gives_off(jobs[number]) and is_hot(jobs[other]) and at < over and begin < end + CLEARS_MIN:
            return over
    return None


def waited_for(jobs: list[Job], starts: list[int]) -> list[tuple[int, int]]:
    """(hot job, job whose vapour it waits for) where that is why it does not begin sooner."""
    return [
        (hot, fumes)
        for fumes, hot in pairs(jobs)
        if jobs[hot].fixed is None and starts[hot] == starts[fumes] + jobs[fumes].takes + CLEARS_MIN
    ]
