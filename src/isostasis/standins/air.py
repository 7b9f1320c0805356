"""A room probe and a weather service, their stand-ins, and a probe that sends lines."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from math import cos, pi
from typing import Protocol

import numpy as np

from .lines import Source, first, source_at

EVERY_H = 3  # what a forecast gives a value for
COLDEST_H, WARMEST_H = 5.0, 15.0


@dataclass(frozen=True, slots=True)
class Air:
    """The air at one moment: degC, relative humidity 0..1."""

    at: datetime
    temp_c: float
    rh: float


class RoomProbe(Protocol):
    """What any probe does: the room at a moment that has come."""

    def read(self, at: datetime) -> Air:
        """One reading. Raises OSError where it does not answer."""
        ...


class Weather(Protocol):
    """What any weather service does: the air outdoors from a moment on."""

    def forecast(self, start: datetime, hours: int) -> list[Air]:
        """Every few hours, the first at the start."""
        ...


def _drift(seed: int, at: datetime) -> float:
    """How much warmer (in units of the usual swing from day to day) it is than the season: smooth from day to day."""
    days = at.astimezone(UTC).timestamp() / 86_400
    whole = int(days // 1)
    knots = [float(np.random.default_rng((seed, day)).normal()) for day in (whole, whole + 1)]
    share = (1 - cos(pi * (days - whole))) / 2
    return knots[0] * (1 - share) + knots[1] * share


def _by_day(at: datetime) -> float:
    """From -1 at the coldest hour of the night to 1 at the warmest of the afternoon, by the clock of the place."""
    hour = at.hour + at.minute / 60
    if COLDEST_H <= hour <= WARMEST_H:
        return -cos(pi * (hour - COLDEST_H) / (WARMEST_H - COLDEST_H))
    night = 24 - (WARMEST_H - COLDEST_H)
    return cos(pi * ((hour - WARMEST_H) % 24) / night)


@dataclass(frozen=True, slots=True)
class SimulatedWeather:
    """Made-up weather: by day and night, by the season, by a drift from day to day. One `seed`, one weather."""

    seed: int
    mean_c: float = 9.0
    season_c: float = 9.0
    swing_c: float = 4.5
    drift_c: float = 2.5

    def at(self, moment: datetime) -> Air:
        """The air outdoors at a moment (with a zone)."""
        year = cos(2 * pi * (moment.timetuple().tm_yday - 200) / 365.25)
        drift = _drift(self.seed, moment)
        temp = self.mean_c + self.season_c * year + self.swing_c * _by_day(moment) + self.drift_c * drift
        rh = 0.74 - 0.14 * _by_day(moment) - 0.06 * drift
        return Air(moment, round(temp, 1), round(min(0.98, max(0.3, rh)), 2))

    def forecast(self, start: datetime, hours: int) -> list[Air]:
        """Every three hours."""
        return [self.at(start + timedelta(hours=hour)) for hour in range(0, hours + 1, EVERY_H)]


@dataclass(frozen=True, slots=True)
class SimulatedProbe:
    """A made-up workroom that is heated to about `set_c` and follows the day a little, read with noise. One `seed`, one
    room."""

    seed: int
    set_c: float = 19.0

    def read(self, at: datetime) -> Air:
        """One reading."""
        noise = np.random.default_rng((self.seed, int(at.timestamp()))).normal(0, 1, 2)
        temp = self.set_c + 1.6 * _by_day(at) + 0.8 * _drift(self.seed, at) + 0.1 * noise[0]
        rh = 0.54 - 0.05 * _by_day(at) + 0.03 * _drift(self.seed + 1, at) + 0.005 * noise[1]
        return Air(at, round(float(temp), 1), round(float(rh), 2))


_LINE = re.compile(r"R\s+([+-]?\d{1,2}(?:\.\d{1,3})?)\s*C?\s+(\d{1,3}(?:\.\d{1,3})?)\s*%?", re.IGNORECASE)
COLDEST_C, WARMEST_C = -20.0, 60.0


def air_of_line(line: str) -> tuple[float, float] | None:
    """(degC, humidity 0..1) of a line such as `R 19.2 C 54 %`; None for what is no reading.

    >>> air_of_line("R 19.2 54")
    (19.2, 0.54)
    """
    match = _LINE.fullmatch(line.strip())
    if match is None:
        return None
    temp_c, rh = float(match[1]), float(match[2]) / 100
    return (temp_c, round(rh, 5)) if COLDEST_C <= temp_c <= WARMEST_C and rh <= 1 else None


@dataclass(frozen=True)
class LineProbe:
    """A probe that sends lines."""

    source: Source

    def read(self, at: datetime) -> Air:
        """The next whole line that is a reading. Raises OSError where none comes in time."""
        return Air(at, *first(self.source, air_of_line, "probe"))


def probe_at(address: str) -> LineProbe:
    """The probe at HOST:PORT or serial:PORT. Raises ValueError for what is no such address."""
    return LineProbe(source_at(address))
