"""The Records page: waits, amounts and finishes as they came, the factor that they teach, and what it moves."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta

from flask import Blueprint, render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.document.resolve import ResolvedScene
from ...core.fault import Faults, fault
from ...core.learning.posterior import learn
from ...core.learning.records import FEWEST, QUANTITIES, Taught
from ...core.plan import plan
from ...exchange.records_csv import write_records
from ...store import clock, labels, records, scenes
from ...store.tables import SceneRow
from ..shared.answers import hx_redirect
from ..shared.scenes import database, now, wall_now
from . import charts

blueprint = Blueprint("records", __name__)
MAX_MOVED = 8
MAX_TOLD = 60  # forecasts of a scene that are drawn


@dataclass(frozen=True)
class Moved:
    """A figure that a factor moves: of which lift, in which scene, from what to what."""

    name: str
    scene: str
    slug: str
    was: float
    is_now: float
    unit: str


def _chosen(factors: tuple[Taught, ...]) -> Taught | None:
    asked = request.args.get("label", ""), request.args.get("quantity", "")
    return next((one for one in factors if (one.label, one.quantity) == asked), None) or (
        next((one for one in factors if one.quantity == "hours"), factors[0]) if factors else None
    )


@blueprint.get("/records")
def page() -> str:
    """What came, and what it teaches."""
    with database().reading() as session:
        every = records.records(session)
        factors = records.factors(session)
        known = labels.catalogue(session)
        chosen = _chosen(factors)
        moved = _moved(session, chosen) if chosen is not None else []
        forgotten = [key for key, said in records.choices(session).items() if said.since and key[1] in QUANTITIES]
        finishes = _told(session)
    label, quantity = (chosen.label, chosen.quantity) if chosen else ("", "hours")
    mine = [each for each in every if (each.label, each.quantity) == (label, quantity)]
    mean = chosen.learnt.mean if chosen else 1.0
    return render_template(
        "records/page.html",
        every=every,
        found=factors,
        one=chosen,
        mine=mine,
        names=known.names,
        moved=moved,
        quantities=QUANTITIES,
        waits=charts.waits(mine, mean) if quantity == "hours" else None,
        dots=charts.dots([each for each in every if each.quantity == "volume"], "ml"),
        own=charts.dots(mine, QUANTITIES[quantity][1]) if chosen and quantity in ("hands", "cup", "bed") else None,
        bell=charts.bell(chosen.learnt) if chosen else None,
        told=finishes,
        mishaps=[each for each in every if each.mishap],
        usable=charts.usable,
        before=learn(()),
        fewest=FEWEST,
        forgotten=forgotten,
        place="records",
    )


def _moved(session: Session, taught: Taught) -> list[Moved]:
    """What this factor alone changes in the scenes that are still worked on."""
    moved: list[Moved] = []
    learnt = taught.factor
    for row, scene in scenes.legible(session):
        if learnt.label not in {mix.id for mix in scene.mixes} | {tin.id for tin in scene.materials}:
            continue
        without = tuple(
            each for each in scene.factors if (each.label, each.quantity) != (learnt.label, learnt.quantity)
        )
        pair = [scene.model_copy(update={"factors": kept}) for kept in (without, (*without, learnt))]
        with suppress(Faults):  # it cannot be planned, and says so on its own page
            moved += _differ(row.slug, pair[0], pair[1], learnt.quantity)
        if len(moved) >= MAX_MOVED:
            break
    return moved[:MAX_MOVED]


def _differ(slug: str, before: ResolvedScene, after: ResolvedScene, quantity: str) -> list[Moved]:
    was, is_now = plan(before), plan(after)
    differing = []
    for name, lift in is_now.lifts.items():
        old = was.lifts.get(name)
        if old is None or lift.state in ("done", "covered"):
            continue
        pairs = {
            "volume": (old.mix_ml, lift.mix_ml), "hours": (old.hours.next, lift.hours.next),
            "cup": (old.mix_ml, lift.mix_ml), "bed": (old.drunk_ml or old.mix_ml, lift.drunk_ml or lift.mix_ml),
        }  # fmt: skip
        if quantity == "hands":
            minutes = [sum(step.hands_on_min for step in each.steps if step.lift == name) for each in (was, is_now)]
            values, unit = (minutes[0], minutes[1]), "min"
        else:
            first, second = pairs[quantity]
            if first.value is None or second.value is None:
                continue
            values, unit = (first.value, second.value), first.unit
        if abs(values[1] / values[0] - 1) > 1e-6 if values[0] else False:
            differing.append(Moved(after.lift(name).title, after.name, slug, values[0], values[1], unit))
    return differing


def _told(session: Session) -> tuple[str, charts.Finish] | None:
    """The scene with the most forecasts, and when each of them said that it is finished."""
    best: tuple[SceneRow | None, list[tuple[datetime, datetime]]] = None, []
    for row in scenes.all_scenes(session):
        ends = [
            (one.at, datetime.fromisoformat(str(one.made["finish"])))
            for one in clock.forecasts(session, row)
            if one.made.get("finish")
        ]
        if len(ends) > len(best[1]):
            best = row, sorted(ends)[-MAX_TOLD:]
    chosen, ends = best
    if chosen is None or len(ends) < 2:
        return None
    begin, zone = ends[0][0], wall_now().tzinfo
    day = timedelta(days=1)
    days = [((at - begin) / day, (end - begin) / day, f"{end.astimezone(zone):%a %d %b %H:%M}") for at, end in ends]
    low, high = min(one[1] for one in days), max(one[1] for one in days)
    marks = [low, high] if high - low > 0.2 else [low]
    words = [(one, f"{(begin + one * day).astimezone(zone):%a %d %b}") for one in marks]
    done = came_at(session, chosen)
    came = ((done - begin) / day, f"came {done.astimezone(zone):%a %d %b}") if done else None
    return scenes.name_of(chosen.head), charts.finish(days, words, came)


def came_at(session: Session, row: SceneRow) -> datetime | None:
    """When a scene was finished; None while anything of it is still to be laid."""
    try:
        scene = scenes.resolve(session, row.head)
        planned = plan(scene)
    except Faults:
        return None
    if not scene.built or any(one.state not in ("done", "covered") for one in planned.lifts.values()):
        return None
    return max(one.ended for one in scene.built)


@blueprint.get("/records.csv")
def table() -> Response:
    """Every record as a table."""
    with database().reading() as session:
        text = write_records(records.records(session))
    kept = {"Content-Disposition": "attachment; filename=records.csv"}
    return Response(text, mimetype="text/csv", headers=kept)


@blueprint.post("/records/mishap")
def mishap() -> Response:
    """A record is a mishap and teaches nothing, or is none after all. Raises Faults."""
    key, note = request.form.get("key", "")[:40], request.form.get("note", "").strip()
    off = request.form.get("what") == "none"
    if not off and len(note) > 500:
        raise fault("why", f"it has {len(note)} letters", "write 500 at most")
    with database().writing() as session:
        records.mishap(session, key, note, now(), off)
    return hx_redirect(_back())


@blueprint.post("/records/factor")
def factor() -> Response:
    """A factor is switched off or on, or forgotten. Raises Faults."""
    what = request.form.get("what", "")
    if what not in ("on", "off", "forget", "remember"):
        raise fault("factor", f"“{what[:20]}” is nothing to do with it", "one of on, off, forget, remember")
    label, quantity = request.form.get("label", ""), request.form.get("quantity", "")
    with database().writing() as session:
        if what in ("on", "off"):
            records.say(session, label, quantity, off=what == "off")
        elif what == "forget":
            records.say(session, label, quantity, forget=now())
        else:
            records.remember(session, label, quantity)
    return hx_redirect(_back())


def _back() -> str:
    label, quantity = request.form.get("label", ""), request.form.get("quantity", "")
    return url_for("records.page", label=label, quantity=quantity) if label else url_for("records.page")
