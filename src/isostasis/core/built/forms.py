"""Forms that were made: cut, glued, cast, just as they are planned now, or otherwise."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..document import ResolvedScene
from ..document.built import Built
from ..document.scene import Form

NOT_SHAPE = {"name", "after", "place", "off"}  # fields by which a form that was made does not differ


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

    def free(self, step: str) -> str:
        """The step's id, or with a number behind it where a step of that id was done."""
        if step not in self.used:
            return step
        return next(name for number in range(2, 10_000) if (name := f"{step}-{number}") not in self.used)
