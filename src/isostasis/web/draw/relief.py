"""The plan's picture: hillshade in the colours that the ground has at a stage."""

from __future__ import annotations

import io
from typing import Any

import numpy as np

from ...core.colour.light import coded
from ...core.document import ResolvedScene
from ...core.ground.raster import Array
from ...core.ground.surface import steepness
from ...core.ground.view import hillshade
from ...core.lifts.fold import Build
from ...core.stages import cached_stage
from ...core.surface import surface

MAX_POINTS = 9000
QUALITY = 82  # of WebP: a twentieth of what it is without loss
SOFT = 0.9  # cells
LIGHTS = ((0.78, 315.0), (0.22, 115.0))  # share, degrees from north
SHADOW = np.array([0x3A, 0x40, 0x3F], dtype=float)


def _rgb(colour: str) -> Array:
    return np.array([int(colour[place : place + 2], 16) for place in (1, 3, 5)], dtype=float)


WATER = np.array([0x2A, 0x7D, 0x74], dtype=float)
# Degrees from which each colour of the slope map holds: lichen where a figure stands, ochre, brick where nothing lies.
SLOPES = ((0, "#dfe4bf"), (5, "#ecd9b8"), (15, "#e0b878"), (30, "#c98b45"), (45, "#b25a35"), (60, "#7e2f25"))


def colours_of(scene: ResolvedScene, built: Build, stage: str, water: bool = False, wet: bool = False) -> Array:
    """(ny, nx, 3), 0 to 255: the surface as it will look at the stage, or how steep the bare forms are; with `water`
    what was poured by then, with `wet` the stage's own lift still wet."""
    if stage == "slope":
        lean = np.degrees(np.arctan(steepness(built.bare)))
        steps = np.array([_rgb(colour) for _, colour in SLOPES])
        return np.asarray(steps[np.searchsorted([least for least, _ in SLOPES], lean, side="right") - 1])
    out = coded(surface(scene, built, stage, wet)) * 255
    if water and (stage == "finished" or stage in built.stages):
        order = list(built.stages)
        for name in order if stage == "finished" else order[: order.index(stage) + 1]:
            if built.stages[name].site.lift.levels_itself:
                out[built.stages[name].after.z > built.stages[name].site.ground.z + 1e-6] = WATER
    return np.asarray(out)


def relief_picture(scene: ResolvedScene, built: Build, stage: str, wet: bool = False) -> bytes:
    """A picture (WebP) of the ground from above, transparent beyond the base. `stage` "slope" colours it by steepness;
    with `wet` the stage's own lift is still wet."""
    ground = built.bare if stage == "slope" else built.at(stage)
    depth = 0.3 if stage == "slope" else 0.75
    return _drawn(_Picture(colours_of(scene, built, stage, wet=wet), ground.z, ground.inside, ground.cell_mm, depth))


def relief_model(scene: ResolvedScene, built: Build, stage: str) -> dict[str, Any]:
    """The ground at a stage as a lattice of at most MAX_POINTS: mm a step, heights (null beyond the base), colours.

    Raises KeyError for a stage that is not there.
    """
    ground = built.at(stage)
    every = max(1, int(np.ceil((ground.z.size / MAX_POINTS) ** 0.5)))
    z, on = ground.z[::every, ::every], ground.on_base[::every, ::every]
    colours = colours_of(scene, built, stage, water=True)[::every, ::every].round().astype(int)
    highest = max(float(built.bare.z.max()), float(built.finished.z.max()))
    return {
        "columns": z.shape[1],
        "rows": z.shape[0],
        "step_mm": ground.cell_mm * every,
        "highest_mm": round(highest, 1),
        "z": [round(float(height), 1) if here else None for height, here in zip(z.ravel(), on.ravel(), strict=True)],
        "rgb": ["".join(f"{band:02x}" for band in colour) for colour in colours.reshape(-1, 3)],
    }


class _Picture:
    """What is drawn, compared by content; `depth` is how dark a shadow is, 0 to 1."""

    def __init__(self, colours: Array, z: Array, inside: Array, cell_mm: float, depth: float) -> None:
        self.colours, self.z, self.inside, self.cell_mm, self.depth = colours, z, inside, cell_mm, depth
        self.key = (colours.tobytes(), z.tobytes(), inside.tobytes(), cell_mm, depth)

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Picture) and self.key == other.key


@cached_stage
def _drawn(picture: _Picture) -> bytes:
    from PIL import Image
    from scipy.ndimage import zoom

    times = max(1, min(6, round(1600 / picture.z.shape[1])))
    lit, _ = lit_ground(picture.colours, picture.z, picture.inside, picture.cell_mm, picture.depth, times)
    alpha = zoom(np.clip(picture.inside, 0, 1), times, order=0, mode="nearest", grid_mode=True)[..., None] * 255
    pixels = np.concatenate([lit, alpha], axis=2).astype(np.uint8)[::-1]
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "WEBP", quality=QUALITY, method=2)
    return out.getvalue()


def lit_ground(
    colours: Array, heights: Array, inside: Array, cell_mm: float, depth: float, times: int
) -> tuple[Array, Array]:
    """Colours (ny, nx, 3), 0 to 255, and heights (ny, nx) of a ground in the light, so many times as fine; `depth` is
    how dark a shadow is, 0 to 1."""
    from scipy.ndimage import distance_transform_edt, gaussian_filter, zoom

    # Sheets are cut cleaner than the grid can say: a cell of blur and a cubic between cells take the stairs out.
    # Beyond the base the nearest ground goes on, so that no edge throws a shadow.
    near = distance_transform_edt(inside <= 0, return_distances=False, return_indices=True)
    z = zoom(
        gaussian_filter(heights[near[0], near[1]], SOFT, mode="nearest"), times, order=3, mode="nearest", grid_mode=True
    )
    # A second, weaker light from the other side, so that no bank is a black smear and its form can be seen.
    lights = [(share, hillshade(z, cell_mm / times, azimuth_deg=azimuth)) for share, azimuth in LIGHTS]
    flat = float(np.sin(np.radians(42)))
    bright = np.clip(np.sum([share * light for share, light in lights], axis=0)[..., None] / flat, 0, 1.35)
    fine = np.stack(
        [
            zoom(gaussian_filter(colours[..., band], 0.5), times, order=1, mode="nearest", grid_mode=True)
            for band in range(3)
        ],
        axis=-1,
    )
    shade = SHADOW + (fine - SHADOW) * (1 - depth + depth * bright)
    lit = np.where(bright < 1, shade, fine + (255 - fine) * (bright - 1) * 1.2 * depth)
    span = max(float(np.ptp(z)), 1e-9)
    return np.clip(lit * (0.95 + 0.08 * ((z - z.min()) / span)[..., None]), 0, 255), z
