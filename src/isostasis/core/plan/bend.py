"""A plan that follows what lies there: levels, thicknesses, materials and forms as they were built."""

from __future__ import annotations

from typing import TypeVar

from ..built.lying import extent_of
from ..document.edit import add, ids, replace, written
from ..document.scene import Lift, Scene
from ..lifts.kinds import kind_of
from .model import Plan

S = TypeVar("S", bound=Scene)


def bend(scene: S, resolved: Scene, plan: Plan) -> S:
    """The document with what was built as it lies there: `resolved` holds the records, `plan` is of this document.
    Raises Faults where that document cannot be."""
    scene = _forms(scene, resolved, plan)
    for name, work in plan.works.items():
        if not work.layers:
            continue
        laid = work.layers[-1].entry.lift
        changes = _as_built(work.layers)
        known = set(ids(scene))
        if name in known:
            lift = scene.lift(name)
            data = {**written(lift), **{key: getattr(laid, key) for key in ("mix", "material") if hasattr(laid, key)}}
            scene = replace(scene, "lifts", name, _clean({**data, **changes}))
        elif work.layers[-1].patch in known:
            scene = _put_back(scene, laid, work.layers[-1].patch, changes)
    for off in plan.off or ():
        for layer, whole in off.parts:
            if whole and layer.entry.lift.id not in set(ids(scene)) and layer.patch in set(ids(scene)):
                scene = _put_back(scene, layer.entry.lift, layer.patch, _as_built((layer,)))
    return scene


def _as_built(layers: tuple) -> dict[str, object]:  # type: ignore[type-arg]
    """The fields by which a lift is as much as lies there."""
    entries = [layer.entry for layer in layers if layer.kept > 0 or layer.loose_mm2 > 0]
    if not entries:
        return {}
    laid: Lift = entries[-1].lift
    if laid.levels_itself:
        levels = [entry.level_mm for entry in entries if entry.level_mm is not None]
        if not levels:
            return {}
        return {"level_mm": round(max(levels), 2), "depth_mm": None, "volume_ml": None, "at_mm": None, "lifts": "auto"}
    amount = sum(extent_of(entry) for entry in entries)
    made = kind_of(laid).with_extent(laid, round(amount, 2))
    kept = ("depth_mm", "courses", "coats", "layers")
    return {name: getattr(made, name) for name in kept if name in type(made).model_fields}


def _clean(data: dict[str, object]) -> dict[str, object]:
    return {name: value for name, value in data.items() if value is not None}


def _put_back(scene: S, lift: Lift, patch: str, changes: dict[str, object]) -> S:
    data = {name: value for name, value in written(lift).items() if name != "after"}
    return add(scene, "lifts", _clean({**data, **changes}), patch=patch, at=0)


def _forms(scene: S, resolved: Scene, plan: Plan) -> S:
    """The forms back as they were under what would have to come off."""
    wanted: dict[str, object] = {}
    for off in plan.off or ():
        for layer, whole in off.parts:
            ground = next((one for one in resolved.built_on if one.id == layer.entry.ground), None)
            if not whole and ground is not None:
                wanted |= {form.id: form for form in ground.forms}
    for name, form in wanted.items():
        if any(one.id == name for one in scene.forms):
            scene = replace(scene, "forms", name, written(form))  # type: ignore[arg-type]
        else:
            scene = add(scene, "forms", written(form))  # type: ignore[arg-type]
    return scene
