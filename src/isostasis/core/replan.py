"""A plan that changed while the work was under way: what of it still stands, what became waste, what remains to do."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from .document.scene import Scene
from .plan import Plan, Step
from .units import number

SAME = 0.02  # share by which an amount may differ before it is told


@dataclass(frozen=True, slots=True)
class Done:
    """A step that was done, as it was planned then; `course` and `volume_ml` for layers of lifts."""

    step: str
    do: str
    lift: str | None = None
    course: int | None = None
    volume_ml: float | None = None


@dataclass(frozen=True, slots=True)
class ChangeNotice:
    """What became of work that was done: `code` waste, less, more or under."""

    code: str
    text: str


def layer_ml(plan: Plan, step: Step) -> float | None:
    """What a step lays, in place, ml for one copy; None for steps that lay no layer."""
    if step.lift is None or step.course is None:
        return None
    layers = plan.lifts[step.lift].layers
    return layers[step.course - 1].volume_ml.number if step.course <= len(layers) else None


def changes(scene: Scene, plan: Plan, done: Iterable[Done]) -> list[ChangeNotice]:
    """What is to be said of work that was done under an earlier plan, against the plan as it is now."""
    steps = {step.id: step for step in plan.steps}
    was = {one.step: one for one in done}
    told = []
    for one in was.values():
        if one.step not in steps:
            told.append(
                ChangeNotice(
                    "waste",
                    f"“{one.do}” was done and is no longer planned: what was laid stays where it is, or is waste",
                )
            )
            continue
        now = layer_ml(plan, steps[one.step])
        if now is None or not one.volume_ml:
            continue
        more = now - one.volume_ml
        if abs(more) > SAME * one.volume_ml:
            amount, planned, wanted = (f"{number(size)} ml" for size in (abs(more), one.volume_ml, now))
            then = f"{planned} were planned when it was done, {wanted} are planned now"
            told.append(
                ChangeNotice("more", f"“{steps[one.step].do}”: {then}; {amount} remain to be laid")
                if more > 0
                else ChangeNotice("less", f"“{steps[one.step].do}”: {then}; {amount} too much lie there")
            )
    for patch in scene.patches:
        covered: str | None = None
        for lift in reversed(patch.lifts):
            mine = [step for step in plan.steps if step.lift == lift.id]
            if any(step.id in was for step in mine):
                covered = lift.title
            elif covered and mine:
                text = (
                    f"{lift.title} on {patch.name} is not done, and {covered}, which goes on it, is: skip it and say "
                )
                told.append(ChangeNotice("under", text + "why, or take off what lies above"))
    return told
