"""The Ground page: forms added, dragged, edited by exact numbers, put in order, switched off, removed."""

from __future__ import annotations

import json
from typing import Any

from flask import Blueprint, Response, g, render_template, request, url_for
from flask import session as cookie
from werkzeug.wrappers import Response as BaseResponse

from ...core.catalogue import shipped
from ...core.document.scene import Form
from ...core.fault import Faults, fault
from ...core.ground.field import Ground, empty_ground
from ...core.terrain.reading import weigh
from ...core.terrain.report import Asked, report
from ..draw.depths import pour_depths
from ..draw.panels import Panels, panels
from ..draw.relief import SLOPES, relief_model, relief_png
from ..frame.opened import Document, Opened, edit, entry, look_of, measured, mixes_of, new_id, numeral_of, open_scene
from .fields import FIELDS, KIND_WORDS, begin, fill, handle_of, risers, shown, snaps, value_of

blueprint = Blueprint("ground", __name__)

TOOLS = (
    ("page", "Forms"),
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


def cut_of(opened: Opened) -> float | None:
    """Where the reader last put this scene's cut."""
    at = cookie.get(f"cut:{opened.slug}")
    return float(at) if isinstance(at, int | float) else None


def drawn(opened: Opened, stage: str, checks: bool = False) -> Panels:
    """Plan and cut of a scene; with `checks`, where neighbours do not go together."""
    built, depths = opened.plan.built, pour_depths(opened.plan)
    bite = opened.plan.checks if checks else ()
    return panels(opened.scene, built, depths, cut_of(opened), opened.measures, stage, look_of(opened.slug), bite)


def no_stage(stage: str) -> Faults:
    """What is said of a stage that the scene has not."""
    return fault("stage", f"there is no stage '{stage}'", "choose one of the list")


def _view() -> str:
    wanted = request.args.get("stage", "bare")
    return wanted if wanted in dict(VIEWS) else "bare"


def form_of(opened: Opened, form_id: str | None) -> Form | None:
    """The scene's form of that id."""
    return next((form for form in opened.scene.forms if form.id == form_id), None)


def stages_of(opened: Opened) -> list[tuple[str, str]]:
    """(id, words) of every stage of the build: each form, each lift, the end."""
    forms = [(one.form.id, one.form.title) for one in opened.plan.built.forms if not one.form.after]
    lifts = [(name, stage.site.lift.title) for name, stage in opened.plan.built.stages.items()]
    return [*forms, ("bare", "all forms"), *lifts, ("finished", "finished")]


def _before(opened: Opened, form: Form) -> Ground:
    """The ground that a form comes on to."""
    ground = empty_ground(opened.scene.base, opened.scene.cell_mm)
    for one in opened.plan.built.forms:
        if one.form.id == form.id:
            break
        ground = one.ground
    return ground


@blueprint.get("/s/<slug>/ground")
def page(slug: str) -> str:
    """Plan and cut of the forms, or the relief that can be turned."""
    opened = open_scene(slug)
    chosen, view = form_of(opened, request.args.get("form")), _view()
    built = opened.plan.built
    p = drawn(opened, "bare" if view == "relief" else view)
    known = shipped().materials
    own = {one.id: one for one in opened.scene.materials}
    known_mixes, own_mixes = shipped().mixes, {one.id: one for one in opened.scene.mixes}
    return render_template(
        "ground/page.html",
        opened=opened,
        p=p,
        chosen=chosen,
        handle=handle_of(chosen, built, p.row, p.frame) if chosen and view == "bare" else None,
        risers=risers(chosen, _before(opened, chosen)) if chosen else [],
        snaps=snaps(opened.scene.base, opened.scene.forms, chosen.id if chosen else None),
        fields=FIELDS,
        shown=shown,
        kinds=KIND_WORDS,
        materials=[(one.id, one.name) for one in {**known, **own}.values() if one.family in ("foam", "paper", "board")],
        casts=[one for one in mixes_of(opened, "skin") if (known_mixes | own_mixes)[one[0]].sets],
        glues=[(one.id, one.name) for one in {**known, **own}.values() if one.glue_line_h],
        reading=report(opened.scene, built, opened.plan.lifts, Asked("bare"), ("reading",)).reading,
        finished_weight=weigh(opened.scene, built, opened.plan.lifts, finished=True),
        stages=stages_of(opened),
        at_stage=request.args.get("at", "bare"),
        view=view,
        views=VIEWS,
        slope_bands=SLOPES,
        tool="page",
        place="ground.page",
    )


@blueprint.get("/s/<slug>/relief.png")
def relief(slug: str) -> Response:
    """The plan's picture at a stage; `v` in its address is the revision, so it may be kept."""
    opened = open_scene(slug)
    stage = request.args.get("stage", "bare")
    try:
        picture = relief_png(opened.scene, opened.plan.built, stage, wet="wet" in request.args)
    except KeyError:
        raise no_stage(stage) from None
    response = Response(picture, mimetype="image/png")
    if request.args.get("v") == str(opened.head_id):
        response.headers["Cache-Control"] = "private, max-age=86400, immutable"
    return response


@blueprint.get("/s/<slug>/relief.json")
def relief_json(slug: str) -> Response:
    """The ground at a stage for the relief that can be turned: heights and colours, thinned to what a screen shows."""
    opened = open_scene(slug)
    stage = request.args.get("stage", "bare")
    try:
        model = relief_model(opened.scene, opened.plan.built, stage)
    except KeyError:
        raise no_stage(stage) from None
    return Response(json.dumps(model), mimetype="application/json")


@blueprint.get("/s/<slug>/cut")
def cut(slug: str) -> str:
    """The cut at another place: just the parts that change."""
    opened = open_scene(slug)
    at = numeral_of(request.args.get("y", ""), "the cut's place")
    cookie[f"cut:{slug}"] = round(min(max(at, 0.0), opened.scene.base.depth_mm), 1)
    view = _view()
    p = drawn(opened, view, checks="checks" in request.args)
    chosen = form_of(opened, request.args.get("form"))
    handle = handle_of(chosen, opened.plan.built, p.row, p.frame) if chosen else None
    return render_template("draw/_cut.html", opened=opened, p=p, chosen=chosen, handle=handle)


def _then(slug: str, form_id: str | None = None) -> str:
    return url_for("ground.page", slug=slug, form=form_id)


def _round(value: float) -> float:
    return round(value, 3)


@blueprint.post("/s/<slug>/forms")
def add(slug: str) -> BaseResponse:
    """A new sheet over the whole base if there is none yet, else a form in its middle."""
    opened = open_scene(slug)
    kind = request.form.get("kind", "")
    made = begin(kind, opened.scene.base, opened.plan.built.bare, not opened.scene.forms)
    name = new_id(opened.document, kind)

    def change(data: Document) -> None:
        data.setdefault("forms", []).append({"id": name, **made})

    return edit(slug, f"Added a {kind}", change, _then(slug, name))


def _line() -> list[list[float]]:
    """The outline or path that a form sends: JSON from dragging, or one x and y field a corner."""
    sent = request.form.get("line")
    if sent:
        try:
            return [[_round(float(x)), _round(float(y))] for x, y in json.loads(sent)]
        except (ValueError, TypeError):
            raise fault("outline", "it is no list of corners", "write [[x, y], ...] in mm") from None
    corners = []
    for number, (x, y) in enumerate(zip(request.form.getlist("x"), request.form.getlist("y"), strict=False), start=1):
        if not x.strip() and not y.strip():
            continue
        corners.append([_round(measured(text, "length", f"corner {number}", g.measures)) for text in (x, y)])
    return corners


@blueprint.post("/s/<slug>/forms/<form_id>")
def change_form(slug: str, form_id: str) -> BaseResponse:
    """Exact numbers, corners that were dragged, or one size that was dragged in the cut."""
    dragged = "line" in request.form
    line, sized = _line(), request.form.get("field")

    def change(data: Document) -> None:
        form = entry(data, "forms", form_id)
        if line:
            form["path" if form.get("path") else "outline"] = line
        if sized:
            field = next((one for one in FIELDS[form["kind"]] if one.name == sized), None)
            if field is None:
                raise fault("field", f"a {form['kind']} has no {sized}", "reload the page")
            form[sized] = value_of(field, request.form.get("value", ""))
        if dragged or sized:
            return
        form["name"] = request.form.get("name", "").strip() or form_id
        fill(form)

    return edit(slug, f"Changed {form_id}", change, _then(slug, form_id))


@blueprint.post("/s/<slug>/forms/<form_id>/move")
def move_form(slug: str, form_id: str) -> BaseResponse:
    """Up, down, off, on, once more, or away."""
    how = request.form.get("how", "")
    opened = open_scene(slug)
    twin = new_id(opened.document, form_id)

    def change(data: Document) -> None:
        forms: list[Any] = data["forms"]
        place = forms.index(entry(data, "forms", form_id))
        if how == "remove":
            forms.pop(place)
        elif how == "switch":
            forms[place]["off"] = not forms[place].get("off", False)
        elif how == "duplicate":
            named = forms[place].get("name")
            forms.insert(place + 1, {**forms[place], "id": twin, **({"name": f"{named}, again"[:80]} if named else {})})
        elif how in ("up", "down"):
            to = place + (-1 if how == "up" else 1)
            if 0 <= to < len(forms):
                forms[place], forms[to] = forms[to], forms[place]

    then = {"remove": None, "duplicate": twin}.get(how, form_id)
    return edit(slug, f"{form_id}: {how}", change, _then(slug, then))
