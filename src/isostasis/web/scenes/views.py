"""The page of all scenes."""

from __future__ import annotations

import io
import json
from dataclasses import dataclass
from datetime import datetime

from flask import Blueprint, Response, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.document import ResolvedScene
from ...core.fault import Faults, fault
from ...core.lifts.labels import Labels
from ...core.plan import plan
from ...core.stages import cached_stage
from ...core.starters import STARTERS
from ...demo import fill
from ...exchange.archive import START as ARCHIVE
from ...exchange.archive import SceneArchive, StepPhoto, holds_everything, read_archive, write_archive
from ...store import marks as marks_of
from ...store import photos, pictures, scenes, shelved
from ..archive import waiting
from ..archive.scene import taken_in
from ..draw.depths import pour_depths
from ..draw.panels import CutShape, all_water, cut_shapes, default_cut, row_of
from ..draw.projection import Projection, projection_of
from ..layup.kinds import cut_hatch_of
from ..shared.answers import hx_redirect
from ..shared.fields import Field
from ..shared.scenes import database, now, open_scene
from ..shared.views import wet_now_of

blueprint = Blueprint("scenes", __name__)
DRAWN_AT_ONCE = 6  # cards of the page of all scenes; a screen holds fewer
NAME = Field("name", "name", most=80)


@dataclass(frozen=True)
class Drawing:
    """A scene's cut as its card shows it, and the ids of its steps."""

    frame: Projection
    shapes: tuple[CutShape, ...]
    waters: tuple[str, ...]
    steps: frozenset[str]


@dataclass(frozen=True)
class Card:
    """A scene as its card shows it; `problem` where this version cannot plan it."""

    slug: str
    name: str
    head: int
    scene: ResolvedScene | None = None
    drawing: Drawing | None = None
    done: int = 0
    problem: str = ""


@cached_stage
def _drawing(scene: ResolvedScene) -> Drawing:
    """Drawn once for each revision, bench and set of labels."""
    planned = plan(scene)
    frame = projection_of(scene)
    row = row_of(planned.built.bare, default_cut(scene, planned.built))
    shapes = cut_shapes(scene, planned.built, row, frame, Labels.of(scene), cut_hatch_of)
    waters = [d for water in all_water(planned.built, pour_depths(planned), row, frame) for d, _ in water.cut]
    return Drawing(frame, tuple(shapes), tuple(waters), frozenset(step.id for step in planned.steps))


@blueprint.get("/s/<slug>/cut.svg")
def own_cut(slug: str) -> Response:
    """The scene's cut, small, for the spine; `v` in its address is the revision, so it may be kept. Raises Faults."""
    opened = open_scene(slug)
    response = Response(render_template("scenes/cut.svg", drawing=_drawing(opened.scene)), mimetype="image/svg+xml")
    if request.args.get("v") == str(opened.head_id):
        response.headers["Cache-Control"] = "private, max-age=86400, immutable"
    return response


def _card(slug: str) -> Card:
    with database().reading() as session:
        row = scenes.find(session, slug)
        name, head = scenes.name_of(row.head), row.head.number
        try:
            scene = scenes.resolve(session, row.head)
            drawing = _drawing(scene)
        except Faults as faults:
            return Card(slug, name, head, problem=str(faults.faults[0]))
        marks = marks_of.marks(marks_of.events(session, row))
    return Card(slug, name, head, scene, drawing, len(drawing.steps & {*marks.done, *marks.skipped}))


@blueprint.get("/")
def page() -> str:
    """All scenes: the first drawn at once, the others when they are scrolled to."""
    with database().reading() as session:
        named = scenes.named(session)
        away = [(row.slug, scenes.name_of(row.head)) for row in shelved.archived(session)]
        bin_ = [(row.slug, scenes.name_of(row.head), _days_left(row.binned_at)) for row in shelved.binned(session)]
    cards = [_card(slug) for slug, _ in named[:DRAWN_AT_ONCE]]
    return render_template(
        "scenes/page.html", starters=STARTERS, cards=cards, later=named[DRAWN_AT_ONCE:], archived=away, bin=bin_,
        new=not (named or away or bin_), place="scenes",
    )  # fmt: skip


