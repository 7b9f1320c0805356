"""What the steps of a scene ask of the shelf: what is laid, sheets by their cutting plan, what is used up beside."""

from __future__ import annotations

from dataclasses import replace

from ..catalogue import Catalogue
from ..document import ResolvedScene
from ..plan import Plan, Step, Use
from ..terrain.foam import panels_for
from .sundries import sundry_uses

FREE = frozenset({"water"})  # comes from the tap


def asked(scene: ResolvedScene, plan: Plan, known: Catalogue) -> list[Use]:
    """What the steps that are not done take off the shelf, in the order of their materials' uses."""
    uses = [use for use in plan.uses if use.material not in FREE]
    return [*_in_panels(scene, plan, uses), *sundry_uses(scene, plan, known.sundries, known.materials)]


def taken_by(scene: ResolvedScene, plan: Plan, step: Step, known: Catalogue) -> list[Use]:
    """What one step takes; the first of a scene also what must be there before it. What lasts for a whole scene stays
    where it is."""
    first = not scene.built
    uses = [use for use in plan.uses if use.material not in FREE and (use.step == step.id or (first and not use.step))]
    opened_by: dict[str, str] = {}  # whose cups a bowl is that several steps are fed from
    for each in plan.steps:
        for batch in each.batch:
            opened_by.setdefault(batch, each.id)
    own = tuple(batch for batch in step.batch if opened_by.get(batch) == step.id)
    alone = replace(plan, steps=(replace(step, built=False, batch=own),))
    rules = [rule for rule in known.sundries if rule.each != "scene"]
    return [*_in_panels(scene, plan, uses), *sundry_uses(scene, alone, rules, known.materials)]


def _in_panels(scene: ResolvedScene, plan: Plan, uses: list[Use]) -> list[Use]:
    """The uses, sheets by so much more than the area of their pieces as whole panels are more."""
    sheets = {one.id for one in scene.materials if one.panel_mm is not None}
    if not any(use.material in sheets for use in uses):
        return uses
    shares = {}
    for name, panels in panels_for(scene, plan.built).items():
        if panels.pieces_mm2 > 0:
            shares[name] = panels.count * panels.size_mm[0] * panels.size_mm[1] / panels.pieces_mm2
    return [use.times(shares.get(use.material, 1.0)) for use in uses]
