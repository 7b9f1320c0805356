"""Settings of a scene: its name, its board, its copies; into the archive, into the bin, and back."""

from __future__ import annotations

from typing import Any

from flask import flash, make_response, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.document import Scene
from ...core.document.edit import refuse_taken, set_fields, written
from ...core.document.resize import WAYS, Way, beyond, resized
from ...core.document.scene import LONGEST_MM, Disc
from ...core.fault import fault
from ...store import scenes, shelved
from ..shared.answers import hx_redirect
from ..shared.fields import Field, inputs, read
from ..shared.scenes import OpenScene, database, edit, materials_of, now, open_scene
from ..shared.touches import sent_again
from .views import blueprint

SIDES = ("north", "east", "south", "west")
SHAPES = {"rectangle": "rectangle", "disc": "round", "ring": "as it was drawn"}
FIELDS = (
    Field("name", "Name", most=80),
    Field("width_mm", "West to east", "mm", low=1, high=LONGEST_MM),
    Field("depth_mm", "South to north", "mm", low=1, high=LONGEST_MM),
    Field("copies", "Copies of it", "whole", hint="every amount follows", low=1, high=1000),
)
DISC = Field("disc_mm", "Across", "mm", optional=True, hint="if round")
DAM = Field("dam_mm", "Top of the dam above the board", "mm", optional=True, hint="empty: as high as needed")


def _held(scene: Scene) -> dict[str, Any]:
    base = scene.base
    disc = base.outline.disc_mm if isinstance(base.outline, Disc) else None
    return {
        "name": scene.name, "width_mm": base.width_mm, "depth_mm": base.depth_mm, "copies": scene.copies,
        "disc_mm": disc, "dam_mm": base.dam_mm,
    }  # fmt: skip


def _shape(scene: Scene) -> str:
    return "disc" if isinstance(scene.base.outline, Disc) else "ring" if scene.base.outline else "rectangle"


def _dammed(scene: Scene) -> set[str]:
    return set(SIDES) if "all" in scene.base.dammed else set(scene.base.dammed)


@blueprint.get("/s/<slug>/settings")
def settings(slug: str) -> str:
    """What can be set about the scene itself."""
    opened = open_scene(slug)
    scene = opened.written
    with database().reading() as session:
        away = scenes.find(session, slug).archived_at
    shapes = [(name, words) for name, words in SHAPES.items() if name != "ring" or _shape(scene) == "ring"]
    return render_template(
        "scenes/settings.html", opened=opened, fields=inputs(FIELDS, _held(scene)), dam=inputs((DAM,), _held(scene)),
        disc=inputs((DISC,), _held(scene)), shapes=shapes, shape=_shape(scene), sides=SIDES, dammed=_dammed(scene),
        boards=materials_of(opened, "board"), archived=away, days=shelved.BIN_DAYS, place="scenes",
    )  # fmt: skip


def _base_changes(scene: Scene, sent: dict[str, Any]) -> dict[str, Any]:
    """Fields of the base that differ from what it has. Raises Faults."""
    base = scene.base
    changes: dict[str, Any] = {}
    sides = [side for side in SIDES if side in request.form.getlist("dammed")]
    if set(sides) != _dammed(scene):
        changes["dammed"] = "all" if len(sides) == len(SIDES) else sides
    if sent["dam_mm"] != base.dam_mm:
        changes["dam_mm"] = sent["dam_mm"]
    board = request.form.get("board", base.board)
    if board != base.board:
        changes["board"] = board
    shape = request.form.get("shape", _shape(scene))
    if shape == "disc":
        across = sent["disc_mm"] or min(base.width_mm, base.depth_mm)
        if not isinstance(base.outline, Disc) or base.outline.disc_mm != across:
            changes["outline"] = {"disc_mm": across}
    elif shape == "rectangle" and base.outline is not None:
        changes["outline"] = None
    elif shape not in SHAPES:
        raise fault("outline", f"a base is not “{shape[:40]}”", "choose one of the list")
    return changes


@blueprint.post("/s/<slug>/settings")
def set_settings(slug: str) -> BaseResponse:
    """Set what was changed; asks what becomes of what lies beyond a smaller base. Raises Faults."""
    opened = open_scene(slug)
    sent = read((*FIELDS, DISC, DAM), request.form, _held(opened.written))
    name = " ".join(sent["name"].split())
    if not name:
        raise fault("name", "the scene has no name", "give it one, such as Mill leat")
    if name != opened.written.name:
        refuse_taken(name, _names(but=slug), "a scene")
    way = request.form.get("beyond", "")
    size = sent["width_mm"], sent["depth_mm"]
    out = beyond(opened.written, *size) if size != (opened.scene.base.width_mm, opened.scene.base.depth_mm) else []
    if out and way not in WAYS:
        return _ask(opened, out)
    chosen: Way = "scale" if way == "scale" else "cut"

    def changed(scene: Scene) -> Scene:
        if size != (scene.base.width_mm, scene.base.depth_mm):
            scene = resized(scene, *size, chosen)
        changes = _base_changes(scene, sent)
        if changes:
            base = {**written(scene.base), **changes}
            scene = set_fields(scene, {"base": {key: value for key, value in base.items() if value is not None}})
        if name != scene.name or sent["copies"] != scene.copies:
            scene = set_fields(scene, {"name": name, "copies": sent["copies"]})
        return scene

    said = "Settings" if name == opened.written.name else f"Renamed to {name}"
    return edit(slug, said, changed, url_for("scenes.settings", slug=slug))


def _ask(opened: OpenScene, names: list[str]) -> BaseResponse:
    """What becomes of what lies beyond the new edge: the ways on."""
    shown = {"names": names, "again": [one for one in sent_again() if one[0] != "beyond"], "action": request.path}
    if request.headers.get("HX-Request"):
        answer = make_response(render_template("scenes/_beyond.html", **shown), 200)
        answer.headers["HX-Retarget"], answer.headers["HX-Reswap"] = "#problem", "innerHTML show:top"
        return answer
    return make_response(render_template("scenes/beyond.html", opened=opened, place="scenes", **shown), 409)


def _names(but: str = "") -> list[str]:
    with database().reading() as session:
        return [name for slug, name in scenes.named(session) if slug != but]


@blueprint.post("/s/<slug>/archive")
def put_away(slug: str) -> BaseResponse:
    """Out of the way, or back among the others. Raises NoSuchScene."""
    back = request.form.get("how") == "back"
    with database().writing() as session:
        row = scenes.find(session, slug)
        shelved.archive(row, None if back else now())
        name = scenes.name_of(row.head)
    flash(f"{name} is back among your scenes." if back else f"{name} is in the archive, further down.", "done")
    return hx_redirect(url_for("scenes.page"))


@blueprint.post("/s/<slug>/bin")
def to_bin(slug: str) -> BaseResponse:
    """Into the bin, for 30 days. Raises NoSuchScene."""
    with database().writing() as session:
        row = scenes.find(session, slug)
        shelved.bin_(row, now())
        name = scenes.name_of(row.head)
    flash(f"{name} is in the bin for {shelved.BIN_DAYS} days, further down.", "done")
    return hx_redirect(url_for("scenes.page"))


@blueprint.post("/bin/<slug>/back")
def from_bin(slug: str) -> BaseResponse:
    """Out of the bin again. Raises NoSuchScene."""
    with database().writing() as session:
        name = scenes.name_of(shelved.take_out(session, slug).head)
    flash(f"{name} is back.", "done")
    return hx_redirect(url_for("scenes.page"))
