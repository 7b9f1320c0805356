"""The child process: answers questions from standard input, one after the other, as JSON lines on standard output."""

from __future__ import annotations

import json
import os
import sys
from dataclasses import asdict
from queue import SimpleQueue
from threading import Thread
from typing import Any

from ..core.catalogue import shipped
from ..core.document import ResolvedScene, resolve
from ..core.fault import Faults
from ..core.reading import read
from ..core.schedule import StepsAt, Stopped, schedule
from ..core.schedule.forecast import options, steps_of, with_things
from ..core.stages import cached_stage
from .question import SolverQuestion, request_of


def _say(number: int, **said: Any) -> None:
    sys.stdout.write(json.dumps({"number": number, **said}) + "\n")
    sys.stdout.flush()


@cached_stage
def _scene(text: str) -> ResolvedScene:
    return resolve(read(text), shipped())


@cached_stage
def _steps(texts: tuple[tuple[str, str], ...]) -> StepsAt:
    """Kept from one question to the next: while only marks and hours change, no plan is made again."""
    return steps_of({slug: _scene(text) for slug, text in texts})


class Inbox:
    """Questions as they come: which is next, and whether a newer one waits."""

    def __init__(self) -> None:
        self._waiting: SimpleQueue[dict[str, Any]] = SimpleQueue()
        self._newest: dict[str, int] = {}

    def put(self, said: dict[str, Any]) -> None:
        """One more question."""
        self._newest[said["key"]] = said["number"]
        self._waiting.put(said)

    def take(self) -> dict[str, Any]:
        """The next question, once there is one."""
        return self._waiting.get()

    @property
    def empty(self) -> bool:
        """Whether no question waits."""
        return self._waiting.empty()

    def superseded(self, said: dict[str, Any]) -> bool:
        """Whether a newer question stands under the same key."""
        return bool(self._newest[said["key"]] != said["number"])


def answer(said: dict[str, Any], inbox: Inbox) -> None:
    """One question: the schedule, unless a newer one stands under its key; then what would buy time, until any other
    question comes."""
    number = said["number"]
    try:
        if inbox.superseded(said):
            raise Stopped
        put = SolverQuestion.model_validate(said["question"])
        asked = request_of(put)
        texts = tuple((slug, json.dumps(data)) for slug, data in put.scenes.items())
        scenes = {slug: _scene(text) for slug, text in texts}
        things = with_things(asked, scenes)
        steps = _steps(texts)
        scheduled = schedule(
            steps,
            things,
            on_progress=lambda best, bound: _say(number, best=best, bound=bound),
            stop=lambda: inbox.superseded(said),
            on_first=lambda first: _say(number, first=first.kept()),
        )
        _say(number, made=scheduled.kept())
        for option in options(scenes, asked, scheduled, shipped(), steps, stop=lambda: not inbox.empty):
            _say(number, option=asdict(option))
    except Stopped:
        pass  # another question is waiting
    except Faults as faults:
        _say(number, wrong=" ".join(str(one) for one in faults.faults))
    _say(number, end=True)


def main() -> None:
    """Until standard input ends."""
    inbox = Inbox()

    def listen() -> None:
        for line in sys.stdin:
            inbox.put(json.loads(line))
        os._exit(0)  # whoever asked is gone, and with it whoever would hear an answer: a search ends too

    Thread(target=listen, daemon=True).start()
    import ortools.sat.python.cp_model  # noqa: F401 - takes a second: while nobody waits for an answer

    while True:
        answer(inbox.take(), inbox)


if __name__ == "__main__":
    main()
