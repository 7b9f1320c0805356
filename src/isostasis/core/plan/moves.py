"""What another plan of the same scene moves: each figure that a caster would notice, before and after."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..document import ResolvedScene
from ..figure import Figure
from ..lifts.estimate import LiftPlan
from .model import Plan

LEAST = 0.005  # of a figure, below which nobody notices


@dataclass(frozen=True, slots=True)
class Move:
    """One figure of a spot, before and after; None where there is none to give (it never hardens)."""

    spot: str
    what: str
    unit: str
    before: float | None
    after: float | None


def _figures(lift_plan: LiftPlan, batches: int) -> Iterator[tuple[str, str, float | None]]:
    """(what, unit, value) of one lift."""
    levels = lift_plan.kind == "pour"
    if lift_plan.layers:
        yield ("lifts" if levels else "layers"), "", float(len(lift_plan.layers))
    peaks = [layer.peak_c.value for layer in lift_plan.layers if layer.peak_c and layer.peak_c.value is not None]
    if peaks:
        yield "hottest", "degC", max(peaks)
    yield "to mix", lift_plan.mix_ml.unit, lift_plan.mix_ml.value
    yield "mass", "g", lift_plan.mass_g.value
    yield ("pour within" if levels else "work within"), "h", lift_plan.hours.workable.value
    yield "next lift after", "h", lift_plan.hours.next.value
    yield "hard through after", "h", lift_plan.hours.full.value
    yield "batches", "", float(batches)


def moves(scene: ResolvedScene, before: Plan, after: Plan) -> tuple[Move, ...]:
    """Figures that differ between two plans of one scene, in the order of its lay-ups; batches and needs as lifts have
    them. What one of them does not have is left out."""
    moved = []
    for patch in scene.patches:
        for lift in patch.lifts:
            if lift.id not in before.lifts or lift.id not in after.lifts:
                continue
            old, new = (
                {what: (unit, value) for what, unit, value in _figures(plan.lifts[lift.id], _batches(plan, lift.id))}
                for plan in (before, after)
            )
            for what, (unit, was) in old.items():
                now: float | None = new.get(what, (unit, None))[1]
                if _differ(was, now):
                    moved.append(Move(patch.spot(lift), what, unit, was, now))
    for need in before.buy:
        needed = next((one.need for one in after.buy if one.material == need.material), Figure(0.0, need.unit)).value
        if _differ(need.need.value, needed):
            moved.append(Move("", f"needs {need.material}", need.unit, need.need.value, needed))
    return tuple(moved)


def _batches(plan: Plan, lift: str) -> int:
    return sum(any(feed.lift == lift for feed in batch.feeds) for batch in plan.batches)


def _differ(was: float | None, now: float | None) -> bool:
    if was is None or now is None:
        return was is not now
    return abs(was - now) > LEAST * max(abs(was), abs(now))
