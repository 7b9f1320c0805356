"""Shared parts of pages: measures in templates, the working of a figure, settings, undo, history, room."""

from __future__ import annotations

import json
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any

from flask import Blueprint, Flask, current_app, g, jsonify, render_template, request, url_for
from flask import session as cookie
from pydantic import ValidationError
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.document import Room, Scene
from ...core.document.edit import set_room, written
from ...core.fault import Faults, fault
from ...core.reading import read as read_scene
from ...core.stages import STAGES
from ...core.units import Measures
from ...core.wet import HardeningItem, wet_line
from ...store import devices, logbook, readings, scenes, settings
from ...store.tables import DeviceReadingRow, SceneRow
from ..draw.projection import Viewport, clamped_viewport
from ..sending import FILES
from . import due, undoing
from . import path as first_steps
from .answers import hx_redirect, safe_return_url
from .fields import Field, read
from .filters import FILTERS
from .help import GLOSSARY, PURPOSES
from .scenes import database, edit, label_changes, now, open_scene, resolved_scene, viewport_of, wall_now

blueprint = Blueprint("shared", __name__)

ROOM = (
    Field("temp_c", "temperature", "degC"),
    Field("rh_percent", "humidity", "percent", low=0, high=1),
    Field("night_c", "temperature at night", "degC", optional=True),
    Field("night_rh", "humidity", "percent", optional=True, low=0, high=1),
)
MAX_MENDED = 400_000  # letters of a document that a page can hold
VIEW = (Field("zoom", "zoom", "number"), Field("x", "x", "number"), Field("y", "y", "number"))
LOGGED = timedelta(hours=2)  # for which a posted reading is told as the room's
NIGHTS = 30  # of a room by day and by night; after them the last reading holds
# A style sheet a concern, in the order in which they build on each other; and the scripts, all on every page.
STYLES = (
    "fonts", "tokens", "page", "frame", "view", "figures", "tables", "forms", "drawing", "ground", "layup", "pour",
    "scenes", "mix", "clock", "bench", "labels", "shelf", "devices", "reckoner", "swatches", "records", "faults",
    "find", "narrow", "rings", "paper",
)  # fmt: skip
SCRIPTS = (
    "page", "find", "live", "rings", "waiting", "dips", "drag", "pencil", "photo", "relief", "surface", "chart", "pour",
    "clock", "bench", "swatches",
)  # fmt: skip
PLACES = (
    ("Ground", "ground.page", "g"),
    ("Lay-up", "layup.page", "l"),
    ("Pour", "pour.page", "p"),
    ("Mix", "mix.page", "m"),
    ("Clock", "clock.page", "c"),
)
# What needs no scene: name, page, key, and what its pages call their place.
WORKSHOP = (
    ("Bench", "bench.page", "b", "bench"),
    ("Shelf", "shelf.page", "h", "shelf"),
    ("Labels", "labels.page", "a", "labels"),
    ("Swatches", "swatches.page", "w", "swatches"),
    ("Reckoner", "reckoner.page", "k", "reckoner"),
    ("Records", "records.page", "e", "records"),
)


def install(app: Flask) -> None:
    """Give every template what the frame needs."""

    @app.before_request
    def _settings() -> None:
        if request.endpoint in FILES:
            return
        with database().reading() as session:
            g.settings = settings.read(session)
        bench = g.settings.bench
        own = tuple((one.name, one.ml) for one in g.settings.vessels)
        g.measures = Measures(g.settings.system, bench.drop_ml, bench.scoop_ml, g.settings.currency, own)

    @app.context_processor
    def _frame() -> dict[str, Any]:
        measures: Measures = g.get("measures") or Measures()
        moment = now()

        def wet_now() -> list[HardeningItem]:
            """What is wet, asked for by pages only: a preview has no wet line."""
            return _wet_of(logbook.at_work, moment)

        return {
            "measures": measures,
            "theme": g.settings.theme if "settings" in g else "light",
            "places": PLACES,
            "workshop": WORKSHOP,
            "wet_now": wet_now,
            "is_due": lambda: due.is_due(moment),
            "rings_at_work": lambda: due.rings_at_work(wall_now()),
            "path_of": first_steps.path_of,
            "purposes": PURPOSES,
            "glossary": GLOSSARY,
            "moment": moment,
            "one_day": timedelta(days=1),
            "night_of": night_of,
            "room_now": room_now,
            "room_logged": room_logged,
            "stamp": current_app.config["STAMP"],
        }

    app.jinja_env.filters.update(FILTERS)


def _wet_of(which: Callable[[Session], list[SceneRow]], moment: datetime) -> list[HardeningItem]:
    works = []
    with database().reading() as session:
        for row in which(session):
            with suppress(Faults, ValidationError):  # what no longer fits is told on the scene's own page
                works.append(logbook.work_on(session, row))
    return wet_line(works, moment)


def wet_now_of(slug: str) -> list[HardeningItem]:
    """What is wet of one scene. Raises NoSuchScene."""
    return _wet_of(lambda session: [scenes.find(session, slug)], now())


@blueprint.get("/status.json")
def status_json() -> Response:
    """What is kept worked out, for `isostasis status`."""
    return jsonify(asdict(STAGES.status()))


@blueprint.get("/status")
def status() -> str:
    """What is kept worked out: how much of how much, and each stage's hits."""
    return render_template("shared/status.html", status=STAGES.status())


