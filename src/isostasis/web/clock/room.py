"""The room now and ahead: readings by hand or from a file, a stand-in probe, a stand-in weather service."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.document import Room
from ...core.fault import fault
from ...core.hardening.climate import indoors
from ...exchange.room_csv import read_room
from ...standins.air import RoomProbe, SimulatedProbe, SimulatedWeather, Weather
from ...store import settings
from ..frame.opened import Document, database, edit, now, open_scene
from .asking import zone
from .views import blueprint

AHEAD_H = 14 * 24
KEPT = timedelta(days=14)  # readings older than that are dropped
SEED = 7


def probe() -> RoomProbe:
    """The room probe: a stand-in until a real one is wired to the same interface."""
    return SimulatedProbe(_seed())


def weather() -> Weather:
    """The weather service: a stand-in likewise."""
    return SimulatedWeather(_seed())


def _seed() -> int:
    with database().reading() as session:
        return int(settings.get(session, "air", {}).get("seed", SEED))


@blueprint.get("/s/<slug>/clock/room")
def room(slug: str) -> str:
    """The series of each place, as drawn and as lines."""
    opened = open_scene(slug)
    where = request.args.get("where", "")
    chosen = opened.scene.room_of(where or None)
    return render_template(
        "clock/room.html",
        opened=opened,
        where=where,
        chosen=chosen,
        chart=_chart(chosen),
        lines="\n".join(f"{_wall(one.at):%Y-%m-%d %H:%M}, {one.temp_c:g}, {one.rh * 100:g}" for one in chosen.series),
        reading=probe().read(now().astimezone(zone())),
        place="clock.page",
    )


def _wall(at: datetime) -> datetime:
    return at.astimezone(zone()) if at.tzinfo else at


def _chart(found: Room) -> dict[str, Any] | None:
    """Temperature and humidity over the days of the series: two stepped paths, days, scales."""
    if len(found.series) < 2:
        return None
    times = [_wall(one.at) for one in found.series]
    first, last = times[0], times[-1]
    span = (last - first).total_seconds()

    def x(at: datetime) -> float:
        return 700 * (at - first).total_seconds() / span

    temps = [one.temp_c for one in found.series]
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
        "rh": path([150 * (1 - one.rh) for one in found.series]),
        "days": days if len(days) <= 20 else days[:: len(days) // 10],
        "low": low + 1,
        "high": high - 1,
        "low_y": 150 * (1 - 1 / (high - low)),
        "high_y": 150 / (high - low),
        "now": x(moment) if first <= moment <= last else None,
    }


def _room_in(data: Document, where: str) -> dict[str, Any]:
    """The room of a place in the document, to be changed."""
    if not where:
        found: dict[str, Any] = data.setdefault("room", {})
        return found
    for place in data.get("places", []):
        if place["id"] == where:
            inside: dict[str, Any] = place.setdefault("room", {})
            return inside
    raise fault("place", f"'{where}' is no longer there", "reload the page; it may have been removed meanwhile")


def _merged(old: list[dict[str, Any]], new: list[dict[str, Any]], moment: datetime) -> list[dict[str, Any]]:
    """What was read before the new series begins, then the new one."""
    begins = datetime.fromisoformat(new[0]["at"])
    known = [(datetime.fromisoformat(one["at"]).astimezone(), one) for one in old]
    return [one for at, one in known if moment - KEPT < at < begins] + new


@blueprint.post("/s/<slug>/clock/room")
def set_room(slug: str) -> Response:
    """Take a series: from the lines, from a file, from the probe, or a forecast from the weather."""
    what, where = request.form.get("what", "lines"), request.form.get("where", "")
    moment = now().astimezone(zone()).replace(second=0, microsecond=0)

    def change(data: Document) -> None:
        there = _room_in(data, where)
        old = there.get("series", [])
        if what == "steady":
            there.pop("series", None)
            return
        if what == "lines":
            file = request.files.get("file")
            text = file.read().decode("utf-8", "replace") if file else ""
            there["series"] = read_room(text or request.form.get("lines", ""))
        elif what == "probe":
            read = probe().read(moment)
            new = {"at": moment.isoformat(), "temp_c": read.temp_c, "rh": read.rh}
            later = [one for one in old if datetime.fromisoformat(one["at"]).astimezone() > moment]
            there["series"] = [*_merged(old, [new], moment), *later]
        else:
            coming = weather().forecast(moment, AHEAD_H)
            if what == "indoors":
                read = probe().read(moment)
                values = indoors(tuple((one.temp_c, one.rh) for one in coming), (read.temp_c, read.rh))
            else:
                values = [(one.temp_c, one.rh) for one in coming]
            new_series = [
                {"at": one.at.isoformat(), "temp_c": temp, "rh": rh}
                for one, (temp, rh) in zip(coming, values, strict=True)
            ]
            there["series"] = _merged(old, new_series, moment)
        first = there["series"][-1] if what == "lines" else there["series"][0]
        there.setdefault("temp_c", first["temp_c"])
        there.setdefault("rh", first["rh"])

    words = {
        "lines": "readings as written", "probe": "a reading of the stand-in probe", "steady": "steady again",
        "indoors": "a forecast of the stand-in weather, indoors", "outdoors": "a forecast of the stand-in weather",
    }  # fmt: skip
    if what not in words:
        raise fault("room", f"“{what}” is no way to set it", f"one of {', '.join(words)}")
    return edit(slug, f"Room: {words[what]}", change, url_for("clock.room", slug=slug, where=where or None))
