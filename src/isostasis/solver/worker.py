"""The child process: answers questions from standard input, one after the other, as JSON lines on standard output."""

from __future__ import annotations

import json
import sys
from queue import SimpleQueue
from threading import Thread
from typing import Any

from ..core.catalogue import shipped
from ..core.document import Scene, resolve
from ..core.fault import Faults
from ..core.forecast import Stopped, options, steps_of, with_things
from ..core.kinds import read
from ..core.schedule import StepsAt, schedule
from ..core.stages import cached_stage
from .question import asked_of


def _say(number: int, **said: Any) -> None:
    sys.stdout.write(json.dumps({"number": number, **said}) + "\n")
    sys.stdout.flush()


@cached_stage
def _scene(text: str) -> Scene:
    return resolve(read(text), shipped())


@cached_stage
def _steps(texts: tuple[tuple[str, str], ...]) -> StepsAt:
    """Kept from one question to the next: while only marks and hours change, no plan is made again."""
    return steps_of({slug: _scene(text) for slug, text in texts})


def answer(said: dict[str, Any], queue: SimpleQueue[str]) -> None:
    """One question: the schedule, then what would buy time, until another question comes."""
    number = said["number"]
    try:
        asked = asked_of(said)
        texts = tuple((slug, json.dumps(data)) for slug, data in said["scenes"].items())
        scenes = {slug: _scene(text) for slug, text in texts}
        things = with_things(asked, scenes)
        steps = _steps(texts)
        made = schedule(steps, things, tell=lambda best, bound: _say(number, best=best, bound=bound))
        _say(number, made=made.kept())
        for option in options(scenes, asked, made, steps, stop=lambda: not queue.empty()):
            _say(number, option={"name": option.name, "finish": option.finish, "gained_h": option.gained_h,
                                 "note": option.note})  # fmt: skip
    except Stopped:
        pass  # another question is waiting
    except Faults as faults:
        _say(number, wrong=" ".join(str(one) for one in faults.faults))
    _say(number, end=True)


def main() -> None:
    """Until standard input ends."""
    queue: SimpleQueue[str] = SimpleQueue()

    def listen() -> None:
        for line in sys.stdin:
            queue.put(line)
        queue.put("")

    Thread(target=listen, daemon=True).start()
    while line := queue.get():
        answer(json.loads(line), queue)


if __name__ == "__main__":
    main()
