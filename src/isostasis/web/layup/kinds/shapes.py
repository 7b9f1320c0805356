"""Shapes and fields that several kinds of lifts share on their pages."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ....core.document.scene import Tint
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
SHORE = Field("shore", "Along the shore only, within", "mm", optional=True, hint="a retouch; empty: all over")
BINDER_HEADS = {"next_h": "next lift after", "full_h": "dry through", "cost": "costs"}


def binders(opened: OpenScene) -> list[tuple[str, str]]:
    """Binders that can be chosen."""
    return mixes_of(opened, "binder")


def soaking(opened: OpenScene) -> list[tuple[str, str]]:
    """Binders that run into a bed of grains."""
    return [(name, words) for name, words in binders(opened) if opened.catalogue.mixes[name].soaks]


def colours(opened: OpenScene) -> list[tuple[str, str]]:
    """Paints, inks and powders that can be chosen."""
    return materials_of(opened, "colour")


WEIGHED = "g:"  # before the id of a tint that is weighed


def tints(opened: OpenScene) -> list[tuple[str, str]]:
    """Colours that can be stirred in: counted in drops or, powders, weighed."""
    tins = opened.catalogue.materials
    return [
        (f"{WEIGHED}{name}", f"{words}, grams") if tins[name].weighed else (name, f"{words}, drops")
        for name, words in colours(opened)
    ]


def tint_choice(tint: Sequence[Tint], otherwise: str) -> str:
    """The choice of `tints` that the first of some tints is."""
    if not tint:
        return otherwise
    return tint[0].material if tint[0].g_per_100_ml is None else f"{WEIGHED}{tint[0].material}"


def tint_data(choice: str, count: float | None) -> list[dict[str, Any]] | None:
    """A tint as the document holds it; None for none of it."""
    if not count:
        return None
    how = "g_per_100_ml" if choice.startswith(WEIGHED) else "drops_per_100_ml"
    return [{"material": choice.removeprefix(WEIGHED), how: count}]


def to_mix(lift_plan: Any, opened: OpenScene) -> ShownFigure:
    """What is to be mixed, by mass and in kitchen measures too."""
    return ShownFigure(
        "mix_ml",
        lift_plan.mix_ml,
        "to mix",
        f"{opened.show(lift_plan.mass_g.value, 'g')}, {opened.kitchen(lift_plan.mix_ml.number)}",
    )


def many(count: float, one: str, more: str = "s") -> str:
    """A count with its word: 1 layer, 2 layers."""
    return f"{count:g} {one}{more if count != 1 else ''}"
