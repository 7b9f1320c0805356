"""Keep: what must stay flat after every lift, what must not be splashed, and where a figure's foot stands."""

from __future__ import annotations

from typing import Any

from flask import request, url_for
from werkzeug.wrappers import Response

from ...core.document import Scene
from ...core.document.edit import Part, add, called, names_of, refuse_taken, remove
from ...core.fault import fault
from ...core.lifts.areas import line_of
from ..draw.projection import path
from ..shared.fields import Field, read
from ..shared.scenes import edit, open_scene
from .reports import asked, report_of, tool_page
from .views import blueprint, render_panels

PROTECTS = ("mask", "seal", "wipe")
IDS = {"flats": "flat", "protect": "protect"}
KEPT = (
    Field("name", "name", most=80),
    Field("x1", "x1", "mm"),
    Field("y1", "y1", "mm"),
    Field("x2", "x2", "mm"),
    Field("y2", "y2", "mm"),
    Field("width", "width", "mm", optional=True),
    Field("flat", "how flat", "mm", optional=True),
    Field("height", "height", "mm", optional=True),
)


@blueprint.get("/s/<slug>/ground/flats")
def flats(slug: str) -> str:
    """Flats after every lift, the wobble of a foot, and the protect list."""
    opened, wanted = open_scene(slug), asked()
    report = report_of(opened, wanted, "flats", "protect", "wobble")
    p = render_panels(opened, "bare" if wanted.stage == "bare" else "finished")
    places = []
    for thing in (*opened.scene.flats, *opened.scene.protect):
        kind, points, width = line_of(thing) or ("ring", (), 0.0)
        broken = (report.flats or {}).get(thing.id)
        state = "protect" if broken is None else "broken" if broken.broken_at else "holds"
        places.append((thing, path([list(points)], p.frame, close=kind == "ring"), width * p.frame.scale, state))
    lifts = {lift.id: lift.title for patch in opened.scene.patches for lift in patch.lifts}
    return tool_page(
        "flats", "flats", opened, "bare" if wanted.stage == "bare" else "finished",
        asked=wanted, flats=report.flats or {}, protect=report.protect or {}, wobble=report.wobble, kept=places,
        lifts=lifts,
    )  # fmt: skip


@blueprint.post("/s/<slug>/ground/keep")
def add_place(slug: str) -> Response:
    """A corridor or a footprint to keep flat, or something to protect: a box, or a strip along two points. Raises
    Faults."""
    opened = open_scene(slug)
    listed = request.form.get("list", "flats")
    if listed not in ("flats", *PROTECTS):
        raise fault("list", f"'{listed}' is no such list", "choose what to keep")
    kind: Part = "flats" if listed == "flats" else "protect"
    name, x1, y1, x2, y2, width, flat, height = read(KEPT, request.form).values()
    if not name:
        raise fault("name", "it has no name", "give it one, such as Roadbed")
    refuse_taken(name, names_of(opened.written, kind), "one")
    data: dict[str, Any] = {"id": opened.new_id(IDS[kind]), "name": name}
    if width is not None:
        data |= {"path": [[x1, y1], [x2, y2]], "width_mm": width}
    else:
        west, east, south, north = min(x1, x2), max(x1, x2), min(y1, y2), max(y1, y2)
        data["outline"] = [[west, south], [east, south], [east, north], [west, north]]
    if kind == "flats":
        if flat is None:
            raise fault("how flat", "nothing was written", "write by how much it may be off, such as 0.5 mm")
        data |= {"flat_mm": flat, "height_mm": height}
    else:
        data["how"] = listed
    return edit(slug, f"Keeps {name}", lambda scene: add(scene, kind, data), url_for("ground.flats", slug=slug))


@blueprint.post("/s/<slug>/ground/keep/<place_id>/remove")
def remove_place(slug: str, place_id: str) -> Response:
    """It need not be kept any more."""

    def change(scene: Scene) -> Scene:
        kind: Part = "flats" if any(one.id == place_id for one in scene.flats) else "protect"
        return remove(scene, kind, place_id)

    return edit(
        slug, lambda scene: f"{called(scene, place_id)}: no longer kept", change, url_for("ground.flats", slug=slug)
    )
