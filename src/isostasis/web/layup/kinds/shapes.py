"""Shapes and fields that several kinds of lifts share on their pages."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ....core.figure import Figure
from ...shared.fields import Field
from ...shared.scenes import OpenScene, materials_of, mixes_of


@dataclass(frozen=True, slots=True)
class ShownFigure:
    """A figure of a lift on the Lay-up page: its path in the lift's plan, itself, its label, a line of small print."""

    path: str
    figure: Figure
    label: str
    small: str = ""


WATER_C = Field("water", "Water at", "degC", optional=True, hint="empty: as the room")
COVER = Field("cover", "Covers, percent", "percent", start=1.0, low=0, high=1)
BINDER_HEADS = {"next_h": "next lift after", "full_h": "dry through", "cost": "costs"}


def binders(opened: OpenScene) -> list[tuple[str, str]]:
    """Binders that can be chosen."""
    return mixes_of(opened, "binder")


def soaking(opened: OpenScene) -> list[tuple[str, str]]:
    """Binders that run into a bed of grains."""
    return [(name, words) for name, words in binders(opened) if opened.catalogue.mixes[name].soaks]


def colours(opened: OpenScene) -> list[tuple[str, str]]:
    """Paints and inks that can be chosen."""
    return materials_of(opened, "colour")


def to_mix(made: Any, opened: OpenScene) -> ShownFigure:
    """What is to be mixed, by mass and in kitchen measures too."""
    return ShownFigure(
        "mix_ml", made.mix_ml, "to mix", f"{opened.show(made.mass_g.value, 'g')}, {opened.kitchen(made.mix_ml.number)}"
    )


def many(count: float, one: str, more: str = "s") -> str:
    """A count with its word: 1 layer, 2 layers."""
    return f"{count:g} {one}{more if count != 1 else ''}"
