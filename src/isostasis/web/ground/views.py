"""The Ground page: forms added, dragged, edited by exact numbers, put in order, switched off, removed."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial, reduce
from math import hypot
from typing import Any, cast

from flask import Blueprint, Response, render_template, request, url_for
from flask import session as cookie
from werkzeug.wrappers import Response as BaseResponse

from ...core.document import Scene
from ...core.document import edit as change
from ...core.document.scene import MAX_LISTED, Form
from ...core.document.transform import HOWS, How, box_of, transformed
from ...core.fault import Faults, fault
from ...core.ground.field import Ground, empty_ground
from ...core.ground.forms.dips import Dips, volume_off_by
from ...core.terrain.reading import weigh
from ...core.terrain.report import GroundQuery, report
from ..draw.as_built import as_built
from ..draw.depths import pour_depths
from ..draw.panels import Panels, panels
from ..draw.projection import Projection
from ..draw.relief import SLOPES, relief_model, relief_picture
from ..layup.kinds import cut_hatch_of
from ..shared.fields import Field, inputs, parse_float, read
from ..shared.noting import change_words
from ..shared.scenes import OpenScene, edit, mixes_of, open_scene, viewport_of
from .fields import (
    FIELDS,
    FOLLOW,
    KIND_WORDS,
    MAX_TYPED,
    NOUNS,
    PATHS,
    PENCILS,
    begin,
    handle_of,
    risers,
    sent_values,
    snaps,
    spots_text,
    values_of,
)  # fmt: skip

blueprint = Blueprint("ground", __name__)

GRIP_PX = 16.0  # from what is chosen to its handles
WAYS = {
    "remove": "taken away",
    "switch": "switched on or off",
    "duplicate": "once more",
    "up": "earlier",
    "down": "later",
}
COPY_MM = 10.0  # by which a copy stands beside
SAME_SPOT_MM = 1.5  # a dip tapped so near another takes its place
TOOLS = (
    ("page", "Forms"),
    ("photo", "Photo"),
    ("patches", "Patches"),
    ("steps", "Carve or fill"),
    ("incline", "Incline"),
    ("foam", "Foam"),
    ("joints", "Joints"),
    ("flats", "Keep"),
    ("level", "Level"),
    ("files", "Files"),
)
VIEWS = (("bare", "forms"), ("finished", "finished"), ("slope", "slope"), ("relief", "turn it"))


@blueprint.app_context_processor
def _tools() -> dict[str, Any]:
    """The pages beside the forms, for their common navigation."""
    return {"ground_tools": TOOLS}


def cut_of(opened: OpenScene) -> float | None:
    """Where the reader last put this scene's cut."""
    at = cookie.get(f"cut:{opened.slug}")
    return float(at) if isinstance(at, int | float) else None


def render_panels(opened: OpenScene, stage: str, checks: bool = False) -> Panels:
    """Plan and cut of a scene; with `checks`, where neighbours do not go together."""
    built, depths = opened.plan.built, pour_depths(opened.plan)
    bite = opened.plan.checks if checks else ()
    drawn = panels(
        opened.scene,
        built,
        depths,
        cut_of(opened),
        opened.measures,
        stage,
        cut_hatch_of,
        viewport_of(opened.slug),
        bite,
    )
    return as_built(drawn, opened.plan) if opened.scene.built else drawn


def no_stage(stage: str) -> Faults:
    """What is said of a stage that the scene has not."""
    return fault("stage", f"there is no stage '{stage}'", "choose one of the list")


def _view() -> str:
    wanted = request.args.get("stage", "bare")
    return wanted if wanted in dict(VIEWS) else "bare"


def form_of(opened: OpenScene, form_id: str | None) -> Form | None:
    """The scene's form of that id."""
    return next((form for form in opened.scene.forms if form.id == form_id), None)


def stages_of(opened: OpenScene) -> list[tuple[str, str]]:
    """(id, words) of every stage of the build: each form, each lift, the end."""
    forms = [(one.form.id, one.form.title) for one in opened.plan.built.forms if not one.form.after]
    lifts = [(name, stage.site.lift.title) for name, stage in opened.plan.built.stages.items()]
    return [*forms, ("bare", "all forms"), *lifts, ("finished", "finished")]


