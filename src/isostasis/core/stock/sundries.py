"""What steps use up or cannot do without beside what is laid: gloves, cups, tape, brushes."""

from __future__ import annotations

from collections.abc import Iterable

from ..catalogue import Material, Sundry
from ..document import ResolvedScene
from ..plan import Plan, Use

CORNERS = 1.1  # of the tape, at ends and corners; craft estimate
TAPE_MM = 50.0  # wide, where its label does not say


def sundry_uses(scene: ResolvedScene, plan: Plan, rules: Iterable[Sundry], materials: dict[str, Material]) -> list[Use]:
    """What the steps that are not done use up, by the rules."""
    steps = [step for step in plan.steps if not step.built]
    uses: list[Use] = []
    for rule in rules:
        if rule.material not in materials:
            continue
        meant = [step for step in steps if step.kind in rule.kinds or step.hazards & {*rule.hazards}]
        mixed: set[str] = set()
        for step in meant if rule.each != "scene" else meant[:1]:
            amount, unit = float(rule.count), "piece"
            if rule.each == "batch":
                fresh = [batch for batch in step.batch if batch not in mixed]
                mixed.update(fresh)
                amount *= len(fresh)
            elif rule.each == "tape":
                roll = materials[rule.material].roll_mm
                amount, unit = step.tape_mm * CORNERS * (roll[1] if roll else TAPE_MM) * scene.copies, "mm2"
            if amount > 0:
                uses.append(Use(rule.material, None, amount, unit, rule.reason, step.id))
    return uses
