"""Level: the spirit level's panel, and what to put under which corner."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.document import Scene
from ...core.document.edit import set_base
from ...core.fault import fault
from ...core.terrain.level import levelling
from ...core.terrain.report import GroundQuery
from ...standins.spirit_level import CORNERS, SimulatedLevel, mean_of
from ...store import settings
from ..shared.fields import Field, read, read_one
from ..shared.scenes import database, edit, open_scene
from .reports import report_of, tool_page
from .views import blueprint

READINGS = 5
LEAN = (Field("east", "lean to the east", "number"), Field("north", "lean to the north", "number"))
SHIM = Field("height", "shim", "mm")
BATTENS = Field("battens", "battens", "whole", low=0, high=40)


def _level_of(slug: str, session: Any) -> SimulatedLevel:
    """The stand-in's board as it stands; a new one leans a little, as boards do."""
    known = settings.read(session).level.get(slug)
    if known is not None:
        return SimulatedLevel(**known.model_dump())
    seed = sum(ord(letter) * (place + 7) for place, letter in enumerate(slug))
    return SimulatedLevel(seed % 13 / 4 - 1.5, seed % 7 / 3 - 1.0, seed)


def _keep_level(slug: str, level: SimulatedLevel, session: Any) -> None:
    states = settings.read(session).level
    settings.change(session, level={**states, slug: settings.LevelState(**asdict(level))})


@blueprint.get("/s/<slug>/ground/level")
def level(slug: str) -> str:
    """The spirit level's panel, and what to put under which corner."""
    opened = open_scene(slug)
    with database().reading() as session:
        read = mean_of(_level_of(slug, session), READINGS)
    scale = 46 / 5.0  # px per mm/m: the vial's ring is 5 mm/m
    east, north = (max(min(one, 5.0), -5.0) for one in read)
    return tool_page(
        "level", "level", opened, read=read, readings=READINGS, levelling=levelling(opened.scene.base), corners=CORNERS,
        bubble=(60 + east * scale, 60 - north * scale), tilt=opened.scene.base.tilt_mm_per_m,
        reading=report_of(opened, GroundQuery(), "reading").reading,
    )  # fmt: skip


@blueprint.get("/s/<slug>/ground/level/working")
def level_working(slug: str) -> str:
    """The terms of a shim, or of how far the corners stand apart. Raises Faults."""
    made = levelling(open_scene(slug).scene.base)
    name = request.args.get("corner", "")
    figure = made.apart_mm if name == "apart" else made.shims.get(name)
    if figure is None:
        raise fault("corner", f"there is no corner '{name}'", "reload the page")
    return render_template("shared/_working.html", figure=figure)


@blueprint.post("/s/<slug>/ground/level")
def set_level(slug: str) -> Response:
    """Take a reading over into the scene, or write the lean by hand."""
    if request.form.get("how") == "read":
        with database().writing() as session:
            device = _level_of(slug, session)
            east, north = mean_of(device, READINGS)
            _keep_level(slug, device, session)
    else:
        east, north = read(LEAN, request.form).values()

    def change(scene: Scene) -> Scene:
        return set_base(scene, tilt_mm_per_m=(east, north))

    return edit(slug, f"Board leans {east:g} east, {north:g} north mm/m", change, url_for("ground.level", slug=slug))


@blueprint.post("/s/<slug>/ground/battens")
def set_battens(slug: str) -> Response:
    """How many battens keep the board straight."""
    count = read_one(BATTENS, request.form)

    def change(scene: Scene) -> Scene:
        return set_base(scene, battens=count)

    return edit(slug, f"{count} battens under the board", change, url_for("ground.level", slug=slug))


@blueprint.post("/s/<slug>/ground/level/shim")
def shim(slug: str) -> Response:
    """Raise a corner of the stand-in's board, and read it again. Raises Faults."""
    opened = open_scene(slug)
    corner = next((one for one in CORNERS if one == request.form.get("corner")), None)
    height = read_one(SHIM, request.form)
    if corner is None:
        raise fault("corner", "there is no such corner", "choose one of the four")
    with database().writing() as session:
        device = _level_of(slug, session)
        device.shim(corner, height, opened.scene.base.width_mm, opened.scene.base.depth_mm)
        east, north = mean_of(device, READINGS)
        _keep_level(slug, device, session)

    def change(scene: Scene) -> Scene:
        return set_base(scene, tilt_mm_per_m=(east, north))

    return edit(slug, f"Raised the {corner} corner by {height:g} mm", change, url_for("ground.level", slug=slug))
