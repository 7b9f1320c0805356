"""Records that no mark or batch tells: typed in few fields, a pour that stands lower than meant, a table."""

from __future__ import annotations

from secrets import token_hex

from flask import flash, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...core.learning.records import QUANTITIES
from ...core.lifts.kinds.pour.pools import PourLift
from ...core.lifts.kinds.pour.told import bed_told
from ...exchange.records_csv import read_records, sameness
from ...store import labels, records, scenes
from ...store.records import NewRecord
from ..shared.answers import hx_redirect
from ..shared.fields import Field, read, read_one
from ..shared.scenes import database, now, open_scene, pour_of
from .views import blueprint

TYPED = (
    Field("title", "what", most=120),
    Field("predicted", "said", "number", low=0.001, high=records.LARGEST),
    Field("low", "came, or not before", "number", optional=True, low=0, high=records.LARGEST),
    Field("high", "and not after", "number", optional=True, low=0, high=records.LARGEST),
)
LOWER = Field("lower", "stands lower", "mm", low=-50, high=50)
MAX_POURS = 200


@blueprint.get("/records/new")
def new() -> str:
    """What can be entered."""
    with database().reading() as session:
        known = labels.catalogue(session)
        beds = [
            (f"{row.slug}/{lift.id}", f"{scene.name}, {patch.name}")
            for row, scene in scenes.legible(session)
            for patch in scene.patches
            for lift in patch.lifts
            if isinstance(lift, PourLift)
        ]
    choices = sorted(((one.id, one.name) for one in known.mixes.values()), key=lambda one: one[1])
    quantities = [(key, f"{words}, {unit}") for key, (words, unit) in QUANTITIES.items()]
    return render_template(
        "records/new.html", labels=choices, quantities=quantities, beds=beds[:MAX_POURS], place="records"
    )


@blueprint.post("/records/new")
def enter() -> Response:
    """A record that was typed in. Raises Faults."""
    title, predicted, low, high = read(TYPED, request.form).values()
    label, quantity = request.form.get("label", ""), request.form.get("quantity", "")
    with database().writing() as session:
        if label not in labels.catalogue(session).mixes:
            raise fault("label", f"there is no mix “{label[:40]}”", "choose one of the list")
        bounds = (low, low) if high is None and request.form.get("looked") != "yes" else (low, high)
        one = NewRecord(f"own:{token_hex(12)}", "", title, label, quantity, predicted, *bounds, now())
        records.enter(session, [one])
    return hx_redirect(url_for("records.page", label=label, quantity=quantity))


@blueprint.post("/records/bed")
def bed() -> Response:
    """A pour that stands lower than meant once it is hard: what its bed has drunk more. Raises Faults."""
    slug, _, lift_id = request.form.get("pour", "").partition("/")
    lower = float(read_one(LOWER, request.form))
    opened = open_scene(slug)
    lift_plan = opened.plan.lifts.get(lift_id)
    stage = opened.plan.built.stages.get(lift_id)
    if lift_plan is None or stage is None or lift_plan.drunk_ml is None or not lift_plan.pools:
        raise fault("pour", "it is no pour that stands", "choose one of the list")
    lying = bed_told(pour_of(opened.scene, lift_id), stage.site, lift_plan, lower)
    title = f"{opened.scene.lift(lift_id).title}, its bed"[:120]
    record = NewRecord(
        f"own:{token_hex(12)}", slug, title, lying.label, "bed", lying.said_ml, lying.came_ml, lying.came_ml, now()
    )
    with database().writing() as session:
        records.enter(session, [record])
    return hx_redirect(url_for("records.page", label=lying.label, quantity="bed"))


@blueprint.post("/records/table")
def take_table() -> Response:
    """Records of a table: those that are not known yet are kept, all of them or none. Raises Faults."""
    file = request.files.get("file")
    if file is None or not file.filename:
        raise fault("table", "nothing was chosen", "choose a CSV such as goes out here")
    lines = read_records(file.read())
    with database().writing() as session:
        known = {sameness(one.at, one.label, one.quantity, one.predicted) for one in records.records(session)}
        new = [
            NewRecord(one.key, one.scene, one.what, one.label, one.quantity, one.predicted, one.low, one.high, one.at,
                      one.mishap, f"line {one.number}")
            for one in lines if one.same not in known
        ]  # fmt: skip
        count = records.enter(session, new)
    flash(f"{count} record{'s' if count != 1 else ''} came; {len(lines) - count} were here already.", "done")
    return hx_redirect(url_for("records.page"))


@blueprint.post("/records/away")
def away() -> Response:
    """A record that was entered is gone. Raises Faults."""
    with database().writing() as session:
        records.take_away(session, request.form.get("key", "")[:40])
    return hx_redirect(url_for("records.page"))
