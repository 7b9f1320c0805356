"""Patches: in order, by outline or by rule, and where two claim the same ground."""

from __future__ import annotations

from typing import Any

from flask import request, url_for
from werkzeug.wrappers import Response

from ...core.document.areas import NearArea, RestArea
from ...core.document.edit import add, called, move, slug_of
from ...core.fault import fault
from ...core.ground.view import contours
from ...core.lifts.areas import overlaps
from ...core.terrain.report import GroundQuery
from ..draw.projection import path
from ..shared.fields import Field, read_one
from ..shared.scenes import OpenScene, edit, open_scene
from .reports import report_of, tool_page
from .views import blueprint, render_panels

AREA_WORDS = {
    "outline": "an outline",
    "rest": "all the rest",
    "steeper_deg": "steeper than",
    "below_mm": "lower than",
    "above_mm": "higher than",
    "near": "within a distance of",
    "on": "all of a form, castings too",
    "face_mm2": "a face beside the ground, of area",
}


def area_words(area: Any, opened: OpenScene) -> str:
    """An area as people say it."""
    kind = next(key for key in AREA_WORDS if getattr(area, key, None) is not None)
    if kind in ("outline", "rest"):
        return AREA_WORDS[kind]
    if kind == "steeper_deg":
        return f"steeper than {area.steeper_deg:g}°"
    if kind == "face_mm2":
        return f"a face of {opened.show(area.face_mm2, 'mm2')}"
    things = {one.id: one.title for one in opened.scene.forms}
    if kind == "on":
        return f"all of {things[area.on]}"
    if isinstance(area, NearArea):
        things |= {one.id: one.name for one in (*opened.scene.protect, *opened.scene.flats)}
        return f"within {opened.show(area.within_mm, 'mm')} of {things.get(area.near, 'the edge')}"
    return f"{AREA_WORDS[kind]} {opened.show(getattr(area, kind), 'mm')}"


@blueprint.get("/s/<slug>/ground/patches")
def patches(slug: str) -> str:
    """Patches in order, by outline or by rule, and where two claim the same ground."""
    opened = open_scene(slug)
    p = render_panels(opened, "bare")
    built = opened.plan.built
    chosen = next((one for one in opened.scene.patches if one.id == request.args.get("patch")), None)

    def region(share: Any) -> str:
        return path([line for _, lines in contours(share, built.bare.cell_mm, [0.5]) for line in lines], p.frame)

    names = {patch.id: patch.name for patch in opened.scene.patches}
    return tool_page(
        "patches", "patches", opened,
        chosen=chosen,
        regions={patch.id: region(built.covers[patch.id].share) for patch in opened.scene.patches},
        claimed=[region(both) for _, _, both in overlaps(opened.scene, built.bare)],
        overlaps=report_of(opened, GroundQuery(), "overlaps").overlaps,
        names=names,
        words={patch.id: area_words(patch.area, opened) for patch in opened.scene.patches},
        has_rest=any(isinstance(patch.area, RestArea) for patch in opened.scene.patches),
        things=[("edge", "the base's edge"), *((one.id, one.title) for one in opened.scene.forms),
                *((one.id, one.name) for one in (*opened.scene.flats, *opened.scene.protect))],
        area_kinds=list(AREA_WORDS.items()),
    )  # fmt: skip


SIZES: dict[str, Field] = {
    "steeper_deg": Field("size", "steeper than", "deg"),
    "below_mm": Field("size", AREA_WORDS["below_mm"], "mm"),
    "above_mm": Field("size", AREA_WORDS["above_mm"], "mm"),
    "face_mm2": Field("size", "area", "mm2"),
    "near": Field("size", "distance", "mm"),
}
NAME = Field("name", "name", most=80)


def _area(opened: OpenScene) -> dict[str, Any]:
    """The area that the form describes. Raises Faults."""
    kind, beside = request.form.get("area", ""), request.form.get("near", "")
    if kind not in AREA_WORDS:
        raise fault("area", f"'{kind}' is no kind of area", "choose one of the list")
    if kind == "outline":
        around = next((one for one in opened.scene.forms if one.id == beside), None)
        ring = getattr(around, "outline", None)
        if around is None or ring is None:
            right = "choose a sheet, mound or basin beside it"
            raise fault("area", "an outline is taken from a form that has one", right)
        return {"outline": ring}
    if kind == "rest":
        return {"rest": True}
    if kind == "on":
        return {"on": beside}
    size = read_one(SIZES[kind], request.form)
    return {"near": beside or "edge", "within_mm": size} if kind == "near" else {kind: size}


@blueprint.post("/s/<slug>/ground/patches")
def add_patch(slug: str) -> Response:
    """A patch by outline or by rule. It comes first in the order, so that it takes ground from the rest alone
    until it is moved.
    Raises Faults."""
    opened = open_scene(slug)
    name = read_one(NAME, request.form) or ""
    if not name:
        raise fault("name", "the patch has no name", "give it one, such as Scree")
    patch_id = opened.new_id(slug_of(name, "patch")[:50])  # its lifts' ids begin with it
    data: dict[str, Any] = {"id": patch_id, "name": name, "area": _area(opened), "lifts": []}
    return edit(
        slug,
        f"Added the patch {name}",
        lambda scene: add(scene, "patches", data, at=0),
        url_for("ground.patches", slug=slug, patch=patch_id),
    )


@blueprint.post("/s/<slug>/ground/patches/<patch_id>/move")
def move_patch(slug: str, patch_id: str) -> Response:
    """Earlier or later: the later listed owns what both claim. Raises Faults."""
    how = request.form.get("how", "")
    if how not in ("earlier", "later"):
        raise fault("move", f"“{how}” is no way to move a patch", "earlier or later")
    return edit(
        slug,
        lambda scene: f"{called(scene, patch_id)}: {how}",
        lambda scene: move(scene, "patches", patch_id, 1 if how == "later" else -1),
        url_for("ground.patches", slug=slug, patch=patch_id),
    )
