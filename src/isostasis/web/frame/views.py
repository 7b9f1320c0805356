"""Shared parts of pages: measures in templates, the working of a figure, settings, undo, history, room."""

from __future__ import annotations

from datetime import datetime, timedelta
from math import isfinite
from typing import Any

from flask import Blueprint, Flask, current_app, g, render_template, request, url_for
from flask import session as cookie
from pydantic import ValidationError
from werkzeug.wrappers import Response

from ...core.catalogue import Bench, shipped
from ...core.document import Room
from ...core.fault import fault
from ...core.figure import Figure, Term
from ...core.mixing.grains import hold_words
from ...core.units import Measures, Quantity, duration, household, number, show, typed
from ...store import scenes, settings
from ..draw.frame import Look, looked
from .opened import (
    Document,
    database,
    degrees,
    edit,
    go,
    look_of,
    measure,
    measured,
    measures_of,
    now,
    numeral,
    numeral_of,
    open_scene,
    whole_of,
)
from .wet_line import Wet, wet_line

blueprint = Blueprint("frame", __name__)

BENCH_FIELDS: tuple[tuple[str, Quantity | None, str], ...] = (
    ("cup_ml", "volume", "mixing cup"),
    ("bowl_ml", "volume", "mixing bowl"),
    ("scoop_ml", "volume", "scoop"),
    ("drop_ml", "volume", "drop"),
    ("spread_ml_per_min", None, "spread"),
    ("tub_long", "length", "tub, long"),
    ("tub_wide", "length", "tub, wide"),
    ("figure_mm", "length", "foot of a figure"),
)
NIGHTS = 30  # of a room by day and by night; after them the last reading holds
PACK_QUANTITY: dict[str, Quantity | None] = {"ml": "volume", "g": "mass", "mm2": "area", "piece": None}
PLACES = (
    ("Ground", "ground.page", "g"),
    ("Lay-up", "layup.page", "l"),
    ("Pour", "pour.page", "p"),
    ("Mix", "mix.page", "m"),
    ("Clock", "clock.page", "c"),
)


def install(app: Flask) -> None:
    """Give every template what the frame needs."""

    @app.before_request
    def _settings() -> None:
        if request.endpoint == "static":
            return
        with database().reading() as session:
            g.measures = measures_of(session)
            g.theme = settings.get(session, "theme", "light")

    @app.context_processor
    def _frame() -> dict[str, Any]:
        measures: Measures = g.get("measures") or Measures()
        moment = now()

        def wet_now() -> list[Wet]:
            """What is wet, asked for by pages only: a preview has no wet line."""
            with database().reading() as session:
                return wet_line(session, moment)

        return {
            "measures": measures,
            "theme": g.get("theme", "light"),
            "places": PLACES,
            "wet_now": wet_now,
            "moment": moment,
            "one_day": timedelta(days=1),
            "night_of": night_of,
            "room_now": room_now,
            "stamp": current_app.config.setdefault("STAMP", f"{moment.timestamp():.0f}"),
        }

    @app.template_filter("shown")
    def _shown(figure: Figure) -> tuple[str, str]:
        return show(figure.value, figure.unit, g.get("measures"), figure.code)

    @app.template_filter("hold")
    def _hold(index: float) -> str:
        return hold_words(index)

    @app.template_filter("amount")
    def _amount(value: float | None, unit: str) -> str:
        return " ".join(show(value, unit, g.get("measures"))).strip()

    @app.template_filter("term")
    def _term(term: Term) -> str:
        if isinstance(term.value, str):
            return term.value
        return " ".join(show(term.value, term.unit, g.get("measures"))).strip()

    @app.template_filter("typed")
    def _typed(value: float, unit: str) -> str:
        return typed(value, unit, g.get("measures"))

    @app.template_filter("kitchen")
    def _kitchen(value: float) -> str:
        return household(value, g.get("measures") or Measures())

    @app.template_filter("plainly")
    def _plainly(value: float) -> str:
        return number(value)

    @app.template_filter("short")
    def _short(value: float, unit: str) -> str:
        """Two digits, without the unit."""
        measures = g.get("measures") or Measures()
        return show(value, unit, measures)[0] if measures.system == "imperial" else number(value, 2)

    @app.template_filter("drops")
    def _drops(value: float) -> str:
        count = number(value, 2)
        return f"{count} drop{'' if count == '1' else 's'}"

    @app.template_filter("later")
    def _later(hours: float) -> str:
        """The day and time so many hours from now."""
        moment = _wall(now() + timedelta(hours=hours))
        return moment.strftime("%a %H:%M" if hours < 144 else "%a %d %b, %H:%M")

    @app.template_filter("span")
    def _span(hours: float) -> str:
        return " ".join(duration(hours))

    @app.template_filter("when")
    def _when(moment: Any) -> str:
        return str(_wall(moment).strftime("%d %b %Y, %H:%M"))

    @app.template_filter("clock")
    def _clock(moment: Any) -> str:
        return str(_wall(moment).strftime("%a %H:%M"))

    @app.template_filter("clock_on")
    def _clock_on(moment: Any) -> str:
        at = _wall(moment)
        return f"{at:%a} {at.day}, {at:%H:%M}"

    @app.template_filter("hour")
    def _hour(moment: Any) -> str:
        return str(_wall(moment).strftime("%H:%M"))

    @app.template_filter("moment")
    def _moment(text: str) -> datetime:
        return datetime.fromisoformat(text)


