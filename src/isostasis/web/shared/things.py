"""My things: cups and tubs, one's own measures calibrated, hands' rates, sieves' yields."""

from __future__ import annotations

from flask import flash, g, render_template, request, url_for
from pydantic import ValidationError
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.catalogue import Bench, HandRate
from ...core.document.read import faults_of
from ...core.fault import Fault, Faults, fault
from ...core.lifts.hands import CM2_PER_MIN
from ...core.mixing.calibrate import held_ml
from ...standins.lines import source_at
from ...store import labels, scenes, settings
from ...store.settings import Vessel
from .answers import hx_redirect
from .fields import Field, parse_float, read
from .scenes import database
from .views import blueprint

BENCH = (
    Field("cup_ml", "mixing cup", "ml"),
    Field("bowl_ml", "mixing bowl", "ml"),
    Field("scoop_ml", "scoop", "ml"),
    Field("drop_ml", "drop", "ml"),
    Field("spread_ml_per_min", "spread", "number"),
    Field("tub_long", "tub, long", "mm"),
    Field("tub_wide", "tub, wide", "mm"),
    Field("figure_mm", "foot of a figure", "mm"),
    Field("grade_most", "steepest grade", "percent"),
    Field("cups", "cups for resin", "whole", optional=True),
    Field("setup_min", "minutes to set up", "number", optional=True),
    Field("cleanup_min", "minutes to clean up", "number", optional=True),
)
PIECES = (("risers_mm", "risers"), ("shims_mm", "shims"))
VESSEL = (
    Field("name", "name", most=40),
    Field("water", "water, weighed", "g"),
    Field("times", "how many", "whole", start=1),
)
MAX_VESSELS = 60
USES = {"": "", "scoop_ml": "scoop", "drop_ml": "drop", "cup_ml": "mixing cup", "bowl_ml": "mixing bowl"}


@blueprint.get("/things")
def things() -> str:
    """The user's own measures and cups."""
    with database().reading() as session:
        broken = [str(one) for one in settings.faults(session)]
        known = labels.catalogue(session).materials
    sieves = [
        (known[name].name if name in known else name, name, mesh, share)
        for name, yields in sorted(g.settings.sieves.items())
        for mesh, share in sorted(yields.items())
    ]
    return render_template(
        "shared/things.html", bench=g.settings.bench, broken=broken, vessels=g.settings.vessels, sieves=sieves,
        rates=[(tool, g.settings.bench.rate_of(tool), usual) for tool, usual in CM2_PER_MIN.items()], uses=USES,
        place="things",
    )  # fmt: skip


@blueprint.post("/things")
def set_things() -> Response:
    """Change them; every scene that brings no bench of its own follows. Raises Faults."""
    bench = g.settings.bench
    held = {**dict(bench), "tub_long": bench.tub_mm[0], "tub_wide": bench.tub_mm[1]}
    values = read(BENCH, request.form, held)
    for name, what in PIECES:
        pieces = [piece for piece in request.form.get(name, "").split(";") if piece.strip()]
        piece_of, before = Field(name, what, "mm"), (*held[name], *(None for _ in pieces))
        values[name] = [piece_of.read(piece, one) for piece, one in zip(pieces, before, strict=False)]
    tub = values.pop("tub_long"), values.pop("tub_wide")
    given = {name: value for name, value in values.items() if value is not None}
    given |= {"tub_mm": tub, "prices": bench.prices, "hands": bench.hands}
    try:
        mine = Bench.model_validate(given)
    except ValidationError as error:
        called = {field.name: field.label for field in BENCH} | dict(PIECES) | {"tub_mm": "tub"}
        told = faults_of(error, given).faults
        raise Faults(
            Fault(called.get(one.where.partition("[")[0], one.where), one.what, one.right) for one in told
        ) from None
    with database().writing() as session:
        scenes.refuse_bench(session, mine)
        settings.change(session, bench=mine)
    return hx_redirect(url_for("shared.things"))


