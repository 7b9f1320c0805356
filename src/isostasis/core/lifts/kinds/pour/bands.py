"""The bed of a water in bands from shore to deep: their areas, and the paint that each takes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ....catalogue import Material
from ....figure import Figure, Term
from ....ground.field import tilted
from ...areas import cell_areas
from ...site import Site
from ..coat import FILMS
from .pools import PourLift, filled


@dataclass(frozen=True, slots=True)
class Band:
    """One band: depths in mm, the true area of its bed, ml of each of two paints, the share of the deep one."""

    from_mm: float
    to_mm: float
    area_mm2: Figure
    shore_ml: Figure
    deep_ml: Figure
    share: float


def bands(lift: PourLift, site: Site, count: int, shore: Material, deep: Material, coats: int = 1) -> list[Band]:
    """`count` bands of equal depth from the shore down, painted from `shore` to `deep` in even steps.

    Raises ValueError for fewer than two bands; Faults as the pour does.
    """
    if count < 2 or coats < 1:
        raise ValueError("a gradation takes two bands and a coat at least")
    pools = filled(lift, site).pools
    if not pools:
        return []
    z = tilted(site.ground, site.scene.base)
    depth = np.zeros(z.shape)
    for pool in pools:
        depth = np.where(pool.cells, np.maximum(pool.level_mm - z, 1e-9), depth)
    areas = cell_areas(site.ground) * site.ground.inside
    deepest = float(depth.max())
    colours = []
    for number in range(count):
        low, high = deepest * number / count, deepest * (number + 1) / count
        within = (depth > low) & (depth <= high + 1e-9)
        area = Figure(float(areas[within].sum()), "mm2", "true area of the bed between these depths", (
            Term("from", low, "mm"), Term("to", high, "mm")))  # fmt: skip
        share = number / (count - 1)
        film = (shore.film_mm or FILMS["normal"]) * (1 - share) + (deep.film_mm or FILMS["normal"]) * share
        terms = area.term("area"), Term("wet film", film, "mm"), Term("coats", coats)
        total = area.number * film * coats / 1000
        colours.append(
            Band(
                low,
                high,
                area,
                Figure(
                    total * (1 - share), "ml", "area × film × coats × its share", (*terms, Term("share", 1 - share))
                ),
                Figure(total * share, "ml", "area × film × coats × its share", (*terms, Term("share", share))),
                share,
            )
        )
    return colours