def _wall(moment: datetime) -> datetime:
    """A moment by the clock on the wall."""
    return moment.astimezone(current_app.extensions["zone"])


@blueprint.get("/s/<slug>/working")
def working(slug: str) -> str:
    """The terms of one figure of the plan, by its path."""
    opened = open_scene(slug)
    path = request.args.get("path", "")
    try:
        figure = opened.plan.figure(path)
    except KeyError:
        raise fault(
            path or "path", "the plan has no such figure", "reload the page; the plan may have changed"
        ) from None
    return render_template("frame/_working.html", figure=figure)


@blueprint.post("/settings")
def set_settings() -> Response:
    """Metric or imperial, light or dark."""
    with database().writing() as session:
        system, theme = request.form.get("system"), request.form.get("theme")
        if system in ("metric", "imperial"):
            settings.put(session, "system", system)
        if theme in ("light", "dark"):
            settings.put(session, "theme", theme)
    return go(here_of())


@blueprint.get("/things")
def things() -> str:
    """The user's own measures and cups."""
    with database().reading() as session:
        mine = settings.bench(session)
    sold = [(one.id, one.name, one.sold_by) for one in sorted(shipped().materials.values(), key=lambda one: one.name)]
    return render_template("frame/things.html", bench=mine, sold=sold, place="things")


@blueprint.post("/things")
def set_things() -> Response:
    """Change them; every scene that brings no bench of its own follows."""
    values: dict[str, Any] = {}
    for name, quantity, what in BENCH_FIELDS:
        if quantity:
            values[name] = round(measure(name, quantity, what, Measures(g.measures.system)), 4)
        else:
            values[name] = numeral(name, what)
    values["grade_most"] = round(numeral("grade_most", "steepest grade") / 100, 6)
    for name, what in (("risers_mm", "risers"), ("shims_mm", "shims")):
        pieces = [piece for piece in request.form.get(name, "").split(";") if piece.strip()]
        values[name] = [round(measured(piece, "length", what, Measures(g.measures.system)), 3) for piece in pieces]
    cups = request.form.get("cups", "").strip()
    values["cups"] = whole_of(cups, "cups for resin") if cups else None
    for name, what in (("setup_min", "minutes to set up"), ("cleanup_min", "minutes to clean up")):
        values[name] = numeral(name, what) if request.form.get(name, "").strip() else 0.0
    try:
        tub = values.pop("tub_long"), values.pop("tub_wide")
        mine = Bench.model_validate({**values, "tub_mm": tub, "prices": _prices()})
    except ValidationError as error:
        where = str(error.errors()[0]["loc"][0])
        if where in ("cups", "setup_min", "cleanup_min"):
            raise fault(where.replace("_", " "), "it is out of reach", "1 to 100 cups, 0 to 120 minutes") from None
        raise fault(where.replace("_", " "), "it is not above 0", "write what it holds, such as 400 ml") from None
    with database().writing() as session:
        settings.put(session, "bench", mine.model_dump(mode="json"))
    return go(url_for("frame.things"))


def _prices() -> list[dict[str, Any]]:
    """One price a line of the form; a line without an amount is none. Raises Faults."""
    prices = []
    fields = (request.form.getlist(name) for name in ("price_of", "price", "pack"))
    for material, amount, pack in zip(*fields, strict=False):
        if not amount.strip():
            continue
        known = shipped().materials.get(material)
        if known is None:
            raise fault("price", f"there is no material '{material}'", "choose one of the list")
        try:
            value = float(amount)
        except ValueError:
            raise fault(
                f"price of {known.name}", f"“{amount}” is no number", "write the money alone, such as 12.50"
            ) from None
        quantity = PACK_QUANTITY[known.sold_by]
        holds = (
            measured(pack, quantity, f"pack of {known.name}", g.measures)
            if quantity
            else numeral_of(pack, f"pack of {known.name}")
        )
        prices.append({"material": material, "amount": value, "pack": round(holds, 4)})
    return prices


def here_of(target: str | None = None) -> str:
    """The page that a shared control was used on; only addresses of this application."""
    target = request.form.get("here", "/") if target is None else target
    return target if target.startswith("/") and not target.startswith("//") and "\\" not in target else "/"


@blueprint.post("/s/<slug>/undo")
def undo(slug: str) -> Response:
    """Back one revision."""
    with database().writing() as session:
        scenes.undo(session, scenes.find(session, slug))
    return go(here_of())


