"""Outside jobs, deliveries and places of work: what waits for what, and where it hardens."""

from __future__ import annotations

from typing import Any

from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...store.scenes import slug_of
from ..frame.opened import Document, degrees, edit, numeral, open_scene
from .asking import zone
from .views import blueprint, local


def _here(slug: str) -> str:
    return url_for("clock.gates", slug=slug)


def _id(data: Document, kind: str, name: str) -> str:
    taken = {one["id"] for kinds in ("forms", "patches", "places", "gates") for one in data.get(kinds, [])}
    taken |= {lift["id"] for patch in data.get("patches", []) for lift in patch.get("lifts", [])}
    stem = slug_of(name, kind)
    number = 1
    while (found := stem if number == 1 else f"{stem}-{number}") in taken:
        number += 1
    return found


def _name(what: str) -> str:
    name = " ".join(request.form.get("name", "").split())
    if not 1 <= len(name) <= 80:
        raise fault(
            what, "it has no name, or one of more than 80 letters", "write what it is, such as Stone is delivered"
        )
    return name


def _entry(data: Document, kind: str, name: str) -> dict[str, Any]:
    for one in data.get(kind, []):
        if one["id"] == name:
            found: dict[str, Any] = one
            return found
    raise fault(kind, f"'{name}' is no longer there", "reload the page; it may have been removed meanwhile")


@blueprint.get("/s/<slug>/clock/gates")
def gates(slug: str) -> str:
    """Gates and places of a scene."""
    opened = open_scene(slug)
    working = [(form.id, form.title, form.place) for form in opened.scene.forms]
    working += [
        (lift.id, f"{patch.name}: {lift.title}", lift.place) for patch in opened.scene.patches for lift in patch.lifts
    ]
    return render_template("clock/gates.html", opened=opened, working=working, zone=zone(), place="clock.page")


@blueprint.post("/s/<slug>/clock/gates/add")
def add_gate(slug: str) -> Response:
    """A new outside job or delivery."""
    name, blocks, text = _name("gate"), request.form.getlist("blocks"), request.form.get("not_before", "").strip()
    at = local(text, "not before", zone()).isoformat() if text else None
    if not blocks:
        raise fault("gate", "nothing waits for it", "choose what it holds up")

    def change(data: Document) -> None:
        gate = {"id": _id(data, "gate", name), "name": name, "blocks": blocks}
        data.setdefault("gates", []).append(gate if at is None else {**gate, "not_before": at})

    return edit(slug, f"Gate: {name}", change, _here(slug))


@blueprint.post("/s/<slug>/clock/gates/<gate_id>")
def change_gate(slug: str, gate_id: str) -> Response:
    """A gate is done, moved to another day, or taken away."""
    what, text = request.form.get("what", ""), request.form.get("not_before", "").strip()
    at = local(text, "not before", zone()).isoformat() if text else None

    def change(data: Document) -> None:
        gate = _entry(data, "gates", gate_id)
        if what == "remove":
            data["gates"].remove(gate)
        elif what == "done":
            gate["done"] = not gate.get("done", False)
        else:
            gate.pop("not_before", None)
            if at:
                gate["not_before"] = at

    words = {"remove": "taken away", "done": "done or not"}.get(what, "another day")
    return edit(slug, f"Gate {gate_id}: {words}", change, _here(slug))


@blueprint.post("/s/<slug>/clock/places/add")
def add_place(slug: str) -> Response:
    """A place besides the bench, with a room of its own."""
    name = _name("place")
    temp, percent = degrees(numeral("temp_c", "temperature")), numeral("rh_percent", "humidity")
    hours = request.form.get("hours", "").strip()
    latitude, longitude = (request.form.get(key, "").strip() for key in ("latitude", "longitude"))
    if bool(latitude) != bool(longitude):
        raise fault("daylight", "it needs both latitude and longitude", "write both, or neither")

    def change(data: Document) -> None:
        made: dict[str, Any] = {
            "id": _id(data, "place", name),
            "name": name,
            "room": {"temp_c": temp, "rh": round(percent / 100, 4)},
        }
        if request.form.get("air") == "fan":
            made["room"]["air"] = "fan"
        if hours:
            made["hours"] = hours
        if latitude:
            made["daylight"] = [numeral("latitude", "latitude"), numeral("longitude", "longitude")]
        data.setdefault("places", []).append(made)

    return edit(slug, f"Place: {name}", change, _here(slug))


@blueprint.post("/s/<slug>/clock/places/<place_id>/remove")
def remove_place(slug: str, place_id: str) -> Response:
    """A place is given up; what was done there is done at the bench again."""

    def change(data: Document) -> None:
        data["places"].remove(_entry(data, "places", place_id))
        lifts = [lift for patch in data.get("patches", []) for lift in patch.get("lifts", [])]
        for one in [*data.get("forms", []), *lifts]:
            if one.get("place") == place_id:
                del one["place"]

    return edit(slug, f"Place {place_id} taken away", change, _here(slug))


@blueprint.post("/s/<slug>/clock/places/set")
def set_place(slug: str) -> Response:
    """A lift or a form is done in another place."""
    name, where = request.form.get("what", ""), request.form.get("where", "")

    def change(data: Document) -> None:
        lifts = [lift for patch in data.get("patches", []) for lift in patch.get("lifts", [])]
        one = next((one for one in [*data.get("forms", []), *lifts] if one["id"] == name), None)
        if one is None:
            raise fault("place", f"'{name}' is no longer there", "reload the page")
        one.pop("place", None)
        if where:
            one["place"] = where

    return edit(slug, f"{name}: done {where or 'at the bench'}", change, _here(slug))
