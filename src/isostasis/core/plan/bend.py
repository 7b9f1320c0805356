"""A plan that follows what lies there: levels, thicknesses, materials and forms as they were built."""

from __future__ import annotations

from typing import Any, TypeVar

from ..built.lying import Lying, extent_of
from ..built.remains import Work, layable_ml
from ..document.edit import add, ids, replace, written
from ..document.scene import Form, Lift, Scene
from ..lifts.kinds import kind_of
from .model import Plan

S = TypeVar("S", bound=Scene)


def bend(scene: S, old: Scene, after: tuple[Scene, Plan], before: Plan) -> S:
    """The document of an edit with what the edit touches of what was built as it lies there. `after` are its resolved
    scene, which holds the records, and its plan, `before` the plan of the document `old` that it was made from: what
    was still to be laid by that, stays to be laid. Raises Faults where such a document cannot be."""
    resolved, plan = after
    scene = _forms(scene, resolved, plan)
    for name, work in plan.works.items():
        if not work.layers or not _is_touched(name, work, plan, before):
            continue
        laid, known = work.layers[-1].entry.lift, set(ids(scene))
        was = before.works.get(name)
        if name in known and was is not None and was.remains_ml > layable_ml(before.lifts[name].volume_ml.number):
            scene = replace(scene, "lifts", name, written(old.lift(name)))
        elif name in known:
            made_of = {key: getattr(laid, key) for key in ("mix", "material") if hasattr(laid, key)}
            data = {**written(scene.lift(name)), **made_of, **_as_built(work.layers)}
            scene = replace(scene, "lifts", name, _clean(data))
        elif work.layers[-1].patch in known:
            scene = _put_back(scene, laid, work.layers[-1].patch, _as_built(work.layers))
    for off in plan.off or ():
        for layer, whole in off.parts:
            known = set(ids(scene))
            if whole and layer.entry.lift.id not in known and layer.patch in known:
                scene = _put_back(scene, layer.entry.lift, layer.patch, _as_built((layer,)))
    return scene


def _is_touched(name: str, work: Work, plan: Plan, before: Plan) -> bool:
    """Whether an edit changed what is to be done of a lift that was built."""
    was = before.works.get(name)
    if was is None:
        return True
    least = layable_ml(plan.lifts[name].volume_ml.number)
    codes, known = ({notice.code for notice in one.notices} for one in (work, was))
    return work.state != was.state or abs(work.remains_ml - was.remains_ml) > least or codes != known


def _as_built(layers: tuple[Lying, ...]) -> dict[str, Any]:
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


def _clean(data: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in data.items() if value is not None}


def _put_back(scene: S, lift: Lift, patch: str, changes: dict[str, Any]) -> S:
    data = {name: value for name, value in written(lift).items() if name != "after"}
    return add(scene, "lifts", _clean({**data, **changes}), patch=patch, at=0)


def _forms(scene: S, resolved: Scene, plan: Plan) -> S:
    """The forms back as they were under what would have to come off."""
    wanted: dict[str, Form] = {}
    for off in plan.off or ():
        for layer, whole in off.parts:
            ground = next((one for one in resolved.built_on if one.id == layer.entry.ground), None)
            if not whole and ground is not None:
                wanted |= {form.id: form for form in ground.forms}
    for name, form in wanted.items():
        if any(one.id == name for one in scene.forms):
            scene = replace(scene, "forms", name, written(form))
        else:
            scene = add(scene, "forms", written(form))
    return scene
