"""Following an edge of a straight picture: from click to click while drawing, and once round when it is closed.

All places are mm on the board. The edge is where brightness changes most within half a mm to two.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..fault import Refusal
from ..ground.raster import Array
from ..stages import cached_stage
from .straighten import straightest

SCALES_MM = (0.5, 1.0, 2.0)
BOX_MM = 15.0  # beyond the clicks that a segment may go
STRAY_MM = 10.0  # from the smooth curve through the clicks, at which an edge costs twice as much
WITHIN_MM = 0.5  # that an outline keeps to what was found
EVERY_MM, OFFS_MM = 0.5, 0.25  # steps along the ribbon, and across it
CLICK_MM = 1.5  # how near the outline stays to a click
LIP_MM = 0.6  # from which clicks that all lie off the line are right, and the line is not
OTHER_MM = (1.2, 5.0)  # how far off a second edge may run beside the first
OTHER_SHARE = 0.55  # how strong it is beside it
VALLEY_SHARE = 0.9  # how far it falls off between the two
STRONGER = 1.25  # or by how much it is the stronger one
MAX_CLICKS = 200
MAX_LENGTH_MM = 10_000.0  # of what is followed at once: each mm is worked out
Points = list[tuple[float, float]]


@dataclass(frozen=True, eq=False)
class Edges:
    """How much of an edge there is at each place of a straight picture: (rows, columns), rows from the south."""

    strength: Array
    px_per_mm: float

    def at(self, points: Array) -> Array:
        """At places (..., 2) in mm."""
        from scipy.ndimage import map_coordinates

        rows, columns = points[..., 1] * self.px_per_mm - 0.5, points[..., 0] * self.px_per_mm - 0.5
        return np.asarray(map_coordinates(self.strength, (rows, columns), order=1, mode="nearest"))


class StraightPicture:
    """A straight picture by its content's name; `grey` brings its values (rows from the north, 0 to 255)."""

    def __init__(self, name: str, px_per_mm: float, grey: Callable[[], Array]) -> None:
        self.name, self.px_per_mm, self.grey = name, px_per_mm, grey

    def __hash__(self) -> int:
        return hash((self.name, self.px_per_mm))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, StraightPicture) and (self.name, self.px_per_mm) == (other.name, other.px_per_mm)


@cached_stage
def edges_of(picture: StraightPicture) -> Edges:
    """The edges of a picture: the steepest of three scales, each by its 95th percentile."""
    from scipy.ndimage import gaussian_gradient_magnitude

    grey = picture.grey()[::-1].astype(np.float32)
    strength = np.zeros_like(grey)
    for sigma in SCALES_MM:
        steep = gaussian_gradient_magnitude(grey, sigma * picture.px_per_mm)
        np.maximum(strength, steep / max(float(np.percentile(steep, 95)), 1e-6), out=strength)
    return Edges(strength.astype(np.float64), picture.px_per_mm)


def _price(strength: Array) -> Array:
    return np.asarray(np.exp(-4 * np.minimum(strength, 1.2) / 1.2) + 0.02)


def smooth_curve(points: Array, closed: bool, every_mm: float = EVERY_MM) -> tuple[Array, Array]:
    """A centripetal Catmull-Rom curve through points (n, 2): places (m, 2) about so far apart, and which of them are
    the points (n,). A ring does not repeat its first.

    Source: Yuksel et al., Parameterization and applications of Catmull-Rom curves (2011), eq. 1 to 3.
    """
    if closed:
        line = np.vstack([points[-1:], points, points[:2]])
    else:
        line = np.vstack([2 * points[:1] - points[1:2], points, 2 * points[-1:] - points[-2:-1]])
    out: list[Array] = []
    at: list[int] = []
    for number in range(len(points) if closed else len(points) - 1):
        p = line[number : number + 4]
        k = np.concatenate(([0.0], np.cumsum(np.maximum(np.hypot(*np.diff(p, axis=0).T), 1e-6) ** 0.5)))
        count = max(int(np.ceil(np.hypot(*(p[2] - p[1])) / every_mm)), 1)
        t = np.linspace(k[1], k[2], count, endpoint=False)[:, None]

        def between(low: Array, high: Array, start: float, end: float, t: Array = t) -> Array:
            return np.asarray(((end - t) * low + (t - start) * high) / (end - start))

        first, second, third = (between(p[i], p[i + 1], k[i], k[i + 1]) for i in range(3))
        curve = between(between(first, second, k[0], k[2]), between(second, third, k[1], k[3]), k[1], k[2])
        at.append(sum(len(one) for one in out))
        out.append(curve)
    if not closed:
        at.append(sum(len(one) for one in out))
        out.append(points[-1:])
    return np.vstack(out), np.array(at)


