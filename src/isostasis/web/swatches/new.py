"""A new scrap: what is asked, what lies under all, the ways beside each other, what counts."""

from __future__ import annotations

from typing import Any

from flask import g, render_template, request, url_for
from sqlalchemy import select
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.catalogue import Catalogue
from ...core.document.edit import written
from ...core.fault import fault
from ...core.swatches.scrap import BOARDS, CRITERIA, KINDS, planned, way
from ...store import labels, scenes, swatches
from ...store.swatches import NewLane
from ...store.tables import BatchRow
from ..shared.answers import hx_redirect
from ..shared.fields import Field, read, read_one
from ..shared.scenes import database, now
from ..shared.views import room_logged
from .views import blueprint, laid_words, weights_sent

ROWS, FIRST_ROWS = 8, 3
MAX_BATCHES, MAX_LIFTS = 20, 120
TITLE = Field("title", "question", most=120)
NOTE = Field("note", "note", optional=True, most=500)
ROOM = (
    Field("temp_c", "temperature", "degC", start=20.0, low=0, high=45),
    Field("rh_percent", "humidity", "percent", start=0.5, low=0.05, high=1),
)
NAME = Field("name", "name", optional=True, most=80)
STEPS = Field("steps", "steps", optional=True, most=500)
THICK = Field("thick", "thickness", "mm", optional=True, low=0.1, high=50)
Options = list[tuple[str, list[tuple[str, str]]]]


def ways_of(known: Catalogue) -> Options:
    """(group, [(value, words)]) of what can be laid on a lane: a kind and a mix, or a paint or sealer from its pot."""
    ways: Options = []
    for kind, (words, families, _) in KINDS.items():
        mine = [(f"{kind}/{one.id}", one.name) for one in known.mixes.values() if one.family in families
                and (kind != "pour" or one.reacts or one.pour_mm)]  # fmt: skip
        if kind == "coat":
            mine += [
                (f"{kind}/{one.id}", one.name)
                for one in known.materials.values()
                if one.family in ("colour", "seal", "varnish") and not one.weighed
            ]
        ways.append((words, sorted(mine, key=lambda one: one[1])))
    return ways


def _from_scenes(session: Session) -> Options:
    """The lifts of one's scenes that can be tried on a scrap."""
    ways: Options = []
    for row, scene in scenes.legible(session):
        mine = [
            (f"lift/{row.slug}/{lift.id}", f"{patch.name}: {patch.short(lift)}")
            for patch in scene.patches
            for lift in patch.lifts
            if lift.kind in KINDS and lift.kind != "pour"
        ]
        if mine:
            ways.append((scene.name, mine[:MAX_LIFTS]))
    return ways


def _batches(session: Session) -> list[tuple[str, str]]:
    rows = session.scalars(
        select(BatchRow).where(BatchRow.finished_at.is_not(None)).order_by(BatchRow.id.desc()).limit(MAX_BATCHES)
    )
    return [("", "none"), *((str(one.id), f"{one.lift.replace('-', ' ')}, batch {one.id}") for one in rows)]


@blueprint.get("/swatches/new")
def new() -> str:
    """What is asked of a new scrap."""
    with database().reading() as session:
        known = labels.catalogue(session)
        from_scenes, batches = _from_scenes(session), _batches(session)
    logged = room_logged()
    temp, rh = (logged.value["temp_c"], logged.value["rh"]) if logged else (ROOM[0].start, ROOM[1].start)
    wetting = [
        ("", "nothing first"),
        *sorted((one.id, one.name) for one in known.mixes.values() if one.family == "wetting"),
    ]
    return render_template(
        "swatches/new.html",
        ways=ways_of(known),
        from_scenes=from_scenes,
        batches=batches,
        wetting=wetting,
        boards=[(one, known.materials[one].name) for one in BOARDS if one in known.materials],
        room=(ROOM[0].show(temp), ROOM[1].show(rh)),
        rows=ROWS,
        first_rows=FIRST_ROWS,
        criteria=CRITERIA,
        place="swatches",
    )


def _lift(session: Session, text: str, thick: float | None, wetting: str, known: Catalogue) -> dict[str, Any]:
    """What was chosen, as a lift of a document. Raises Faults."""
    kind, _, name = text.partition("/")
    if kind != "lift":
        return way(kind, name, thick, wetting or None, known)
    slug, _, lift_id = name.partition("/")
    row = scenes.find(session, slug)
    for patch in scenes.document(row.head).patches:
        for lift in patch.lifts:
            if lift.id == lift_id and lift.kind in KINDS:
                return {key: value for key, value in written(lift).items() if key not in ("id", "after")}
    raise fault("what", "that lift is not there any more", "reload the page")


def _rows() -> list[dict[str, str]]:
    names = ("what", "name", "thick", "wetting", "steps", "batch")
    columns = [request.form.getlist(one)[:ROWS] for one in names]
    return [dict(zip(names, one, strict=True)) for one in zip(*columns, strict=False) if one[0]]


@blueprint.post("/swatches")
def add() -> Response:
    """A new scrap. Raises Faults, with nothing kept."""
    title, note = read_one(TITLE, request.form) or "", read_one(NOTE, request.form) or ""
    temp, rh = read(ROOM, request.form).values()
    board = request.form.get("board", "")
    if board not in BOARDS:
        raise fault("board", f"“{board[:30]}” is none that scraps are cut from", "choose one of the list")
    with database().writing() as session:
        known = labels.catalogue(session)
        under = []
        if request.form.get("under"):
            thick = read_one(THICK, {"thick": request.form.get("under_thick", "")})
            under = [_lift(session, request.form["under"], thick, "", known)]
        lanes = []
        for row in _rows():
            lift = _lift(session, row["what"], read_one(THICK, row), row["wetting"], known)
            planned(board, [*under, lift], (temp, rh), known, g.settings.bench)  # what cannot be laid is told here
            name = (read_one(NAME, row) or laid_words([lift], known)[0])[:80]
            batch = int(row["batch"]) if row["batch"].isdecimal() else None
            lanes.append(NewLane(name, [lift], batch_id=batch, steps=read_one(STEPS, row) or ""))
        trial = swatches.add(
            session, title, board, under, (temp, rh), weights_sent(), _with_control(lanes), now(), note
        )  # fmt: skip
        number = trial.id
    return hx_redirect(url_for("swatches.page", number=number))


def _with_control(lanes: list[NewLane]) -> list[NewLane]:
    """The lanes with their control: an untreated one last, or the first way as the known one."""
    if request.form.get("control") == "first" and lanes:
        first = lanes[0]
        return [NewLane(first.name, first.lifts, True, first.batch_id, first.steps), *lanes[1:]]
    return [*lanes, NewLane("Untreated", [], True)]
