"""What to beware of, and at which steps."""

from __future__ import annotations

from ..catalogue import Rules
from .model import PlanCaution, Step


def cautions_of(rules: Rules, steps: tuple[Step, ...]) -> tuple[PlanCaution, ...]:
    """The cautions that a hazard of some step calls for, in the order of the rules."""
    told = []
    for caution in rules.cautions:
        at = tuple(step.id for step in steps if caution.hazard in step.hazards)
        if at:
            told.append(PlanCaution(caution.code, caution.text, caution.reason, at))
    return tuple(told)
