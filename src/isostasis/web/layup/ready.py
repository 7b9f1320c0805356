"""Whole lay-ups in one go, by what spots should become; and patches that follow from the forms."""

from __future__ import annotations

from typing import Any

from flask import request, url_for
from werkzeug.wrappers import Response

from ...core.document import Scene
from ...core.document import edit as change
from ...core.fault import fault
from ..shared.scenes import edit, open_scene
from .laying import SLOPE_DEG, bare_hollows, laid, lifts_of, offered
from .views import blueprint, then


@blueprint.post("/s/<slug>/layup/lay")
def lay(slug: str) -> Response:
    """A whole lay-up on each of the patches that were ticked. Raises Faults."""
    opened, lifts = open_scene(slug), lifts_of(request.form.get("layup", ""))
    patches = [change.find(opened.scene, "patches", name) for name in request.form.getlist("on")]
    if not patches:
        raise fault("on", "no patch is ticked", "tick those that should become it")

    used = opened.used

    def changed(scene: Scene) -> Scene:
        for patch in patches:
            scene = laid(scene, opened, used, patch, lifts)
        return scene

    where = patches[0].name if len(patches) == 1 else f"{len(patches)} patches"
    return edit(slug, f"Laid a lay-up on {where}", changed, then(slug, patches[0].id))


@blueprint.post("/s/<slug>/layup/patches")
def make_patches(slug: str) -> Response:
    """Patches that follow from the forms, each named like its form. What is ruled comes first in the order, so that it
    takes no ground from what was outlined: a pond's banks are the pond's. Raises Faults."""
    opened, what = open_scene(slug), request.form.get("what", "")
    if what not in dict(offered(opened)):
        raise fault(
            "patches", "there is no such patch to be made, or it is there already", "choose one that is offered"
        )
    wanted: list[tuple[str, dict[str, Any]]] = {
        "ponds": [(form.title, {"on": form.id}) for form in bare_hollows(opened)],
        "slopes": [("Slopes", {"steeper_deg": SLOPE_DEG})],
        "rest": [("Rest", {"rest": True})],
    }[what]

    used = opened.used

    def changed(scene: Scene) -> Scene:
        for name, area in wanted:
            patch = change.new_id(scene, opened.catalogue, change.slug_of(name, "patch")[:50], used)
            data = {"id": patch, "name": name, "area": area, "lifts": []}
            scene = change.add(scene, "patches", data, at=None if what == "ponds" else 0)
        return scene

    made = wanted[0][0] if len(wanted) == 1 else f"{len(wanted)} patches"
    return edit(slug, f"Added {made}", changed, url_for("layup.page", slug=slug))
