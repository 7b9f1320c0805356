"""The Ground page: forms added, dragged, edited by exact numbers, put in order, switched off, removed."""

from __future__ import annotations

import json
from typing import Any

from flask import Blueprint, Response, g, render_template, request, session as cookie, url_for  # isort: skip
from werkzeug.wrappers import Response as BaseResponse

from ...core.fault import fault
from ..draw.depths import pour_depths
from ..draw.panels import panels
from ..draw.relief import relief_png
from ..frame.opened import Document, Opened, edit, entry, measure, measured, new_id, numeral, open_scene

blueprint = Blueprint("ground", __name__)


def cut_of(opened: Opened) -> float | None:
    """Where the reader last put this scene's cut."""
    at = cookie.get(f"cut:{opened.slug}")
    return float(at) if isinstance(at, int | float) else None


def drawn(opened: Opened, stage: str) -> Any:
    """Plan and cut of a scene."""
    return panels(opened.scene, opened.plan.built, pour_depths(opened.plan), cut_of(opened), opened.measures, stage)


def _stage() -> str:
    return "bare" if request.args.get("stage") == "bare" else "finished"


@blueprint.get("/s/<slug>/ground")
def page(slug: str) -> str:
    """Plan and cut of the bare forms."""
    opened = open_scene(slug)
    chosen = next((form for form in opened.scene.forms if form.id == request.args.get("form")), None)
    stage = "finished" if request.args.get("stage") == "finished" else "bare"
    kinds = {"sheet": "thickness_mm", "basin": "depth_mm"}
    return render_template(
        "ground/page.html",
        opened=opened,
        p=drawn(opened, stage),
        chosen=chosen,
        size_field=kinds,
        place="ground.page",
        stage=stage,
    )


@blueprint.get("/s/<slug>/relief.png")
def relief(slug: str) -> Response:
    """The plan's picture at a stage; `v` in its address is the revision, so it may be kept."""
    opened = open_scene(slug)
    response = Response(relief_png(opened.scene, opened.plan.built, _stage()), mimetype="image/png")
    if request.args.get("v") == str(opened.head_id):
        response.headers["Cache-Control"] = "private, max-age=86400, immutable"
    return response


@blueprint.get("/s/<slug>/cut")
def cut(slug: str) -> str:
    """The cut at another place: just the parts that change."""
    opened = open_scene(slug)
    try:
        at = float(request.args.get("y", ""))
    except ValueError:
        raise fault("y", "the cut's place is no number", "give mm from the south edge") from None
    cookie[f"cut:{slug}"] = round(min(max(at, 0.0), opened.scene.base.depth_mm), 1)
    return render_template("draw/_cut.html", opened=opened, p=drawn(opened, _stage()))


def _then(slug: str, form_id: str | None = None) -> str:
    return url_for("ground.page", slug=slug, form=form_id)


def _round(value: float) -> float:
    return round(value, 3)


@blueprint.post("/s/<slug>/forms")
def add(slug: str) -> BaseResponse:
    """A new sheet over the whole base if there is none yet, else a form in its middle."""
    opened = open_scene(slug)
    kind = request.form.get("kind", "")
    if kind not in ("sheet", "basin"):
        raise fault("kind", f"'{kind}' is no kind of form that is built", "choose sheet or basin")
    base = opened.scene.base
    width, depth = base.width_mm, base.depth_mm
    share = (0.0, 1.0) if kind == "sheet" and not opened.scene.forms else (0.3, 0.7)
    west, east = (_round(width * part) for part in share)
    south, north = (_round(depth * part) for part in share)
    ring: list[list[float]] = [[west, south], [east, south], [east, north], [west, north]]
    if base.outline and share == (0.0, 1.0):
        ring = [[_round(x), _round(y)] for x, y in base.ring]
    made: Document = {"kind": kind, "outline": ring}
    name = new_id(opened.document, kind)
    if kind == "sheet":
        made |= {"thickness_mm": 25 if min(width, depth) > 150 else 10, "material": "foam-xps"}
    else:
        built = opened.plan.built.bare
        row, column = built.cell_at((west + east) / 2, (south + north) / 2)
        under = float(built.z[row, column])
        if under <= 0:
            raise fault("forms", "there is nothing to cut a basin into there", "lay a sheet first")
        made |= {"depth_mm": min(10, _round(under / 2)), "bank_deg": 45}

    def change(data: Document) -> None:
        data.setdefault("forms", []).append({"id": name, **made})

    return edit(slug, f"Added a {kind}", change, _then(slug, name))


def _outline() -> list[list[float]]:
    """The outline that a form sends: JSON from dragging, or one x and y field a corner."""
    sent = request.form.get("outline")
    if sent:
        try:
            ring = json.loads(sent)
            return [[_round(float(x)), _round(float(y))] for x, y in ring]
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
    """Exact numbers, or corners that were dragged."""
    dragged = request.form.get("outline")
    ring = _outline()

    def change(data: Document) -> None:
        form = entry(data, "forms", form_id)
        if ring:
            form["outline"] = ring
        if dragged:
            return
        form["name"] = request.form.get("name", "").strip() or form_id
        if form["kind"] == "sheet":
            form["thickness_mm"] = _round(measure("size", "length", "thickness", g.measures))
            form["glue"] = "white-glue"
            if request.form.get("glue") != "yes":
                del form["glue"]
        else:
            form["depth_mm"] = _round(measure("size", "length", "depth", g.measures))
            form["bank_deg"] = numeral("bank_deg", "bank")

    return edit(slug, f"Changed {form_id}", change, _then(slug, form_id))


@blueprint.post("/s/<slug>/forms/<form_id>/move")
def move_form(slug: str, form_id: str) -> BaseResponse:
    """Up, down, off, on, or away."""
    how = request.form.get("how", "")

    def change(data: Document) -> None:
        forms = data["forms"]
        place = forms.index(entry(data, "forms", form_id))
        if how == "remove":
            forms.pop(place)
        elif how == "switch":
            forms[place]["off"] = not forms[place].get("off", False)
        elif how in ("up", "down"):
            to = place + (-1 if how == "up" else 1)
            if 0 <= to < len(forms):
                forms[place], forms[to] = forms[to], forms[place]

    return edit(slug, f"{form_id}: {how}", change, _then(slug, None if how == "remove" else form_id))
