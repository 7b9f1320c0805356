"""Schedules in a process of their own, so that a cancel or a crash harms nothing: `Solver` asks, `worker` answers.

One child process takes questions one after the other through its standard input, as JSON lines, and answers on its
standard output: progress, the schedule, then one after the other the changes that would buy time. A newer question ends
the search for such changes, one under the same key the whole search; a cancel ends the process.
"""

from __future__ import annotations

import atexit
import json
import logging
import subprocess
import sys
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Lock, Thread
from typing import Any

from .question import SolverQuestion

STOPPED = "It was told to stop looking. The last schedule stands."
OnAnswer = Callable[[dict[str, Any]], None]
OnOptions = Callable[[list[dict[str, Any]]], None]


class Unwanted(Exception):  # noqa: N818 - reads as what it is
    """An answer that has no place any more; why, in a sentence. Raised by whoever was to keep it."""


@dataclass
class SolverJob:
    """One question and how far it is: `best` and `bound` minutes of the finish while it is searched for, `first` times
    that hold where that takes long, the schedule once it is there (as `Schedule.kept` gives them), what would buy time,
    what went wrong in a sentence. `on_answer` hears of both."""

    question: SolverQuestion
    on_answer: OnAnswer
    on_options: OnOptions
    about: str = ""
    best: int | None = None
    bound: int | None = None
    first: dict[str, Any] | None = None
    made: dict[str, Any] | None = None
    options: list[dict[str, Any]] = field(default_factory=list)
    wrong: str | None = None
    over: bool = False

    @property
    def solving(self) -> bool:
        """Whether the schedule itself is still searched for."""
        return self.made is None and self.wrong is None and not self.over


class Solver:
    """Asks a child process for schedules; one question under a key at a time. Safe to use from several threads."""

    def __init__(self, command: tuple[str, ...] = (sys.executable, "-m", "isostasis.solver.worker")) -> None:
        self._command = command
        self._lock = Lock()
        self._child: subprocess.Popen[str] | None = None
        self._asked: dict[str, SolverJob] = {}
        self._number = 0
        self._by_number: dict[int, SolverJob] = {}
        atexit.register(self.close)

    def start(self) -> None:
        """Start the child process before anything is asked, so that the first answer need not wait for it."""
        with self._lock:
            self._running()

    def ask(
        self,
        key: str,
        question: SolverQuestion,
        on_answer: OnAnswer,
        on_options: OnOptions = lambda _: None,
        about: str = "",
    ) -> SolverJob:
        """Ask; what was asked under this key before is forgotten. `on_answer` and `on_options` are called from a thread
        of the solver's own; `about` is kept for whoever asks."""
        with self._lock:
            asking = SolverJob(question, on_answer, on_options, about)
            earlier = self._asked.get(key)
            if earlier is not None:
                earlier.over = True
            self._asked[key] = asking
            self._number += 1
            self._by_number[self._number] = asking
            child = self._running()
            try:
                assert child.stdin is not None
                child.stdin.write(
                    json.dumps({"number": self._number, "key": key, "question": question.model_dump(mode="json")})
                    + "\n"
                )
                child.stdin.flush()
            except OSError:
                asking.wrong = "The solver could not be started. Nothing was changed; try again."
            return asking

    def of(self, key: str) -> SolverJob | None:
        """What was asked last under a key."""
        with self._lock:
            return self._asked.get(key)

    def cancel(self, key: str) -> None:
        """Stop searching. The process ends; others who were asking are asked anew."""
        with self._lock:
            gone = self._asked.get(key)
            if gone is not None and not gone.over:
                gone.wrong, gone.over = STOPPED, True
            waiting = [one for one in self._by_number.values() if not one.over]
            self._by_number.clear()
            self._stop()
        for asking in waiting:
            other = next((name for name, one in self._asked.items() if one is asking), None)
            if other is not None:
                self.ask(other, asking.question, asking.on_answer, asking.on_options, asking.about)

    def close(self) -> None:
        """End the child process."""
        with self._lock:
            self._by_number.clear()
            self._stop()

    def _stop(self) -> None:
        child, self._child = self._child, None
        if child is not None:
            child.kill()
            child.wait()

    def _running(self) -> subprocess.Popen[str]:
        if self._child is None or self._child.poll() is not None:
            self._child = subprocess.Popen(
                self._command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, encoding="utf-8"
            )
            Thread(target=self._listen, args=(self._child,), daemon=True).start()
        return self._child

    def _listen(self, child: subprocess.Popen[str]) -> None:
        assert child.stdout is not None
        for line in child.stdout:
            said = json.loads(line)
            with self._lock:
                ended = "end" in said
                asking = self._by_number.pop(said["number"], None) if ended else self._by_number.get(said["number"])
            if asking is not None and not asking.over:
                try:
                    self._heard(asking, said)
                except Unwanted as gone:
                    asking.wrong, asking.over = str(gone), True
                except Exception:  # whatever keeps the answer failed; the next answers are listened to all the same
                    logging.getLogger(__name__).exception("an answer was lost")
                    asking.wrong, asking.over = "The schedule was found and could not be kept; ask again.", True
        with self._lock:
            if self._child is not child:
                return  # it was stopped on purpose
            lost = [one for one in self._by_number.values() if not one.over]
            self._by_number.clear()
            self._child = None
        for asking in lost:
            if asking.made is None:
                asking.wrong = "The solver stopped unexpectedly. The last schedule stands; ask again."
            asking.over = True

    def _heard(self, asking: SolverJob, said: dict[str, Any]) -> None:
        if "best" in said:
            asking.best, asking.bound = said["best"], said["bound"]
        elif "first" in said:
            asking.on_answer(said["first"])
            asking.first = said["first"]
        elif "made" in said:
            asking.on_answer(said["made"])
            asking.made = said["made"]
        elif "option" in said:
            asking.options.append(said["option"])
        elif "wrong" in said:
            asking.wrong, asking.over = said["wrong"], True
        elif "end" in said:
            if asking.options:
                asking.on_options(asking.options)
            asking.over = True
