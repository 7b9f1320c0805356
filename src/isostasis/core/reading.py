"""Reads scene documents with every kind of form and lift that is built; the JSON Schema of them."""

from __future__ import annotations

from typing import Any

from .document import Scene
from .document import read as read_with
from .document.scene import scene_model
from .ground.forms import FORM_MODELS
from .lifts.kinds import LIFT_MODELS


def read(source: str | bytes | dict[str, Any]) -> Scene:
    """The scene in `source`: JSON text, or data already read. Raises Faults."""
    return read_with(source, FORM_MODELS, LIFT_MODELS)


def json_schema() -> dict[str, Any]:
    """JSON Schema of the scene document with every kind that is built."""
    schema = scene_model(FORM_MODELS, LIFT_MODELS).model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}
