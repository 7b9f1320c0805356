"""A picture fitted to the board: from four corners that were clicked, and the board's own edges between them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..fault import Refusal
from ..ground.raster import Array
from .lens import WIDE_FOCUS, Placement, Size, through, unbent

SIDES = ("south", "east", "north", "west")  # between the corners, in their order
NEAR_PX = 5
PROFILES = 150  # across each side
EDGE_PX = 1.2  # sigma of the derivative that finds an edge
CLICK_PX = 3.0  # how near people click
FOUND_PX = 0.7  # how near one profile finds the edge; neighbours are not independent
OFF_PX = 4.6  # a side whose line misses its clicks by more is no side of the board
REACHES_PX = (30, 14, 9)  # from the clicked lines first, then from those found
BEND = 0.08  # how bent lenses are, about
STEEP_DEG = 25.0  # of tilt, from which what is low hides behind what is high
DOUBLE_SHARE = 0.6  # how strong another edge beside a side must be to be told
DOUBLE_PX = 3.5  # how far from it, at least
SMALLEST_PX = 60


@dataclass(frozen=True)
class Straightened:
    """A picture's placement, how well the board's edges agree with it (mm, the mean), sides that were left out because
    nothing straight runs there, and sides beside which a second edge runs (mm inside; outside is negative)."""

    placement: Placement
    agree_mm: float
    left_out: tuple[str, ...]
    doubled: tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class _Side:
    """What was found along one side: places (n, 2) in the picture, and how sure each is, 0 to 1."""

    points: Array
    weight: Array


def checked_corners(corners: Array, size: Size) -> Array:
    """Four corners (4, 2) in px, south-west first and anticlockwise on the board. Raises Refusal for what is no board.

    >>> checked_corners(np.array([[0, 300], [400, 300], [400, 0], [0, 0.0]]), (400, 300)).shape
    (4, 2)
    """
    if corners.shape != (4, 2) or not np.isfinite(corners).all():
        raise Refusal("the board needs four corners", "put one handle on each corner of its top")
    if (corners < -np.array(size)).any() or (corners > 2 * np.array(size)).any():
        raise Refusal("a corner lies far beyond the picture", "drag it back on to the picture")
    along = np.roll(corners, -1, axis=0) - corners
    turns = along[:, 0] * np.roll(along[:, 1], -1) - along[:, 1] * np.roll(along[:, 0], -1)
    if (turns >= 0).all():
        raise Refusal("the corners run the wrong way round", "the handle SW goes on the corner at your left hand")
    if (turns >= 0).any():
        raise Refusal("the lines between the corners cross, or run back", "each handle on its own corner, in a ring")
    if np.hypot(*along.T).min() < SMALLEST_PX:
        raise Refusal("a side of the board is very short on the picture", "take the photo from nearer")
    return corners


def _found_along(picture: Array, guess: Placement, side: int, reach_px: int) -> tuple[_Side, float | None]:
    """Where the picture changes along a side of a placement; and how far inside it (px) a second edge runs, if one
    does. `picture` (height, width, 3)."""
    from scipy.ndimage import gaussian_filter1d, map_coordinates

    start, end = guess.board[side], guess.board[(side + 1) % 4]
    share = np.linspace(0.03, 0.97, PROFILES)[:, None]
    on_side = start + share * (end - start)
    inward = np.array([-(end - start)[1], (end - start)[0]]) / np.linalg.norm(end - start)
    base = guess.to_picture(on_side)
    across = guess.to_picture(on_side + inward) - base
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    offs = np.arange(-2 * reach_px, 2 * reach_px + 0.5, 0.5)
    places = base[:, None, :] + offs[None, :, None] * across[:, None, :]
    rows, columns = places[..., 1] - 0.5, places[..., 0] - 0.5
    seen = np.stack(
        [map_coordinates(picture[..., band], (rows, columns), order=1, mode="nearest") for band in range(3)]
    )
    change = np.sqrt((gaussian_filter1d(seen.astype(float), 2 * EDGE_PX, axis=-1, order=1) ** 2).sum(axis=0))
    strong = change / max(float(np.percentile(change.max(axis=1), 60)), 1e-9)
    near = np.abs(offs) <= reach_px
    cost = np.exp(-3 * np.minimum(strong, 1.2)) * (1 + (offs / reach_px) ** 2)
    path = straightest(cost[:, near], 3.0)
    at = np.flatnonzero(near)[path]
    every = np.arange(len(at))
    left, middle, right = (strong[every, at + step] for step in (-1, 0, 1))
    bow = left - 2 * middle + right
    shift = np.where(bow < -1e-9, 0.5 * (left - right) / np.where(bow < -1e-9, bow, 1.0), 0.0)
    points = base + (offs[at] + 0.5 * np.clip(shift, -1, 1))[:, None] * across
    # A second edge that runs beside the first all along: the mean over the profiles, each laid on its own edge.
    beside = np.arange(-reach_px * 2, reach_px * 2 + 1)
    together = np.median(strong[every[:, None], np.clip(at[:, None] + beside, 0, len(offs) - 1)], axis=0)
    apart = np.abs(beside) * 0.5 >= DOUBLE_PX
    best = int(np.where(apart, together, -1).argmax())
    second = float(beside[best]) * 0.5 if together[best] > DOUBLE_SHARE * together[reach_px * 2] else None
    return _Side(points, np.clip(middle, 0.05, 1.0)), second


def straightest(cost: Array, stiff: float) -> Array:
    """The cheapest way (n,) through the columns of a cost (n, m), which may move by one column a row, at `stiff` times
    the median cost a move.

    Source: Bellman's dynamic programming.
    """
    toll = stiff * float(np.median(cost)) / 3
    total = np.full(cost.shape[1] + 2, np.inf)
    total[1:-1] = cost[0]
    came = np.zeros(cost.shape, dtype=np.int8)
    for row in range(1, len(cost)):
        left, right = total[:-2] + toll, total[2:] + toll
        moved = np.where(left < right, left, right)
        move = np.where(left < right, -1, 1)
        stays = total[1:-1] <= moved
        came[row] = np.where(stays, 0, move)
        total[1:-1] = np.where(stays, total[1:-1], moved) + cost[row]
    total = total[1:-1]
    path = np.empty(len(cost), dtype=int)
    path[-1] = int(total.argmin())
    for row in range(len(cost) - 1, 0, -1):
        path[row - 1] = path[row] + came[row, path[row]]
    return path


def _fitted(guess: Placement, clicks: Array, sides: dict[int, _Side]) -> Placement:
    """The placement whose sides run through what was found along them, its corners near the clicks.

    Source: Triggs et al., Bundle adjustment (2000), on robust least squares; soft_l1 as loss.
    """
    from scipy.optimize import least_squares

    ends = np.array([0.0, guess.width_mm, guess.depth_mm, 0.0])

    def placed(values: Array) -> Placement:
        return Placement(values[:8].reshape(4, 2), float(values[8]), guess.size, guess.width_mm, guess.depth_mm)

    def misses(values: Array) -> Array:
        now = placed(values)
        back: Array = np.asarray(np.linalg.inv(now.matrix), dtype=np.float64)
        scale = now.px_per_mm
        out: list[Array] = [((now.corners - clicks) / CLICK_PX).ravel(), values[8:] / BEND]
        for side, line in sides.items():
            on_board = through(back, unbent(line.points, now.size, now.bend))
            off = on_board[:, 1 - side % 2] - ends[side]
            out.append(off * scale * line.weight / FOUND_PX)
        return np.concatenate(out)

    fit = least_squares(misses, np.append(guess.corners.ravel(), guess.bend), loss="soft_l1", max_nfev=40)
    return placed(fit.x)


def straighten(picture: Array, corners: Array, width_mm: float, depth_mm: float) -> Straightened:
    """Fit a picture (height, width, 3) to the board by its corners as they were clicked. Raises Refusal."""
    try:
        return _straighten(picture, corners, width_mm, depth_mm)
    except (np.linalg.LinAlgError, ValueError) as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal("no board can lie so", "put each corner on its own corner of the board") from None


def _straighten(picture: Array, corners: Array, width_mm: float, depth_mm: float) -> Straightened:
    size = picture.shape[1], picture.shape[0]
    clicks = checked_corners(np.asarray(corners, dtype=float), size)
    now = Placement(clicks, 0.0, size, width_mm, depth_mm)
    shortest = float(np.hypot(*(np.roll(clicks, -1, axis=0) - clicks).T).min())
    kept, sides = {0, 1, 2, 3}, {}
    for reach_px in REACHES_PX:
        reach = int(min(reach_px, max(shortest / 12, 4)))
        sides = {side: _found_along(picture, now, side, reach) for side in range(4)}
        now = _fitted(now, clicks, {side: one for side, (one, _) in sides.items()})
    again: set[int] = set()
    while kept:
        off = {side: _off_clicks(now, clicks, side) for side in kept}
        worst = max(off, key=lambda side: off[side])
        if off[worst] <= OFF_PX * max(1.0, now.px_per_mm / 2):
            break
        kept.discard(worst)
        now = Placement(clicks, 0.0, size, width_mm, depth_mm)
        now = _fitted(now, clicks, {side: sides[side][0] for side in kept})
        if worst not in again:  # the foot of the foam, or a shadow's edge: another line may run nearer the clicks
            again.add(worst)
            kept.add(worst)
            sides[worst] = _found_along(picture, now, worst, NEAR_PX)
            now = _fitted(now, clicks, {side: sides[side][0] for side in kept})
    scale = now.px_per_mm
    doubled = tuple(
        (SIDES[side], round(second / scale, 1)) for side, (_, second) in sides.items() if second and side in kept
    )
    agree = [np.abs(_miss_mm(now, sides[side][0], side)) for side in sorted(kept)]
    mean = float(np.mean([np.median(one) for one in agree])) if agree else CLICK_PX / scale
    left_out = tuple(SIDES[side] for side in range(4) if side not in kept)
    return Straightened(now, mean, left_out, doubled)


def _miss_mm(now: Placement, found: _Side, side: int) -> Array:
    on_board = now.to_board(found.points)
    return np.asarray(on_board[:, 1 - side % 2] - (0.0, now.width_mm, now.depth_mm, 0.0)[side])


def _off_clicks(now: Placement, clicks: Array, side: int) -> float:
    """By how many px the line of a side misses the clicks at its two ends: the mean of both, for one careless click
    makes no wrong line, or half of the worse."""
    ends = now.to_board(clicks[[side, (side + 1) % 4]])
    off = ends[:, 1 - side % 2] - (0.0, now.width_mm, now.depth_mm, 0.0)[side]
    return float(max(abs(off.mean()), np.abs(off).max() / 2) * now.px_per_mm)


def by_scale(
    points: Array, apart_mm: float, south_west: Array, size: Size, width_mm: float, depth_mm: float
) -> Placement:
    """The placement of a flat look from straight above: two places (2, 2) in px that are so far apart, and where the
    board's south-west corner is; north is up. Raises Refusal."""
    apart_px = float(np.hypot(*(points[1] - points[0])))
    if not apart_mm > 0 or apart_px < SMALLEST_PX / 2:
        raise Refusal("the two points lie too near together", "two points far apart, and their distance")
    scale = apart_px / apart_mm
    across, up = np.array([width_mm * scale, 0.0]), np.array([0.0, -depth_mm * scale])
    corners = np.stack([south_west, south_west + across, south_west + across + up, south_west + up])
    return Placement(checked_corners(corners, size), 0.0, size, width_mm, depth_mm)