def _days_left(binned_at: datetime | None) -> int:
    """Days until something in the bin is gone."""
    return max(shelved.BIN_DAYS - (now() - binned_at).days, 0) if binned_at else shelved.BIN_DAYS


@blueprint.post("/demo")
def demo() -> BaseResponse:
    """Made-up scenes with their work, shelf and records, into a database that has none. Raises Faults."""
    with database().reading() as session:
        if scenes.named(session) or shelved.archived(session) or shelved.binned(session):
            raise fault("demo", "there are scenes here already", "look at it apart with `isostasis demo`")
    fill(database(), now())
    return hx_redirect(url_for("scenes.page"))


@blueprint.get("/s/<slug>/card")
def card(slug: str) -> str:
    """The card of one scene. Raises NoSuchScene."""
    return render_template("scenes/_card.html", card=_card(slug), all_wet=wet_now_of(slug))


@blueprint.post("/scenes/import")
def import_() -> BaseResponse:
    """Take a scene file in; an archive of everything is told first, on its own page. Raises Faults."""
    sent = request.files.get("file")
    text = sent.read() if sent and sent.filename else request.form.get("text", "").encode()
    if not text.strip():
        raise fault("file", "nothing was chosen", "choose a scene file, or paste its text")
    if text.startswith(ARCHIVE) and holds_everything(io.BytesIO(text)):
        return hx_redirect(url_for("archive.look", digest=waiting.keep(io.BytesIO(text))))
    brought: SceneArchive | None = read_archive(text) if text.startswith(ARCHIVE) else None
    slug = taken_in(brought, text, sent.filename if sent and sent.filename else "")
    return hx_redirect(url_for("ground.page", slug=slug))


@blueprint.post("/s/<slug>/copy")
def copy(slug: str) -> BaseResponse:
    """A copy to try things on."""
    with database().writing() as session:
        scenes.copy(session, scenes.find(session, slug), now())
    return hx_redirect(url_for("scenes.page"))


@blueprint.get("/s/<slug>/export.json")
def export(slug: str) -> Response:
    """The resolved document as a file: the command line gives the same figures for it."""
    with database().reading() as session:
        data = scenes.exported(session, scenes.find(session, slug).head)
    response = Response(json.dumps(data, indent=1, ensure_ascii=False), mimetype="application/json")
    response.headers["Content-Disposition"] = f'attachment; filename="{slug}.json"'
    return response


@blueprint.get("/s/<slug>/archive.zip")
def archive(slug: str) -> Response:
    """The resolved document, its photo and the photos of its steps in one file."""
    with database().reading() as session:
        row = scenes.find(session, slug)
        data, laid = scenes.exported(session, row.head), scenes.document(row.head).photo
        kept = [pictures.find(session, name) for name in (laid.taken, laid.straight)] if laid else []
        taken, straight = [one.content if one else None for one in kept] or [None, None]
        steps = [
            StepPhoto(one.step, one.moment, one.note, one.at.isoformat(), shot.content)
            for one in photos.of(session, row)
            if (shot := pictures.find(session, one.digest)) is not None
        ]
    text = json.dumps(data, indent=1, ensure_ascii=False)
    response = Response(write_archive(text, taken, straight, steps), mimetype="application/zip")
    response.headers["Content-Disposition"] = f'attachment; filename="{slug}.zip"'
    return response


@blueprint.get("/s/<slug>/plan.json")
def plan_json(slug: str) -> Response:
    """The plan, as `isostasis plan --json` prints it."""
    with database().reading() as session:
        made = plan(scenes.resolve(session, scenes.find(session, slug).head))
    return Response(json.dumps(made.as_json(), indent=1, ensure_ascii=False), mimetype="application/json")
