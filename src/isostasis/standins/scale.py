"""A kitchen scale: what any does, its stand-in, and one that sends lines."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime
from math import exp, pi, sin
from typing import Protocol

import numpy as np

from .lines import MAX_LINE, Source, first, source_at

SETTLES_S = 0.6  # time constant of the plate
NOISE_G = 0.04
DRIFT_G, DRIFT_S = 0.15, 900.0  # how far the zero wanders, and in what time it comes round
CAPACITY_G, RESOLUTION_G = 3000.0, 0.1
BATTERY_H = 200.0
UNSTEADY_G = 0.3  # still settling by more


@dataclass(frozen=True, slots=True)
class Weight:
    """One reading: g on the plate less the tare; None where it is overloaded. `battery` is what is left of it."""

    grams: float | None
    steady: bool
    battery: float = 1.0

    @property
    def overload(self) -> bool:
        """More than it can weigh."""
        return self.grams is None


class Scale(Protocol):
    """What any scale does: a reading at a moment. Taring is left to its own button, or to whoever reads it."""

    def read(self, at: datetime) -> Weight:
        """One reading. Raises OSError where it does not answer."""
        ...


@dataclass(frozen=True)
class SimulatedScale:
    """A scale that settles, wanders, trembles and rounds: `load_g` lies on it since `since`, `before_g` lay there
    before; `tare_g` is taken off. The same seed and moment give the same reading."""

    seed: int
    begun: datetime
    load_g: float = 0.0
    before_g: float = 0.0
    since: datetime | None = None
    tare_g: float = 0.0

    def read(self, at: datetime) -> Weight:
        """One reading."""
        true = self._settled(at)
        if true > CAPACITY_G:
            return Weight(None, False, self._battery(at))
        shown = round((true + self._wander(at) - self.tare_g) / RESOLUTION_G) * RESOLUTION_G
        return Weight(round(shown, 3), abs(true - self.load_g) < UNSTEADY_G, self._battery(at))

    def put(self, grams: float, at: datetime) -> SimulatedScale:
        """More on it, or less; never less than nothing."""
        return self._with(max(self.load_g + grams, 0.0), self.tare_g, at)

    def tare(self, at: datetime) -> SimulatedScale:
        """What lies on it counts as nothing from now on."""
        return self._with(self.load_g, self.load_g + self._wander(at), at)

    def _with(self, load_g: float, tare_g: float, at: datetime) -> SimulatedScale:
        return SimulatedScale(self.seed, self.begun, load_g, self._settled(at), at, tare_g)

    def _settled(self, at: datetime) -> float:
        passed = 1e9 if self.since is None else max((at - self.since).total_seconds(), 0.0)
        return self.load_g + (self.before_g - self.load_g) * exp(-min(passed / SETTLES_S, 700.0))

    def _wander(self, at: datetime) -> float:
        seconds = (at - self.begun).total_seconds()
        rng = np.random.default_rng((self.seed, int(abs(seconds) * 10)))
        return DRIFT_G * sin(2 * pi * (seconds / DRIFT_S + self.seed % 97 / 97)) + float(rng.normal(0, NOISE_G))

    def _battery(self, at: datetime) -> float:
        return max(0.0, 1 - (at - self.begun).total_seconds() / 3600 / BATTERY_H)


_LINE = re.compile(r"([SUO])\s+([+-]?\d{1,6}(?:\.\d{1,3})?)?\s*(?:g)?\s*(?:B(\d{1,3}))?", re.IGNORECASE)


def weight_of_line(line: str) -> Weight | None:
    """A reading from a line: `S 123.4 g` steady, `U 120.1 g` unsteady, `O` overloaded, each with `B87` for 87 % of the
    battery if it says; None for what is none.

    >>> weight_of_line("S +123.4 g B87")
    Weight(grams=123.4, steady=True, battery=0.87)
    """
    match = _LINE.fullmatch(line.strip()[:MAX_LINE])
    if match is None:
        return None
    state, grams, battery = match[1].upper(), match[2], match[3]
    charge = 1.0 if battery is None else min(int(battery), 100) / 100
    if state == "O":
        return Weight(None, False, charge)
    return None if grams is None else Weight(float(grams), state == "S", charge)


@dataclass(frozen=True)
class LineScale:
    """A scale that sends lines."""

    source: Source

    def read(self, at: datetime) -> Weight:
        """The next whole line that is a reading. Raises OSError where none comes in time."""
        return first(self.source, weight_of_line, "scale")


def scale_at(address: str) -> LineScale:
    """The scale at HOST:PORT or serial:PORT. Raises ValueError for what is no such address."""
    return LineScale(source_at(address))
