"""How far a batch's card was walked: its points, each with its moment and the grams that it brought.

A batch that was begun by its card alone has no such points: its parts are in, and its clock runs from its start.
"""

from __future__ import annotations

from datetime import datetime
from typing import Any

from .tables import BatchRow

WET = "wet"  # both parts of what hardens are in: from here its working time runs
LEFT_SO = "left-so"  # a ratio that is off was left as it is


def is_wet(row: BatchRow) -> bool:
    """Whether its working time runs."""
    return not row.walk or any(one["point"] == WET for one in row.walk)


def passed(row: BatchRow) -> frozenset[str]:
    """The codes of the points that are behind."""
    if not row.walk:
        return frozenset({"lay-out", WET})
    return frozenset(str(one["point"]) for one in row.walk)


def go_on(row: BatchRow, point: str, at: datetime, part: str = "", grams: float | None = None) -> None:
    """A point is behind; with N grams of a part, if it brought any."""
    walked = list(row.walk) or _from_start(row)
    entry: dict[str, Any] = {"point": point, "at": at.isoformat()}
    if grams is not None:
        entry |= {"part": part, "grams": round(grams, 1)}
        row.actual = {**row.actual, part: round(row.actual.get(part, 0.0) + grams, 1)}
    row.walk = [*walked, entry]


def becomes_wet(row: BatchRow, at: datetime) -> None:
    """Its working time runs from now."""
    if not is_wet(row):
        row.walk = [*row.walk, {"point": WET, "at": at.isoformat()}]
        row.started_at = at


def back(row: BatchRow) -> bool:
    """The last point is ahead again, and what it brought is out of the record; whether there was any."""
    walked = list(row.walk)
    if len(walked) > 1 and walked[-1]["point"] == WET:
        walked.pop()
    if len(walked) < 2:
        return False
    last = walked.pop()
    if "grams" in last:
        rest = round(row.actual.get(last["part"], 0.0) - last["grams"], 1)
        kept = {key: grams for key, grams in row.actual.items() if key != last["part"]}
        row.actual = kept | ({last["part"]: rest} if rest > 0 else {})
    row.walk = walked
    return True


def _from_start(row: BatchRow) -> list[dict[str, Any]]:
    at = row.started_at.isoformat()
    return [{"point": "lay-out", "at": at}, {"point": WET, "at": at}]
