"""Readings that a scale or a probe posts by itself, as JSON with a key of its own."""

from __future__ import annotations

from datetime import timedelta
from typing import Annotated, Any

from flask import current_app, jsonify, render_template, request
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...store import devices, readings
from ..shared.fields import Field as FormField
from ..shared.fields import read_one
from ..shared.scenes import database, now
from .views import blueprint

NAME = FormField("name", "name", most=200)
SOONEST = timedelta(milliseconds=200)  # after the last of its kind, where neither has a key: others are passed over


class PostedWeight(BaseModel):
    """What lies on the scale, g less its tare; `battery` 0..1."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    grams: Annotated[float, Field(ge=-100_000, le=100_000)] | None
    steady: bool = True
    battery: Annotated[float, Field(ge=0, le=1)] = 1.0


class PostedAir(BaseModel):
    """The air of the room: degC, humidity 0..1."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    temp_c: Annotated[float, Field(ge=-20, le=60)]
    rh: Annotated[float, Field(ge=0, le=1)]


@blueprint.post("/devices/post")
def post() -> tuple[Response, int]:
    """A reading: {"grams", "steady", "battery"} or {"temp_c", "rh"}."""
    data: Any = request.get_json(silent=True)
    if not isinstance(data, dict):
        return jsonify(wrong="send one JSON object, with the content type application/json"), 400
    kind, model = ("room", PostedAir) if "temp_c" in data else ("scale", PostedWeight)
    try:
        value = model.model_validate(data).model_dump()
    except ValidationError as problem:
        first = problem.errors()[0]
        where = ".".join(str(one) for one in first["loc"]) or "the reading"
        return jsonify(wrong=f"{where}: {first['msg'].lower()}; send grams and steady, or temp_c and rh (0 to 1)"), 422
    moment = now()
    with database().writing() as session:
        last = readings.newest(session, kind)
        keyed = "Idempotency-Key" in request.headers
        if keyed or last is None or not timedelta(0) <= moment - last.at < SOONEST:
            readings.add(session, kind, value, moment)
    if kind == "room":
        current_app.extensions["keeper"].room_read = True
    return jsonify(kept=kind), 200


@blueprint.post("/devices/sensor")
def sensor() -> str:
    """A key for one more scale or probe, which may post its readings and nothing else; shown once. Raises Faults."""
    name = str(read_one(NAME, request.form))
    if not name.strip():
        raise fault("name", "it is empty", "call it after what it is, such as Scale at the bench")
    with database().writing() as session:
        key = devices.pair(session, name, "sensor", now())
    return render_template("devices/_sensor.html", name=name, key=key, host=request.host_url.rstrip("/"))
