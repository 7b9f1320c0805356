"""The room now and ahead: readings by hand or from a file, a stand-in probe, a stand-in weather service."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import partial
from typing import Any

from flask import g, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.document import Room, Scene
from ...core.document.edit import find, set_room, written
from ...core.fault import fault
from ...core.hardening.climate import indoors
from ...exchange.room_csv import read_room
from ...standins.air import Air, RoomProbe, SimulatedProbe, SimulatedWeather, Weather, probe_at
from ...store import readings
from ...store.tables import DeviceReadingRow
from ..shared.scenes import database, edit, now, open_scene
from .asking import zone
from .views import blueprint

AHEAD_H = 14 * 24
KEPT = timedelta(days=14)  # readings older than that are dropped
SEED = 7
STILL_THERE = timedelta(hours=2)  # a probe that posted no longer ago is in use


@dataclass(frozen=True)
class PostedProbe:
    """A probe that posts its readings by itself: the last of them."""

    last: DeviceReadingRow

    def read(self, at: datetime) -> Air:
        """The last reading, at its own moment."""
        return Air(self.last.at, self.last.value["temp_c"], self.last.value["rh"])


def probe() -> tuple[RoomProbe, bool]:
    """The room probe, and whether it is simulated: the one whose address is set, else one that has posted of late, else
    a stand-in."""
    if g.settings.probe_at:
        return probe_at(g.settings.probe_at), False
    with database().reading() as session:
        last = readings.newest(session, "room")
    if last is not None and now() - last.at < STILL_THERE:
        return PostedProbe(last), False
    return SimulatedProbe(SEED), True


def _probe_reading(moment: datetime) -> Air:
    """One reading of the probe. Raises Faults where it does not answer."""
    try:
        return probe()[0].read(moment)
    except OSError as error:
        why = error.strerror or str(error)
        raise fault("probe", f"it does not answer: {why}", "look at it, or write the readings yourself") from None


def weather() -> Weather:
    """The weather service: a stand-in likewise."""
    return SimulatedWeather(SEED)


@blueprint.get("/s/<slug>/clock/room")
def room(slug: str) -> str:
    """The series of each place, as drawn and as lines."""
    opened = open_scene(slug)
    where = request.args.get("where", "")
    chosen = opened.scene.room_of(where or None)
    found, simulated = probe()
    try:
        reading = found.read(now().astimezone(zone()))
    except OSError:
        reading = None
    return render_template(
        "clock/room.html",
        opened=opened,
        where=where,
        chosen=chosen,
        chart=_chart(chosen),
        lines="\n".join(f"{_wall(one.at):%Y-%m-%d %H:%M}, {one.temp_c:g}, {one.rh * 100:g}" for one in chosen.series),
        reading=reading,
        simulated=simulated,
        place="clock.page",
    )


def _wall(at: datetime) -> datetime:
    return at.astimezone(zone()) if at.tzinfo else at


def _chart(measured: Room) -> dict[str, Any] | None:
    """Temperature and humidity over the days of the series: two stepped paths, days, scales."""
    if len(measured.series) < 2:
        return None
    times = [_wall(one.at) for one in measured.series]
    first, last = times[0], times[-1]
    span = (last - first).total_seconds()

    def x(at: datetime) -> float:
        return 700 * (at - first).total_seconds() / span

    temps = [one.temp_c for one in measured.series]
    low, high = min(temps) - 1, max(temps) + 1

    def path(ys: list[float]) -> str:
        d = f"M0,{ys[0]:.1f}"
        for at, y in zip(times[1:], ys[1:], strict=True):
            d += f"H{x(at):.1f}V{y:.1f}"
        return d

    midnight = first.replace(hour=0, minute=0, second=0, microsecond=0) + timedelta(days=1)
    days = []
    while midnight < last:
        days.append((x(midnight), f"{midnight:%a} {midnight.day}"))
        midnight += timedelta(days=1)
    moment = now().astimezone(zone()) if first.tzinfo else now().astimezone(zone()).replace(tzinfo=None)
    return {
        "temp": path([150 * (1 - (temp - low) / (high - low)) for temp in temps]),
        "rh": path([150 * (1 - one.rh) for one in measured.series]),
        "days": days if len(days) <= 20 else days[:: len(days) // 10],
        "low": low + 1,
        "high": high - 1,
        "low_y": 150 * (1 - 1 / (high - low)),
        "high_y": 150 / (high - low),
        "now": x(moment) if first <= moment <= last else None,
    }


Series = list[dict[str, Any]]


def _merged(old: Series, new: Series, moment: datetime) -> Series:
    """What was read before the new series begins, then the new one."""
    begins = datetime.fromisoformat(new[0]["at"])
    known = [(datetime.fromisoformat(one["at"]).astimezone(), one) for one in old]
    return [one for at, one in known if moment - KEPT < at < begins] + new


def _written_lines(old: Series, moment: datetime) -> Series:
    """A series from a file, or from the lines that were typed. Raises Faults."""
    file = request.files.get("file")
    text = file.read().decode("utf-8", "replace") if file else ""
    return read_room(text or request.form.get("lines", ""), zone())


def _probed(old: Series, moment: datetime) -> Series:
    """With one more reading of the probe, what was forecast after it kept."""
    read = _probe_reading(moment)
    new = {"at": moment.isoformat(), "temp_c": read.temp_c, "rh": read.rh}
    later = [one for one in old if datetime.fromisoformat(one["at"]).astimezone() > moment]
    return [*_merged(old, [new], moment), *later]


def _forecast(old: Series, moment: datetime, inside: bool) -> Series:
    """With the weather to come, outdoors or as the room follows it."""
    coming = weather().forecast(moment, AHEAD_H)
    values = [(one.temp_c, one.rh) for one in coming]
    if inside:
        read = _probe_reading(moment)
        values = indoors(tuple(values), (read.temp_c, read.rh))
    new = [
        {"at": one.at.isoformat(), "temp_c": temp, "rh": rh}
        for one, (temp, rh) in zip(coming, values, strict=True)
    ]  # fmt: skip
    return _merged(old, new, moment)


WAYS: dict[str, tuple[str, Callable[[Series, datetime], Series]]] = {
    "lines": ("readings as written", _written_lines),
    "probe": ("a reading of the probe", _probed),
    "steady": ("steady again", lambda old, moment: []),
    "indoors": ("a forecast of the stand-in weather, indoors", partial(_forecast, inside=True)),
    "outdoors": ("a forecast of the stand-in weather", partial(_forecast, inside=False)),
}


@blueprint.post("/s/<slug>/clock/room")
def set_series(slug: str) -> Response:
    """Take a series: from the lines, from a file, from the probe, or a forecast from the weather. Raises Faults."""
    what, where = request.form.get("what", "lines"), request.form.get("where", "")
    moment = now().astimezone(zone()).replace(second=0, microsecond=0)
    if what not in WAYS:
        raise fault("room", f"“{what}” is no way to set it", f"one of {', '.join(WAYS)}")
    words, series_of = WAYS[what]

    def change(scene: Scene) -> Scene:
        room = find(scene, "places", where).room if where else scene.room
        data = written(room)
        series = series_of(data.pop("series", []), moment)
        if series:
            first = series[-1] if what == "lines" else series[0]
            data = {"temp_c": first["temp_c"], "rh": first["rh"], **data, "series": series}
        return set_room(scene, data, where or None)

    return edit(slug, f"Room: {words}", change, url_for("clock.room", slug=slug, where=where or None))
