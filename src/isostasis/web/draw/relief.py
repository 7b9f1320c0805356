"""The plan's picture: hillshade in the colours that the ground has at a stage."""

from __future__ import annotations

import io
from functools import partial
from typing import Any

import numpy as np

from ...core.colour.light import coded
from ...core.document import ResolvedScene
from ...core.ground.field import Ground
from ...core.ground.raster import Array
from ...core.ground.view import light_on
from ...core.lifts.fold import Build
from ...core.lifts.labels import Labels
from ...core.stages import cached_stage
from ...core.surface import surface
from .fine import FineGround, beyond, fine_ground
from .panels import hatch_of_form
from .projection import board_mm

MAX_POINTS = 130_000
LEAN_SOFT = 0.5  # cells of the ground over which a slope is felt
SIDE_CELLS = 2  # so far in from the edge a side is looked up
QUALITY = 82  # of WebP: a twentieth of what it is without loss
EDGE_SOFT, SLOPE_SOFT = 0.8, 4.0  # fine cells
FOOT_MM, FOOT_DARK = 7.0, 0.45  # how far from a wall its foot is darker, and by how much at most
WALL = 2.2  # mm a mm: steeper is a cut edge, not a slope
SPOTS, SPECK = 16, 0.001  # colours that are kept apart, and the least share of the plan that one needs for that
LIGHTS = ((0.78, 315.0), (0.22, 115.0))  # share, degrees from north
# Where a colour goes to as it is shaded, and as it is lit more than the level; bands first, as what is drawn fine is.
SHADOW, WHITE = (np.array(colour, dtype=np.float32)[:, None, None] for colour in ((0x3A, 0x40, 0x3F), (255, 255, 255)))


def _rgb(colour: str) -> Array:
    return np.array([int(colour[place : place + 2], 16) for place in (1, 3, 5)], dtype=float)


# Degrees from which each colour of the slope map holds: lichen where a figure stands, ochre, brick where nothing lies.
SLOPES = ((0, "#dfe4bf"), (5, "#ecd9b8"), (15, "#e0b878"), (30, "#c98b45"), (45, "#b25a35"), (60, "#7e2f25"))


def colours_of(scene: ResolvedScene, built: Build, stage: str, wet: bool = False) -> Array:
    """(ny, nx, 3), 0 to 255: the surface as it will look at the stage, without water; with `wet` the stage's own lift
    still wet. Raises KeyError for a stage that is not there."""
    return np.asarray(coded(surface(scene, built, stage, wet)) * 255)


def _slopes_of(dry: Array, fine: FineGround) -> Array:
    """(3, ny, nx), 0 to 255, on the fine cells: how steep their heights are, felt over LEAN_SOFT."""
    from scipy.ndimage import gaussian_filter

    slopes = np.gradient(gaussian_filter(dry, LEAN_SOFT * fine.times, mode="nearest"), fine.cell_mm)
    lean = np.degrees(np.arctan(np.hypot(*slopes)))
    steps = np.array([_rgb(colour) for _, colour in SLOPES])
    bands = steps[np.searchsorted([least for least, _ in SLOPES], lean, side="right") - 1]
    return np.stack([gaussian_filter(bands[..., band], EDGE_SOFT) for band in range(3)])


def relief_picture(scene: ResolvedScene, built: Build, stage: str, wet: bool = False, water: bool = False) -> bytes:
    """A picture (WebP) of the ground from above, transparent beyond the base. `stage` "slope" colours it by steepness;
    with `wet` the stage's own lift is still wet, with `water` what was poured by then stands in it. Raises KeyError for
    a stage that is not there."""
    if stage == "slope":
        return _drawn(_Picture(None, fine_ground(scene, built, "bare"), 0.3))
    return _drawn(_Picture(colours_of(scene, built, stage, wet), fine_ground(scene, built, stage, water), 0.75))


