"""Carve or fill: what each flight of steps takes either way, and the answer as a form."""

from __future__ import annotations

from flask import request, url_for
from werkzeug.wrappers import Response

from ...core.document import Scene
from ...core.document.edit import add
from ...core.fault import fault
from ...core.terrain.report import GroundQuery
from ..draw.projection import path
from ..shared.fields import Field, read_one
from ..shared.scenes import edit, mixes_of, open_scene
from .reports import asked, report_of, tool_page
from .views import blueprint, render_panels

SLOPE = Field("slope", "slope", "deg", start=38.0)


@blueprint.get("/s/<slug>/ground/steps")
def steps(slug: str) -> str:
    """For each flight of steps what filling and what carving takes."""
    opened, wanted = open_scene(slug), asked()
    by_patch = report_of(opened, wanted, "flights").flights or {}
    p = render_panels(opened, "bare")
    skins = sorted(mixes_of(opened, "skin"))
    return tool_page(
        "steps", "steps", opened, flights=by_patch, asked=wanted, skins=skins,
        outlines={name: path([list(flight.outline)], p.frame) for name, flight in by_patch.items()},
    )  # fmt: skip


@blueprint.post("/s/<slug>/ground/steps/<flight_id>/carve")
def carve(slug: str, flight_id: str) -> Response:
    """The answer turned into a form: a bevel round the flight. Raises Faults."""
    opened = open_scene(slug)
    slope = read_one(SLOPE, request.form)
    flights = report_of(opened, GroundQuery(slope_deg=slope), "flights").flights or {}
    flight = flights.get(flight_id)
    if flight is None:
        raise fault("steps", "this flight is no longer there", "reload the page")
    name = opened.new_id("bevel")
    title = f"{flight.name}, carved"[:80]
    bevel = {"id": name, "kind": "bevel", "name": title, "outline": flight.outline, "slope_deg": slope}

    def change(scene: Scene) -> Scene:
        # After the sheets or survey that make the steps, before what is cut into them.
        under = [place for place, form in enumerate(scene.forms) if form.kind in ("sheet", "survey")]
        last = max((place for place in under if not scene.forms[place].after), default=-1)
        return add(scene, "forms", bevel, at=last + 1)

    return edit(
        slug, f"Carved {flight.name} to {slope:g} degrees", change, url_for("ground.page", slug=slug, form=name)
    )