def _before(opened: OpenScene, form: Form) -> Ground:
    """The ground that a form comes on to."""
    ground = empty_ground(opened.scene.base, opened.scene.cell_mm)
    for shaped in opened.plan.built.forms:
        if shaped.form.id == form.id:
            break
        ground = shaped.ground
    return ground


@blueprint.get("/s/<slug>/ground")
def page(slug: str) -> str:
    """Plan and cut of the forms, or the relief that can be turned."""
    opened = open_scene(slug)
    chosen, view = form_of(opened, request.args.get("form")), _view()
    built = opened.plan.built
    p = render_panels(opened, "bare" if view == "relief" else view)
    known = opened.catalogue.materials.values()
    others = dict.fromkeys(request.args.getlist("also")[:MAX_LISTED])
    also = [form for form in map(partial(form_of, opened), others) if form]
    also = [form for form in also if chosen and form.id != chosen.id]
    return render_template(
        "ground/page.html",
        also=also,
        grips=_grips([chosen, *also], p.frame) if chosen and view == "bare" else None,
        opened=opened,
        p=p,
        chosen=chosen,
        spots_text=spots_text,
        MAX_TYPED=MAX_TYPED,
        handle=handle_of(chosen, built, p.row, p.frame) if chosen and view == "bare" else None,
        risers=risers(chosen, _before(opened, chosen)) if chosen else [],
        snaps=snaps(opened.scene.base, opened.scene.forms, chosen.id if chosen else None),
        off_by=volume_off_by(len(chosen.dips)) if isinstance(chosen, Dips) else None,
        fields=inputs(FIELDS[chosen.kind], values_of(chosen)) if chosen else [],
        kinds=KIND_WORDS,
        drawn_kinds=[(kind, KIND_WORDS.get(kind, "road, kept flat"), kind in PATHS) for kind in NOUNS],
        pencils=PENCILS,
        follow=FOLLOW,
        tracing=opened.scene.photo is not None and not opened.scene.photo.left_out,
        materials=[(one.id, one.name) for one in known if one.family in ("foam", "paper", "board")],
        casts=[one for one in mixes_of(opened, "skin") if opened.catalogue.mixes[one[0]].sets],
        glues=[(one.id, one.name) for one in known if one.glue_line_h],
        reading=report(
            opened.scene, built, opened.plan.lifts, GroundQuery("bare"), opened.catalogue, ("reading",)
        ).reading,
        finished_weight=weigh(opened.scene, built, opened.plan.lifts, finished=True),
        stages=stages_of(opened),
        at_stage=request.args.get("at", "bare"),
        view=view,
        views=VIEWS,
        slope_bands=SLOPES,
        tool="page",
        place="ground.page",
    )


@blueprint.get("/s/<slug>/relief.webp")
def relief(slug: str) -> Response:
    """The plan's picture at a stage; `v` in its address is the revision, so it may be kept. Raises Faults."""
    opened = open_scene(slug)
    stage = request.args.get("stage", "bare")
    try:
        picture = relief_picture(
            opened.scene, opened.plan.built, stage, wet="wet" in request.args, water="water" in request.args
        )
    except KeyError:
        raise no_stage(stage) from None
    response = Response(picture, mimetype="image/webp")
    if request.args.get("v") == str(opened.head_id):
        response.headers["Cache-Control"] = "private, max-age=86400, immutable"
    return response


@blueprint.get("/s/<slug>/relief.json")
def relief_json(slug: str) -> Response:
    """The ground at a stage for the relief that can be turned: heights and what its sides are. Raises Faults."""
    opened = open_scene(slug)
    stage = request.args.get("stage", "bare")
    try:
        model = relief_model(opened.scene, opened.plan.built, stage)
    except KeyError:
        raise no_stage(stage) from None
    return Response(json.dumps(model, separators=(",", ":")), mimetype="application/json")


