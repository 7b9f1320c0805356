"""The plan's picture: hillshade in the colours that the ground has at a stage."""

from __future__ import annotations

import io
from functools import lru_cache

import numpy as np

from ...core.document import Scene
from ...core.ground.raster import Array
from ...core.ground.view import hillshade
from ...core.lifts.fold import Build
from ...core.lifts.site import Labels

FOAM = np.array([0xEF, 0xE3, 0xC8], dtype=float)
EARTH = np.array([0xC9, 0xBB, 0xA2], dtype=float)
SHADOW = np.array([0x3A, 0x40, 0x3F], dtype=float)


def _rgb(colour: str) -> Array:
    return np.array([int(colour[place : place + 2], 16) for place in (1, 3, 5)], dtype=float)


def _colours(scene: Scene, built: Build, stage: str) -> Array:
    """(ny, nx, 3): foam on bare forms; else what each patch's last opaque lift leaves, quietened towards earth."""
    ny, nx = built.bare.shape
    if stage == "bare":
        return np.broadcast_to(FOAM, (ny, nx, 3)).copy()
    labels = Labels.of(scene)
    out = np.broadcast_to(EARTH, (ny, nx, 3)).copy()
    for patch in scene.patches:
        colour = EARTH
        for lift in patch.lifts:
            mix = labels.mix_of(lift)
            if lift.kind == "skin" or (lift.kind == "coat" and mix.family == "colour"):
                colour = _rgb(mix.colour)
        share = built.covers[patch.id].share[..., None] / np.maximum(built.bare.inside[..., None], 1e-9)
        out = out + share * 0.5 * (colour - EARTH)
    return out


def relief_png(scene: Scene, built: Build, stage: str) -> bytes:
    """A PNG of the ground from above, transparent beyond the base."""
    ground = built.bare if stage == "bare" else built.finished
    return _drawn(_Picture(_colours(scene, built, stage), ground.z, ground.inside, ground.cell_mm))


class _Picture:
    """What is drawn, compared by content."""

    def __init__(self, colours: Array, z: Array, inside: Array, cell_mm: float) -> None:
        self.colours, self.z, self.inside, self.cell_mm = colours, z, inside, cell_mm
        self.key = (colours.tobytes(), z.tobytes(), inside.tobytes(), cell_mm)

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Picture) and self.key == other.key


@lru_cache(maxsize=12)
def _drawn(picture: _Picture) -> bytes:
    from PIL import Image
    from scipy.ndimage import distance_transform_edt, gaussian_filter, zoom

    nx = picture.z.shape[1]
    times = max(1, min(6, round(1600 / nx)))
    # Sheets are cut cleaner than the grid can say: half a cell of blur takes the stairs out of their edges.
    # Beyond the base the nearest ground goes on, so that no edge throws a shadow.
    near = distance_transform_edt(picture.inside <= 0, return_distances=False, return_indices=True)
    z = zoom(
        gaussian_filter(picture.z[near[0], near[1]], 0.6, mode="nearest"),
        times,
        order=1,
        mode="nearest",
        grid_mode=True,
    )
    light = gaussian_filter(hillshade(z, picture.cell_mm / times), 0.35 * times)[..., None]
    flat = float(np.sin(np.radians(42)))
    bright = np.clip(light / flat, 0, 1.35)
    colours = np.stack(
        [
            zoom(
                gaussian_filter(picture.colours[..., band], 0.5),
                times,
                order=1,
                mode="nearest",
                grid_mode=True,
            )
            for band in range(3)
        ],
        axis=-1,
    )
    shade = SHADOW + (colours - SHADOW) * (0.25 + 0.75 * bright)
    lit = np.where(bright < 1, shade, colours + (255 - colours) * (bright - 1) * 0.9)
    span = max(float(np.ptp(z)), 1e-9)
    lit = lit * (0.95 + 0.08 * ((z - z.min()) / span)[..., None])
    alpha = zoom(np.clip(picture.inside, 0, 1), times, order=0, mode="nearest", grid_mode=True)[..., None] * 255
    pixels = np.concatenate([np.clip(lit, 0, 255), alpha], axis=2).astype(np.uint8)[::-1]
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "PNG", compress_level=3)
    return out.getvalue()
