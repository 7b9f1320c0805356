"""What would I do otherwise: what a scene has taught, done or on the way; and the scene made again with that."""

from __future__ import annotations

from datetime import datetime
from functools import partial

from flask import render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.document.edit import new_id
from ...core.fault import fault
from ...core.faults.changes import WORDS, changes
from ...core.faults.otherwise import lessons
from ...core.learning.records import FEWEST, QUANTITIES, came_otherwise
from ...store import clock, labels, logbook, records, scenes
from ...store.tables import SceneRow
from ..faults.views import cups_of
from ..shared.answers import hx_redirect
from ..shared.scenes import OpenScene, database, now, open_scene
from .views import blueprint, came_at


def _notes(session: Session, row: SceneRow, opened: OpenScene) -> list[tuple[str, str]]:
    """(what was done, note) of what was written down of marks and batches."""
    steps = {one.id: one.do for one in opened.plan.steps}
    lifts = {lift.id: patch.spot(lift) for patch in opened.scene.patches for lift in patch.lifts}
    # A step that is planned no more is told by its lift.
    notes = [
        (steps.get(one.step) or lifts.get(one.lift or "", one.step), one.note) for one in logbook.noted(session, row)
    ]
    return notes + [(lifts.get(one.lift, one.lift), one.note) for one in logbook.batches(session, row) if one.note]


@blueprint.get("/s/<slug>/otherwise")
def otherwise(slug: str) -> str:
    """The list. Raises Faults."""
    opened = open_scene(slug)
    with database().reading() as session:
        row = scenes.find(session, slug)
        cups = {lift.id: cups_of(session, row, lift.id) for patch in opened.scene.patches for lift in patch.lifts}
        lessons_of_scene = lessons(opened.scene, opened.plan, cups, now())
        mine = [one for one in records.records(session) if one.scene == slug]
        known, notes = labels.catalogue(session), _notes(session, row, opened)
        finish = came_at(session, row)
        finishes = [one.made["finish"] for one in clock.forecasts(session, row) if one.made.get("finish")]
    return render_template(
        "records/otherwise.html", opened=opened, lessons=lessons_of_scene, came=came_otherwise(mine), names=known.names,
        used={(one.label, one.quantity) for one in known.factors}, mishaps=[one for one in mine if one.mishap],
        notes=notes, words=WORDS, quantities=QUANTITIES, fewest=FEWEST, finish=finish,
        told=datetime.fromisoformat(str(finishes[0])) if finishes else None, place="records",
    )  # fmt: skip


@blueprint.post("/s/<slug>/again")
def again(slug: str) -> Response:
    """The scene once more, from bare ground, with what was ticked done otherwise; by what is learnt meanwhile, as all
    plans are. Raises Faults."""
    opened = open_scene(slug)
    document = opened.written
    for text in request.form.getlist("change"):
        lift_id, _, code = text.partition("/")
        if code not in WORDS:
            raise fault("change", f"“{code[:20]}” is no change", "tick one of the list")
        try:
            lift = document.lift(lift_id)
        except KeyError:
            raise fault("change", "that lift is not there any more", "reload the page") from None
        document = changes(document, lift, code, partial(new_id, document, opened.catalogue, used=opened.used))
    with database().writing() as session:
        row = scenes.copy(session, scenes.find(session, slug), now(), document)
        new = row.slug
    return hx_redirect(url_for("layup.page", slug=new))
