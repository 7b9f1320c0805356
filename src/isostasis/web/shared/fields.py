"""What can be typed on a page, declared: each field's name, label, unit and limits.

A page declares its fields once; reading them from a request and showing them in a form follow from that, and every
fault names the field as it is labelled.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from math import isfinite
from typing import Any, Literal

from flask import current_app, g

from ...core.colour.light import is_colour
from ...core.fault import fault
from ...core.hours import is_left_out, outside_years
from ...core.units import EXACT, QUANTITY_OF, Measures, NotAMeasure, Quantity, number, parse, pointed, typed

Unit = Literal[
    "mm", "mm2", "ml", "g", "degC", "deg", "percent", "number", "whole", "text", "flag", "choice", "moment",
    "colour",
]  # fmt: skip
Options = Sequence[tuple[str, str]]
MAX_TEXT = 400


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a form: its name there, its label, what is typed into it.

    `start` is what it holds while nothing was sent; an `optional` one may be empty, and is None then. `options` are
    what a choice offers, or a function of the page's scene. `low` and `high` are limits in the field's own unit. Where
    a bare number would be guessed at, `says_unit` asks for one.
    """

    name: str
    label: str
    unit: Unit = "text"
    optional: bool = False
    hint: str = ""
    start: Any = None
    options: Options | Callable[[Any], Options] = ()
    low: float | None = None
    high: float | None = None
    most: int = MAX_TEXT
    says_unit: bool = False

    @property
    def what(self) -> str:
        """The field as a fault names it."""
        return self.label.split(",")[0].lower()

    def parse(self, text: str) -> Any:
        """What was typed, in core units; None for an empty field that may be. Raises Faults."""
        text = text.strip()
        if self.unit == "flag":
            return text == "yes"
        if self.optional and not text:
            return None
        if self.unit == "colour" and not is_colour(text.lower()):
            raise fault(self.what, f"“{text[:12]}” is no colour", "choose one")
        if self.unit in ("text", "choice", "colour"):
            if len(text) > self.most:
                raise fault(self.what, f"it has {len(text)} letters", f"write {self.most} at most")
            return text
        if self.unit == "moment":
            return parse_moment(text, self.what)
        if self.says_unit and text and text.strip("0123456789.,/ ½¼¾-") == "":
            raise fault(self.what, f"“{text[:20]}” has no unit", f"write {text[:20]} mm, or inches as 1/2 in")
        return self._within(self._number(text))

    def _number(self, text: str) -> float | int:
        if self.unit in QUANTITY_OF:
            return round(parse_measure(text, QUANTITY_OF[self.unit], self.what, g.measures), 3)
        if self.unit == "whole":
            return parse_int(text, self.what)
        value = parse_float(text, self.what)
        if self.unit == "degC":
            return from_degrees(value)
        return round(value / 100, 6) if self.unit == "percent" else value

    def _within(self, value: float | int) -> float | int:
        low, high = ("" if end is None else self.show(end) for end in (self.low, self.high))
        if (self.low is not None and value < self.low) or (self.high is not None and value > self.high):
            limits = f"outside {low} to {high}" if low and high else f"below {low}" if low else f"above {high}"
            right = f"{low} to {high}" if low and high else f"{low} or more" if low else f"{high} or less"
            raise fault(self.what, f"{self.show(value)} is {limits}", f"write {right}")
        return value

    def show(self, value: Any) -> str:
        """A value as the field holds it."""
        if value is None:
            return ""
        if self.unit in QUANTITY_OF:
            return typed(value, self.unit, g.measures)
        if self.unit == "degC":
            return number(value * 9 / 5 + 32 if g.measures.system == "imperial" else value, EXACT)
        if self.unit == "percent":
            return number(value * 100, EXACT)
        if self.unit in ("number", "deg"):
            return number(value, EXACT)
        return str(value)

    def read(self, text: str, held: Any = None) -> Any:
        """What was typed; `held` itself where the field still shows that. Raises Faults."""
        untouched = held is not None and self.unit != "flag" and text.strip() == self.show(held)
        return held if untouched else self.parse(text)


