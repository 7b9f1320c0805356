"""What a lay-up leaves open to a liquid that stands on it, lift by lift."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..document.scene import Lift
from ..figure import Figure
from .beds import OpenLayer, drunk_by
from .kinds import kind_of
from .labels import Labels


def open_layers(below: Sequence[Lift], labels: Labels) -> tuple[OpenLayer, ...]:
    """What is open from the top of `below` (bottom up) down to the first seal, where no earlier pour covers it."""
    layers: list[OpenLayer] = []
    filled = 0.0  # of the voids beneath, by glue that is still to meet its bed
    for lift in reversed(below):
        if labels.mix_of(lift).seals:
            break
        drinking = kind_of(lift).drinks(lift, labels, filled)
        if lift.levels_itself and not layers:
            continue
        if drinking.closed:
            break
        filled = filled or drinking.fills
        if drinking.layer is not None:
            label = labels.mix_of(lift).id
            layers.append(replace(drinking.layer, label=label, learnt=labels.factor(label, "bed")))
            filled = 0.0
            if not drinking.layer.through:
                break
    return tuple(layers)


def drinks(below: Sequence[Lift], labels: Labels, area_mm2: float) -> Figure:
    """ml that a bed of N mm2 under the lifts `below` (bottom up) drinks of a first pour."""
    return drunk_by(open_layers(below, labels), area_mm2)
