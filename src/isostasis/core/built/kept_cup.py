"""What a touch of the kept cup says of the layer that was poured from it.

Cup and layer are the same resin at other temperatures: how much slower or faster than predicted the cup is, the layer
is too. Source: the lumped law and the law of the layer, along the room as it was.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from ..document.built import Built
from ..document.scene import Room
from ..hardening.climate import Climate
from ..hardening.layer import RESIN, heat_from_label, hours_in_cup


def stands_for(entry: Built, mixed: datetime, at: datetime, kept_ml: float, room: Room) -> datetime | None:
    """The moment in the layer's own time for which a touch of its cup stands: as far into its wait as the cup, of which
    `kept_ml` are left, was into its own hours to hard. None for what does not react, or has no wait.
    Raises ValueError for a touch before it was mixed, or an empty cup."""
    if entry.mix is None or entry.mix.reacts is None or not entry.wait_h:
        return None
    if at < mixed:
        raise ValueError("a cup is touched after it was mixed")
    label = entry.mix.reacts
    heat = heat_from_label(label, entry.mix.thermal or RESIN)
    hard_h = hours_in_cup(label, kept_ml, heat.j_g, Climate.of(room.since(mixed)), label.hard)
    share = (at - mixed) / timedelta(hours=hard_h)
    return entry.ended + timedelta(hours=entry.wait_h) * share
