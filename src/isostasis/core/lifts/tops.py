"""What lies on top of each cell of a ground."""

from __future__ import annotations

import numpy as np

from ..ground.field import Ground
from ..stages import cached_stage
from .labels import Labels


@cached_stage
def _tops_of(ground: Ground, families: tuple[tuple[str, str], ...]) -> np.ndarray:
    of, z = dict(families), np.zeros(ground.shape)
    top = np.full(ground.shape, "board", dtype="<U8")
    for what, changed, after in ground.history:
        rises = after > z[changed] + 1e-9
        top[changed][rises] = of.get(what or "", "mix")
        z[changed] = after
    return top


def tops(ground: Ground, labels: Labels) -> np.ndarray:
    """Family (ny, nx) of what lies on top of each cell: board, foam, paper, powder (a casting), cloth, skin, resin."""
    mixes = [(name, str(mix.family)) for name, mix in labels.mixes.items()]
    materials = [(name, str(material.family)) for name, material in labels.materials.items()]
    return _tops_of(ground, tuple(sorted(mixes + materials)))
