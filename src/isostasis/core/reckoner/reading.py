"""What was typed into a quick sum, as values; every fault is told by its field."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..catalogue import Catalogue
from ..fault import Fault, Faults
from ..units import Measures, NotAMeasure, parse, pointed
from .model import Sum, SumField, Value


def options_of(field: SumField, catalogue: Catalogue) -> list[tuple[str, str]]:
    """(value, words) of what a choice offers: its own, or mixes or materials of its families."""
    if not field.of:
        return list(field.options)
    known: Mapping[str, Any] = catalogue.mixes if field.of == "mix" else catalogue.materials
    found = [(one.id, one.name) for one in known.values() if one.family in field.families]
    return [*field.options, *sorted(found, key=lambda one: one[1])]


def read(quick_sum: Sum, texts: Mapping[str, str], catalogue: Catalogue, measures: Measures) -> dict[str, Value]:
    """The values of a sum's fields; what is left out stands as at first. Raises Faults for what is no such value, and
    for a name that it does not ask."""
    known = {field.name for field in quick_sum.fields}
    wrong = [
        Fault(name[:40], f"“{quick_sum.title}” does not ask that", f"one of {', '.join(sorted(known))}")
        for name in texts
        if name not in known
    ]
    values: dict[str, Value] = {}
    for field in quick_sum.fields:
        text = texts.get(field.name, "").strip()
        try:
            values[field.name] = _value(field, text, catalogue, measures) if text else field.start
        except NotAMeasure as problem:
            wrong.append(Fault(field.label, str(problem).partition(";")[0], _wanted(field)))
    if wrong:
        raise Faults(wrong)
    return values


def _wanted(field: SumField) -> str:
    if field.unit == "choice":
        return "choose one of the list"
    if field.unit == "text":
        return f"write {field.most} letters at most"
    unit = {"number": "", "whole": "", "percent": " %", "degC": " °C"}.get(field.unit, f" {field.unit}")
    return f"between {field.low:g} and {field.high:g}{unit}"


def _value(field: SumField, text: str, catalogue: Catalogue, measures: Measures) -> Value:
    if len(text) > field.most:
        raise NotAMeasure(f"“{text[:20]}...” is too long", _wanted(field))
    if field.unit == "text":
        return text
    if field.unit == "choice":
        if text not in {value for value, _ in options_of(field, catalogue)}:
            raise NotAMeasure(f"there is no “{text}”", _wanted(field))
        return text
    if field.unit in ("mm", "ml", "g", "mm2"):
        quantity = {"mm": "length", "ml": "volume", "g": "mass", "mm2": "area"}[field.unit]
        value = parse(text, quantity, measures)  # type: ignore[arg-type]
    else:
        try:
            value = float(pointed(text).rstrip("%°C ").strip())
        except ValueError:
            raise NotAMeasure(f"“{text}” is no number", _wanted(field)) from None
    if not field.low <= value <= field.high:  # also what is no number
        raise NotAMeasure(f"{text} is outside {field.low:g} to {field.high:g}", _wanted(field))
    if field.unit == "whole" and value != int(value):
        raise NotAMeasure(f"“{text}” is no whole number", _wanted(field))
    return int(value) if field.unit == "whole" else value