def checked_clicks(clicks: Any, most: int = MAX_CLICKS) -> Array:
    """Clicks (n, 2) in mm, each apart from the one before. Raises Refusal."""
    try:
        points = np.array([[float(x), float(y)] for x, y in clicks], dtype=np.float64)
    except (TypeError, ValueError):
        raise Refusal("it is no list of places", "give [[x, y], ...] in mm") from None
    if not 2 <= len(points) <= most or not np.isfinite(points).all() or np.abs(points).max() > 1e5:
        raise Refusal(f"it has {len(points)} places, or some that are nowhere", f"2 to {most}, on the board")
    apart = np.concatenate(([True], np.hypot(*np.diff(points, axis=0).T) > 0.05))
    points = points[apart]
    if len(points) < 2:
        raise Refusal("it is one place", "click further along the edge")
    length = float(np.hypot(*np.diff(points, axis=0).T).sum())
    if length > MAX_LENGTH_MM:
        raise Refusal(f"it is {length / 1000:.4g} m long", f"{MAX_LENGTH_MM / 1000:g} m at most, on the board")
    return np.asarray(points)


def segment(edges: Edges, clicks: Array, number: int) -> Points:
    """The edge from click `number` to the next of clicks (n, 2): the cheapest way along what changes, near the smooth
    curve through all of them. Ends on both clicks.

    Source: Mortensen and Barrett, Intelligent scissors (1995): live wire, with scikit-image's minimal cost path.
    """
    from scipy.ndimage import distance_transform_edt
    from skimage.graph import route_through_array

    around = clicks[max(number - 1, 0) : number + 3]
    curve, at = smooth_curve(around, closed=False)
    here = number - max(number - 1, 0)
    curve = curve[at[here] : at[here + 1] + 1]
    scale, shape = edges.px_per_mm, np.array(edges.strength.shape)
    low = np.floor((curve.min(axis=0) - BOX_MM) * scale).astype(int)[::-1]
    high = np.ceil((curve.max(axis=0) + BOX_MM) * scale).astype(int)[::-1]
    low, high = np.clip(low, 0, shape - 2), np.clip(high, 2, shape)
    low = np.minimum(low, high - 2)
    far = np.ones(high - low, dtype=bool)
    places = np.clip(np.floor(curve * scale).astype(int)[:, ::-1] - low, 0, high - low - 1)
    far[places[:, 0], places[:, 1]] = False
    stray = distance_transform_edt(far) / scale / STRAY_MM
    price = _price(edges.strength[low[0] : high[0], low[1] : high[1]]) * (1 + stray**2)
    ends = clicks[number : number + 2]
    start, end = np.clip(np.floor(ends * scale).astype(int)[:, ::-1] - low, 0, high - low - 1)
    route, _ = route_through_array(price, tuple(start), tuple(end), fully_connected=True, geometric=True)
    line = (np.array(route)[:, ::-1] + low[::-1] + 0.5) / scale
    return _simplified(np.vstack([ends[:1], line[1:-1], ends[1:]]), closed=False)


@dataclass(frozen=True)
class Outline:
    """An outline that was followed, how far the clicks lie from the edge on the mean and at worst (mm), and
    how far beside it a second edge runs (mm, outward is positive), if one does."""

    line: Points
    clicks_off_mm: float
    worst_off_mm: float
    beside_mm: float | None


