"""A sum's picture as SVG: its rings to scale, its sizes on dimension lines."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.reckoner import Drawing

WIDE, HIGH, EDGE, AROUND = 640.0, 420.0, 60.0, 6.0


@dataclass(frozen=True)
class DrawnSum:
    """Paths by what they are, dimension lines (x, y, x, y, words), a base for scale (x, y, radius, words)."""

    paths: tuple[tuple[str, str], ...]
    sizes: tuple[tuple[float, float, float, float, str], ...]
    base: tuple[float, float, float, str] | None


def drawn(drawing: Drawing) -> DrawnSum | None:
    """The picture, as large as it goes; None for a sum without one."""
    points = [point for _, ring in drawing.rings for point in ring]
    if not points:
        return None
    west, east = min(x for x, _ in points), max(x for x, _ in points)
    low, high = min(y for _, y in points), max(y for _, y in points)
    scale = min((WIDE - 2 * EDGE) / max(east - west, 1e-6), (HIGH - 2 * EDGE) / max(high - low, 1e-6))
    left = (WIDE - (east - west) * scale) / 2

    def at(x: float, y: float) -> tuple[float, float]:
        return round(left + (x - west) * scale, 1), round(EDGE + (y - low) * scale, 1)

    paths = tuple(
        (what, "M" + "L".join("{},{}".format(*at(*point)) for point in ring) + "Z") for what, ring in drawing.rings
    )
    sizes = tuple((*at(a, b), *at(c, d), words) for a, b, c, d, words in drawing.sizes)
    mm = next((mm for mm in (60, 25) if 18 <= mm * scale / 2 <= 70), None)
    return DrawnSum(paths, sizes, None if mm is None else _base(mm, scale, left))


def _base(mm: int, scale: float, left: float) -> tuple[float, float, float, str]:
    """A figure's base, for scale: beside the drawing if there is room, else on it."""
    radius = round(mm * scale / 2, 1)
    beside = left > 2 * (radius + AROUND)
    return (radius + AROUND if beside else WIDE / 2), EDGE + radius + AROUND, radius, f"{mm} mm base"
