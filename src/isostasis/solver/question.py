"""A question to the solver as JSON data, and back: scenes, hours, what is asked and what was marked."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, tzinfo
from hashlib import sha256
from json import dumps
from typing import Any
from zoneinfo import ZoneInfo

from ..core.hours import parse_hours
from ..core.schedule import Asked, Marks

MARKS = ("started", "done", "skipped", "not_yet", "ready")


def _times(found: Mapping[str, datetime]) -> dict[str, str]:
    return {name: at.isoformat() for name, at in sorted(found.items())}


def question(
    scenes: Mapping[str, Any],
    hours: str,
    zone: str,
    asked: Mapping[str, Any],
    marks: Mapping[str, Marks],
    due: Mapping[str, str] | None = None,
) -> dict[str, Any]:
    """Documents by slug, resolved; bench hours as written; a zone's name; `deadline`, `buffer_h` and `pins` as a clock
    keeps them; marks by slug. With several scenes, ids of steps begin with the slug."""
    many = len(scenes) > 1
    merged: dict[str, dict[str, str]] = {kind: {} for kind in MARKS}
    for slug, one in marks.items():
        for kind in MARKS:
            merged[kind] |= {f"{slug}/{step}" if many else step: at for step, at in _times(getattr(one, kind)).items()}
    return {
        "scenes": dict(scenes), "hours": hours, "zone": zone, "asked": dict(asked), "marks": merged, "due": due or {},
    }  # fmt: skip


def digest(asked: Mapping[str, Any]) -> str:
    """What tells one question from another, whenever it is asked."""
    return sha256(dumps(asked, sort_keys=True).encode()).hexdigest()


def asked_of(data: Mapping[str, Any]) -> Asked:
    """What a question asks for. Raises Faults for hours that are none."""
    zone: tzinfo = ZoneInfo(data["zone"])

    def times(found: Mapping[str, str]) -> dict[str, datetime]:
        return {name: datetime.fromisoformat(at).astimezone(zone) for name, at in found.items()}

    deadline = data["asked"].get("deadline")
    return Asked(
        datetime.fromisoformat(data["start"]).astimezone(zone),
        parse_hours(data["hours"]),
        None if deadline is None else datetime.fromisoformat(deadline).astimezone(zone),
        data["asked"].get("buffer_h", 0.0),
        pins=times(data["asked"].get("pins", {})),
        due=times(data["due"]),
        marks=Marks(**{kind: times(data["marks"][kind]) for kind in MARKS}),
    )
