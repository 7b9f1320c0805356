"""The schedule, through the solver's own process."""

from __future__ import annotations

import time
from typing import Any

from .marks import Mark


def measure() -> list[Mark]:
    """Hollin Delf over two weeks with warm days and cold nights, through the solver's process: from nothing, and again
    once a step is marked; and the finish of every demo scene against the next-ready rule's."""
    from datetime import UTC, datetime, timedelta
    from threading import Event

    from isostasis.core.catalogue import shipped
    from isostasis.core.document import resolve
    from isostasis.core.reading import read
    from isostasis.core.schedule import Marks, Schedule, greedy_finish
    from isostasis.core.schedule.forecast import steps_of
    from isostasis.core.schedule.requests import ClockRequest
    from isostasis.demo import HOURS, SCENES, document
    from isostasis.solver import Solver
    from isostasis.solver.question import question, request_of

    start = datetime(2027, 3, 1, 12, tzinfo=UTC)
    turns = [start + timedelta(hours=10 * number + 4 * (number // 2)) for number in range(56)]
    series = [
        {"at": at.isoformat(), "temp_c": 21.0 - 6.0 * (number % 2) - 0.1 * (number // 2), "rh": 0.5}
        for number, at in enumerate(turns)
    ]
    scenes = {name: document(name) for name in SCENES}
    scenes["hollin-delf"] = {**scenes["hollin-delf"], "room": {"temp_c": 21.0, "rh": 0.5, "series": series}}
    solver = Solver()

    def asked(name: str, at: datetime, marks: Marks) -> tuple[float, Schedule]:
        put = question({name: scenes[name]}, HOURS, "UTC", ClockRequest(), {name: marks}).begun(at)
        heard, there = [], Event()

        def answered(made: dict[str, Any]) -> None:
            heard.append(made)
            there.set()

        begin = time.perf_counter()
        asking = solver.ask(name, put, answered)
        while not there.wait(0.5):
            if asking.wrong:
                raise SystemExit(asking.wrong)
        return time.perf_counter() - begin, Schedule.of(heard[0])

    first, made = asked("hollin-delf", start, Marks())
    assert made.finish and made.bound
    whole = datetime.fromisoformat(made.finish) - start
    gap = (datetime.fromisoformat(made.finish) - datetime.fromisoformat(made.bound)) / whole
    done = made.steps[0]
    again, _ = asked("hollin-delf", start + timedelta(hours=8), Marks(done={done.id: start + timedelta(hours=7.5)}))
    marks = [
        Mark(f"schedule of Hollin Delf, {len(made.steps)} steps, process and all", first, 10, "s"),
        Mark("its gap to the bound", gap, 0.02, ""),
        Mark("replanned after a step is marked", again, 3, "s"),
    ]
    for name in SCENES:
        found = made if name == "hollin-delf" else asked(name, start, Marks())[1]
        put = question({name: scenes[name]}, HOURS, "UTC", ClockRequest(), {}).begun(start)
        scene = resolve(read(scenes[name]), shipped())
        rule = greedy_finish(steps_of({name: scene}), request_of(put))
        assert found.finish
        days = (datetime.fromisoformat(found.finish) - start) / timedelta(days=1)
        # The rule may miss a window altogether; then the schedule is counted against itself.
        most = days if rule is None else (rule - start) / timedelta(days=1)
        missed = " (the rule misses a window)" if rule is None else ""
        marks.append(Mark(f"days to finish {name}, of the next-ready rule's{missed}", days, most, "d"))
    solver.close()
    return marks