def doubts(laid: Straightened, focus: float = WIDE_FOCUS) -> list[str]:
    """What is doubtful about a straightened picture: a sentence each, the worst first."""
    sentences = []
    tilt = laid.placement.tilt_deg(focus)
    if tilt > STEEP_DEG:
        sentences.append(
            f"The camera leant by about {tilt:.0f}°: beyond {STEEP_DEG:.0f}° what is high hides what is behind it. "
            "Take it from nearer to straight above."
        )
    for side in laid.left_out:
        sentences.append(
            f"Along the {side} side no straight edge runs between your clicks: it rests on the clicks alone."
        )
    inside = [(side, mm) for side, mm in laid.doubled if mm > 0]
    if inside:
        side, mm = max(inside, key=lambda one: one[1])
        sentences.append(
            f"On the {side} side another edge runs {mm:.0f} mm further in. If that is the rim of the foam, your "
            "corners are at its foot: put them on its top."
        )
    return sentences


def at_the_table(made: Straightened, foam_mm: float, focus: float = WIDE_FOCUS) -> str:
    """What corners would cost that were put where the foam meets the table; empty where it is nothing."""
    shift = float(np.hypot(*made.placement.shift_mm(foam_mm, focus).T).max()) if foam_mm > 0 else 0.0
    if shift < 1:
        return ""
    return (
        f"The corners belong on the top rim of the foam: at the table, {foam_mm:.0f} mm lower, they would lie up to "
        f"{shift:.0f} mm off."
    )