@blueprint.get("/s/<slug>/cut")
def cut(slug: str) -> str:
    """The cut at another place: just the parts that change."""
    opened = open_scene(slug)
    at = parse_float(request.args.get("y", ""), "the cut's place")
    cookie[f"cut:{slug}"] = round(min(max(at, 0.0), opened.scene.base.depth_mm), 1)
    view = _view()
    p = render_panels(opened, view, checks="checks" in request.args)
    chosen = form_of(opened, request.args.get("form"))
    handle = handle_of(chosen, opened.plan.built, p.row, p.frame) if chosen else None
    return render_template("draw/_cut.html", opened=opened, p=p, chosen=chosen, handle=handle)


def then(slug: str, form_id: str | None = None, *also: str) -> str:
    """The page after a change, a form chosen, and others with it."""
    return url_for("ground.page", slug=slug, form=form_id, also=also or None)


@blueprint.post("/s/<slug>/forms")
def add(slug: str) -> BaseResponse:
    """A new sheet over the whole base if there is none yet, else a form in its middle."""
    opened = open_scene(slug)
    kind = request.form.get("kind", "")
    data = begin(kind, opened.scene.base, opened.plan.built.bare, not opened.scene.forms)
    name = opened.new_id(kind)
    return edit(
        slug, f"Added a {kind}", lambda scene: change.add(scene, "forms", {"id": name, **data}), then(slug, name)
    )


def _line(held: Sequence[Sequence[float]]) -> list[list[float]]:
    """The outline or path that a form sends: JSON from dragging, or one x and y field a corner, which have what they
    `held` if they still show that."""
    sent = request.form.get("line")
    if sent:
        try:
            return [[round(float(x), 3), round(float(y), 3)] for x, y in json.loads(sent)]
        except (ValueError, TypeError, RecursionError):
            raise fault("outline", "it is no list of corners", "write [[x, y], ...] in mm") from None
    corners = []
    for number, (x, y) in enumerate(zip(request.form.getlist("x"), request.form.getlist("y"), strict=False)):
        if not x.strip() and not y.strip():
            continue
        corner, before = (
            Field("corner", f"corner {number + 1}", "mm"),
            held[number] if number < len(held) else (None,) * 2,
        )
        corners.append([corner.read(text, one) for text, one in zip((x, y), before, strict=True)])
    return corners


@blueprint.post("/s/<slug>/forms/<form_id>")
def change_form(slug: str, form_id: str) -> BaseResponse:
    """Exact numbers, corners that were dragged, or one size that was dragged in the cut."""
    dragged = "line" in request.form
    sized = request.form.get("field")

    def changed(scene: Scene) -> Scene:
        form = change.find(scene, "forms", form_id)
        line = _line(form.line)
        changes: dict[str, Any] = {}
        if line:
            changes["path" if getattr(form, "path", None) else "outline"] = line
        if sized:
            field = next((one for one in FIELDS[form.kind] if one.name == sized), None)
            if field is None:
                raise fault("field", f"a {form.kind} has no {sized}", "reload the page")
            changes[sized] = field.parse(request.form.get("value", ""))
        if not dragged and not sized:
            name = request.form.get("name", form.title).strip()
            if not name:
                raise fault("name", "it is empty", "give it one, such as Pond")
            if name != form.title:
                changes["name"] = name
            changes |= sent_values(form, request.form)
        return change.update(scene, "forms", form_id, changes)

    return edit(slug, lambda scene: _words(scene, changed(scene), form_id), changed, then(slug, form_id))


def _words(before: Scene, after: Scene, form_id: str) -> str:
    """What the history says of a form that was changed."""
    was, form = (change.find(scene, "forms", form_id) for scene in (before, after))
    if was.title != form.title:
        return f"{was.title} is now called {form.title}"
    if was.line != form.line:
        return f"{form.title}: its line moved"
    return change_words(form.title, values_of(was), values_of(form), FIELDS[form.kind])


DIP = (
    Field("x", "where it was tapped, x", "number"),
    Field("y", "where it was tapped, y", "number"),
    Field("deep", "the dip", "mm", low=0, high=1000),
)


