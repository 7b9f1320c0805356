"""What the history says of a change to one thing: which of its fields, from what to what."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from .fields import Field

MOST = 2  # fields that are told each


def change_words(called: str, was: Mapping[str, Any], becomes: Mapping[str, Any], fields: Sequence[Field]) -> str:
    """A thing's change in a sentence, such as "Pit: depth 34 mm to 38 mm"; that it changed, where no field says how."""
    words = [
        f"{field.what} {_shown(field, was.get(field.name))} to {_shown(field, becomes.get(field.name))}"
        for field in fields
        if was.get(field.name) != becomes.get(field.name)
    ]
    if not words:
        return f"Changed {called}"
    more = len(words) - MOST
    return f"{called}: {', '.join(words[:MOST])}" + (f" and {more} more" if more > 0 else "")


def _shown(field: Field, value: Any) -> str:
    if field.unit == "flag":
        return "yes" if value else "no"
    return field.show(value) or "none"
