"""Starting a scene: a few questions, its picture and what it comes to as they are answered, then the scene itself."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from urllib.parse import urlencode

from flask import Response, current_app, flash, g, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.document import ResolvedScene, Scene, resolve
from ...core.document.edit import free_name, set_fields
from ...core.fault import Faults, fault
from ...core.figure import Figure
from ...core.plan import Plan, plan
from ...core.reading import read as read_scene
from ...core.schedule import Schedule
from ...core.schedule.forecast import by_rule
from ...core.starters import Question, Starter, starter
from ...core.starters.layout import grid_of
from ...core.starters.parts import SHEET_MM
from ...core.starters.parts import sheet as sheet_of
from ...store import labels, scenes
from ..draw.block import Block, block
from ..ground.photo import keep_upload
from ..shared.answers import hx_redirect
from ..shared.fields import Field, inputs, read, read_one
from ..shared.scenes import database, now
from ..shared.told import sentences
from .views import NAME, blueprint

_UNIT: dict[str, Any] = {"size": "mm", "count": "whole", "choice": "choice"}


@dataclass(frozen=True)
class ShownQuestion:
    """A question as the page shows it: what its field holds, and what can be chosen."""

    question: Question
    text: str
    options: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Begun:
    """A scene that is not kept yet: its plan, its picture, when it could be done."""

    scene: ResolvedScene
    plan: Plan
    block: Block
    times: Schedule | None
    finish: datetime | None

    @property
    def hands_h(self) -> float:
        """Hours of work."""
        return sum(step.hands_on_min for step in self.plan.steps if not step.only_if) / 60

    @property
    def work(self) -> list[tuple[str, float]]:
        """(spot, hours of work on it), and that on the forms before."""
        hours: dict[str, float] = {}
        for step in self.plan.steps:
            if not step.only_if:
                spot = next((one.name for one in self.scene.patches if one.id == step.patch), "The ground itself")
                hours[spot] = hours.get(spot, 0.0) + step.hands_on_min / 60
        return list(hours.items())

    @property
    def waters(self) -> list[tuple[str, Figure, str]]:
        """(what, to mix of it for one copy, of what) for each pour."""
        return [
            (
                patch.name,
                self.plan.lifts[lift.id].mix_ml,
                next(one.name for one in self.scene.mixes if one.id == lift.mix),
            )
            for patch in self.scene.patches
            for lift in patch.lifts
            if lift.levels_itself
        ]

    @property
    def becomes(self) -> list[tuple[str, str]]:
        """Each spot, and its lay-up from the bed up in a few words."""
        return [
            (patch.name, ", ".join(lift.title.removeprefix(patch.name).strip() for lift in patch.lifts))
            for patch in self.scene.patches
            if patch.lifts
        ]


def _starter(starter_id: str) -> Starter:
    chosen = starter(starter_id)
    if chosen is None:
        raise fault("start", f"there is no “{starter_id[:40]}” to start from", "choose one on the page of scenes")
    return chosen


def _field(question: Question) -> Field:
    return Field(question.name, question.label, _UNIT[question.kind], start=question.start)


def _answers(kind: Starter, sent: Mapping[str, str]) -> dict[str, Any]:
    """What was answered so far, in mm. Raises Faults."""
    return {one.name: _field(one).parse(sent[one.name]) for one in kind.questions if one.name in sent}


def _asked(kind: Starter, sent: Mapping[str, str]) -> list[ShownQuestion]:
    asked = []
    for question in kind.questions:
        options = question.options
        if question.kind == "count" and question.high - question.low <= 6:
            options = tuple((str(count), str(count)) for count in range(int(question.low), int(question.high) + 1))
        asked.append(ShownQuestion(question, sent.get(question.name) or _field(question).show(question.start), options))
    return asked


def _scene(document: dict[str, Any]) -> ResolvedScene:
    """The scene of a document, on the user's own bench, with the labels in force. Raises Faults."""
    with database().reading() as session:
        return resolve(read_scene(document), labels.catalogue(session), g.settings.bench)