@blueprint.post("/s/<slug>/forms/<form_id>/dip")
def dip(slug: str, form_id: str) -> BaseResponse:
    """One more dip of a measured hollow; near one that is there, in its stead. Raises Faults."""
    x, y, deep = read(DIP, request.form).values()

    def measured(scene: Scene) -> Scene:
        form = change.find(scene, "forms", form_id)
        if form.kind != "dips":
            raise fault("dip", f"“{form.title}” is no hollow by dips", "choose one, or draw one")
        others = [list(one) for one in form.dips if hypot(one[0] - x, one[1] - y) > SAME_SPOT_MM]
        return change.update(scene, "forms", form_id, {"dips": [*others, [round(x, 1), round(y, 1), deep]]})

    return edit(
        slug, lambda scene: f"Dip of {deep:g} mm in {change.called(scene, form_id)}", measured, then(slug, form_id)
    )


@dataclass(frozen=True)
class Grips:
    """The handles that turn and scale what is chosen: its middle, and where they stand, px."""

    x: float
    y: float
    top: float
    corner_x: float


def _grips(forms: Sequence[Form], frame: Projection) -> Grips | None:
    if not forms or not all(form.line for form in forms):
        return None
    west, south, east, north = box_of(forms)
    middle, top = frame.x((west + east) / 2), frame.y(north)
    return Grips(middle, frame.y((south + north) / 2), max(top - GRIP_PX, frame.plan_top + 8), frame.x(east) + GRIP_PX)


@blueprint.post("/s/<slug>/forms/shape")
def shape_forms(slug: str) -> BaseResponse:
    """One form or several: shifted, turned, scaled, mirrored, once more, or away. Raises Faults."""
    opened, how = open_scene(slug), request.form.get("how", "")
    ids = [name for name in dict.fromkeys(request.form.getlist("chosen")) if form_of(opened, name)][:MAX_LISTED]
    if not ids or how not in (*HOWS, "copy", "remove"):
        raise fault("forms", "nothing is chosen, or nothing to do with it", "choose forms on the plan")
    east, north = (parse_float(request.form.get(name, "0"), "by how much") for name in ("by", "up"))
    twins: list[str] = []
    for name in ids if how == "copy" else ():
        twins.append(change.new_id(opened.written, opened.catalogue, name, {*opened.used, *twins}))

    def changed(scene: Scene) -> Scene:
        if how == "remove":
            return reduce(lambda one, name: change.remove(one, "forms", name), ids, scene)
        for name, twin in zip(ids, twins, strict=False):
            scene = change.duplicate(scene, "forms", name, twin)
        if how == "copy":
            return transformed(scene, twins, "shift", (COPY_MM, -COPY_MM))
        return transformed(scene, ids, cast(How, how), (east, north))

    names = ", ".join(form.title for form in opened.scene.forms if form.id in ids)
    said = {"copy": "Once more", "remove": "Took away", "shift": "Moved", "turn": "Turned", "scale": "Scaled"}
    shown = [] if how == "remove" else twins or ids
    return edit(slug, f"{said.get(how, 'Mirrored')} {names}"[:200], changed, then(slug, *shown))


@blueprint.post("/s/<slug>/forms/<form_id>/move")
def move_form(slug: str, form_id: str) -> BaseResponse:
    """Up, down, off, on, once more, or away. Raises Faults."""
    how = request.form.get("how", "")
    opened = open_scene(slug)
    twin = opened.new_id(form_id)
    ways: dict[str, Callable[[Scene], Scene]] = {
        "remove": lambda scene: change.remove(scene, "forms", form_id),
        "switch": lambda scene: change.update(
            scene, "forms", form_id, {"off": not change.find(scene, "forms", form_id).off}
        ),
        "duplicate": lambda scene: change.duplicate(scene, "forms", form_id, twin),
        "up": lambda scene: change.move(scene, "forms", form_id, -1),
        "down": lambda scene: change.move(scene, "forms", form_id, 1),
    }
    if how not in ways:
        raise fault("move", f"“{how}” is no way to move a form", f"one of {', '.join(ways)}")
    shown = {"remove": None, "duplicate": twin}.get(how, form_id)
    return edit(slug, lambda scene: f"{change.called(scene, form_id)}: {WAYS[how]}", ways[how], then(slug, shown))
