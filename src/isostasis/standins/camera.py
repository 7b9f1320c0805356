"""A stand-in for a camera held over the board: pictures of a ground from a known place, with a lens, light and grain.

A simulator, no drawing: each pixel follows its ray to the ground it meets, so that banks hide what is behind them and
what is lower is seen beside itself, as in a photograph.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.ground.raster import Array
from ..core.photo.lens import WIDE_FOCUS, Size, bent, unbent

Fast = NDArray[Any]  # single precision: half the work

TABLE_MM = 150.0  # of table seen round the board
STEP_MM = 8.0  # in which a ray looks for the ground
FLAT_MM = 0.01
FLAT_SHARE = 0.005  # of the ground at one height, from which it is a flat
TABLE = np.array([118.0, 92.0, 70.0])


@dataclass(frozen=True)
class Pose:
    """How the camera is held: leaning N degrees from straight above, towards a direction (0: north), turned about
    its own axis, its middle on a place beside the board's middle (mm), `fill` of the picture taken by the board."""

    lean_deg: float = 0.0
    towards_deg: float = 0.0
    turn_deg: float = 0.0
    off_mm: tuple[float, float] = (0.0, 0.0)
    fill: float = 0.8
    bend: float = -0.04


@dataclass(frozen=True)
class Light:
    """Where it comes from (degrees clockwise from north, above the board), how strong shade is, and its colour."""

    from_deg: float = 315.0
    above_deg: float = 40.0
    shade: float = 0.5
    colour: tuple[float, float, float] = (1.0, 0.98, 0.94)


@dataclass(frozen=True)
class Shot:
    """A picture (height, width, 3), 0 to 255, and what the camera knows of where it stood."""

    pixels: Array
    turn: Array  # board to camera
    camera: Array  # where it stood, mm
    focus_px: float
    bend: float

    @property
    def size(self) -> Size:
        """(width, height) in px."""
        return self.pixels.shape[1], self.pixels.shape[0]

    def seen(self, points: Array) -> Array:
        """Where places (n, 3) in mm are in the picture, px."""
        x, y, away = ((np.asarray(points, dtype=float) - self.camera) @ self.turn.T).T
        flat = np.stack([x / away, y / away], axis=1) * self.focus_px + np.array(self.size) / 2
        return bent(flat, self.size, self.bend)


def _turn(pose: Pose) -> Array:
    """Board to camera: x right, y down, z away from it."""
    lean, towards, turn = np.radians([pose.lean_deg, pose.towards_deg, pose.turn_deg])
    away = np.array([np.sin(lean) * np.sin(towards), np.sin(lean) * np.cos(towards), -np.cos(lean)])
    down = np.array([np.sin(turn), -np.cos(turn), 0.0])
    down -= away * (down @ away)
    down /= np.linalg.norm(down)
    return np.stack([np.cross(down, away), down, away])


def _shaded(z: Array, cell_mm: float, light: Light) -> tuple[Array, Array]:
    """Light (ny, nx), 0 to about 1.2, on the tops of the ground's cells and on what falls away beside them: Lambert's
    law, and darker where higher ground stands before it."""
    from scipy.ndimage import gaussian_filter

    azimuth, altitude = np.radians([light.from_deg, light.above_deg])
    sun = np.array([np.sin(azimuth), np.cos(azimuth)])
    open_sky = np.ones_like(z)
    for run in np.arange(1, 25) * cell_mm * 1.5:
        rows, columns = (np.rint(sun[[1, 0]] * run / cell_mm)).astype(int)
        open_sky[np.roll(z, (-rows, -columns), axis=(0, 1)) > z + run * np.tan(altitude) + 0.3] = 0.0
    sky = 0.35 + 0.65 * gaussian_filter(open_sky, 0.6)

    def lit(slopes: list[Array]) -> Array:
        north, east = slopes
        cosine = (np.sin(altitude) - (east * sun[0] + north * sun[1]) * np.cos(altitude)) / np.sqrt(
            1 + east**2 + north**2
        )
        return np.asarray(1 - light.shade + light.shade * np.clip(cosine, 0, 1) / np.sin(altitude) * sky)

    # The top of a cell at a cliff leans as its gentler side does, its face as the cliff.
    tops, faces = [], []
    for axis in (0, 1):
        ahead = np.diff(z, axis=axis, append=z.take([-1], axis=axis)) / cell_mm
        behind = np.roll(ahead, 1, axis=axis)
        tops.append(np.where(np.abs(ahead) < np.abs(behind), ahead, behind))
        faces.append(np.where(np.abs(ahead) < np.abs(behind), behind, ahead))
    return lit(tops), lit(faces)


