"""What a starter is: a kind of scene, two to five questions, and a function from the answers to a scene document."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from ..fault import Fault, Faults

Answers = Mapping[str, Any]
Document = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Question:
    """One question. A "size" in mm lies within `low` to `high`, a "count" too; a "choice" is one of `options`, each
    with the words that it is offered in."""

    name: str
    label: str
    start: Any
    kind: Literal["size", "count", "choice"] = "size"
    low: float = 0.0
    high: float = 0.0
    options: tuple[tuple[str, str], ...] = ()

    def read(self, answer: Any) -> Any:
        """The answer as it holds. Raises ValueError for what is none of those that there are."""
        if self.kind == "choice":
            if str(answer) not in dict(self.options):
                raise ValueError(f"choose one of {', '.join(words for _, words in self.options)}")
            return str(answer)
        value = float(answer)
        if self.kind == "count" and value != int(value):
            raise ValueError("write a whole number")
        if not self.low <= value <= self.high:
            raise ValueError(f"write {self.low:g} to {self.high:g}" + (" mm" if self.kind == "size" else ""))
        return int(value) if self.kind == "count" else value


@dataclass(frozen=True, slots=True)
class Starter:
    """A kind of scene to begin from."""

    id: str
    title: str
    asks: str  # what is asked, in a few words
    name: str  # what a scene of it is called, unless it is named
    questions: tuple[Question, ...]
    make: Callable[[Answers], Document]

    def document(self, answers: Answers, name: str = "") -> Document:
        """A whole scene document: what was not answered has its start. Raises Faults that name the questions."""
        values, faults = {}, []
        for question in self.questions:
            try:
                values[question.name] = question.read(answers.get(question.name, question.start))
            except (ValueError, TypeError, OverflowError) as wrong:
                said = str(answers.get(question.name))[:40]
                right = str(wrong) if str(wrong).startswith(("write", "choose")) else "write a number"
                faults.append(Fault(question.label, f"“{said}” cannot be made", right))
        if faults:
            raise Faults(faults)
        return {"isostasis": 1, "name": name or self.name, **self.make(values)}


def sizes(width: float, depth: float, low: float = 60, high: float = 6000) -> tuple[Question, Question]:
    """The two sizes of a rectangular base."""
    return (
        Question("width", "width, west to east", width, low=low, high=high),
        Question("depth", "depth, south to north", depth, low=low, high=high),
    )
