"""What a patch means of the ground: an outline, or a rule."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag

from ..catalogue import Entry
from ..catalogue.model import Id, Positive
from .outline import Ring


def given(*keys: str) -> Discriminator:
    """Tells which of several shapes is meant by the key that is given; a bare list is the first."""

    def tag(value: Any) -> str | None:
        if isinstance(value, list | tuple):
            return keys[0]
        has = value.__contains__ if isinstance(value, dict) else lambda key: hasattr(value, key)
        return next((key for key in keys if has(key)), None)

    return Discriminator(tag)


class OutlineArea(Entry):
    """The area inside a ring."""

    outline: Ring


class RestArea(Entry):
    """All that no other patch owns."""

    rest: Literal[True]


class SteeperArea(Entry):
    """Where the bare forms are steeper than an angle."""

    steeper_deg: Annotated[float, Field(ge=0, lt=90)]


class BelowArea(Entry):
    """Where the bare forms stand lower than a height above the board."""

    below_mm: Annotated[float, Field(ge=-1000, le=5000)]


class AboveArea(Entry):
    """Where the bare forms stand higher than a height above the board."""

    above_mm: Annotated[float, Field(ge=-1000, le=5000)]


class NearArea(Entry):
    """Within a distance of a form, of what is kept flat or protected, or of the base's `edge`."""

    near: Id
    within_mm: Positive


class OnArea(Entry):
    """The outline of a form, or the band along its path: the one way to lie over a casting."""

    on: Id


class FaceArea(Entry):
    """A surface that no height field can hold, an upright wall or an inner lining: its area and how steep it is.

    It has amounts and hours, and no place on the ground.
    """

    face_mm2: Positive
    slope_deg: Annotated[float, Field(ge=0, le=180)] = 90.0


Area = Annotated[
    Annotated[OutlineArea, Tag("outline")]
    | Annotated[RestArea, Tag("rest")]
    | Annotated[SteeperArea, Tag("steeper_deg")]
    | Annotated[BelowArea, Tag("below_mm")]
    | Annotated[AboveArea, Tag("above_mm")]
    | Annotated[NearArea, Tag("near")]
    | Annotated[OnArea, Tag("on")]
    | Annotated[FaceArea, Tag("face_mm2")],
    given("outline", "rest", "steeper_deg", "below_mm", "above_mm", "near", "on", "face_mm2"),
]
