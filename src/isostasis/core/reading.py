"""Reads scene documents with every kind of form and lift that is built; the JSON Schema of them."""

from __future__ import annotations

from typing import Any

from .document import Scene
from .document import read as read_with
from .document.built import Built, BuiltGround
from .document.scene import scene_model
from .ground.forms import FORM_MODELS
from .lifts.kinds import LIFT_MODELS


def read(source: str | bytes | dict[str, Any]) -> Scene:
    """The scene in `source`: JSON text, or data already read. Raises Faults."""
    return read_with(source, FORM_MODELS, LIFT_MODELS)


def built_model() -> type[Built]:
    """The model of one record of what was built, with every kind."""
    made: type[Built] = _listed("built")
    return made


def ground_model() -> type[BuiltGround]:
    """The model of the ground under such records, with every kind."""
    made: type[BuiltGround] = _listed("built_on")
    return made


def _listed(part: str) -> Any:
    """The model of the entries of a list of the document."""
    listed = scene_model(FORM_MODELS, LIFT_MODELS).model_fields[part].annotation
    return listed.__args__[0]  # type: ignore[union-attr]


def json_schema() -> dict[str, Any]:
    """JSON Schema of the scene document with every kind that is built."""
    schema = scene_model(FORM_MODELS, LIFT_MODELS).model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}
