"""The photo of the demo's scrap, made once and committed: five lanes of ballast and a grey card under one warm lamp.

python -m tools.scrap      # writes demo/scenes/scrap-dry.webp
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter
from scipy.spatial import cKDTree

from isostasis.core.colour.light import coded, linear
from isostasis.core.swatches.colour import GREY_CARD

FILE = Path(__file__).parents[1] / "src" / "isostasis" / "demo" / "scenes" / "scrap-dry.webp"
WIDE, HIGH, LANE_HIGH = 1200, 720, 520
LAMP = np.array([1.05, 0.98, 0.84])  # linear, warm
BOARD, BARE = "#e9dcc0", "#a98252"
# Of each lane: how its stones look, how much of them is rubbed off, how much paler the binder dried.
LANES = (
    ("#8b8577", 0.03, 0.0),
    ("#9a9484", 0.34, 0.0),
    ("#7d786c", 0.0, 0.0),
    ("#a9a598", 0.22, 0.25),
    ("#827d70", 0.02, 0.04),
)
Image = NDArray[np.float64]


def lane(colour: str, gone: float, pale: float, shape: tuple[int, int], chance: np.random.Generator) -> Image:
    """Stones of one lane (height, width, 3), linear: each its own shade, its rim darker, some of them rubbed away."""
    high, wide = shape
    count = high * wide // 240
    seeds = chance.uniform((0, 0), (high, wide), size=(count, 2))
    grid = np.stack(list(np.mgrid[:high, :wide]), axis=-1).reshape(-1, 2)
    far, near = cKDTree(seeds).query(grid, k=2)
    shade = chance.normal(1.0, 0.24, size=(count, 1)).clip(0.45, 1.7)
    stones = linear(colour) * shade
    where = gaussian_filter(chance.normal(size=(high, wide)), 26)
    bare = where[seeds[:, 0].astype(int), seeds[:, 1].astype(int)]
    stones[bare < np.quantile(bare, gone)] = linear(BARE)
    stones += pale * (bare > np.quantile(bare, 0.55))[:, None] * (0.55 - stones)
    rim = np.clip((far[:, 1] - far[:, 0]) / 3.0, 0.42, 1.0)
    return np.asarray((stones[near[:, 0]] * rim[:, None]).reshape(high, wide, 3))


def photograph() -> Image:
    """The scrap (HIGH, WIDE, 3), sRGB as coded: lanes above, the card below at the right, light falling off."""
    chance = np.random.default_rng(7)
    scene = np.broadcast_to(linear(BOARD), (HIGH, WIDE, 3)).copy()
    each = WIDE // len(LANES)
    for number, (colour, gone, pale) in enumerate(LANES):
        west = number * each + 14
        scene[20 : 20 + LANE_HIGH, west : west + each - 28] = lane(colour, gone, pale, (LANE_HIGH, each - 28), chance)
    scene[575:705, 1020:1180] = linear(GREY_CARD)
    light = 0.86 - 0.16 * np.linspace(1, 0, WIDE)[None, :, None] * np.ones((HIGH, 1, 1))
    noisy = scene * light * LAMP + chance.normal(0, 0.004, size=scene.shape)
    return np.asarray(coded(noisy))


if __name__ == "__main__":
    from PIL import Image as Pillow

    from isostasis.exchange.picture import packed

    FILE.write_bytes(packed(Pillow.fromarray((photograph() * 255).round().astype(np.uint8))))
