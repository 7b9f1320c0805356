"""Outside jobs, deliveries and places of work: what waits for what, and where it hardens."""

from __future__ import annotations

from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.document import Scene
from ...core.document.edit import add, called, find, names_of, refuse_taken, remove, set_place, slug_of, update
from ...core.fault import fault
from ..shared.fields import Field, read, read_one
from ..shared.scenes import edit, open_scene
from .asking import zone
from .views import blueprint

NAME = Field("name", "name", most=80)
NOT_BEFORE = Field("not_before", "not before", "moment", optional=True)
PLACE = (
    Field("temp_c", "temperature", "degC"),
    Field("rh_percent", "humidity", "percent"),
    Field("hours", "hours", optional=True),
    Field("latitude", "latitude", "number", optional=True),
    Field("longitude", "longitude", "number", optional=True),
)


def _here(slug: str) -> str:
    return url_for("clock.gates", slug=slug)


def _name(what: str) -> str:
    name = " ".join((read_one(NAME, request.form) or "").split())
    if not name:
        raise fault(what, "it has no name", "write what it is, such as Stone is delivered")
    return name


@blueprint.get("/s/<slug>/clock/gates")
def gates(slug: str) -> str:
    """Gates and places of a scene."""
    opened = open_scene(slug)
    working = [(form.id, form.title, form.place) for form in opened.scene.forms]
    working += [
        (lift.id, f"{patch.name}: {patch.short(lift)}", lift.place)
        for patch in opened.scene.patches
        for lift in patch.lifts
    ]
    return render_template("clock/gates.html", opened=opened, working=working, zone=zone(), place="clock.page")


@blueprint.post("/s/<slug>/clock/gates/add")
def add_gate(slug: str) -> Response:
    """A new outside job or delivery. Raises Faults."""
    opened, name, blocks = open_scene(slug), _name("gate"), request.form.getlist("blocks")
    refuse_taken(name, names_of(opened.written, "gates"), "a gate")
    if not blocks:
        raise fault("gate", "nothing waits for it", "choose what it holds up")
    gate = {
        "id": opened.new_id(slug_of(name, "gate")),
        "name": name,
        "blocks": blocks,
        "not_before": read_one(NOT_BEFORE, request.form),
    }
    return edit(slug, f"Gate: {name}", lambda scene: add(scene, "gates", gate), _here(slug))


@blueprint.post("/s/<slug>/clock/gates/<gate_id>")
def change_gate(slug: str, gate_id: str) -> Response:
    """A gate is done, moved to another day, or taken away."""
    what, at = request.form.get("what", ""), read_one(NOT_BEFORE, request.form)

    def change(scene: Scene) -> Scene:
        if what == "remove":
            return remove(scene, "gates", gate_id)
        if what == "done":
            return update(scene, "gates", gate_id, {"done": not find(scene, "gates", gate_id).done})
        return update(scene, "gates", gate_id, {"not_before": at})

    words = {"remove": "taken away", "done": "done or not"}.get(what, "another day")
    return edit(slug, lambda scene: f"Gate {called(scene, gate_id)}: {words}", change, _here(slug))


@blueprint.post("/s/<slug>/clock/places/add")
def add_place(slug: str) -> Response:
    """A place besides the bench, with a room of its own. Raises Faults."""
    opened, name = open_scene(slug), _name("place")
    refuse_taken(name, names_of(opened.written, "places"), "a place")
    temp, rh, hours, latitude, longitude = read(PLACE, request.form).values()
    if (latitude is None) != (longitude is None):
        raise fault("daylight", "it needs both latitude and longitude", "write both, or neither")
    room = {"temp_c": temp, "rh": round(rh, 4)}
    place = {
        "id": opened.new_id(slug_of(name, "place")),
        "name": name,
        "room": {**room, "air": "fan"} if request.form.get("air") == "fan" else room,
        "hours": hours,
        "daylight": None if latitude is None else (latitude, longitude),
    }
    return edit(slug, f"Place: {name}", lambda scene: add(scene, "places", place), _here(slug))


@blueprint.post("/s/<slug>/clock/places/<place_id>/remove")
def remove_place(slug: str, place_id: str) -> Response:
    """A place is given up; what was done there is done at the bench again."""
    return edit(
        slug,
        lambda scene: f"Place {called(scene, place_id)} taken away",
        lambda scene: remove(scene, "places", place_id),
        _here(slug),
    )


@blueprint.post("/s/<slug>/clock/places/set")
def move_work(slug: str) -> Response:
    """A lift or a form is done in another place."""
    name, where = request.form.get("what", ""), request.form.get("where", "")
    return edit(
        slug,
        lambda scene: f"{called(scene, name)}: done {called(scene, where) if where else 'at the bench'}",
        lambda scene: set_place(scene, name, where or None),
        _here(slug),
    )
