"""How much later each step of a schedule could start, the others keeping their order, and what decides its finish."""

from __future__ import annotations

from .greedy import followers
from .jobs import JobTable, ScheduleRequest
from .solve import Solution


def latest_starts(laid: JobTable, solution: Solution, asked: ScheduleRequest, limit: int) -> list[int]:
    """The latest minute at which each job can start if all is to be ready by `limit`: from the last to the first, each
    as late as its hours, what waits for it, its windows and the pair of hands in this order let it. Never earlier than
    planned."""
    jobs = laid.jobs
    order = sorted((number for number, job in enumerate(jobs) if job.fixed is None), key=lambda n: solution.starts[n])
    latest, after = list(solution.starts), followers(jobs)
    for index in reversed(range(len(order))):
        number = order[index]
        job = jobs[number]
        hands = latest[order[index + 1]] - job.takes if index + 1 < len(order) else limit
        best = solution.starts[number]
        for piece in job.pieces:
            at = min(piece.last, hands)
            if at < piece.first or at <= best:
                continue
            end, wait = at + job.takes, job.wait(piece.session)
            most = [at, at + limit - (end + wait)]
            for other in after[number]:
                later = jobs[other]
                if later.fixed is not None:
                    continue
                if number in later.after:
                    most.append(at + latest[other] - (end + wait))
                for window in later.windows:
                    if window.of == number:
                        most.append(at + latest[other] - (end + window.span(piece.session)[0]))
            for window in job.windows:
                close = window.span(solution.sessions[window.of])[1]
                if close is not None and window.mend is None:
                    most.append(solution.starts[window.of] + jobs[window.of].takes + close)
            at = min(most)
            if at >= piece.first and at > best:
                best = at
        latest[number] = best
    return latest


def chain(laid: JobTable, solution: Solution) -> list[int]:
    """The jobs that decide the finish: from the last to be ready back to the first, each waited for by the next."""
    jobs = laid.jobs
    ready = [
        solution.starts[number] + job.takes + job.wait(max(solution.sessions[number], 0))
        for number, job in enumerate(jobs)
    ]
    if not jobs:
        return []
    at: int | None = max(range(len(jobs)), key=lambda number: ready[number])
    out: list[int] = []
    while at is not None:
        out.append(at)
        job = jobs[at]
        before = [(ready[one], one) for one in job.after]
        before += [
            (
                solution.starts[window.of]
                + jobs[window.of].takes
                + window.span(max(solution.sessions[window.of], 0))[0],
                window.of,
            )
            for window in job.windows
        ]
        at = max(before)[1] if before else None
        if at in out:
            break
    return out[::-1]
