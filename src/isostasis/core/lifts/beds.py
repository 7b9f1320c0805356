"""What is open to a liquid that stands on a lay-up, and what it drinks of it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..figure import Figure, Term

FILL = 0.6  # of the voids that resin gets into, default
GLUED_LEAVES = 0.25  # of the drinking that is left of grains fixed with glue, or under two neat coats of it, default
SOAKED_MM = 0.5  # so deep it gets into a dry skin, craft estimate


@dataclass(frozen=True, slots=True)
class OpenLayer:
    """What one lift leaves open: so many mm deep with a share of voids; `through` where liquid reaches what is
    beneath it as well. `title` names the lift."""

    title: str
    depth_mm: float
    voids: float
    through: bool = False


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
    """ml that a bed of so many mm2 drinks: area x depth x voids x 0.6, summed over its open layers.

    Args:
        layers: from the top down, as far as the first seal.
        area_mm2: wetted true area, >= 0.

    Source: docs/science.md, filling.

    >>> round(drunk_by([OpenLayer("Gravel", 10.0, 0.4)], 1000.0).number, 2)
    2.4
    """
    terms = [Term("wetted area", area_mm2, "mm2"), Term("of the voids are filled", FILL, "", "default")]
    total = 0.0
    for layer in layers:
        ml = area_mm2 * layer.depth_mm * layer.voids * FILL / 1000
        total += ml
        terms.append(Term(f"{layer.title}: {layer.depth_mm:.3g} mm with {layer.voids:.0%} voids", ml, "ml"))
    return Figure(total, "ml", "wetted area × porous depth × voids × fill, down to the first seal", tuple(terms))
