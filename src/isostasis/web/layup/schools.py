"""The Schools page: a shell, skin, texture or fix done otherwise, side by side, and one chosen."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from flask import render_template, request
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...core.figure import Figure
from ...core.schools import fixes, shells, skins, strewings, trowelled
from ..frame.opened import Document, Opened, edit, entry, open_scene
from .views import blueprint, take_out, then

# What is compared, and its heading.
HEADS = {
    "amount": "takes",
    "next_h": "next lift after",
    "full_h": "dry through",
    "weight_g": "weight, dry",
    "cost": "costs",
    "strength_mpa": "strength",
}
STREW_HEADS = {
    "amount": "to strew",
    "held_mm": "stays",
    "key_ml": "key",
    "at_a_time_mm2": "at a time",
    "next_h": "next lift after",
    "full_h": "dry through",
    "cost": "costs",
}
FIX_HEADS = {
    "passes": "passes",
    "wetting_ml": "wetting",
    "binder_ml": "binder",
    "hold": "hold",
    "next_h": "next lift after",
    "full_h": "dry through",
    "cost": "costs",
}


def _lift(opened: Opened, lift_id: str) -> Any:
    """A lift that can be done otherwise. Raises Faults for one that is not there, or has no schools."""
    try:
        lift = opened.scene.lift(lift_id)
    except KeyError:
        raise fault("lift", f"'{lift_id}' is no longer there", "reload the page") from None
    if lift.kind not in ("shell", "skin", "texture", "fix"):
        raise fault("lift", f"a {lift.kind} has no other schools here", "choose a shell, skin, texture or fix")
    return lift


def _schools(opened: Opened, lift_id: str) -> tuple[Any, Mapping[str, Any], dict[str, str], str]:
    """A lift, its schools, what is compared, and which school it is now. Raises Faults for one that has none."""
    lift = _lift(opened, lift_id)
    if lift.kind == "fix":
        now = f"{lift.mix}+{lift.wetting}" if lift.wetting else lift.mix
        return lift, fixes(opened.scene, lift_id), FIX_HEADS, now
    if lift.kind == "texture":
        return lift, strewings(opened.scene, lift_id), STREW_HEADS, lift.school
    if lift.kind == "skin":
        return lift, skins(opened.scene, lift_id), {**HEADS, "amount": "to mix"}, lift.mix
    return lift, shells(opened.scene, lift_id), HEADS, lift.over


@blueprint.get("/s/<slug>/layup/schools")
def schools(slug: str) -> str:
    """A lift done otherwise, side by side."""
    opened = open_scene(slug)
    lift, found, heads, now = _schools(opened, request.args.get("lift", ""))
    return render_template(
        "layup/schools.html",
        opened=opened,
        lift=lift,
        patch=opened.scene.patch_of(lift.id),
        schools=found,
        heads=heads,
        now=now,
        place="layup.page",
    )


@blueprint.get("/s/<slug>/layup/schools/working")
def school_working(slug: str) -> str:
    """The terms of a figure of one school."""
    _, found, heads, _ = _schools(open_scene(slug), request.args.get("lift", ""))
    school, name = found.get(request.args.get("school", "")), request.args.get("figure", "")
    figure = getattr(school, name) if school and name in heads else None
    if not isinstance(figure, Figure):
        raise fault("figure", "there is no such figure", "reload the page")
    return render_template("frame/_working.html", figure=figure)


@blueprint.post("/s/<slug>/layup/schools/<lift_id>")
def swap(slug: str, lift_id: str) -> Response:
    """The lift by another school: another compound or binder, a shell over less, trowelled instead, or left out."""
    opened = open_scene(slug)
    lift, found, _, _ = _schools(opened, lift_id)
    to = request.form.get("school", "")
    if to not in found:
        raise fault("school", f"a {lift.kind} cannot be swapped for '{to}'", "choose one of the schools shown")
    patch = opened.scene.patch_of(lift_id)

    def change(data: Document) -> None:
        lifts, made = entry(data, "patches", patch.id)["lifts"], entry(data, "lifts", lift_id)
        if lift.kind == "skin":
            made["mix"] = to
        elif lift.kind == "texture":
            made["school"] = to
        elif lift.kind == "fix":
            made["mix"], _, wetting = to.partition("+")
            made.pop("wetting", None)
            made.update({"wetting": wetting} if wetting else {})
        elif to == "none":
            take_out(data, patch.id, lift_id)
        elif to.startswith("trowel:"):
            skin = trowelled(lift, to.removeprefix("trowel:"))
            lifts[lifts.index(made)] = skin.model_dump(mode="json", exclude_defaults=True) | {"kind": "skin"}
        else:
            made["over"] = to

    return edit(slug, f"{lift_id} by another school: {to}", change, then(slug, patch.id))
