"""The card as a walk: which point is next, what of it is to go in, and each press that goes on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from datetime import datetime

from flask import g, render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.catalogue import Material, Mix
from ...core.document import ResolvedScene
from ...core.fault import fault
from ...core.mixing.walk import Going, Kind, WalkPart, WalkPoint, as_if_by_mass, going, points, to_add, wanted
from ...store import labels, logbook, scenes, settings, walk
from ...store.planned import PlannedPart
from ...store.settings import ScaleState
from ...store.tables import BatchRow, SceneRow
from ..shared.answers import hx_redirect
from ..shared.fields import parse_float
from ..shared.scenes import database, now
from .cup import DrawnCup, drawn_cup
from .views import blueprint
from .weighing import Weighing, real_scale, simulated, weigh

POURS_G = (20.0, 5.0, 0.5)  # what a press pours on to the simulated scale
MAX_G = 5000.0
UNWEIGHED = "A part went in without being weighed, so the scale cannot tell this one. Measure it by volume"


@dataclass(frozen=True)
class Walk:
    """How far a batch is: its points, where it is on them, the part that goes in now and what it is called, the scale,
    the cup, and what is wrong with the ratio."""

    points: tuple[WalkPoint, ...]
    going: Going
    behind: frozenset[str]
    part: PlannedPart | None
    name: str
    weighing: Weighing
    cup: DrawnCup
    off: tuple[tuple[str, float], ...]  # (part, g) that would mend the ratio as it is now
    by_mass: bool
    more_ml: float  # that the batch has grown by
    others: tuple[tuple[str, str], ...]  # (key, name) of the parts that it could have been instead
    place: str  # how far it is: what was pressed on a page that shows another is no longer meant

    @property
    def next(self) -> WalkPoint | None:
        """The point that is next."""
        return self.going.point

    @property
    def adds(self) -> bool:
        """Whether something is added to mend the ratio."""
        return self.going.mends


def _kind(mix: Mix | None) -> Kind:
    if mix is not None and mix.reacts is not None:
        return "reacts"
    return "dry" if mix is not None and mix.family == "texture" else "wet"


def _rest_min(scene: ResolvedScene, lift_id: str) -> float:
    """How long a lift's mix rests in the cup; 0 for what does not, and for pieces."""
    lift = next((one for patch in scene.patches for one in patch.lifts if one.id == lift_id), None)
    return float(getattr(lift, "rest_h", 0.0)) * 60


def walk_of(session: Session, row: BatchRow, at: datetime) -> Walk:
    """How far an open batch is. The cup is tared; parts that are written down are in it."""
    planned, scene = logbook.batch_of(row), scenes.resolve(session, session.get_one(SceneRow, row.scene_id).head)
    known = labels.catalogue(session).with_own(scene.materials, scene.mixes)
    materials, mix = known.materials, known.mixes.get(planned.mix)
    names = {one.key: _name(one, materials) for one in planned.ingredients}
    own = {part.material for part in mix.ingredients} if mix is not None else set()
    real = [one for one in planned.ingredients if one.mass_g > 0]
    tints = {one.key for one in real if one.drops is not None or (own and one.material not in own)}
    parts = [WalkPart(one.key, names[one.key], *_words(one, materials), one.key in tints) for one in real]
    look, powder_first = (mix.look_for, mix.first == "powder") if mix is not None else ((), False)
    at_points = points(parts, _kind(mix), _rest_min(scene, planned.lift), look, powder_first)
    weighed = {one.key: one for one in real if one.key not in tints}
    grams = {key: one.mass_g for key, one in weighed.items()}
    in_cup = {key: row.actual[key] for key in grams if key in row.actual}
    behind = walk.passed(row) | {f"part:{key}" for key in row.actual}
    leave_so = walk.LEFT_SO in behind or _kind(mix) == "dry"
    next_ = going(at_points, grams, in_cup, behind, leave_so)
    weighing = weigh(session, row, next_.grams or None, sum(row.actual.values()), at)
    if next_.part and any(f"part:{key}" in behind and key not in row.actual for key in grams):
        weighing = replace(weighing, gauge=None, in_g=0.0, wrong=UNWEIGHED)
    too_much = weighing.gauge is not None and weighing.gauge.state == "over" and not next_.mends
    live = {**in_cup, next_.part: weighing.in_g} if too_much else in_cup
    grown = wanted(grams, live)
    return Walk(
        at_points, next_, behind, weighed.get(next_.part), names.get(next_.part, ""), weighing,
        drawn_cup(planned, row, scene.bench.cup_ml, weighed.get(next_.part), weighing, names),
        tuple((names[key], more) for key, more in to_add(grams, live).items() if key in live),
        _by_mass(mix, grams, in_cup),
        sum((grown[key] - one.mass_g) * one.volume_ml / one.mass_g for key, one in weighed.items()),
        tuple((key, names[key]) for key in grams if key != next_.part),
        _place(row),
    )  # fmt: skip


def _place(row: BatchRow) -> str:
    return f"{len(row.walk)}-{len(row.actual)}"


def _name(part: PlannedPart, materials: Mapping[str, Material]) -> str:
    name = materials[part.material].name if part.material in materials else part.material
    return name + (f", {part.part}" if part.part else "")


def _words(part: PlannedPart, materials: Mapping[str, Material]) -> tuple[str, bool]:
    """(a part in a word, whether it is a liquid)."""
    family = materials[part.material].family if part.material in materials else ""
    short = f"part {part.part}" if part.part else _name(part, materials).split(",")[0][:12].lower()
    return short, family not in ("powder", "grain")