@blueprint.post("/s/<slug>/redo")
def redo(slug: str) -> Response:
    """Forward again."""
    with database().writing() as session:
        scenes.redo(session, scenes.find(session, slug))
    return go(here_of())


@blueprint.get("/s/<slug>/look")
def look(slug: str) -> Response:
    """Closer, farther, the whole, or along; or a zoom and a middle of one's own. Kept for every page of the scene."""
    with database().reading() as session:
        scene = scenes.resolve(scenes.find(session, slug).head, settings.bench(session))
    at = looked(scene, look_of(slug))
    zoom, x, y = at.zoom, at.x_mm, at.y_mm
    move, step = request.args.get("move", ""), 0.25 / zoom
    if move in ("in", "out"):
        zoom *= 2 if move == "in" else 0.5
    elif move == "whole":
        zoom = 1.0
    elif move in ("west", "east"):
        x += scene.base.width_mm * step * (1 if move == "east" else -1)
    elif move in ("south", "north"):
        y += scene.base.depth_mm * step * (1 if move == "north" else -1)
    else:
        wanted = [request.args.get(name, type=float) for name in ("zoom", "x", "y")]
        if any(one is None or not isfinite(one) for one in wanted):
            raise fault("look", "it does not say where to look", "give zoom, x and y in mm")
        zoom, x, y = (float(one or 0.0) for one in wanted)
    kept = looked(scene, Look(zoom, x, y))
    cookie[f"look:{slug}"] = [round(kept.zoom, 3), round(kept.x_mm, 1), round(kept.y_mm, 1)]
    return go(here_of(request.args.get("here", "/")))


@blueprint.get("/s/<slug>/history")
def history(slug: str) -> str:
    """Every revision of a scene."""
    opened = open_scene(slug)
    with database().reading() as session:
        rows = scenes.history(session, scenes.find(session, slug))
    return render_template("frame/history.html", opened=opened, rows=rows, place="history")


@blueprint.post("/s/<slug>/history/<int:number>/restore")
def restore(slug: str, number: int) -> Response:
    """Bring a revision back on top."""
    with database().writing() as session:
        scenes.restore(session, scenes.find(session, slug), number, now())
    return go(url_for("frame.history", slug=slug))


def night_of(room: Room) -> tuple[float, float] | None:
    """(degC, rh) of the nights of a room that was given by day and by night; None for a steady one, or a forecast."""
    other = {(one.temp_c, one.rh) for one in room.series} - {(room.temp_c, room.rh)}
    return next(iter(other)) if len(other) == 1 and len(room.series) > 2 else None


def room_now(room: Room) -> tuple[float, float]:
    """(degC, rh) of a room as it is now: by its series if it has one."""
    there = room.since(now().astimezone(current_app.extensions["zone"]))
    return (there.series[0].temp_c, there.series[0].rh) if there.series else (room.temp_c, room.rh)


def _share(field: str) -> float:
    """A relative humidity from percent. Raises Faults."""
    percent = numeral(field, "humidity")
    if not 0 <= percent <= 100:
        raise fault("humidity", f"{percent:g} % is outside 0 to 100", "half damp is 50")
    return percent / 100


def day_and_night(day: tuple[float, float], night: tuple[float, float], start: datetime) -> list[dict[str, Any]]:
    """A room by day from 8 h and by night from 22 h, from `start` on for NIGHTS nights, as the document has it."""
    begin = start.replace(minute=0, second=0, microsecond=0)
    turns = [begin]
    at = begin.replace(hour=0)
    while len(turns) < 2 * NIGHTS:
        turns += [turn for turn in (at.replace(hour=8), at.replace(hour=22)) if turn > begin]
        at += timedelta(days=1)
    readings = []
    for turn in turns:
        temp, rh = day if 8 <= turn.hour < 22 else night
        readings.append({"at": turn.isoformat(), "temp_c": temp, "rh": rh})
    return readings


@blueprint.post("/s/<slug>/room")
def room(slug: str) -> Response:
    """The room in which everything dries; by day and by night, if the nights differ."""
    temp, rh = degrees(numeral("temp_c", "temperature")), _share("rh_percent")
    night = None
    if request.form.get("night_c", "").strip():
        damp = _share("night_rh") if request.form.get("night_rh", "").strip() else rh
        night = degrees(numeral("night_c", "temperature at night")), damp

    def change(data: Document) -> None:
        data["room"] = {"temp_c": temp, "rh": rh}
        if night and night != (temp, rh):
            data["room"]["series"] = day_and_night((temp, rh), night, now().astimezone())
        if request.form.get("air") == "fan":
            data["room"]["air"] = "fan"

    words = f"Room {temp:g} °C, {rh:.0%}" + (f", {night[0]:g} °C at night" if night else "")
    return edit(slug, words, change, here_of())
