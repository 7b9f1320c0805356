"""A scene as a block of ground, seen from the south and above: what a starter's picture shows."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np

from ...core.document import ResolvedScene
from ...core.plan import plan
from ...core.stages import cached_stage
from .fine import WATERS, fine_ground
from .relief import QUALITY, WALL, colours_of, lit_ground

WIDE_PX = 900
BEHIND_CELLS, WALL_SHADE, WALL_CELLS = 6, 0.68, 3
BACK_RIGHT, BACK_UP, TALLER = 0.16, 0.5, 2.0  # px a px of depth, to the right and up; heights are drawn twice
FOAM = np.array([0xEF, 0xE4, 0xCB], dtype=float)
BOARD = np.array([0xC8, 0x94, 0x4E], dtype=float)
WATER = WATERS[2]
SKY = np.array([0xE4, 0xEE, 0xF0], dtype=float)
SHINE = (0.05, 0.22)  # share of the sky in water at the front and at the back, craft estimate
INK = np.array([0x6B, 0x55, 0x3C], dtype=float)


@dataclass(frozen=True, slots=True)
class Block:
    """A picture as WebP, and its size in px."""

    picture: bytes
    size: tuple[int, int]


@cached_stage
def block(scene: ResolvedScene) -> Block:
    """The finished ground in its colours, with its water, on its board. Raises Faults as `plan` does."""
    from PIL import Image

    built = plan(scene).built
    base, highest = scene.base, max(float(built.finished.z.max()), 1.0)
    board_mm = 0.025 * base.width_mm + 1.0
    px = WIDE_PX / (base.width_mm + BACK_RIGHT * base.depth_mm)  # px a mm
    up = TALLER if highest * TALLER < 0.5 * base.width_mm else 1.0
    tall = int(np.ceil(px * (BACK_UP * base.depth_mm + up * (highest + board_mm)))) + 8
    fine = fine_ground(scene, built, "finished", water=True)
    lit, z = lit_ground(colours_of(scene, built, "finished"), fine, 0.75)
    deep, on = z - fine.dry(), fine.inside()
    # Seen aslant, water gives back some of the sky, the more the farther away it lies.
    shine = np.linspace(*SHINE, len(z))[:, None, None] * (deep > 0)[..., None]
    lit = lit + shine * (SKY - lit)
    image = np.zeros((tall, WIDE_PX, 4), dtype=np.uint8)
    ground_line = tall - 4 - px * up * board_mm
    cell = fine.cell_mm * px
    x = np.arange(WIDE_PX)
    # From the front to the back; each pixel is drawn once, above what is in front of it.
    seen_to = np.full(WIDE_PX, tall)
    begun = np.zeros(WIDE_PX, dtype=bool)
    for back in range(int(base.depth_mm * px * BACK_UP)):
        along = back / BACK_UP  # px of depth
        row = min(int(along / cell), z.shape[0] - 1)
        column = ((x - along * BACK_RIGHT) / cell).astype(int)
        seen = (x >= along * BACK_RIGHT) & (column < z.shape[1])
        column = np.where(seen, column, 0)
        seen &= on[row, column]
        foot = ground_line - back
        top = np.maximum(np.floor(foot - z[row, column] * px * up).astype(int), 0)
        cut = seen & ~begun  # the cut face that is towards us
        end = np.where(cut, int(foot + px * up * board_mm), seen_to)
        count = np.where(seen, np.maximum(end - top, 0), 0)
        at = np.repeat(x, count)
        down = np.arange(len(at)) - np.repeat(np.cumsum(count) - count, count)
        y = top[at] + down
        # A wall wears the colour of what lies on top of it, in its own shade: from above it is but a line.
        steep = z[row, column] - z[max(row - WALL_CELLS, 0), column] > 0.8 * WALL * WALL_CELLS * fine.cell_mm
        steep &= count > 2
        on_top = lit[min(row + BEHIND_CELLS, z.shape[0] - 1), column] * WALL_SHADE
        colour = np.where(steep[:, None], on_top, lit[row, column])[at]
        face = cut[at]
        if face.any():
            wet = (foot - (z - deep)[row, column] * px * up)[at]
            below = np.where((y > foot)[:, None], BOARD, np.where((y < wet)[:, None], WATER, FOAM))
            colour = np.where(face[:, None], np.where((down < 2)[:, None], INK, below), colour)
        image[y, at, :3], image[y, at, 3] = colour, 255
        seen_to = np.where(seen, np.minimum(seen_to, top), seen_to)
        begun |= seen
    out = io.BytesIO()
    Image.fromarray(image, "RGBA").save(out, "WEBP", quality=QUALITY, method=2)
    return Block(out.getvalue(), (WIDE_PX, tall))