@dataclass(frozen=True, slots=True)
class Input:
    """A field as a template draws it."""

    name: str
    label: str
    unit: Unit
    text: str
    hint: str
    options: Options


def inputs(fields: Sequence[Field], values: Mapping[str, Any], opened: Any = None) -> list[Input]:
    """Fields with what they hold; what `values` does not name holds its start."""
    return [
        Input(
            field.name,
            field.label,
            field.unit,
            field.show(values.get(field.name, field.start) if field.unit != "flag" else ""),
            "checked" if field.unit == "flag" and values.get(field.name) else field.hint,
            field.options(opened) if callable(field.options) else field.options,
        )
        for field in fields
    ]


def read(fields: Sequence[Field], sent: Mapping[str, str], held: Mapping[str, Any] | None = None) -> dict[str, Any]:
    """What was sent, by field; what was not sent at all keeps its start, or stays empty if it may. A field that still
    shows what it `held` has just that, however many digits it has. Raises Faults."""
    known = held or {}
    return {
        field.name: field.read(sent[field.name], known.get(field.name)) if field.name in sent else _unsent(field)
        for field in fields
    }


def _unsent(field: Field) -> Any:
    if field.unit == "flag" or field.optional:
        return False if field.unit == "flag" else None
    if field.start is None:
        raise fault(field.what, "it was not sent", "fill it in")
    return field.start


def read_one(field: Field, sent: Mapping[str, str]) -> Any:
    """One field of a request. Raises Faults."""
    return read([field], sent)[field.name]


def parse_measure(text: str, quantity: Quantity, what: str, measures: Measures) -> float:
    """What was typed in core units. Raises Faults that name it `what`."""
    try:
        return parse(text, quantity, measures)
    except NotAMeasure as problem:
        raise fault(what, problem.what, problem.right) from None


def parse_float(text: str, what: str) -> float:
    """A bare number from what was typed. Raises Faults that name it `what`."""
    text = text.strip()
    try:
        value = float(pointed(text))
        if not isfinite(value):
            raise ValueError
    except NotAMeasure as problem:
        raise fault(what, problem.what, problem.right) from None
    except ValueError:
        raise fault(what, f"“{text[:40]}” is no number", "write something like 21 or 0.5") from None
    return value


def parse_grams(text: str, what: str, density: float, bare: Literal["mass", "volume"] = "mass") -> float:
    """g from what was typed, a mass, or a volume of what weighs `density` g a ml; a number without a unit is a `bare`
    one. Raises Faults that name it `what`."""
    other: Literal["mass", "volume"] = "volume" if bare == "mass" else "mass"
    for quantity in (bare, other):
        try:
            value = parse(text, quantity, g.measures)
        except NotAMeasure:
            continue
        return value if quantity == "mass" else value * density
    raise fault(what, f"“{text[:40]}” is neither a mass nor a volume", "write 120 g, 4 oz, 110 ml or 8 drops") from None


def parse_int(text: str, what: str) -> int:
    """A whole number from what was typed. Raises Faults that name it `what`."""
    value = parse_float(text, what)
    if value != int(value):
        raise fault(what, f"{value:g} is no whole number", "write 1, 2 or 3")
    return int(value)


def parse_moment(text: str, what: str) -> datetime:
    """A moment as the page's field gives it, in the zone of the clock on the wall. Raises Faults."""
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise fault(what, f"“{text[:40]}” is no time", "write it as 2027-03-01 19:00") from None
    at = at if at.tzinfo else at.replace(tzinfo=current_app.extensions["zone"])
    wrong = outside_years(at)
    if wrong:
        raise fault(what, wrong, "mend the year")
    if is_left_out(at):
        raise fault(
            what, f"there is no {at:%H:%M} on {at:%a %d %b}: the clocks go forward over it", "write another time"
        )
    return at


def from_degrees(value: float) -> float:
    """degC of what the reader wrote in their own degrees."""
    return round((value - 32) * 5 / 9, 2) if g.measures.system == "imperial" else value
