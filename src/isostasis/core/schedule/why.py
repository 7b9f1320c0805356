"""Why a plan cannot be kept, in the user's words: which window, which evening, which wait, and the smallest change that
would free it."""

from __future__ import annotations

from dataclasses import replace

from ..units import duration
from .jobs import ScheduleRequest, StepsAt, build_jobs
from .solve import Stop, never, solve


def spoken(minutes: int) -> str:
    """Minutes as people say a span."""
    return " ".join(duration(minutes / 60))


def missed_windows(
    steps_at: StepsAt, asked: ScheduleRequest, days: int, effort: float, stop: Stop = never
) -> list[str]:
    """What stands in the way where no schedule fits: pins, steps without any session, or the windows that must be
    missed, each with a session that would free it (tried, not guessed)."""
    laid = build_jobs(steps_at, asked, days)
    if not laid.sessions:
        return ["there are no bench hours within the next months; write some under bench hours"]
    said = []
    for job in laid.jobs:
        if job.fixed is None and not job.pieces:
            said.append(_nowhere(job.step.id, job.step.do, job.step.place, job.takes, asked))
    if said:
        return said
    loose = solve(laid, asked, effort, loose=True, stop=stop)
    if loose is None:
        if asked.pins:
            return ["what it waits for is not ready by then; drop it later, or let it go where it fits"]
        return [
            f"the steps do not fit into your bench hours within {days} days; longer or more sessions would free them"
        ]
    for (number, which), late in sorted(loose.late.items()):
        job = laid.jobs[number]
        window = job.windows[which]
        of = laid.jobs[window.of]
        end = loose.starts[window.of] + of.takes
        first, last = window.span(max(loose.sessions[window.of], 0))
        opens, closes = asked.moment(end + first), asked.moment(end + (last or 0))
        text = (
            f"{job.step.do}: {window.what} must come within {spoken(last or 0)} of “{of.step.do}”, and your hours "
            f"leave it {spoken(late)} late"
        )
        wanted = replace(asked, extra=(*asked.extra, (opens, asked.moment(end + (last or 0) + job.takes))))
        freed = solve(build_jobs(steps_at, wanted, days), wanted, effort, stop=stop)
        if freed is not None:
            text += (
                f"; {spoken(job.takes)} at the bench between {opens:%a %d %b %H:%M} and {closes:%H:%M} would free it"
            )
        elif len(loose.late) > 1:
            text += f"; hands are wanted between {opens:%a %d %b %H:%M} and {closes:%H:%M}"
        said.append(text)
    return said or ["its windows cannot all be kept in your bench hours; longer sessions would free them"]


def _nowhere(step_id: str, do: str, place: str | None, takes: int, asked: ScheduleRequest) -> str:
    """A step that fits into no session at all."""
    if (pin := asked.pins.get(step_id)) is not None:
        local = asked.moment(asked.minutes(pin))
        inside = any(begin <= asked.minutes(pin) < to for begin, to in asked.sessions(90))
        if not inside:
            return f"{do}: {local:%a %d %b %H:%M} lies outside your bench hours; drop it on a white column"
        return f"{do} takes {spoken(takes)}, and less is left of that session after {local:%H:%M}; drop it earlier"
    where = f" when one can work in “{place}”" if place else ""
    return f"{do} takes {spoken(takes)}, and no session leaves that{where}; a longer session then would free it"
