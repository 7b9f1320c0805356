"""The card on the scale: what is next, how much is to go, slow down, stop, over by; written down by itself."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import datetime

from flask import g, render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...core.mixing.gauge import Gauge, gauge
from ...standins.scale import Scale, SimulatedScale, Weight, scale_at
from ...store import labels, logbook, scenes, settings
from ...store.logbook import PlannedPart
from ...store.settings import ScaleState
from ...store.tables import BatchRow
from ..shared.answers import hx_redirect
from ..shared.fields import parse_float
from ..shared.scenes import database, now
from .views import blueprint

WANDERS_G = 2.0  # by which the zero of a kitchen scale may be off after a while, craft estimate
POURS_G = (20.0, 5.0, 0.5)  # what a press pours on to the simulated scale


@dataclass(frozen=True)
class Weighing:
    """The scale beside an open batch: the part that goes in now (None: all are in), its gauge, the reading, whether it
    is simulated, and why there is none."""

    part: PlannedPart | None
    name: str
    gauge: Gauge | None
    weight: Weight | None
    simulated: bool
    in_g: float = 0.0
    wrong: str = ""


def _scale(row: BatchRow, at: datetime) -> tuple[Scale, bool]:
    """The scale in use, and whether it is simulated."""
    if g.settings.scale_at:
        return scale_at(g.settings.scale_at), False
    return _simulated(g.settings.scale, row, at), True


def _simulated(kept: ScaleState | None, row: BatchRow, at: datetime) -> SimulatedScale:
    """The simulated scale as it was left; a new one has the cup on it, with what is in it already."""
    if kept is None:
        return SimulatedScale(row.id, at, load_g=sum(row.actual.values()))
    return SimulatedScale(**dict(kept))


def weighing_of(session: Session, row: BatchRow) -> Weighing:
    """What the scale says of an open batch. The cup is tared; parts that are written down are in it."""
    at = now()
    weighed = [part for part in logbook.batch_of(row).ingredients if part.drops is None and part.mass_g > 0]
    part = next((one for one in weighed if one.key not in row.actual), None)
    materials = labels.catalogue(session).materials
    name = ""
    if part is not None:
        name = materials[part.material].name if part.material in materials else part.material
        name += f", {part.part}" if part.part else ""
    scale, simulated = _scale(row, at)
    try:
        weight = scale.read(at)
    except OSError as error:
        told = f"The scale does not answer: {error.strerror or error}. Write the weights yourself"
        return Weighing(part, name, None, None, simulated, wrong=told)
    if part is None or weight.grams is None:
        return Weighing(part, name, None, weight, simulated)
    before_g = sum(row.actual.get(one.key, 0.0) for one in weighed)
    if weight.grams < before_g - WANDERS_G:  # what is to go would be told wrong, and the ratio with it
        told = f"It shows less than the {before_g:.1f} g that are in: tare it before the first part only"
        return Weighing(part, name, None, weight, simulated, wrong=told)
    in_g = max(weight.grams - before_g, 0.0)
    return Weighing(part, name, gauge(part.mass_g, in_g), weight, simulated, in_g)


@blueprint.get("/s/<slug>/mix/<int:row_id>/scale")
def scale(slug: str, row_id: int) -> str:
    """The panel of the scale, asked for again and again while a batch is open. Raises Faults."""
    with database().reading() as session:
        row = logbook.get_batch(session, scenes.find(session, slug), row_id)
        made = weighing_of(session, row) if row.finished_at is None else None
    return render_template("mix/_scale.html", weighing=made, row=row, slug=slug, pours=POURS_G)


@blueprint.post("/s/<slug>/mix/<int:row_id>/scale")
def weigh(slug: str, row_id: int) -> Response | str:
    """A part is in: the steady weight is written down; or something is done to the simulated scale. Raises Faults."""
    how = request.form.get("how", "")
    if how == "in":
        return _write_down(slug, row_id)
    with database().writing() as session:
        row = _open_row(session, slug, row_id)
        if g.settings.scale_at:
            raise fault("scale", "a real one is in use", "do it on its own plate and buttons")
        at = now()
        kept = settings.read(session).scale
        held = _simulated(kept, row, at)
        if how == "tare":
            held = held.tare(at)
        elif how == "pour":
            grams = parse_float(request.form.get("grams", ""), "grams")
            if not -5000 <= grams <= 5000:
                raise fault("grams", f"{grams:g} g is outside -5000 to 5000", "pour a little at a time")
            held = held.put(grams, at)
        else:
            raise fault("scale", "it is not said what happens", "tare it, pour, or write down that it is in")
        settings.change(session, scale=ScaleState(**asdict(held)))
        g.settings = settings.read(session)
        made = weighing_of(session, row)
    return render_template("mix/_scale.html", weighing=made, row=row, slug=slug, pours=POURS_G)


def _open_row(session: Session, slug: str, row_id: int) -> BatchRow:
    """The batch, which is open. Raises Faults."""
    row = logbook.get_batch(session, scenes.find(session, slug), row_id)
    if row.finished_at is not None:
        raise fault("scale", "this cup is empty", "choose an open batch")
    return row


def _write_down(slug: str, row_id: int) -> Response:
    """The part is in: read before the lock is taken, for a real scale may keep one waiting. Raises Faults."""
    with database().reading() as session:
        made = weighing_of(session, _open_row(session, slug, row_id))
    if made.part is None:
        raise fault("scale", "all parts are in", "mix, and pour it out")
    if made.gauge is None or made.weight is None or not made.weight.steady:
        raise fault("scale", made.wrong or "it is not steady", "wait until it is, or write the weight yourself")
    with database().writing() as session:
        row = _open_row(session, slug, row_id)
        if made.part.key not in row.actual:  # a second press writes nothing over
            logbook.write_down(row, {made.part.key: round(made.in_g, 1)})
        batch = row.batch
    return hx_redirect(url_for("mix.page", slug=slug, batch=batch))
