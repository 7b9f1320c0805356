"""The page of all scenes."""

from __future__ import annotations

import json
from dataclasses import dataclass

from flask import Blueprint, Response, g, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.fault import Faults, fault
from ...core.kinds import read
from ...core.plan import plan
from ...store import scenes, settings, work
from ..draw.depths import pour_depths
from ..draw.frame import Frame, frame_of
from ..draw.panels import CutShape, all_water, cut_shapes, default_cut, row_of
from ..frame.opened import Opened, database, edit, go, measure, now, open_scene

blueprint = Blueprint("scenes", __name__)


@dataclass(frozen=True)
class Card:
    """A scene as its card shows it; `problem` where this version cannot plan it."""

    slug: str
    name: str
    opened: Opened | None
    frame: Frame | None
    shapes: list[CutShape]
    waters: list[str]
    done: int
    steps: int
    problem: str = ""


def _card(slug: str, name: str) -> Card:
    try:
        opened = open_scene(slug)
    except Faults as faults:
        return Card(slug, name, None, None, [], [], 0, 0, str(faults.faults[0]))
    built = opened.plan.built
    frame = frame_of(opened.scene)
    row = row_of(built.bare, default_cut(opened.scene, built))
    waters = [d for water in all_water(built, pour_depths(opened.plan), row, frame) for d, _ in water.cut]
    with database().reading() as session:
        marks = work.marks(work.events(session, scenes.find(session, slug)))
    ids = {step.id for step in opened.plan.steps}
    return Card(slug, name, opened, frame, cut_shapes(opened.scene, built, row, frame, opened.labels), waters,
                len(ids & {*marks.done, *marks.skipped}), len(ids))  # fmt: skip


@blueprint.get("/")
def page() -> str:
    """All scenes."""
    with database().reading() as session:
        named = [(row.slug, scenes.document(row.head)["name"]) for row in scenes.all_scenes(session)]
    return render_template("scenes/page.html", cards=[_card(*one) for one in named], place="scenes")


@blueprint.post("/scenes/new")
def new() -> BaseResponse:
    """Start a scene: a board, a sheet of foam on it, and a hollow to begin with."""
    name = request.form.get("name", "").strip()
    if not name:
        raise fault("name", "the scene has no name", "give it one, such as Mill leat")
    round_base = request.form.get("shape") == "round"
    width = measure("width", "length", "width", g.measures)
    depth = width if round_base else measure("depth", "length", "depth", g.measures)
    base: dict[str, object] = {"width_mm": width, "depth_mm": depth, "board": "plywood-9"}
    if round_base:
        base["outline"] = {"disc_mm": width}
    data = {
        "isostasis": 1,
        "name": name,
        "base": base,
        "forms": [],
        "patches": [{"id": "ground", "name": "Ground", "area": {"rest": True}, "lifts": []}],
    }
    if max(width, depth) < 120:
        data["grid_mm"] = max(0.25, round(max(width, depth) / 120 * 4) / 4)
    with database().writing() as session:
        row = scenes.create(session, data, "New scene", now())
    return go(url_for("ground.page", slug=row.slug))


@blueprint.post("/scenes/import")
def import_() -> BaseResponse:
    """Take a scene file in."""
    sent = request.files.get("file")
    text = sent.read() if sent and sent.filename else request.form.get("text", "").encode()
    if not text.strip():
        raise fault("file", "nothing was chosen", "choose a scene file, or paste its text")
    read(text)
    with database().writing() as session:
        row = scenes.create(
            session,
            json.loads(text),
            f"Imported{' from ' + sent.filename if sent and sent.filename else ''}",
            now(),
        )
    return go(url_for("ground.page", slug=row.slug))


@blueprint.post("/s/<slug>/copy")
def copy(slug: str) -> BaseResponse:
    """A copy to try things on."""
    with database().writing() as session:
        scenes.copy(session, scenes.find(session, slug), now())
    return go(url_for("scenes.page"))


@blueprint.post("/s/<slug>/rename")
def rename(slug: str) -> BaseResponse:
    """Another name for the scene."""
    name = request.form.get("name", "").strip()

    def change(data: dict[str, object]) -> None:
        data["name"] = name

    return edit(slug, f"Renamed to {name}", change, url_for("scenes.page"))


@blueprint.get("/s/<slug>/export.json")
def export(slug: str) -> Response:
    """The resolved document as a file: the command line gives the same figures for it."""
    with database().reading() as session:
        data = scenes.exported(scenes.find(session, slug).head, settings.bench(session))
    response = Response(json.dumps(data, indent=1, ensure_ascii=False), mimetype="application/json")
    response.headers["Content-Disposition"] = f'attachment; filename="{slug}.json"'
    return response


@blueprint.get("/s/<slug>/plan.json")
def plan_json(slug: str) -> Response:
    """The plan, as `isostasis plan --json` prints it."""
    with database().reading() as session:
        made = plan(scenes.resolve(scenes.find(session, slug).head, settings.bench(session)))
    return Response(json.dumps(made.as_json(), indent=1, ensure_ascii=False), mimetype="application/json")
