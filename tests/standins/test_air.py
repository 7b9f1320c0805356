"""The stand-in probe and weather: one seed, one air; day and night, summer and winter."""

from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest

from isostasis.core.hardening.climate import indoors
from isostasis.standins.air import SimulatedProbe, SimulatedWeather

NOON = datetime(2027, 3, 1, 12, tzinfo=UTC)


def test_one_seed_has_one_weather():
    assert SimulatedWeather(3).forecast(NOON, 48) == SimulatedWeather(3).forecast(NOON, 48)
    assert SimulatedWeather(3).forecast(NOON, 48) != SimulatedWeather(4).forecast(NOON, 48)
    assert SimulatedProbe(3).read(NOON) == SimulatedProbe(3).read(NOON)
    # A forecast that is asked for later agrees where it overlaps.
    later = SimulatedWeather(3).forecast(NOON + timedelta(hours=24), 24)
    assert later == SimulatedWeather(3).forecast(NOON, 48)[8:]


def test_days_are_warmer_than_nights_and_july_than_january():
    weather = SimulatedWeather(5)
    days = [weather.at(NOON.replace(month=month, hour=15)).temp_c for month in range(1, 13)]
    nights = [weather.at(NOON.replace(month=month, hour=4)).temp_c for month in range(1, 13)]
    assert all(day > night for day, night in zip(days, nights, strict=True)) and days[6] > days[0] + 8
    everywhere = weather.forecast(NOON, 24 * 60)
    assert all(0.3 <= one.rh <= 0.98 for one in everywhere)
    assert all(abs(a.temp_c - b.temp_c) < 8 for a, b in pairwise(everywhere))
    room = [SimulatedProbe(5).read(NOON + timedelta(hours=hour)).temp_c for hour in range(0, 240, 7)]
    assert min(room) > 15 and max(room) < 23


def test_a_room_follows_a_share_of_the_outdoors():
    assert indoors(((10.0, 0.8), (14.0, 0.8)), (19.0, 0.5))[0] == (19.0, 0.5)
    warmer, colder = indoors(((10.0, 0.8), (14.0, 0.8), (2.0, 0.8)), (19.0, 0.5))[1:]
    assert warmer[0] == 20 and colder[0] == 17
    assert warmer[1] > 0.5 > colder[1]  # warmer air brings more water vapour in
    assert indoors(((10.0, 0.5), (10.0, 0.9)), (19.0, 0.5), follows=0)[1][1] == pytest.approx(
        0.5 + 0.4 * 1227 / 2197, abs=0.01
    )
