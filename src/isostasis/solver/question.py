"""A question to the solver: scenes, hours, what is asked, what was marked. It crosses to the process as JSON."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from hashlib import sha256
from json import dumps
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import Field

from ..core.catalogue import Entry
from ..core.hours import parse_hours
from ..core.schedule import Marks, ScheduleRequest
from ..core.schedule.forecast import joined
from ..core.schedule.requests import ClockRequest, MarkedSteps


class SolverQuestion(Entry):
    """Resolved documents by slug, bench hours as written, a zone's name, what is asked, what was marked, dates of
    scenes that share hands; and from when on (None: not asked yet). With several scenes, ids of steps are joined to the
    slug."""

    scenes: dict[str, dict[str, Any]]
    hours: str
    zone: str
    asked: ClockRequest = ClockRequest()
    marks: MarkedSteps = MarkedSteps()
    due: dict[str, datetime] = Field(default_factory=dict)
    start: datetime | None = None

    @property
    def digest(self) -> str:
        """What tells one question from another, whenever it is asked."""
        return sha256(dumps(self.model_dump(mode="json", exclude={"start"}), sort_keys=True).encode()).hexdigest()

    def begun(self, start: datetime) -> SolverQuestion:
        """The question as it is asked at a moment."""
        return self.model_copy(update={"start": start})

    def pinned(self, step: str, at: datetime | None) -> SolverQuestion:
        """The question with a step pinned to a moment, or let go."""
        return self.model_copy(update={"asked": self.asked.pinned(step, at)})

    def same(self, other: SolverQuestion) -> bool:
        """Whether it asks the same, whenever it was asked."""
        return self.model_copy(update={"start": other.start}) == other


def question(
    scenes: Mapping[str, dict[str, Any]],
    hours: str,
    zone: str,
    asked: ClockRequest,
    marks: Mapping[str, Marks],
    due: Mapping[str, datetime] | None = None,
) -> SolverQuestion:
    """The question about some scenes, with their marks by slug."""
    many = len(scenes) > 1
    merged: dict[str, dict[str, datetime]] = {}
    for kind in MarkedSteps.model_fields:
        merged[kind] = {
            joined(slug, step) if many else step: at
            for slug, found in marks.items()
            for step, at in getattr(found, kind).items()
        }
    return SolverQuestion(
        scenes=dict(scenes), hours=hours, zone=zone, asked=asked, marks=MarkedSteps(**merged), due=dict(due or {})
    )


def request_of(put: SolverQuestion) -> ScheduleRequest:
    """What a question asks for. Raises Faults for hours that are none, ValueError for one without its moment."""
    if put.start is None:
        raise ValueError("a question is asked at a moment")
    zone = ZoneInfo(put.zone)

    def times(found: Mapping[str, datetime]) -> dict[str, datetime]:
        return {name: at.astimezone(zone) for name, at in found.items()}

    deadline = put.asked.deadline
    return ScheduleRequest(
        put.start.astimezone(zone),
        parse_hours(put.hours),
        None if deadline is None else deadline.astimezone(zone),
        put.asked.buffer_h,
        pins=times(put.asked.pins),
        due=times(put.due),
        marks=Marks(**{kind: times(getattr(put.marks, kind)) for kind in MarkedSteps.model_fields}),
    )
