"""The depths in which pours are laid, from the plan, for drawing."""

from __future__ import annotations

from ...core.plan import Plan


def pour_depths(plan: Plan) -> dict[str, tuple[float, ...]]:
    """Depths of each pour's lifts in mm, from the bed up."""
    return {
        name: tuple(layer.depth_mm.number for layer in lift.layers)
        for name, lift in plan.lifts.items()
        if lift.pools is not None
    }