def relief_model(scene: ResolvedScene, built: Build, stage: str) -> dict[str, Any]:
    """The ground at a stage for the relief that can be turned: heights with what was poured, on a lattice of at most
    MAX_POINTS, in tenths of a mm (null beyond the base), and what its sides are made of. Raises KeyError for a stage
    that is not there.
    """
    fine = fine_ground(scene, built, stage, water=True)
    z = fine.dry()
    for pool in fine.pools:
        z = z + fine.deep(pool, z)
    every = max(1, int(np.ceil((z.size / MAX_POINTS) ** 0.5)))
    z, on = z[::every, ::every], fine.inside()[::every, ::every]
    tenths = (z * 10).round().astype(int)
    ground = built.at(stage)
    return {
        "columns": z.shape[1],
        "rows": z.shape[0],
        "step_mm": fine.cell_mm * every,
        "highest_mm": round(max(float(built.bare.z.max()), float(built.finished.z.max())), 1),
        "board_mm": board_mm(scene),
        "z": [height if here else None for height, here in zip(tenths.ravel().tolist(), on.ravel(), strict=True)],
        "cell_mm": ground.cell_mm,
        "cells": ground.shape[1],
        "sides": _sides(scene, built, ground, fine),
    }


def _sides(scene: ResolvedScene, built: Build, ground: Ground, fine: FineGround) -> dict[int, list[tuple[int, str]]]:
    """What stands along the base's edge, by the number of a cell, rows from the south: (top in tenths of a mm, its
    hatch), bottom up."""
    from scipy.ndimage import binary_erosion

    labels = Labels.of(scene)
    rows, columns = np.nonzero(ground.on_base & ~binary_erosion(ground.on_base, iterations=SIDE_CELLS))
    formed_mm = np.minimum(built.bare.z, ground.z)[rows, columns]
    formed = [
        (one.ground.z[rows, columns], hatch_of_form(one.form, labels)) for one in built.forms if not one.form.after
    ]
    dry = formed_mm + np.maximum(fine.laid[rows, columns], 0)
    sides = {}
    for place, (row, column) in enumerate(zip(rows.tolist(), columns.tolist(), strict=True)):
        strata, top = [], 0
        layers = [(min(float(z[place]), float(formed_mm[place])), hatch) for z, hatch in formed]
        for height, hatch in (*layers, (float(dry[place]), "skin"), (float(ground.z[row, column]), "water")):
            if round(height * 10) > top:
                top = round(height * 10)
                strata.append((top, hatch))
        sides[row * ground.shape[1] + column] = strata
    return sides


class _Picture:
    """What is drawn, compared by content; arguments as of `lit_ground`."""

    def __init__(self, colours: Array | None, fine: FineGround, depth: float) -> None:
        self.colours, self.fine, self.depth = colours, fine, depth
        self.key = (colours is not None and colours.tobytes(), fine.about, depth)

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Picture) and self.key == other.key


@cached_stage
def _drawn(picture: _Picture) -> bytes:
    from PIL import Image

    lit, _ = lit_ground(picture.colours, picture.fine, picture.depth)
    alpha = picture.fine.inside()[..., None] * 255
    pixels = np.concatenate([lit, alpha], axis=2).astype(np.uint8)[::-1]
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "WEBP", quality=QUALITY, method=2)
    return out.getvalue()