@blueprint.post("/things/vessels")
def set_vessel() -> Response:
    """A cup, spoon, scoop or dropper is calibrated, by the water that it holds or by drops; or is no more. Raises
    Faults."""
    if request.form.get("how") == "remove":
        gone = request.form.get("name", "")
        with database().writing() as session:
            kept = tuple(one for one in settings.read(session).vessels if one.name != gone)
            settings.change(session, vessels=kept)
        return hx_redirect(url_for("shared.things"))
    name, water, times = read(VESSEL, request.form).values()
    name = " ".join(name.split())
    if not name:
        raise fault("name", "it has none", "write something like blue cup or pipette")
    if water <= 0 or not 1 <= times <= 10_000:
        raise fault(
            "water, weighed", "nothing was weighed", "weigh one fill or several, or count 20 drops onto the scale"
        )
    ml = round(held_ml(water, times), 4)
    if not 0.001 <= ml <= 20_000:
        raise fault("water, weighed", f"it would hold {ml:g} ml", "mend the weight, or how many fills it was")
    use = request.form.get("use", "")
    if use not in USES:
        raise fault("used as", "this is no such thing", "choose one of the list")
    with database().writing() as session:
        others = tuple(one for one in settings.read(session).vessels if one.name != name)
        if len(others) >= MAX_VESSELS:
            raise fault("name", f"there are {MAX_VESSELS} already", "take one away first")
        found = f"{times} fills weighed {water:g} g" if times > 1 else f"one fill weighed {water:g} g"
        settings.change(session, vessels=(*others, Vessel(name=name, ml=ml, found=found)))
        if use:
            _use_as(session, use, ml)
    flash(f"{name} holds {ml:.3g} ml.", "told")
    return hx_redirect(url_for("shared.things"))


def _use_as(session: Session, use: str, ml: float) -> None:
    """A vessel serves as the scoop, drop, cup or bowl that batches are split by. Raises Faults."""
    given = {**g.settings.bench.model_dump(exclude_unset=True), use: ml}
    try:
        mine = Bench.model_validate(given)
    except ValidationError as error:
        raise faults_of(error, given, where=USES[use]) from None
    scenes.refuse_bench(session, mine)
    settings.change(session, bench=mine)


@blueprint.post("/things/hands")
def set_hands() -> Response:
    """How fast one's own hands are, tool by tool; an empty field has the usual rate. Raises Faults."""
    rates = []
    for place, tool in enumerate(CM2_PER_MIN):
        text = request.form.get(f"rate-{place}", "").strip()
        if text:
            value = parse_float(text, tool)
            if not 1 <= value <= 10_000:
                raise fault(
                    tool, f"{value:g} cm² a minute is outside 1 to 10,000", "time a palm's breadth and reckon it up"
                )
            rates.append(HandRate(tool=tool, cm2_per_min=value))
    mine = g.settings.bench.model_copy(update={"hands": tuple(rates)})
    with database().writing() as session:
        scenes.refuse_bench(session, mine)
        settings.change(session, bench=mine)
    return hx_redirect(url_for("shared.things"))


@blueprint.post("/things/sieves")
def forget_sieve() -> Response:
    """A sieve's yield is forgotten."""
    material, mesh = request.form.get("material", ""), request.form.get("mesh", "")
    with database().writing() as session:
        kept = {name: dict(yields) for name, yields in settings.read(session).sieves.items()}
        kept.get(material, {}).pop(mesh, None)
        settings.change(session, sieves={name: yields for name, yields in kept.items() if yields})
    return hx_redirect(url_for("shared.things"))


@blueprint.post("/things/scale")
def set_scale() -> Response:
    """Where a real scale and a room probe speak; empty: nowhere. Raises Faults."""
    changes = {}
    for name, what in (("scale_at", "scale"), ("probe_at", "probe")):
        changes[name] = request.form.get(name, "").strip()
        try:
            if changes[name]:
                source_at(changes[name])
        except ValueError as problem:
            said, _, right = str(problem).partition("; ")
            raise fault(what, said, right) from None
    with database().writing() as session:
        settings.change(session, **changes)
    return hx_redirect(url_for("shared.things"))