def photograph(
    z: Array, colours: Array, cell_mm: float, pose: Pose, light: Light, size: Size = (1200, 900), seed: int = 0
) -> Shot:
    """A ground's heights (ny, nx) and colours (ny, nx, 3), 0 to 255, above a table at height 0, as the camera sees it.
    The same seed gives the same grain."""
    from scipy.ndimage import gaussian_filter

    rng = np.random.default_rng(seed)
    ny, nx = z.shape
    width, depth = nx * cell_mm, ny * cell_mm
    around = int(TABLE_MM / cell_mm)
    top = np.pad(z, around)
    paint = np.broadcast_to(TABLE, (*top.shape, 3)).copy()
    paint += 9 * np.sin(np.arange(top.shape[0]) * cell_mm / 11.0)[:, None, None]
    paint[around : around + ny, around : around + nx] = colours
    grain = gaussian_filter(rng.normal(size=top.shape), 1.2) + 0.5 * rng.normal(size=top.shape)
    tops, faces = (
        (paint * lit[..., None] * np.array(light.colour) + 7 * grain[..., None]).astype(np.float32).reshape(-1, 3)
        for lit in _shaded(top, cell_mm, light)
    )

    turn = _turn(pose)
    focus = WIDE_FOCUS * max(size)
    away = max(width / size[0], depth / size[1]) * focus / pose.fill
    camera = np.array([width / 2 + pose.off_mm[0], depth / 2 + pose.off_mm[1], float(z.max())]) - turn[2] * away
    rows, columns = np.mgrid[0 : size[1], 0 : size[0]].astype(np.float32)
    seen: Fast = np.stack([columns.ravel(), rows.ravel()], axis=1) + np.float32(0.5)
    flat = ((unbent(seen, size, pose.bend) - np.array(size) / 2) / focus).astype(np.float32)
    rays = flat @ turn[:2].astype(np.float32) + turn[2].astype(np.float32)
    slope = rays[:, :2] / rays[:, 2:]
    at_zero = (camera[:2] - slope * camera[2]).astype(np.float32)

    heights = top.astype(np.float32)

    def cell_of(start: Fast, lean: Fast, height: Fast | np.float32) -> NDArray[np.int32]:
        """The cell of the ground under a ray at a height, counted row by row."""
        column = np.clip((start[0] + lean[0] * height).astype(np.int32), 0, top.shape[1] - 1)
        row = np.clip((start[1] + lean[1] * height).astype(np.int32), 0, top.shape[0] - 1)
        return np.asarray(row * top.shape[1] + column, dtype=np.int32)

    start, lean = (at_zero / cell_mm + around).T.copy(), (slope / cell_mm).T.copy()
    flat_heights, heights_seen = heights.ravel(), np.zeros(len(rays), dtype=np.float32)
    waiting, ahead, falls = np.arange(len(rays)), start, lean
    # Where much lies flat, rays look at just that height, or they would slip past its rim.
    known, count = np.unique(z.round(3), return_counts=True)
    flats = known[count > FLAT_SHARE * z.size] - 1e-3
    steps = np.arange(0, float(z.max()) + STEP_MM, STEP_MM)
    levels = np.unique(np.concatenate([steps, flats]))[::-1].astype(np.float32)
    for height in levels:
        hit = flat_heights[cell_of(ahead, falls, height)] >= height
        if hit.any():
            heights_seen[waiting[hit]] = height
            waiting, ahead, falls = waiting[~hit], ahead[:, ~hit], falls[:, ~hit]
    slanting = np.flatnonzero(flat_heights[cell_of(start, lean, heights_seen)] - heights_seen > FLAT_MM)
    low, ahead, falls = heights_seen[slanting], start[:, slanting], lean[:, slanting]
    high = low + np.float32(STEP_MM)
    for _ in range(6):
        middle = (low + high) / 2
        under = flat_heights[cell_of(ahead, falls, middle)] >= middle
        low, high = np.where(under, middle, low), np.where(under, high, middle)
    heights_seen[slanting] = low
    met = cell_of(start, lean, heights_seen)
    pixels, below = tops[met], flat_heights[met] - heights_seen > 1.0
    pixels[below] = faces[met[below]]
    picture = gaussian_filter(pixels.reshape(size[1], size[0], 3), (0.7, 0.7, 0))
    picture += rng.normal(scale=2.0, size=picture.shape)
    return Shot(np.clip(picture, 0, 255).astype(np.uint8), turn, camera, focus, pose.bend)