def outline(edges: Edges, clicks: Array, other: bool = False) -> Outline:
    """The edge once round through clicks (n, 2), at least three; with `other`, the second edge that runs beside it.
    Raises Refusal."""
    if len(clicks) < 3:
        raise Refusal(f"it has {len(clicks)} clicks", "three at least, round what you mean")
    curve, at = smooth_curve(clicks, closed=True)
    apart = len(curve) * EVERY_MM / len(clicks)
    half = float(np.clip(0.12 * apart + 2.5, 4, 10))
    out = _outward(curve)
    offs = np.arange(-half, half + OFFS_MM / 2, OFFS_MM)
    strength = edges.at(curve[:, None, :] + offs[None, :, None] * out[:, None, :])
    clicked = np.zeros((len(curve), len(offs)))
    for place in at:
        for step in (-2, -1, 0, 1, 2):
            clicked[(place + step) % len(curve)] = 0.15 * (offs / CLICK_MM) ** 2
    price = _price(strength) * (1 + (offs / STRAY_MM) ** 2)
    path = _round(price + clicked)
    beside = _second(strength, path)
    if other and beside is not None:
        near = np.abs(offs[None, :] - offs[path][:, None] - beside) <= OTHER_MM[0]
        path = _round(np.where(near, price, 10.0))
    off = offs[path]
    at_clicks = off[at]  # the clicks lie at 0
    lean = float(np.median(at_clicks))
    if not other and abs(lean) > LIP_MM and float((np.sign(at_clicks) == np.sign(lean)).mean()) >= 0.8:
        off = off - lean
    line = curve + off[:, None] * out
    return Outline(_simplified(line, closed=True), float(np.abs(off[at]).mean()), float(np.abs(off[at]).max()), beside)


def _outward(ring: Array) -> Array:
    """Unit normals (n, 2) of a ring, pointing out."""
    along = np.roll(ring, -3, axis=0) - np.roll(ring, 3, axis=0)
    along /= np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    x, y = ring.T
    turns = float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum())
    return np.asarray(np.stack([along[:, 1], -along[:, 0]], axis=1) * np.sign(turns or 1.0))


def _round(price: Array) -> Array:
    """The cheapest way once round a ribbon: run thrice, the middle kept, so that its ends meet."""
    count = len(price)
    return straightest(np.vstack([price, price, price]), 0.6)[count : 2 * count]


def _second(strength: Array, path: Array) -> float | None:
    """How far beside a way along a ribbon a second edge runs: one that stands apart from it, or a stronger one."""
    steps = int(OTHER_MM[1] / OFFS_MM)
    moves = np.arange(-steps, steps + 1)
    places = path[:, None] + moves
    inside = (places >= 0) & (places < strength.shape[1])
    beside = np.take_along_axis(strength, np.clip(places, 0, strength.shape[1] - 1), axis=1)
    mean = np.nanmean(np.where(inside, beside, np.nan), axis=0)
    first, best = float(mean[steps]), None
    for place in range(1, len(moves) - 1):
        peak = float(mean[place])
        is_peak = peak >= mean[place - 1] and peak >= mean[place + 1] and peak >= OTHER_SHARE * first
        valley = float(mean[min(place, steps) : max(place, steps) + 1].min())
        apart = valley < VALLEY_SHARE * min(peak, first) or peak > STRONGER * first
        if is_peak and apart and abs(moves[place]) * OFFS_MM >= OTHER_MM[0] and (best is None or peak > mean[best]):
            best = place
    return None if best is None else float(moves[best]) * OFFS_MM


def _simplified(line: Array, closed: bool) -> Points:
    from shapely import LineString, Polygon

    if not closed:
        return [(round(float(x), 2), round(float(y), 2)) for x, y in LineString(line).simplify(WITHIN_MM / 2).coords]
    ring = Polygon(line).buffer(0)
    parts = getattr(ring, "geoms", [ring])
    largest = max(parts, key=lambda part: part.area).simplify(WITHIN_MM)
    return [(round(float(x), 1), round(float(y), 1)) for x, y in list(largest.exterior.coords)[:-1]]
