"""The room over time: temperature, humidity, and how fast still or moving air takes vapour away."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

from ..document.scene import Room
from ..stages import cached_stage

TRANSFER_M_S = {"still": 0.005, "fan": 0.015}
ATMOSPHERE_PA = 101_325.0
GAS_CONSTANT_WATER = 461.5  # J/kg/K


@dataclass(frozen=True, slots=True)
class Climate:
    """Conditions from the start of the work: each lasts until the next, the last for good.

    `hours` rises from 0; `temp_c` and `rh` (0..1) go with it; `transfer_m_s` is h_m of the drying law.
    """

    hours: tuple[float, ...]
    temp_c: tuple[float, ...]
    rh: tuple[float, ...]
    transfer_m_s: float = TRANSFER_M_S["still"]

    @classmethod
    def of(cls, room: Room) -> Climate:
        """The room of a scene; a series counts from its first reading."""
        still = TRANSFER_M_S[room.air]
        if not room.series:
            return cls((0.0,), (room.temp_c,), (room.rh,), still)
        start = room.series[0].at
        return cls(
            tuple((reading.at - start).total_seconds() / 3600 for reading in room.series),
            tuple(reading.temp_c for reading in room.series),
            tuple(reading.rh for reading in room.series),
            still,
        )

    @property
    def steady(self) -> bool:
        """Whether the room never changes."""
        return len(self.hours) == 1

    def temp_at(self, hour: float) -> float:
        """degC at that hour."""
        return self.temp_c[max(0, bisect_right(self.hours, hour) - 1)]

    def spans(self) -> list[tuple[float, float, float]]:
        """(length in hours, g/m2/h that evaporate, degC) one after the other; the last is endless."""
        ends = (*self.hours[1:], float("inf"))
        return [
            (end - start, evaporation(temp, rh, self.transfer_m_s), temp)
            for start, end, temp, rh in zip(self.hours, ends, self.temp_c, self.rh, strict=True)
        ]


@cached_stage
def evaporation(temp_c: float, rh: float, transfer_m_s: float = TRANSFER_M_S["still"]) -> float:
    """Water that leaves a wet face, g/m2/h: h_m (rho_sat(T_wet bulb) - RH rho_sat(T)), never below 0.

    `temp_c` degC (-10..50), `rh` 0..1, `transfer_m_s` m/s. Wet bulb and saturation pressure by ASHRAE (2017),
    through psychrolib. Source: film theory of evaporation; h_m default.

    >>> round(evaporation(21, 0.5), 1)
    60.4
    """
    import psychrolib

    psychrolib.SetUnitSystem(psychrolib.SI)
    wet_bulb = psychrolib.GetTWetBulbFromRelHum(temp_c, rh, ATMOSPHERE_PA)

    def density(celsius: float) -> float:
        return float(psychrolib.GetSatVapPres(celsius)) / (GAS_CONSTANT_WATER * (celsius + 273.15))

    return float(max(0.0, transfer_m_s * (density(wet_bulb) - rh * density(temp_c)) * 1000 * 3600))


FOLLOWS = 0.25  # share of the outdoor swing that a lived-in room follows, craft estimate


def indoors(
    outside: tuple[tuple[float, float], ...], now: tuple[float, float], follows: float = FOLLOWS
) -> list[tuple[float, float]]:
    """A room (degC, humidity 0..1) under a forecast of the air outside it, of which the first is now.

    The room is `now` at first, follows the outdoor temperature by a share, and gains or loses as much water vapour as
    the air that is let in. Saturation pressure by ASHRAE (2017), through psychrolib. The share is a craft estimate.

    >>> indoors(((10.0, 0.8), (14.0, 0.8)), (19.0, 0.5))[1][0]
    20.0
    """
    import psychrolib

    psychrolib.SetUnitSystem(psychrolib.SI)

    def vapour(temp: float, rh: float) -> float:
        return float(rh * psychrolib.GetSatVapPres(temp))

    changes = []
    for temp, rh in outside:
        inside = now[0] + follows * (temp - outside[0][0])
        pressure = vapour(*now) + vapour(temp, rh) - vapour(*outside[0])
        share = pressure / float(psychrolib.GetSatVapPres(inside))
        changes.append((round(inside, 2), round(min(0.95, max(0.15, share)), 3)))
    return changes
