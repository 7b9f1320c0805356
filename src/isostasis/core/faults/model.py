"""What goes wrong, and why: symptoms with their causes and the tests that tell two apart, as the rules have them."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Annotated

from pydantic import Field

from ..catalogue import Entry
from ..catalogue.model import Id

Words = Annotated[str, Field(min_length=3, max_length=240)]


class Cause(Entry):
    """Why it may have happened: how often among its symptom's causes before anything is known (`prior`), the facts that
    speak for it and against it when they hold, those that tell most (`strong`), why, what saves it, what to do
    otherwise, and what of that can be changed in the plan."""

    code: Id
    title: Words
    prior: Annotated[float, Field(gt=0, le=10)]
    for_: Annotated[tuple[str, ...], Field(alias="for", min_length=1)]
    against: tuple[str, ...] = ()
    strong: tuple[str, ...] = ()
    reason: Words
    rescue: Annotated[tuple[Words, ...], Field(min_length=1)]
    next: Annotated[tuple[Words, ...], Field(min_length=1)]
    change: str = ""
    source: Words = "craft practice"


class Apart(Entry):
    """A test that tells two causes apart: what to do, and what is seen where it is the first or the second."""

    between: tuple[Id, Id]
    do: Words
    first: Words
    second: Words


class Symptom(Entry):
    """Something that went wrong, the kinds of lifts on which it is seen, why it may be, and how to tell."""

    code: Id
    title: Words
    kinds: tuple[str, ...]
    causes: Annotated[tuple[Cause, ...], Field(min_length=2)]
    tests: Annotated[tuple[Apart, ...], Field(min_length=1)]

    def test(self, one: str, other: str) -> Apart | None:
        """The test between two causes; None where there is none."""
        return next((test for test in self.tests if {one, other} == set(test.between)), None)


@cache
def symptoms() -> dict[str, Symptom]:
    """Every symptom by its code. A rule that does not fit its model raises at once."""
    data = tomllib.loads((files(__package__) / "symptoms.toml").read_text("utf-8"))["symptom"]
    found = [Symptom.model_validate(entry) for entry in data]
    return {one.code: one for one in found}
