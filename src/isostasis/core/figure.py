"""A figure: a number that can show how it came about."""

from __future__ import annotations

from dataclasses import dataclass, fields, is_dataclass, replace
from typing import Any, ClassVar


@dataclass(frozen=True, slots=True)
class Term:
    """One line of a figure's working: what it is, how much, and where that comes from."""

    what: str
    value: float | str
    unit: str = ""
    source: str = ""


@dataclass(frozen=True, slots=True)
class Figure:
    """A value with its unit, its range where it is uncertain, and the terms that made it.

    `value` is None where there is none to give; `code` then says why (`wont-dry`).
    `formula` states in one sentence how the terms make the value.
    """

    WEIGHT: ClassVar[int] = 1000  # bytes in a registry of stages, its working included, about

    value: float | None
    unit: str
    formula: str = ""
    working: tuple[Term, ...] = ()
    low: float | None = None
    high: float | None = None
    code: str = ""

    @property
    def number(self) -> float:
        """The value where there must be one. Raises ValueError outside its range."""
        if self.value is None:
            raise ValueError(f"no value: {self.code}")
        return self.value

    def with_terms(self, *terms: Term) -> Figure:
        """The same figure with more of its working."""
        return replace(self, working=(*self.working, *terms))

    def term(self, what: str, source: str = "") -> Term:
        """This figure as a line of another figure's working."""
        return Term(what, self.code if self.value is None else self.value, self.unit, source)


def to_jsonable(thing: Any) -> Any:
    """`thing` as JSON-ready data: figures become their values, dataclasses objects of the fields that they name in
    `JSON`.

    Fields that are None are left out, unless the class names them in `NULLS`: those come last, as null. Raises
    TypeError for a dataclass that does not say what it writes.
    """
    if isinstance(thing, Figure):
        return thing.value
    if is_dataclass(thing) and not isinstance(thing, type):
        names: tuple[str, ...] | None = getattr(thing, "JSON", None)
        if names is None:
            raise TypeError(f"{type(thing).__name__} does not say which of its fields are written")
        values = {name: getattr(thing, name) for name in names}
        written = {name: to_jsonable(value) for name, value in values.items() if value is not None}
        return written | {name: None for name in getattr(thing, "NULLS", ()) if values[name] is None}
    if isinstance(thing, dict):
        return {key: to_jsonable(value) for key, value in thing.items()}
    if isinstance(thing, list | tuple):
        return [to_jsonable(value) for value in thing]
    return thing


def at_path(thing: Any, path: str) -> Any:
    """What stands at `path` (`lifts.tarn-water.layers.0.peak_c`) in a tree of dataclasses, dicts and tuples.

    Raises KeyError where there is nothing of that name.
    """
    for name in path.split("."):
        if isinstance(thing, dict):
            thing = thing[name]
        elif isinstance(thing, tuple | list):
            if not name.isdecimal() or int(name) >= len(thing):
                raise KeyError(name)
            thing = thing[int(name)]
        elif is_dataclass(thing) and name in {field.name for field in fields(thing)}:
            thing = getattr(thing, name)
        else:
            raise KeyError(name)
    return thing
