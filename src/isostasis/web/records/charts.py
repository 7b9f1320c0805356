"""Records as drawings: waits between looks, amounts against what was planned, what a factor is worth."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from ...core.learning.posterior import PRIOR_SIGMA, Learnt, learn
from ...core.learning.records import FEWEST, Record, Taught

WIDE, NAMES, ROW = 740.0, 176.0, 36.0
SIDE, PAD = 300.0, 44.0
BELL_W, BELL_H = 320.0, 96.0
MAX_ROWS = 14


@dataclass(frozen=True)
class Bar:
    """A wait: its name, where it was not yet over and was over (None: not seen), what was said, what would be said."""

    key: str
    name: str
    y: float
    low: float | None
    high: float | None
    said: float
    now: float
    mishap: str
    title: str


@dataclass(frozen=True)
class Waits:
    """Bars between looks over an axis of hours: ticks (x, words), how high it is."""

    bars: tuple[Bar, ...]
    ticks: tuple[tuple[float, str], ...]
    high: float


def _nice(longest: float, parts: int = 5) -> float:
    """The step of an axis: 1, 2, 3, 6, 12, 24 and so on."""
    steps = (0.25, 0.5, 1, 2, 3, 6, 12, 24, 48, 96, 168, 336)
    return next((one for one in steps if longest / one <= parts), ceil(longest / parts / 24) * 24.0)


def waits(records: Sequence[Record], mean: float) -> Waits:
    """The newest records of a wait, the oldest of them on top."""
    shown = list(records)[-MAX_ROWS:]
    longest = max((one.high or (one.low or 0.0) * 1.3 for one in shown), default=1.0)
    longest = max(longest, *(one.predicted * mean for one in shown)) if shown else longest
    step = _nice(longest)
    end = step * ceil(longest / step + 1e-9)

    def x(hours: float) -> float:
        return round(NAMES + (WIDE - NAMES - 16) * min(hours / end, 1.0), 1)

    bars = tuple(
        Bar(
            one.key, one.title, 34 + ROW * place, None if one.low is None else x(one.low),
            None if one.high is None else x(one.high), x(one.predicted), x(one.predicted * mean), one.mishap,
            f"{one.scene}: said {one.predicted:.3g} h, not yet at {_told(one.low)}, ready at {_told(one.high)}",
        )
        for place, one in enumerate(shown)
    )  # fmt: skip
    ticks = tuple((x(step * number), f"{step * number:g} h") for number in range(int(end / step) + 1))
    return Waits(bars, ticks, 34 + ROW * len(shown) + 6)


def _told(hours: float | None) -> str:
    return "no look" if hours is None else f"{hours:.3g} h"


@dataclass(frozen=True)
class Dots:
    """Amounts: dots (x, y, title, mishap), ticks of both axes (px, words), the outline of the band within a tenth."""

    dots: tuple[tuple[float, float, str, str], ...]
    ticks: tuple[tuple[float, str], ...]
    band: str
    unit: str


def dots(records: Sequence[Record], unit: str) -> Dots:
    """What came against what was planned; roots are drawn, so that small ones are seen too."""
    top = max((max(one.predicted, one.low or 0.0) for one in records), default=1.0) * 1.08

    def at(value: float) -> float:
        return round(float((SIDE - PAD) * (value / top) ** 0.5), 1)

    drawn = tuple(
        (PAD + at(one.predicted), SIDE - PAD - at(one.low or 0.0),
         f"{one.scene}, {one.title}: planned {one.predicted:.3g}, came {one.low or 0:.3g} {unit}", one.mishap)
        for one in records
    )  # fmt: skip
    step = next((one for one in (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000) if top / one <= 4), top / 4)
    ticks = tuple((at(step * number), f"{step * number:g}") for number in range(1, int(top / step) + 1))
    edge = [top * part / 12 for part in range(13)]
    upper = [(PAD + at(one / 1.1), SIDE - PAD - at(one)) for one in edge]
    lower = [(PAD + at(one), SIDE - PAD - at(one / 1.1)) for one in reversed(edge)]
    band = "M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in (*upper, *lower)) + "Z"
    return Dots(drawn, ticks, band, unit)


@dataclass(frozen=True)
class Bell:
    """How sure a factor is: the outline of its density, the part within its range, the prior, and where 1, its mean and
    its range stand (px)."""

    whole: str
    inner: str
    before: str
    one: float
    mean: float
    low: float
    high: float


def bell(learnt: Learnt) -> Bell:
    """A factor's density over the prior's, from a half to twice."""
    prior = learn([], PRIOR_SIGMA)
    left = min(0.55, learnt.low * 0.9)
    right = max(1.8, learnt.high * 1.1)

    def x(value: float) -> float:
        return (value - left) / (right - left) * BELL_W

    def line(one: Learnt, low: float, high: float, top: float) -> list[tuple[float, float]]:
        pairs = [(f, d / f) for f, d in zip(one.factors, one.density, strict=True) if low <= f <= high]
        return [(x(f), BELL_H - d / top * (BELL_H - 8)) for f, d in pairs]

    top = max(d / f for f, d in zip(learnt.factors, learnt.density, strict=True))

    def d(points: list[tuple[float, float]], closed: bool) -> str:
        if not points:
            return ""
        body = "L".join(f"{a:.1f},{b:.1f}" for a, b in points)
        return f"M{points[0][0]:.1f},{BELL_H}L{body}L{points[-1][0]:.1f},{BELL_H}Z" if closed else f"M{body}"

    return Bell(
        d(line(learnt, left, right, top), False), d(line(learnt, learnt.low, learnt.high, top), True),
        d(line(prior, left, right, top), False), x(1.0), x(learnt.mean), x(learnt.low), x(learnt.high),
    )  # fmt: skip


@dataclass(frozen=True)
class Finish:
    """When a scene was said to be finished, told over time: the line, its dots (x, y, words), ticks (y, words), and
    where it really was (y, words)."""

    d: str
    dots: tuple[tuple[float, float, str], ...]
    ticks: tuple[tuple[float, str], ...]
    came: tuple[float, str] | None = None


def finish(
    forecasts: Sequence[tuple[float, float, str]],
    words: Sequence[tuple[float, str]],
    came: tuple[float, str] | None = None,
) -> Finish:
    """From (days since the first forecast, days until the finish since then, words), ticks of days, and the day
    on which it really was."""
    last = max((one[0] for one in forecasts), default=1.0) or 1.0
    values = [one[1] for one in forecasts] + [one[0] for one in words] + ([came[0]] if came else [])
    low, high = min(values), max(values)
    room = max(high - low, 0.5)

    def at(day: float, end: float) -> tuple[float, float]:
        return round(PAD + 40 + (SIDE - PAD - 50) * day / last, 1), round(
            SIDE - PAD - (SIDE - 2 * PAD) * (end - low) / room, 1
        )

    spots = [(*at(day, end), text) for day, end, text in forecasts]
    d = "M" + "L".join(f"{x},{y}" for x, y, _ in spots) if spots else ""
    real = (at(0, came[0])[1], came[1]) if came else None
    return Finish(d, tuple(spots), tuple((at(0, one)[1], text) for one, text in words), real)


def usable(taught: Taught) -> str:
    """In which state a factor is, in words."""
    if taught.off:
        return "switched off"
    return "in use" if taught.used else f"{taught.learnt.count} of {FEWEST} records"
