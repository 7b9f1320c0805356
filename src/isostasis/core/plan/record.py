"""What is written down of a step once it is done: a fact that no later plan changes."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from ..built.lying import to_runs
from ..built.remains import Work
from ..catalogue import Material, Mix
from ..document import ResolvedScene
from ..document.built import Built, BuiltArea, BuiltBatch, BuiltGround, BuiltWindow
from ..document.scene import Scene
from ..lifts.kinds.pour.pools import PourLift, so_far
from .model import Plan, Step

RECORDED = frozenset({"form", "glue", "cast", "off"})  # besides lifts: acts and masks leave nothing there


def leaves_something(step: Step) -> bool:
    """Whether a step makes something that lies there afterwards, or takes it off."""
    return step.lift is not None or step.kind in RECORDED


def ground_of(scene: Scene, name: str) -> BuiltGround:
    """The ground of a scene as it is now, under a name of its own."""
    areas = tuple(BuiltArea(patch=patch.id, area=patch.area) for patch in scene.patches)
    return BuiltGround.model_construct(
        id=name, forms=scene.forms, areas=areas, protect=scene.protect, flats=scene.flats
    )


def record(
    scene: ResolvedScene,
    plan: Plan,
    step: Step,
    *,
    name: str,
    ground: str,
    ended: datetime,
    begun: datetime | None = None,
    share: float = 1.0,
    wait_h: float | None = None,
    batches: Sequence[BuiltBatch] = (),
    note: str = "",
) -> Built:
    """The record of a step of this plan that was done: with the amounts, the label and the room of now. `wait_h`: its
    wait in the room as it is forecast, if that is known better than the plan knows it. Raises KeyError for a step that
    leaves nothing."""
    if not leaves_something(step):
        raise KeyError(step.id)
    place = scene.room_of(step.place)
    fields: dict[str, Any] = {
        "id": name, "step": step.id, "do": step.do, "title": step.title, "kind": step.kind, "ground": ground,
        "patch": step.patch, "course": step.course or 1, "of": step.of or 1, "share": share, "begun": begun,
        "ended": ended, "wait_h": step.wait_h if wait_h is None else wait_h, "hands_on_min": step.hands_on_min,
        "temp_c": place.temp_c, "rh": place.rh, "batches": tuple(batches), "note": note,
        "forms": tuple(one for one in (step.form, *step.forms) if one),
    }  # fmt: skip
    if step.kind == "off":
        off = next(one for one in plan.off or () if one.step == step.id)
        fields |= {"removes": off.removes, "volume_ml": off.volume_ml.number / scene.copies}
    if step.lift is not None:
        fields |= _of_lift(scene, plan, step, share)
    return Built.model_construct(**fields)


def _of_lift(scene: ResolvedScene, plan: Plan, step: Step, share: float) -> dict[str, Any]:
    work = plan.works[step.lift or ""]
    lift = scene.lift(step.lift or "")
    estimate = work.estimate
    if estimate is None or step.course is None:
        raise KeyError(step.id)
    patch = scene.patch_of(lift.id)
    place = patch.lifts.index(lift)
    above = patch.lifts[place + 1].id if place + 1 < len(patch.lifts) else None
    course, layer, hours = estimate.courses[step.course - work.first], plan.layer(step), estimate.plan.hours
    count = len(estimate.courses)
    each = estimate.plan.volume_ml.number / count if layer is None else layer.volume_ml.number
    fields: dict[str, Any] = {
        "lift": lift, "above": above, "volume_ml": each * share, "mix": estimate.mix,
        "materials": _materials(scene, estimate.mix), "next_h": hours.next.value, "full_h": hours.full.value,
        "usable_h": hours.usable.value,
        "windows": tuple(BuiltWindow(what=one.what, from_h=one.from_h, to_h=one.to_h) for one in course.next_window),
    }  # fmt: skip
    if isinstance(lift, PourLift):
        return fields | {"level_mm": _level(plan, lift, work, step, share)}
    over = () if work.scale is None or work.scale.shape == (1, 1) else to_runs(work.scale)
    thickness = layer.depth_mm.number if layer else None
    return fields | {"thickness_mm": thickness, "extent": work.extent / count, "over": over}


def _level(plan: Plan, lift: PourLift, work: Work, step: Step, share: float) -> float | None:
    """The level that a pour has reached after this course, mm; None where nothing stands."""
    pools = plan.lifts[lift.id].pools
    assert work.estimate is not None and step.course is not None
    if not pools:
        return None
    top = max((pool.level_mm.number for pool in pools), default=0.0)
    layers = work.estimate.plan.layers
    place = step.course - work.first
    later = sum(layer.depth_mm.number for layer in layers[place + 1 :])
    if share == 1:
        return top - later
    whole = sum(layer.volume_ml.number for layer in layers)
    if work.first == 1 and whole:
        poured = sum(layer.volume_ml.number for layer in layers[:place]) + share * layers[place].volume_ml.number
        site = plan.built.stages[lift.id].site
        stood = so_far(lift, site, poured / whole)
        if stood.level_mm is not None:
            return stood.level_mm
    return top - later - (1 - share) * layers[place].depth_mm.number


def _materials(scene: ResolvedScene, mix: Mix) -> tuple[Material, ...]:
    wanted = {part.material for part in mix.ingredients}
    return tuple(one for one in scene.materials if one.id in wanted)
