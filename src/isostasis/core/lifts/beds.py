"""What is open to a liquid that stands on a lay-up, and what it drinks of it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..catalogue import Factor
from ..figure import Figure, Term

FILL = 0.6  # of the voids that resin gets into, default
GLUED_LEAVES = 0.25  # of the drinking that is left of grains fixed with glue, or under two neat coats of it, default
SOAKED_MM = 0.5  # so deep it gets into a dry skin, craft estimate


@dataclass(frozen=True, slots=True)
class OpenLayer:
    """What one lift leaves open: N mm deep with a share of voids; `through` where liquid reaches what is
    beneath it as well. `title` names the lift, `label` what it is laid of, `learnt` what records say of what such a bed
    drinks."""

    title: str
    depth_mm: float
    voids: float
    through: bool = False
    label: str = ""
    learnt: Factor | None = None


@dataclass(frozen=True, slots=True)
class Drinking:
    """What a lift does to liquid that stands above it: the layer that it leaves open (None: none of its own), the
    share of the voids beneath that its solids fill, and whether it is closed to all that is beneath it."""

    layer: OpenLayer | None = None
    fills: float = 0.0
    closed: bool = False


PASSES = Drinking()  # open, and nothing of its own: a thin paint
CLOSED = Drinking(closed=True)


def drunk_by(layers: Iterable[OpenLayer], area_mm2: float) -> Figure:
    """ml that a bed of N mm2 drinks: area x depth x voids x 0.6, summed over its open layers.

    Args:
        layers: from the top down, as far as the first seal.
        area_mm2: wetted true area, >= 0.

    Source: docs/science.md, filling.

    >>> round(drunk_by([OpenLayer("Gravel", 10.0, 0.4)], 1000.0).number, 2)
    2.4
    """
    terms = [Term("wetted area", area_mm2, "mm2"), Term("of the voids are filled", FILL, "", "default")]
    total = low = high = 0.0
    for layer in layers:
        ml, learnt = area_mm2 * layer.depth_mm * layer.voids * FILL / 1000, layer.learnt
        terms.append(Term(f"{layer.title}: {layer.depth_mm:.3g} mm with {layer.voids:.0%} voids", ml, "ml"))
        if learnt:
            more = ml * (learnt.mean - 1)
            terms.append(Term("your records", more, "ml", f"× {learnt.mean:.3g}, {learnt.records} of them"))
        total += ml * (learnt.mean if learnt else 1.0)
        low += ml * (learnt.low if learnt else 1.0)
        high += ml * (learnt.high if learnt else 1.0)
    formula = "wetted area × porous depth × voids × fill, down to the first seal"
    return Figure(total, "ml", formula, tuple(terms), *((low, high) if low < high else ()))
