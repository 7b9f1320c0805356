"""What a card can begin with besides fresh parts: a leftover in a jar, a stock that is thinned already, all that is
left of one part.
"""

from __future__ import annotations

from dataclasses import dataclass

from flask import request

from ...core.fault import fault
from ...core.mixing.walk import dilution
from ...store.planned import PlannedBatch, PlannedPart
from ..shared.fields import Field, read_one
from ..shared.scenes import OpenScene

STOCK = Field("stock", "how strong the stock is", "percent", optional=True, low=0.01, high=1)
LEAST, MOST = 0.02, 20.0  # times the planned batch


@dataclass(frozen=True)
class Stock:
    """Of what is thinned already: its share of the binder, ml of it and of water for a batch; or why it is no use."""

    share: float
    stock_ml: float
    water_ml: float
    wrong: str = ""


def _binder_and_water(opened: OpenScene, planned: PlannedBatch) -> tuple[PlannedPart, PlannedPart] | None:
    """What is thinned and what thins it, of a mix of those two alone."""
    parts = [one for one in planned.ingredients if one.drops is None and one.volume_ml > 0]
    materials = opened.labels.materials
    water = [one for one in parts if one.material in materials and materials[one.material].family == "water"]
    rest = [one for one in parts if one not in water]
    thick = (
        len(rest) == 1 and rest[0].material in materials and materials[rest[0].material].family in ("binder", "seal")
    )
    return (rest[0], water[0]) if len(water) == 1 and thick else None


def stock_of(opened: OpenScene, planned: PlannedBatch) -> Stock | None:
    """The batch out of a stock as strong as is asked for; None for a mix that nobody keeps thinned."""
    both = _binder_and_water(opened, planned)
    if both is None:
        return None
    binder, water = both
    share = read_one(STOCK, request.args)
    if share is None:
        return Stock(0.0, 0.0, 0.0)
    total = binder.volume_ml + water.volume_ml
    try:
        return Stock(share, *dilution(total, binder.volume_ml / total, share))
    except ValueError as problem:
        return Stock(share, 0.0, 0.0, str(problem))


def scaled(planned: PlannedBatch, times: float) -> PlannedBatch:
    """A batch N times as large, of everything. Raises Faults for one that is next to nothing, or huge."""
    if not LEAST <= times <= MOST:
        raise fault("batch", f"it would be {times:.3g} times what is planned", f"between {LEAST:g} and {MOST:g} times")
    parts = tuple(_times(one, times) for one in planned.ingredients)
    feeds = tuple((into, layer, ml * times) for into, layer, ml in planned.feeds)
    return planned.model_copy(update={"volume_ml": planned.volume_ml * times, "feeds": feeds, "ingredients": parts})


def blended(planned: PlannedBatch, jar_ml: float) -> PlannedBatch:
    """A batch of which N ml are a leftover of the same mix: its fresh parts are that much less. Raises Faults for
    more than the batch."""
    if not 0 < jar_ml < planned.volume_ml:
        raise fault("leftover", f"{jar_ml:g} ml are not less than the batch", f"under {planned.volume_ml:.3g} ml")
    times = 1 - jar_ml / planned.volume_ml
    parts = tuple(_times(one, times) for one in planned.ingredients)
    return planned.model_copy(update={"ingredients": parts, "blended_ml": jar_ml})


def _times(part: PlannedPart, times: float) -> PlannedPart:
    drops = None if part.drops is None else part.drops * times
    return part.model_copy(update={"volume_ml": part.volume_ml * times, "mass_g": part.mass_g * times, "drops": drops})
