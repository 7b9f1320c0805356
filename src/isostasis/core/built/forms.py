"""Forms that were made: cut, glued, cast, just as they are planned now, or otherwise."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from itertools import count
from typing import Any

from ..document import ResolvedScene
from ..document.built import Built
from ..document.scene import Form

NOT_SHAPE = {"name", "after", "place", "off", "glue"}  # by these a form that was made does not differ


def _shape(form: Form) -> dict[str, Any]:
    return form.model_dump(exclude=NOT_SHAPE)


@dataclass(frozen=True, eq=False)
class FormsMade:
    """What was done to forms: by kind of work, form and course the record, and the form as it then was. `used`: ids of
    steps that were done, which are never given to others."""

    records: dict[tuple[str, str, int], tuple[Built, Form]]
    used: frozenset[str]

    @classmethod
    def of(cls, scene: ResolvedScene) -> FormsMade:
        """Those of a scene; of what was made twice the latest counts."""
        grounds = {ground.id: {form.id: form for form in ground.forms} for ground in scene.built_on}
        records = {}
        for entry in scene.built:
            for name in entry.forms:
                form = grounds.get(entry.ground, {}).get(name)
                if form is not None:
                    records[entry.kind, name, entry.course] = entry, form
        return cls(records, frozenset(entry.step for entry in scene.built))

    def record(self, kind: str, form: Form, course: int = 1) -> Built | None:
        """The record of a work on a form, if it was made just as it is planned; else None."""
        found = self.records.get((kind, form.id, course))
        return found[0] if found and _shape(found[1]) == _shape(form) else None


def free_step(step: str, used: Collection[str]) -> str:
    """A step's id, or with a number behind it where that is used.

    >>> free_step("form-bank", {"form-bank", "form-bank-2"})
    'form-bank-3'
    """
    names = (step if number == 1 else f"{step}-{number}" for number in count(1))
    return next(name for name in names if name not in used)
