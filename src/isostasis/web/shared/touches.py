"""An edit that touches what was built: what it means is told first, with the ways on."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta

from flask import request
from sqlalchemy.orm import Session

from ...core.document import ResolvedScene, Scene
from ...core.hours import parse_hours
from ...core.plan import Plan, plan
from ...core.plan.bend import bend
from ...core.plan.consequences import Consequences, consequences
from ...core.schedule import ScheduleRequest, greedy_finish
from ...core.schedule.forecast import with_things
from ...store import marks as marks_of
from ...store import scenes, settings
from ...store.tables import SceneRow

WAYS = ("do", "keep", "copy")
HOUR = timedelta(hours=1)


class TouchesBuilt(Exception):  # noqa: N818 - reads as what it is
    """An edit that touches work that is done, and was not asked for in spite of it."""

    def __init__(self, told: Consequences, later_h: float, names: dict[str, str]) -> None:
        self.told, self.later_h, self.names = told, later_h, names
        super().__init__("; ".join(told.texts))


def way() -> str:
    """How the reader wants it done; empty where they have not been asked yet."""
    chosen = request.form.get("anyway", "")
    return chosen if chosen in WAYS else ""


def sent_again() -> Iterator[tuple[str, str]]:
    """What the form held, to be sent once more."""
    for name, values in request.form.lists():
        if name != "anyway":
            yield from ((name, value) for value in values)


def refuse_unasked(session: Session, row: SceneRow, changed: Scene, at: datetime) -> None:
    """Stop an edit that touches what was built, so that it can be told. Raises TouchesBuilt, Faults."""
    before = scenes.resolve(session, row.head)
    if not before.built:
        return
    after = scenes.validate_plannable(session, changed, row)
    lines = consequences(plan(before), plan(after))
    if lines:
        ends = [_finish(session, row, one, plan(one), at) for one in (before, after)]
        first, last = ends
        later = 0.0 if first is None or last is None else (last - first) / HOUR
        raise TouchesBuilt(lines, later, {one.id: one.name for one in after.materials})


def kept_as_built(session: Session, row: SceneRow, changed: Scene) -> Scene:
    """The edit with what lies there left as it lies. Raises Faults."""
    after = scenes.validate_plannable(session, changed, row)
    before = plan(scenes.resolve(session, row.head))
    return bend(changed, scenes.document(row.head), (after, plan(after)), before)


def _finish(session: Session, row: SceneRow, scene: ResolvedScene, planned: Plan, at: datetime) -> datetime | None:
    """When all would be ready by the next-ready rule, which is quick to find."""
    marks = marks_of.marks(marks_of.events(session, row))
    hours = parse_hours(settings.read(session).hours)
    return greedy_finish(planned.steps, with_things(ScheduleRequest(at, hours, marks=marks), {row.slug: scene}))
