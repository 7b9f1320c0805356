"""What would I do otherwise: what a scene has taught, done or on the way; and the scene made again with that."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import partial

from flask import render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.document.edit import new_id
from ...core.fault import fault
from ...core.faults.changes import WORDS, changes
from ...core.faults.otherwise import lessons
from ...core.learning.records import FEWEST, QUANTITIES, Record
from ...store import clock, labels, logbook, records, scenes
from ...store.tables import SceneRow
from ..faults.views import cups_of
from ..shared.answers import hx_redirect
from ..shared.scenes import database, now, open_scene
from .views import blueprint, came_at

NOTICED = 0.1  # by so much more or less than said it is worth a line


@dataclass(frozen=True)
class Came:
    """What came of a label's quantity in this scene: times what was said, from how many records, and whether plans go
    by it already."""

    label: str
    quantity: str
    name: str
    times: float
    count: int
    used: bool


def _came(session: Session, mine: list[Record]) -> list[Came]:
    known = labels.catalogue(session)
    names = {one.id: one.name for one in known.materials.values()}
    names |= {one.id: one.name for one in known.mixes.values()}
    used = {(one.label, one.quantity) for one in known.factors}
    groups: dict[tuple[str, str], list[float]] = {}
    for one in mine:
        ends = [end for end in (one.low, one.high) if end is not None]
        if ends and not one.mishap:
            groups.setdefault((one.label, one.quantity), []).append(sum(ends) / len(ends) / one.predicted)
    found = []
    for (label, quantity), each in groups.items():
        times = sum(each) / len(each)
        if abs(times - 1) > NOTICED:
            found.append(
                Came(label, quantity, names.get(label, label), times, len(each), (label, quantity) in used)
            )  # fmt: skip
    return sorted(found, key=lambda one: -abs(one.times - 1))


def _notes(session: Session, row: SceneRow) -> list[tuple[str, str]]:
    """(step, note) of what was written down of marks and batches."""
    told = [(one.step, one.note) for one in logbook.noted(session, row)]
    return told + [(one.lift, one.note) for one in logbook.batches(session, row) if one.note]


@blueprint.get("/s/<slug>/otherwise")
def otherwise(slug: str) -> str:
    """The list. Raises Faults."""
    opened = open_scene(slug)
    with database().reading() as session:
        row = scenes.find(session, slug)
        cups = {lift.id: cups_of(session, row, lift.id) for patch in opened.scene.patches for lift in patch.lifts}
        found = lessons(opened.scene, opened.plan, cups, now())
        mine = [one for one in records.records(session) if one.scene == slug]
        came, notes = _came(session, mine), _notes(session, row)
        finish = came_at(session, row)
        told = [one.made["finish"] for one in clock.forecasts(session, row) if one.made.get("finish")]
    return render_template(
        "records/otherwise.html", opened=opened, lessons=found, came=came, mishaps=[one for one in mine if one.mishap],
        notes=notes, words=WORDS, quantities=QUANTITIES, fewest=FEWEST, finish=finish,
        told=datetime.fromisoformat(str(told[0])) if told else None, place="records",
    )  # fmt: skip


@blueprint.post("/s/<slug>/again")
def again(slug: str) -> Response:
    """The scene once more, from bare ground, with what was ticked done otherwise; by what is learnt meanwhile, as all
    plans are. Raises Faults."""
    opened = open_scene(slug)
    made = opened.written
    for text in request.form.getlist("change"):
        lift_id, _, code = text.partition("/")
        if code not in WORDS:
            raise fault("change", f"“{code[:20]}” is no change", "tick one of the list")
        try:
            lift = made.lift(lift_id)
        except KeyError:
            raise fault("change", "that lift is not there any more", "reload the page") from None
        made = changes(made, lift, code, partial(new_id, made, opened.catalogue, used=opened.used))
    with database().writing() as session:
        row = scenes.copy(session, scenes.find(session, slug), now(), made)
        new = row.slug
    return hx_redirect(url_for("layup.page", slug=new))