def _by_mass(mix: Mix | None, grams: Mapping[str, float], in_cup: Mapping[str, float]) -> bool:
    """Whether a ratio by volume was weighed as if it were by mass."""
    if mix is None or mix.reacts is None or mix.basis != "volume" or len(mix.ingredients) != 2:
        return False
    keys = [f"{one.material}:{one.part or ''}" for one in mix.ingredients]
    if any(key not in in_cup or key not in grams for key in keys):
        return False
    first, second = keys
    ratio = mix.ingredients[0].parts, mix.ingredients[1].parts
    return as_if_by_mass(ratio, (in_cup[first], in_cup[second]), (grams[first], grams[second]))


def _open_row(session: Session, slug: str, row_id: int) -> BatchRow:
    """The batch, which is open. Raises Faults."""
    row = logbook.get_batch(session, scenes.find(session, slug), row_id)
    if row.finished_at is not None:
        raise fault("scale", "this cup is empty", "choose an open batch")
    return row


@blueprint.get("/s/<slug>/mix/<int:row_id>/scale")
def scale(slug: str, row_id: int) -> str | tuple[str, int]:
    """The point of the walk that is next, asked for again and again while something goes in; nothing for a page whose
    point it was before, which is about to come anew as a whole. Raises Faults."""
    with database().reading() as session:
        row = logbook.get_batch(session, scenes.find(session, slug), row_id)
        walked = walk_of(session, row, now()) if row.finished_at is None else None
    if walked is not None and request.args.get("place", walked.place) != walked.place:
        return "", 204
    return render_template("mix/_walk.html", walk=walked, row=row, slug=slug, pours=POURS_G)


@blueprint.post("/s/<slug>/mix/<int:row_id>/scale", endpoint="weigh")
def do_to_scale(slug: str, row_id: int) -> Response | str | tuple[str, int]:
    """Something is done to the simulated scale, or a part is in and its weight is written down. Raises Faults."""
    how = request.form.get("how", "")
    if how in ("in", "wrong"):
        return _write_down(slug, row_id, how)
    with database().writing() as session:
        row = _open_row(session, slug, row_id)
        at = now()
        if real_scale(session, at) is not None:
            raise fault("scale", "a real one is in use", "do it on its own plate and buttons")
        held = simulated(settings.read(session).scale, row, at)
        if how == "tare":
            held = held.tare(at)
        elif how == "pour":
            grams = parse_float(request.form.get("grams", ""), "grams")
            if not -MAX_G <= grams <= MAX_G:
                raise fault("grams", f"{grams:g} g is outside -{MAX_G:g} to {MAX_G:g}", "pour a little at a time")
            held = held.put(grams, at)
        else:
            raise fault("scale", "it is not said what happens", "tare it, pour, or write down that it is in")
        settings.change(session, scale=ScaleState(**asdict(held)))
        g.settings = settings.read(session)
    return scale(slug, row_id)


def _write_down(slug: str, row_id: int, how: str) -> Response:
    """A part is in, or it was another: read before the lock is taken, for a real scale may keep one waiting. Raises
    Faults."""
    with database().reading() as session:
        row = _open_row(session, slug, row_id)
        walked, there = walk_of(session, row, now()), hx_redirect(url_for("mix.page", slug=slug, batch=row.batch))
    if request.form.get("place", walked.place) != walked.place:
        return there
    if walked.part is None:
        raise fault("scale", "all parts are in", "mix, and pour it out")
    weighing = walked.weighing
    if weighing.gauge is None or weighing.weight is None or not weighing.weight.steady:
        raise fault("scale", weighing.wrong or "it is not steady", "wait until it is, or write the weight yourself")
    key, point = walked.part.key, f"add:{walked.part.key}" if walked.adds else f"part:{walked.part.key}"
    if how == "wrong":
        key = request.form.get("key", "")
        if key not in {one for one, _ in walked.others}:
            raise fault("wrong part", "it is not said which it was", "choose the part that went in")
        point = f"wrong:{key}"
    with database().writing() as session:
        row = _open_row(session, slug, row_id)
        if _place(row) == walked.place:  # else another device was sooner
            at = now()
            walk.go_on(row, point, at, key, weighing.in_g)
            if len(row.actual) > 1:
                walk.becomes_wet(row, at)
    return there


@blueprint.post("/s/<slug>/mix/<int:row_id>/walk")
def walk_on(slug: str, row_id: int) -> Response:
    """A point is behind (`next`: its code), the last one is ahead again (`back`), or a ratio that is off is left so
    (`leave`). Raises Faults."""
    how, point = request.form.get("how", ""), request.form.get("point", "")
    with database().writing() as session:
        row = _open_row(session, slug, row_id)
        at = now()
        known = {one.code for one in walk_of(session, row, at).points}
        if how == "back":
            if not walk.back(row):
                raise fault("walk", "there is nothing to take back", "go on")
        elif how == "leave":
            walk.go_on(row, walk.LEFT_SO, at)
        elif how == "next" and point in known:
            if point not in walk.passed(row):  # a second press does nothing
                walk.go_on(row, point, at)
            ins = sum(1 for one in row.walk if str(one["point"]).startswith("part:"))
            if ins > 1 or point == "mix":
                walk.becomes_wet(row, at)
        else:
            raise fault("walk", f"“{point[:40]}” is no point of this card", "reload the page")
        batch = row.batch
    return hx_redirect(url_for("mix.page", slug=slug, batch=batch))
