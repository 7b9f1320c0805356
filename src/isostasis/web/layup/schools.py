"""The Schools page: a lift done otherwise, side by side, and one chosen."""

from __future__ import annotations

from typing import Any

from flask import render_template, request
from werkzeug.wrappers import Response

from ...core.alternatives import alternatives
from ...core.document import Scene
from ...core.document.edit import called, remove, replace, written
from ...core.fault import fault
from ...core.lifts.alternative import Alternative
from ...core.lifts.kinds import kind_of
from ..shared.scenes import OpenScene, edit, open_scene
from .kinds import page_of_kind
from .views import blueprint, then


def _lift(opened: OpenScene, lift_id: str) -> Any:
    """A lift that can be done otherwise. Raises Faults for one that is not there, or has no schools."""
    try:
        lift = opened.scene.lift(lift_id)
    except KeyError:
        raise fault("lift", f"'{lift_id}' is no longer there", "reload the page") from None
    if not page_of_kind(lift.kind).COMPARED:
        raise fault("lift", f"a {lift.kind} has no other schools here", "choose a shell, skin, texture, fix or pour")
    return lift


def _schools(opened: OpenScene, lift_id: str) -> tuple[Any, dict[str, Alternative]]:
    """A lift and its schools. Raises Faults for one that has none."""
    lift = _lift(opened, lift_id)
    return lift, alternatives(opened.scene, lift_id, opened.catalogue)


LESS_IS_BETTER = ("cost", "hands_h", "whole_h", "next_h", "full_h", "weight_g")


def _least(others: dict[str, Alternative]) -> dict[str, float]:
    """The least of each figure of which less is better, where the ways differ in it."""
    least = {}
    for name in LESS_IS_BETTER:
        values = {
            one.value for way in others.values() if (one := way.figures.get(name)) is not None and one.value is not None
        }
        if len(values) > 1:
            least[name] = min(values)
    return least


@blueprint.get("/s/<slug>/layup/schools")
def schools(slug: str) -> str:
    """A lift done otherwise, side by side."""
    opened = open_scene(slug)
    lift, others = _schools(opened, request.args.get("lift", ""))
    page, now = page_of_kind(lift.kind), kind_of(lift).chosen(lift)
    others = dict(sorted(others.items(), key=lambda one: (one[0] != now, not one[1].figures)))  # against what it is now
    return render_template(
        "layup/schools.html",
        opened=opened,
        lift=lift,
        patch=opened.scene.patch_of(lift.id),
        schools=others,
        least=_least(others),
        heads=page.COMPARED,
        footnote=page.COMPARED_NOTE,
        now=now,
        place="layup.page",
    )


@blueprint.get("/s/<slug>/layup/schools/working")
def school_working(slug: str) -> str:
    """The terms of a figure of one school. Raises Faults."""
    _, found = _schools(open_scene(slug), request.args.get("lift", ""))
    school, name = found.get(request.args.get("school", "")), request.args.get("figure", "")
    figure = school.figures.get(name) if school else None
    if figure is None:
        raise fault("figure", "there is no such figure", "reload the page")
    return render_template("shared/_working.html", figure=figure)


@blueprint.post("/s/<slug>/layup/schools/<lift_id>")
def swap(slug: str, lift_id: str) -> Response:
    """The lift by another school: another compound or binder, a shell over less, trowelled instead, or left out. Raises
    Faults."""
    opened = open_scene(slug)
    lift, found = _schools(opened, lift_id)
    to = request.form.get("school", "")
    if to not in found:
        raise fault("school", f"a {lift.kind} cannot be swapped for '{to}'", "choose one of the schools shown")
    patch, changed = opened.scene.patch_of(lift_id), kind_of(lift).adopt(lift, to)

    def change(scene: Scene) -> Scene:
        if changed is None:
            return remove(scene, "lifts", lift_id)
        return replace(scene, "lifts", lift_id, written(changed))

    return edit(slug, f"{called(opened.written, lift_id)} by another school: {to}", change, then(slug, patch.id))
