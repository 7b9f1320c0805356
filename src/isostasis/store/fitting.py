"""What was kept by an earlier version and no longer fits: as much of it as does, and what to say of the rest."""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from ..core.document.read import faults_of
from ..core.fault import Fault

M = TypeVar("M", bound=BaseModel)


def fitting(model: type[M], kept: dict[str, Any]) -> tuple[M, tuple[Fault, ...]]:
    """The model of what was kept, each value that does not fit at its default; and what is wrong with those."""
    data: dict[str, Any] = kept
    faults: list[Fault] = []
    while True:
        try:
            return model.model_validate(data), tuple(faults)
        except ValidationError as error:
            faults += faults_of(error, data).faults
            places = {one["loc"] for one in error.errors(include_url=False)}
            data = _without(data, places)


def _without(data: Any, places: set[tuple[int | str, ...]]) -> Any:
    """`data` without what stands at `places`; a place that leads into nothing takes away what it starts from."""
    if isinstance(data, dict):
        return {key: kept for key, one in data.items() if (kept := _inside(one, key, places)) is not _GONE}
    if isinstance(data, list | tuple):
        found = [_inside(one, number, places) for number, one in enumerate(data)]
        return [one for one in found if one is not _GONE]
    return data


_GONE = object()


def _inside(value: Any, key: int | str, places: set[tuple[int | str, ...]]) -> Any:
    keys = {place[1:] for place in places if place and place[0] == key}
    if not keys:
        return value
    deeper = {place for place in keys if _leads(value, place)}
    return _GONE if keys - deeper else _without(value, deeper)


def _leads(value: Any, place: tuple[int | str, ...]) -> bool:
    if not place:
        return False
    if isinstance(value, dict):
        return place[0] in value
    return isinstance(value, list | tuple) and isinstance(place[0], int) and place[0] < len(value)