def _begun(document: dict[str, Any]) -> Begun:
    """The scene of a document, planned, and timed in the user's hours. Raises Faults."""
    scene = _scene(document)
    planned = plan(scene)
    zone = current_app.extensions["zone"]
    times = (
        by_rule(scene, g.settings.hours, now().astimezone(zone).replace(second=0, microsecond=0))
        if planned.steps
        else None
    )
    finish = datetime.fromisoformat(times.finish).astimezone(zone) if times and times.finish else None
    return Begun(scene, planned, block(scene), times, finish)


@blueprint.get("/start/<kind>")
def start(kind: str) -> str:
    """The questions of one kind of scene; with HX-Request just its picture and what it comes to. Raises Faults."""
    chosen = _starter(kind)
    asked, begun, wrong = _asked(chosen, request.args), None, []
    try:
        begun = _begun(chosen.document(_answers(chosen, request.args)))
    except Faults as faults:
        wrong = sentences(faults.faults, None)
    part = "HX-Request" in request.headers and request.headers.get("HX-Target") == "begun"
    return render_template(
        f"scenes/{'_begun' if part else 'start'}.html",
        starter=chosen,
        asked=asked,
        begun=begun,
        sentences=wrong,
        picture=f"{url_for('scenes.start_picture', kind=kind)}?{urlencode(request.args.to_dict())}",
        place="scenes",
    )


@blueprint.get("/start/<kind>/block.webp")
def start_picture(kind: str) -> Response:
    """The picture of a scene as it would be. Raises Faults."""
    chosen = _starter(kind)
    scene = _scene(chosen.document(_answers(chosen, request.args)))
    response = Response(block(scene).picture, mimetype="image/webp")
    response.headers["Cache-Control"] = "private, max-age=3600"
    return response


@blueprint.post("/start/<kind>")
def begin(kind: str) -> BaseResponse:
    """Make it a scene. Raises Faults."""
    chosen = _starter(kind)
    name = " ".join((read_one(NAME, request.form) or "").split())
    document = chosen.document(_answers(chosen, request.form), name)
    with database().writing() as session:
        scene = _named_apart(read_scene(document), [one for _, one in scenes.named(session)])
        row = scenes.create(session, scene, f"Begun as “{chosen.title}”", now())
    return hx_redirect(url_for("ground.page", slug=row.slug))


def _named_apart(scene: Scene, taken: list[str]) -> Scene:
    """A new scene under a name that no other has, which is told."""
    if scene.name.casefold() not in {name.casefold() for name in taken}:
        return scene
    name = free_name(scene.name, taken)
    flash(f"There is a {scene.name} already: this one is {name}.", "done")
    return set_fields(scene, {"name": name})


SIDES = (
    Field("width", "West to east", "mm", start=600.0, low=20, high=6000),
    Field("depth", "South to north", "mm", start=400.0, low=20, high=6000),
)
FOAM = Field("foam", "Foam on the board", "mm", start=SHEET_MM, low=0, high=300)


@blueprint.get("/start/photo")
def start_from_photo() -> str:
    """The questions for a board that is photographed."""
    return render_template("scenes/start_photo.html", sides=inputs((*SIDES, FOAM), {}), place="scenes")


@blueprint.post("/start/photo")
def start_photo() -> BaseResponse:
    """A board of that size, covered with foam, and its photo to be laid straight. Raises Faults."""
    width, depth, foam = read((*SIDES, FOAM), request.form).values()
    name = " ".join((read_one(NAME, request.form) or "").split())
    ring = [[0.0, 0.0], [width, 0.0], [width, depth], [0.0, depth]]
    sheet = sheet_of("Foam", ring, foam)
    scene = read_scene(
        {
            "isostasis": 1, "name": name or "Board from a photo", "grid_mm": grid_of(width, depth),
            "base": {"width_mm": width, "depth_mm": depth}, "forms": [sheet] if foam else [],
        }
    )  # fmt: skip
    digest = keep_upload()
    with database().writing() as session:
        scene = _named_apart(scene, [one for _, one in scenes.named(session)])
        row = scenes.create(session, scene, "Begun from a photo", now())
    return hx_redirect(url_for("ground.photo", slug=row.slug, picture=digest))
