"""Named parts of the board: what must not be splashed, and what must stay clear and flat."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..catalogue import Entry
from ..catalogue.model import Id, Positive
from ..fault import Refusal
from .outline import Path, Ring


class Place(Entry):
    """A named part of the board: an outline, or a strip of a width along a path."""

    id: Id
    name: Annotated[str, Field(min_length=1, max_length=80)]
    outline: Ring | None = None
    path: Path | None = None
    width_mm: Positive | None = None

    @model_validator(mode="after")
    def _one_way(self) -> Place:
        if (self.outline is None) == (self.path is None):
            raise Refusal("it needs an outline, or a path with its width", "give just one of them")
        if (self.path is None) != (self.width_mm is None):
            raise Refusal("a path has a width and an outline has none", "mend width_mm")
        return self


class Protect(Place):
    """What must not be splashed: masked before wet work near it and bared after, sealed once with a clear `material` so
    that splashes wipe off, or wiped while each lift near it is wet."""

    how: Literal["mask", "seal", "wipe"] = "mask"
    material: Id = "matt-varnish"


class Flat(Place):
    """What must stay clear and flat: at a height (mm above the board) if it has one, flat within `flat_mm`."""

    height_mm: Annotated[float, Field(ge=-1000, le=5000)] | None = None
    flat_mm: Positive
