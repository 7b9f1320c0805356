"""The scale beside a cup: which one is in use, what it reads, and how far the part is that goes in now."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from flask import g
from sqlalchemy.orm import Session

from ...core.mixing.gauge import Gauge, gauge
from ...standins.scale import Scale, SimulatedScale, Weight, scale_at
from ...store import readings
from ...store.settings import ScaleState
from ...store.tables import BatchRow, DeviceReadingRow

WANDERS_G = 2.0  # by which the zero of a kitchen scale may be off after a while, craft estimate
FRESH = timedelta(seconds=10)  # a posted weight that is older says nothing of what lies there now
STILL_THERE = timedelta(minutes=5)  # a scale that posted no longer ago is in use


@dataclass(frozen=True)
class Weighing:
    """What the scale says of a part of which `wanted_g` are to go in: its gauge, the reading, which scale it is, why it
    says nothing, and what of the part is in, g."""

    wanted_g: float
    gauge: Gauge | None
    weight: Weight | None
    scale: str
    in_g: float = 0.0
    wrong: str = ""

    @property
    def simulated(self) -> bool:
        """Whether no real scale stands there."""
        return self.scale == SIMULATED


SIMULATED = "simulated scale"


@dataclass(frozen=True)
class PostedScale:
    """A scale that posts its readings by itself: the last of them."""

    last: DeviceReadingRow

    def read(self, at: datetime) -> Weight:
        """The last reading. Raises OSError where it is too old."""
        if at - self.last.at > FRESH:
            raise OSError(0, "it has posted nothing for a while")
        return Weight(**self.last.value)


def real_scale(session: Session, at: datetime) -> tuple[Scale, str] | None:
    """The real scale in use and what it is called; None where a simulated one stands in."""
    if g.settings.scale_at:
        return scale_at(g.settings.scale_at), f"scale at {g.settings.scale_at}"
    last = readings.newest(session, "scale")
    if last is not None and at - last.at < STILL_THERE:
        return PostedScale(last), "scale that posts by itself"
    return None


def simulated(kept: ScaleState | None, row: BatchRow, at: datetime) -> SimulatedScale:
    """The simulated scale as it was left; a new one has the cup on it, with what is in it already."""
    if kept is None:
        return SimulatedScale(row.id, at, load_g=sum(row.actual.values()))
    return SimulatedScale(**dict(kept))


def weigh(session: Session, row: BatchRow, wanted_g: float | None, before_g: float, at: datetime) -> Weighing:
    """What the scale says while a part goes into a cup that was tared, with `before_g` in it; without one that goes in
    (`wanted_g` None) the reading alone."""
    scale, name = real_scale(session, at) or (simulated(g.settings.scale, row, at), SIMULATED)
    wanted = wanted_g or 0.0
    try:
        weight = scale.read(at)
    except OSError as error:
        why = error.strerror or str(error)
        return Weighing(wanted, None, None, name, wrong=f"The scale does not answer: {why}. Write the weights yourself")
    if not wanted or weight.grams is None:
        return Weighing(wanted, None, weight, name)
    if weight.grams < before_g - WANDERS_G:  # what is to go would be told wrong, and the ratio with it
        told = f"It shows less than the {before_g:.1f} g that are in: tare it before the first part only"
        return Weighing(wanted, None, weight, name, wrong=told)
    in_g = max(weight.grams - before_g, 0.0)
    return Weighing(wanted, gauge(wanted, in_g), weight, name, in_g)
