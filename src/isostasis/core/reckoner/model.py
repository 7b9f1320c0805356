"""What a quick sum is: its fields, and what it answers."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from ..catalogue import Bench, Catalogue, Mix
from ..figure import Figure
from ..units import Measures, show

FieldUnit = Literal["mm", "mm2", "ml", "g", "degC", "percent", "number", "whole", "choice", "text"]
Value = float | int | str
Families = tuple[str, ...]


@dataclass(frozen=True)
class SumField:
    """What is asked: its name, what people call it, its unit, what stands there at first, from where to where; of a
    choice what there is, or of which families of mixes or materials (`of`)."""

    name: str
    label: str
    unit: FieldUnit
    start: Value
    low: float = 0.0
    high: float = 100_000.0
    options: tuple[tuple[str, str], ...] = ()
    of: Literal["", "mix", "material"] = ""
    families: Families = ()
    optional: bool = False
    most: int = 80  # letters


@dataclass(frozen=True)
class SumRequest:
    """What was asked: the values by field, the labels in force, the reader's own things and measures."""

    values: Mapping[str, Value]
    catalogue: Catalogue
    bench: Bench
    measures: Measures = field(default_factory=Measures)

    def number(self, name: str) -> float:
        """A field's number."""
        return float(self.values[name])

    def text(self, name: str) -> str:
        """A field's text or choice."""
        return str(self.values[name])

    def mix(self, name: str = "mix") -> Mix:
        """The mix that a field chose."""
        return self.catalogue.mixes[self.text(name)]

    def times(self, mix: Mix, quantity: str) -> float:
        """What records make of a quantity of a mix; 1 where they say nothing."""
        known = self.catalogue.factors
        return next((one.mean for one in known if (one.label, one.quantity) == (mix.id, quantity)), 1.0)

    def hazards(self, mix: Mix) -> frozenset[str]:
        """The hazards of what is in a mix."""
        known = self.catalogue.materials
        return frozenset(hazard for part in mix.ingredients for hazard in known[part.material].hazards)

    def room(self) -> tuple[float, float]:
        """(degC, humidity 0..1) of the room; a steady default where the sum does not ask."""
        return float(self.values.get("temp_c", 20.0)), float(self.values.get("rh", 50.0)) / 100

    def mm(self, length: float) -> str:
        """A length in the reader's measures."""
        return " ".join(show(length, "mm", self.measures)).strip()


@dataclass(frozen=True)
class Drawing:
    """A picture to scale: rings of points (x, y) in mm, each with what it is, dimension lines (x, y, x, y, words)."""

    rings: tuple[tuple[str, tuple[tuple[float, float], ...]], ...] = ()
    sizes: tuple[tuple[float, float, float, float, str], ...] = ()


@dataclass(frozen=True)
class Answer:
    """The answer large, the figures beside it, remarks, hazards of what is in hand, a picture, the document of the
    smallest scene that gives the same figures, and the lifts that it is about, as a document holds them."""

    lead: str
    figure: Figure
    others: tuple[tuple[str, Figure], ...] = ()
    notes: tuple[str, ...] = ()
    hazards: frozenset[str] = frozenset()
    drawing: Drawing = field(default_factory=Drawing)
    scene: dict[str, Any] | None = None
    lifts: tuple[dict[str, Any], ...] = ()


@dataclass(frozen=True)
class Sum:
    """A quick sum: its name, what it asks in a few words, its fields, how it is done, what it takes for granted.
    `compute` raises Faults where there is no answer, saying what would give one."""

    name: str
    title: str
    asks: str
    fields: tuple[SumField, ...]
    compute: Callable[[SumRequest], Answer]
    about: str = ""