def lit_ground(colours: Array | None, fine: FineGround, depth: float) -> tuple[Array, Array]:
    """Colours (ny, nx, 3), 0 to 255, and heights (ny, nx) of a ground in the light and under its water, on its fine
    cells; `colours` are those of the ground's own cells (None: by how steep it is), `depth` is how dark a shadow is, 0
    to 1."""
    dry = fine.dry()
    bright = np.clip(_light(dry, fine.cell_mm), 0, 1.35)
    full = _slopes_of(dry, fine) if colours is None else _crisp(colours, fine)
    end = np.where(bright < 1, SHADOW, WHITE)
    lit = end + (full - end) * np.where(bright < 1, 1 - depth + depth * bright, 1 - (bright - 1) * 1.2 * depth)
    span = max(float(np.ptp(dry)), 1e-9)
    lit = np.clip(lit * (0.95 + 0.08 * ((dry - dry.min()) / span)), 0, 255)
    for pool in fine.pools:
        deep = fine.deep(pool, dry)
        wet = deep > 0
        place = deep[wet] / max(float(pool.deep.max()), 1e-9) * (len(pool.colours) - 1)
        for band in range(3):
            lit[band][wet] = np.interp(place, np.arange(len(pool.colours)), pool.colours[:, band])
        dry = dry + deep
    return np.moveaxis(lit, 0, -1), dry


def _light(z: Array, cell_mm: float) -> Array:
    """How much light falls on a ground, 1 on the level: walls in crisp lines, slopes as a hand rounds them."""
    from scipy.ndimage import gaussian_filter, uniform_filter

    soft = partial(gaussian_filter, sigma=SLOPE_SOFT, mode="nearest", truncate=2.5)
    slopes = np.gradient(gaussian_filter(z, EDGE_SOFT, mode="nearest"), cell_mm)
    wall = np.hypot(*slopes) > WALL
    # Between walls the slopes run into each other; a wall takes no part in that.
    open_to = (~wall).astype(np.float32)
    share = np.maximum(soft(open_to), 1e-3)
    north, east = (np.where(wall, slope, soft(slope * open_to) / share) for slope in slopes)
    # A second, weaker light from the other side, so that no bank is a black smear and its form can be seen.
    lit = [part * light_on(north, east, azimuth_deg=azimuth) for part, azimuth in LIGHTS]
    # At the foot of what stands high less of the sky is seen.
    wide = max(1, round(2 * FOOT_MM / cell_mm))
    over = uniform_filter(uniform_filter(z, wide, mode="nearest"), wide, mode="nearest") - z
    foot = 1 - np.clip(over / FOOT_MM, 0, 1) * FOOT_DARK
    return np.asarray(gaussian_filter(np.sum(lit, axis=0) * foot, 0.6, mode="nearest") / light_on(0.0, 0.0))


def _crisp(colours: Array, fine: FineGround) -> Array:
    """Colours (ny, nx, 3) of the ground's cells on the fine ones, (3, ny, nx): each spot's own up to a clean edge."""
    from scipy.ndimage import gaussian_filter

    coarse = np.stack([beyond(colours[..., band], fine.on_base) for band in range(3)], axis=-1).round().astype(int)
    known, of = np.unique(coarse @ (65536, 256, 1), return_inverse=True)
    counts = np.bincount(of.ravel())
    main = np.argsort(counts)[::-1][:SPOTS]
    main = main[counts[main] > counts.sum() * SPECK]
    palette = np.stack([known[main] >> 16, known[main] >> 8 & 255, known[main] & 255], axis=-1)
    if counts[main].sum() < 0.8 * counts.sum():  # no spots of one colour each: blended as they are
        return np.stack([fine.finer(gaussian_filter(colours[..., band], 0.5)) for band in range(3)])
    # A cell that two spots share is the nearer one's; how near a fine cell lies to each is what is smooth.
    mine = ((coarse[..., None, :] - palette) ** 2).sum(axis=-1).argmin(axis=-1)
    full, total = np.zeros((3, *fine.forms.shape), dtype=np.float32), np.zeros(fine.forms.shape, dtype=np.float32)
    for number, colour in enumerate(palette):
        share = fine.finer(gaussian_filter((mine == number).astype(np.float32), 1.1, mode="nearest"))
        weight = np.maximum(share, 0)
        for _ in range(3):  # to the eighth: whoever is nearest has it nearly all
            weight *= weight
        weight += 1e-9
        total += weight
        for band in range(3):
            full[band] += weight * np.float32(colour[band])
    return np.asarray(full / total)