@blueprint.get("/s/<slug>/working")
def working(slug: str) -> str:
    """The terms of one figure of the plan, by its path. Raises Faults."""
    opened = open_scene(slug)
    path = request.args.get("path", "")
    try:
        figure = opened.plan.figure(path)
    except KeyError:
        raise fault(
            path or "path", "the plan has no such figure", "reload the page; the plan may have changed"
        ) from None
    return render_template("shared/_working.html", figure=figure)


@blueprint.post("/settings")
def set_settings() -> Response:
    """Metric or imperial, light or dark."""
    with database().writing() as session:
        system, theme = request.form.get("system"), request.form.get("theme")
        if system in ("metric", "imperial"):
            settings.change(session, system=system)
        if theme in ("light", "dark"):
            settings.change(session, theme=theme)
    return hx_redirect(safe_return_url())


first_steps.install(blueprint)
blueprint.post("/s/<slug>/undo")(undoing.undo)
blueprint.post("/s/<slug>/redo")(undoing.redo)


@blueprint.post("/s/<slug>/look")
def look(slug: str) -> Response:
    """Closer, farther, the whole, or along; or a zoom and a middle of one's own. Kept for every page of the scene.
    Raises Faults."""
    scene = resolved_scene(slug)
    at = clamped_viewport(scene, viewport_of(slug))
    zoom, x, y = at.zoom, at.x_mm, at.y_mm
    move, step = request.form.get("move", ""), 0.25 / zoom
    if move in ("in", "out"):
        zoom *= 2 if move == "in" else 0.5
    elif move == "whole":
        zoom = 1.0
    elif move in ("west", "east"):
        x += scene.base.width_mm * step * (1 if move == "east" else -1)
    elif move in ("south", "north"):
        y += scene.base.depth_mm * step * (1 if move == "north" else -1)
    else:
        zoom, x, y = read(VIEW, request.form).values()
        if zoom is None or x is None or y is None:
            raise fault("look", "it does not say where to look", "give zoom, x and y in mm")
    kept = clamped_viewport(scene, Viewport(zoom, x, y))
    cookie[f"look:{slug}"] = [round(kept.zoom, 3), round(kept.x_mm, 1), round(kept.y_mm, 1)]
    return hx_redirect(safe_return_url())


@blueprint.post("/s/<slug>/mend")
def mend(slug: str) -> Response:
    """A document that this version cannot plan, written anew. Raises Faults."""
    scene = read_scene(request.form.get("text", ""))
    with database().writing() as session:
        row = scenes.find(session, slug)
        scenes.save(session, row, row.head.number, scene, "Mended", now())
    return hx_redirect(url_for("ground.page", slug=slug))


def unopened(slug: str, faults: Faults) -> str:
    """The page of a scene that this version cannot plan: what is wrong, its document, its revisions."""
    with database().reading() as session:
        row = scenes.find(session, slug)
        data = scenes.data_of(row.head)
        rows = scenes.history(session, row)[:50]
        head = row.head.number
    text = json.dumps(data, indent=1, ensure_ascii=False)
    return render_template(
        "shared/unopened.html", slug=slug, name=data.get("name", slug), sentences=[str(one) for one in faults.faults],
        text=text if len(text) < MAX_MENDED else "", rows=rows, head=head,
    )  # fmt: skip


@blueprint.get("/s/<slug>/history")
def history(slug: str) -> str:
    """Every revision of a scene."""
    opened = open_scene(slug)
    with database().reading() as session:
        row = scenes.find(session, slug)
        rows = scenes.history(session, row)
        names = devices.names(session)
        tins = label_changes(session, opened.scene, row.created_at)
    return render_template("shared/history.html", opened=opened, rows=rows, devices=names, tins=tins, place="history")


@blueprint.post("/s/<slug>/history/<int:number>/restore")
def restore(slug: str, number: int) -> Response:
    """Bring a revision back on top."""
    with database().writing() as session:
        scenes.restore(session, scenes.find(session, slug), number, now())
    return hx_redirect(url_for("shared.history", slug=slug))


def night_of(room: Room) -> tuple[float, float] | None:
    """(degC, rh) of the nights of a room that was given by day and by night; None for a steady one, or a forecast."""
    other = {(one.temp_c, one.rh) for one in room.series} - {(room.temp_c, room.rh)}
    return next(iter(other)) if len(other) == 1 and len(room.series) > 2 else None


def room_now(room: Room) -> tuple[float, float]:
    """(degC, rh) of a room as it is now: by its series if it has one."""
    there = room.since(now().astimezone(current_app.extensions["zone"]))
    return (there.series[0].temp_c, there.series[0].rh) if there.series else (room.temp_c, room.rh)


def room_logged() -> DeviceReadingRow | None:
    """What a probe posted of late, if there is one."""
    with database().reading() as session:
        last = readings.newest(session, "room")
    return last if last is not None and now() - last.at < LOGGED else None


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
    temp, rh, night_c, night_rh = read(ROOM, request.form).values()
    rh = round(rh, 4)
    night = None if night_c is None else (night_c, rh if night_rh is None else round(night_rh, 4))
    data: dict[str, Any] = {"temp_c": temp, "rh": rh}
    if night and night != (temp, rh):
        data["series"] = day_and_night((temp, rh), night, now().astimezone())
    if request.form.get("air") == "fan":
        data["air"] = "fan"
    words = f"Room {temp:g} °C, {rh:.0%}" + (f", {night[0]:g} °C at night" if night else "")

    def change(scene: Scene) -> Scene:
        old = scene.room
        if old.series and (temp, rh, night) == (old.temp_c, old.rh, night_of(old)):
            return set_room(scene, {**written(old), "air": data.get("air", "still")})  # as it was: its series holds
        return set_room(scene, data)

    return edit(slug, words, change, safe_return_url())
