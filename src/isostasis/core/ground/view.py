"""What a picture of the ground needs: shade, contours, outlines of pools."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from .raster import Array, Mask, around, isolines

Line = Array  # (n, 2): x, y in mm
STEPS_MM = (0.5, 1, 2, 5, 10, 20, 25, 50, 100)


def light_on(
    north: Array | float, east: Array | float, tall: float = 1.6, azimuth_deg: float = 315, altitude_deg: float = 42
) -> Array:
    """Light from 0 (dark) to 1 on ground that rises by `north` and `east` mm a mm, lit from the north-west, heights
    drawn taller by `tall`.

    Source: Lambert's cosine law.

    >>> [round(float(light_on(rise, 0.0)), 2) for rise in (0.0, 0.5, -0.5)]
    [0.67, 0.19, 0.85]
    """
    azimuth, altitude = np.radians(azimuth_deg), np.radians(altitude_deg)
    sun = np.array([np.sin(azimuth) * np.cos(altitude), np.cos(azimuth) * np.cos(altitude), np.sin(altitude)])
    along, across = np.asarray(east) * tall, np.asarray(north) * tall
    light = (-along * sun[0] - across * sun[1] + sun[2]) / np.sqrt(1 + along**2 + across**2)
    return np.asarray(np.clip(light, 0, 1))


def contour_step(z: Array, wanted: int = 12) -> float:
    """A step in mm that gives about `wanted` contours."""
    span = float(z.max() - z.min())
    return next((step for step in STEPS_MM if span / step <= wanted), STEPS_MM[-1])


def contours(z: Array, cell_mm: float, levels: list[float]) -> list[tuple[float, list[Line]]]:
    """Lines of equal height: (level, lines of (x, y) in mm). A line lies between cell centres."""
    if min(z.shape) < 2:
        return []
    lines = isolines(z).lines
    return [(level, [(line + 0.5) * cell_mm for line in lines(level)]) for level in levels]


def depth_rings(z: Array, cells: Mask, level: float, cell_mm: float, depths_mm: tuple[float, ...]) -> list[list[Line]]:
    """For each of `depths_mm`, rings (x, y in mm) round the part of a pool that is at least so deep, holes as rings."""
    if not cells.any():
        return [[] for _ in depths_mm]
    box = around(cells)
    top, left = box[0].start, box[1].start
    depth = np.where(cells[box], level - z[box], np.minimum(level - z[box], -1e-6))
    # A rim of dry ground closes rings that run along the base's edge.
    padded = np.pad(depth, 1, mode="edge")
    rim = np.ones(padded.shape, dtype=bool)
    rim[1:-1, 1:-1] = False
    padded[rim] = np.minimum(padded[rim], -1e-6)
    generator = isolines(padded)
    rings = []
    for depth_mm in depths_mm:
        polygons, offsets = generator.filled(depth_mm, 1e9)
        rings.append(
            [
                (points[start:end] + np.array([left - 0.5, top - 0.5])) * cell_mm
                for points, offset in zip(polygons, offsets, strict=True)
                for start, end in pairwise(offset)
            ]
        )
    return rings
