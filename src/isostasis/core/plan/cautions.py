"""What to beware of, and at which steps."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from typing import TypeVar

from ..catalogue import Rules
from ..catalogue.model import Caution
from .model import PlanCaution, Step

Dangerous = TypeVar("Dangerous", Caution, PlanCaution)


def cautions_of(rules: Rules, steps: tuple[Step, ...]) -> tuple[PlanCaution, ...]:
    """The cautions that a hazard of some step calls for, in the order of the rules."""
    cautions = []
    for caution in rules.cautions:
        at = tuple(step.id for step in steps if caution.hazard in step.hazards)
        if caution.repeated:
            at = at[1:]
        if at:
            cautions.append(
                PlanCaution(caution.code, caution.text, caution.reason, at, caution.danger, caution.happened)
            )
    return tuple(cautions)


def worst_first(found: Iterable[Dangerous]) -> list[Dangerous]:
    """Cautions, the greatest danger first, else in their own order."""
    return sorted(found, key=lambda one: -one.danger)


Row = TypeVar("Row", bound=Hashable)


def told_once(rows: Iterable[tuple[Row, tuple[PlanCaution, ...]]]) -> dict[Row, list[tuple[PlanCaution, bool]]]:
    """For the rows of one visit the cautions of each, and whether an earlier row has told it already."""
    seen: set[str] = set()
    by_row: dict[Row, list[tuple[PlanCaution, bool]]] = {}
    for row, cautions in rows:
        by_row[row] = [(caution, caution.code in seen) for caution in cautions]
        seen |= {caution.code for caution in cautions}
    return by_row
