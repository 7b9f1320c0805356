"""The shapes of the shelf: packs, what steps ask of them, sellers."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Annotated

from pydantic import Field

from ..catalogue import Entry

Key = tuple[str, str | None]  # a material, and part A or B of a kit


class Seller(Entry):
    """Who sells: postage of an order in the user's own money, and days until it comes."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    postage: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    days: Annotated[int, Field(ge=0, le=365)] = 0


@dataclass(frozen=True, slots=True)
class Pack:
    """A thing that was bought: of which material (or part A or B of a kit), how much it held and holds, in what the
    material is sold by; when it was opened and until when it is good."""

    id: int
    material: str
    part: str | None
    size: float
    left: float
    opened: date | None = None
    best_before: date | None = None

    @property
    def key(self) -> Key:
        """What it is a pack of."""
        return self.material, self.part


@dataclass(frozen=True, slots=True)
class Demand:
    """So much that a step of a scene takes, and when (None: nothing says). `order` is its place in its scene."""

    scene: str
    step: str
    at: datetime | None
    material: str
    part: str | None
    amount: float
    unit: str
    what: str = ""
    order: int = 0

    @property
    def key(self) -> Key:
        """What it takes."""
        return self.material, self.part


@dataclass(frozen=True, slots=True)
class NewPack:
    """A pack that was bought or found, before it has a number."""

    material: str
    size: float
    part: str | None = None
    left: float | None = None
    price: float | None = None
    seller: str = ""
    opened: date | None = None
    best_before: date | None = None
    place: str = ""
