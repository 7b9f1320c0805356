"""What the steps of a scene ask of the shelf: what is laid, sheets by their cutting plan, what is used up beside."""

from __future__ import annotations

from ..catalogue import Catalogue
from ..document import ResolvedScene
from ..plan import Plan, Use
from ..terrain.foam import foam_lists
from .sundries import sundry_uses

FREE = frozenset({"water"})  # comes from the tap


def asked(scene: ResolvedScene, plan: Plan, known: Catalogue, lasting: bool = True) -> list[Use]:
    """What the steps that are not done take off the shelf; what lasts for a whole scene only where `lasting`."""
    rules = [rule for rule in known.sundries if lasting or rule.each != "scene"]
    panels = _panels(scene, plan)
    uses = [use.times(panels.get(use.material, 1.0)) for use in plan.uses if use.material not in FREE]
    return [*uses, *sundry_uses(scene, plan, rules, known.materials)]


def _panels(scene: ResolvedScene, plan: Plan) -> dict[str, float]:
    """By how much more than the area of its pieces a sheet material takes: its cutting plan is in whole panels."""
    return {
        name: found.count.number * found.panel_mm[0] * found.panel_mm[1] / found.used_mm2.number
        for name, found in foam_lists(scene, plan.built).items()
        if found.used_mm2.number > 0
    }
