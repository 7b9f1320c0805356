"""A scrap on its page: its lanes, what they were given, which leads and how surely; what counts; put away."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, g, render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.catalogue import Catalogue
from ...core.fault import fault
from ...core.swatches.scrap import CRITERIA, Foretold, foretold
from ...core.units import show
from ...store import labels, pictures, swatches
from ...store.swatch_tables import SwatchRow
from ...store.swatches import Trial
from ...store.tables import BatchRow
from ..shared.answers import hx_redirect
from ..shared.fields import Field, read_one
from ..shared.scenes import database, now
from . import drawing

blueprint = Blueprint("swatches", __name__)
BARE = "#cdbfa6"
WEIGHT = Field("weight", "weight", "number", optional=True, low=0, high=9)
OWN = Field("own", "what counts", optional=True, most=30)


@dataclass(frozen=True)
class Shown:
    """A lane as its page tells it: the row, what the laws say of it, its recipe in words, the batch it is of."""

    lane: SwatchRow
    told: Foretold | None
    laid: tuple[str, ...]
    batch: str
    outdated: bool


def laid_words(lifts: list[dict[str, object]], known: Catalogue) -> tuple[str, ...]:
    """What lies on a lane, bottom up, in words."""
    words = []
    for lift in lifts:
        name = str(lift.get("mix") or lift.get("material"))
        label = known.mixes.get(name) or known.materials.get(name)
        said = label.name if label else name
        if lift.get("depth_mm"):
            said += f", {' '.join(show(float(str(lift['depth_mm'])), 'mm', g.measures))}"
        if lift.get("wetting"):
            wet = known.mixes.get(str(lift["wetting"]))
            said += f", after {wet.name.lower() if wet else lift['wetting']}"
        words.append(said)
    return tuple(words)


def told_of(trial: Trial, lane: SwatchRow, known: Catalogue) -> Foretold | None:
    """What the laws say of a lane, with what lies under all."""
    room = trial.scrap.temp_c, trial.scrap.rh
    return foretold(trial.scrap.board, [*trial.scrap.under, *lane.lifts], room, known, g.settings.bench)


def _shown(session: Session, trial: Trial, lane: SwatchRow, known: Catalogue) -> Shown:
    batch = session.get(BatchRow, lane.batch_id) if lane.batch_id else None
    said = f"{batch.lift.replace('-', ' ')}, batch {batch.id}" if batch else ""
    laid = laid_words([*trial.scrap.under, *lane.lifts], known)
    return Shown(lane, told_of(trial, lane, known), laid, said, swatches.outdated(session, lane))


def _by_firsts(trial: Trial) -> list[SwatchRow]:
    """The lanes but the control, those that come first most often first."""
    standings = [(trial.standing(one), one) for one in trial.lanes if not one.control]
    return [one for _, one in sorted(standings, key=lambda pair: -pair[0].first if pair[0] else 0.0)]


def _dry(one: Foretold | None) -> str | None:
    return one.dry if one else None


@blueprint.get("/swatches")
@blueprint.get("/swatches/<int:number>")
def page(number: int | None = None) -> str:
    """The newest scrap, or one of the others; or how to begin. Raises Faults."""
    with database().reading() as session:
        every = swatches.trials(session)
        trial = swatches.find(session, number) if number is not None else (every[0] if every else None)
        if trial is None:
            return render_template("swatches/page.html", trial=None, every=[], place="swatches")
        known = labels.catalogue(session)
        by_place = {lane.place: told_of(trial, lane, known) for lane in trial.lanes}
        colours = {lane.place: lane.dry or _dry(by_place[lane.place]) or BARE for lane in trial.lanes}
        photo = trial.photos.get("dry") or trial.photos.get("wet")
        row = pictures.find(session, photo.digest) if photo else None
        ranking = trial.ranking
        chosen = request.args.get("lane", type=int)
        first = trial.lanes[ranking.leader] if ranking else next(one for one in trial.lanes if not one.control)
        lane = trial.lane(chosen) if chosen else first
        shown = _shown(session, trial, lane, known)
        ties = [trial.lanes[at] for at in ranking.ties] if ranking else []
        figures = [(one.place, by_place[one.place]) for one in (first, *ties)]
        costs = {place: one.cost for place, one in figures if one is not None and one.cost is not None}
    return render_template(
        "swatches/page.html",
        trial=trial,
        every=every,
        shown=shown,
        first=first,
        ties=ties,
        costs=costs,
        strip=drawing.strip(trial, colours, (row.width, row.height) if row else None),
        photo=row,
        chart=drawing.chart(trial),
        said=drawing.said_of(trial, lane),
        standing=trial.standing(lane),
        marks={one.place: trial.marks(one) for one in trial.lanes},
        rivals=_by_firsts(trial),
        criteria=sorted({*CRITERIA, *trial.scrap.weights}),
        place="swatches",
    )


@blueprint.get("/swatches/<int:number>/lanes/<int:lane>/working")
def working(number: int, lane: int) -> str:
    """The terms of what the laws say of a lane: its hours or its cost. Raises Faults."""
    with database().reading() as session:
        trial = swatches.find(session, number)
        told = told_of(trial, trial.lane(lane), labels.catalogue(session))
    name = request.args.get("figure", "")
    figure = getattr(told, name, None) if told is not None and name in ("hours", "cost") else None
    if figure is None:
        raise fault("figure", "there is no such figure", "reload the page")
    return render_template("shared/_working.html", figure=figure)


def weights_sent() -> dict[str, float]:
    """What counts how much, as it was sent: a weight beside each name, and one of one's own. Raises Faults."""
    sent = {}
    for name in request.form.getlist("criterion"):
        value = read_one(WEIGHT, {"weight": request.form.get(f"weight-{name}", "")})
        if value:
            sent[name] = float(value)
    own, value = read_one(OWN, request.form), read_one(WEIGHT, {"weight": request.form.get("own-weight", "")})
    if own and value:
        sent[own] = float(value)
    return sent


@blueprint.post("/swatches/<int:number>/weights")
def weights(number: int) -> Response:
    """What counts how much. Raises Faults."""
    sent = weights_sent()
    with database().writing() as session:
        swatches.weigh(swatches.find(session, number), sent)
    return hx_redirect(url_for("swatches.page", number=number))


@blueprint.post("/swatches/<int:number>/away")
def away(number: int) -> Response:
    """A scrap is put away; what it taught stays. Raises Faults."""
    with database().writing() as session:
        swatches.put_away(swatches.find(session, number), now())
    return hx_redirect(url_for("swatches.page"))
