"""A room's readings as lines of text: time, degC, humidity; from a logger's file or typed by hand."""

from __future__ import annotations

from datetime import UTC, datetime, tzinfo
from typing import Any

from ..core.fault import fault
from ..core.hours import is_left_out, outside_years
from .rows import rows_of

MAX_LINES = 5000
_RIGHT = "write lines such as 2027-03-01 19:00, 18.5, 55"


def read_room(text: str, zone: tzinfo | None = None) -> list[dict[str, Any]]:
    """Readings as a scene's `room.series` has them, in the order of their times. Percent or shares; a first line
    without numbers is a heading. Times without a zone are on the wall in `zone` (None: this machine's): of an hour that
    comes twice the second is meant once the first has been. Raises Faults that name the line."""
    lines = text.strip().splitlines()
    if len(lines) > MAX_LINES:
        raise fault("room", f"{len(lines):,} lines are more than {MAX_LINES:,}", "leave some out")
    dialect = ";" if lines and lines[0].count(";") >= 2 else ","
    readings: dict[datetime, dict[str, Any]] = {}
    for number, row in rows_of("\n".join(lines), dialect, "room"):
        cells = [cell.strip() for cell in row]
        if not any(cells) or (number == 1 and not any(character.isdigit() for character in cells[-1])):
            continue
        if len(cells) < 3:
            raise fault(f"room, line {number}", "it has no time, temperature and humidity", _RIGHT)
        try:
            at = datetime.fromisoformat(cells[0])
        except ValueError:
            raise fault(f"room, line {number}", f"“{cells[0]}” is no time", _RIGHT) from None
        if outside_years(at):
            raise fault(f"room, line {number}", outside_years(at), _RIGHT)
        temp, rh = (_number(cell, number, dialect) for cell in cells[1:3])
        share = rh / 100 if rh > 1 else rh
        if not -10 <= temp <= 50:
            raise fault(f"room, line {number}", f"{temp:g} °C is outside -10 to 50", _RIGHT)
        if not 0 <= share <= 1:
            raise fault(f"room, line {number}", f"a humidity of {rh:g} is outside 0 to 100", _RIGHT)
        at = _on_the_wall(at, zone, max(readings, default=None), number)
        readings[at.astimezone(UTC)] = {"at": at.isoformat(), "temp_c": temp, "rh": round(share, 4)}
    if not readings:
        raise fault("room", "there is no reading in it", _RIGHT)
    return [readings[at] for at in sorted(readings)]


def _on_the_wall(at: datetime, zone: tzinfo | None, last: datetime | None, line: int) -> datetime:
    """The moment of a time on the wall, the first after `last` that it can be. Raises Faults for an hour that was left
    out when the clocks went forward."""
    if at.tzinfo is not None:
        return at.astimezone(zone)
    at = at.replace(tzinfo=zone) if zone else at.astimezone()
    if is_left_out(at):
        told = f"{at:%Y-%m-%d %H:%M} is no time in {at.tzinfo}: the clocks went forward over it"
        raise fault(f"room, line {line}", told, "write the hour as the clock showed it")
    again = at.replace(fold=1)
    first, second = at.astimezone(UTC), again.astimezone(UTC)  # on one wall they would be alike
    return again if last is not None and first <= last < second else at


def _number(cell: str, line: int, dialect: str) -> float:
    try:
        return float(cell.replace(",", ".") if dialect == ";" else cell)
    except ValueError:
        raise fault(f"room, line {line}", f"“{cell}” is no number", _RIGHT) from None
