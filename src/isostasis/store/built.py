"""Records of what was built: one for each mark by which something was laid, and the ground on which it was."""

from __future__ import annotations

import json
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.document import Scene
from ..core.document.built import Built, BuiltGround
from ..core.plan.record import ground_of
from ..core.reading import built_model, ground_model
from ..core.stages import cached_stage
from . import devices, marks
from .kept import once
from .tables import BuiltRow, MovedWaitRow, RevisionRow, SceneRow, StepEventRow


def name_of(event: StepEventRow) -> str:
    """The id of the record that a mark makes."""
    return f"b{event.id}"


def ground_name(revision: RevisionRow) -> str:
    """The id of the ground as it was in a revision."""
    return f"r{revision.number}"


def add(session: Session, event: StepEventRow, record: Built, ground: BuiltGround | None = None) -> BuiltRow:
    """Keep the record that a mark makes; `ground` where it is not that of the mark's own revision."""
    row = BuiltRow(
        scene_id=event.scene_id,
        event_id=event.id,
        revision_id=event.revision_id,
        record=_text(record),
        ground=None if ground is None else _text(ground),
    )
    session.add(row)
    session.flush()
    return row


def _text(entry: Built | BuiltGround) -> str:
    return json.dumps(entry.model_dump(mode="json", exclude_none=True, by_alias=True), separators=(",", ":"))


@once
def rows_in_force(session: Session, scene: SceneRow) -> list[BuiltRow]:
    """The records of the marks that hold, in the order of their times."""
    held = {event.id: place for place, event in enumerate(marks.laid(marks.events(session, scene)))}
    rows = session.scalars(select(BuiltRow).where(BuiltRow.scene_id == scene.id))
    return sorted((row for row in rows if row.event_id in held), key=lambda row: held[row.event_id])


@once
def in_force(session: Session, scene: SceneRow) -> list[tuple[BuiltRow, Built]]:
    """The records of the marks that hold, in the order of their times, with the waits that hold now: hours and windows
    stretched by as much as the room has moved them."""
    rows = rows_in_force(session, scene)
    wanted = [row.event_id for row in rows]
    known = session.execute(
        select(MovedWaitRow.event_id, MovedWaitRow.hours)
        .where(MovedWaitRow.event_id.in_(wanted))
        .order_by(MovedWaitRow.id)
    )
    hours = {one.event_id: one.hours for one in known}
    entries = []
    for row in rows:
        record = record_of(row)
        entries.append((row, _stretched(record, hours[row.event_id]) if row.event_id in hours else record))
    return entries


def _stretched(record: Built, wait_h: float | None) -> Built:
    """A record whose wait is another, its other hours and its windows in proportion."""
    if wait_h is None or not record.wait_h:
        return record.model_copy(update={"wait_h": wait_h})
    times = wait_h / record.wait_h

    def scaled(hours: float | None) -> float | None:
        return None if hours is None else hours * times

    windows = tuple(
        one.model_copy(update={"from_h": one.from_h * times, "to_h": scaled(one.to_h)}) for one in record.windows
    )
    return record.model_copy(
        update={"wait_h": wait_h, "next_h": scaled(record.next_h), "full_h": scaled(record.full_h),
                "usable_h": scaled(record.usable_h), "windows": windows}
    )  # fmt: skip


def row_of(session: Session, event: StepEventRow) -> BuiltRow | None:
    """The record of a mark."""
    return session.scalar(select(BuiltRow).where(BuiltRow.event_id == event.id))


def by_device(session: Session, scene: SceneRow) -> dict[str, str]:
    """The name of the device that made each record, by the record's id; none for those of this machine itself."""
    names = devices.names(session)
    return {name_of(one): names[one.device_id] for one in marks.events(session, scene) if one.device_id is not None}


def record_of(row: BuiltRow) -> Built:
    """A record as the core knows it."""
    return _record(row.record)


@cached_stage
def _record(text: str) -> Built:
    data: dict[str, Any] = json.loads(text)
    made: Built = built_model().model_validate(data)
    return made


@cached_stage
def _ground(text: str) -> BuiltGround:
    made: BuiltGround = ground_model().model_validate(json.loads(text))
    return made


def given_ground(row: BuiltRow) -> BuiltGround | None:
    """The ground that came with a record from elsewhere; None: that of its revision."""
    return None if row.ground is None else _ground(row.ground)


def of_revision(scene: Scene, revision: RevisionRow) -> BuiltGround:
    """The ground as it was in a revision, of whose document `scene` is."""
    return ground_of(scene, ground_name(revision))


def take_in(session: Session, row: SceneRow, scene: Scene) -> None:
    """The records that came with a document, as marks of its scene."""
    grounds = {one.id: one for one in scene.built_on}
    names: dict[str, str] = {}
    for entry in scene.built:
        event = StepEventRow(
            scene_id=row.id, revision_id=row.head_id or row.head.id, step=entry.step,
            lift=entry.lift.id if entry.lift else None, what="done" if entry.share == 1 else "part",
            planned={"do": entry.do, "title": entry.title, "wait_h": entry.wait_h, "hands_on_min": entry.hands_on_min},
            at=entry.ended, note=entry.note,
        )  # fmt: skip
        session.add(event)
        session.flush()
        names[entry.id] = name_of(event)
        removes = tuple(one.model_copy(update={"of": names.get(one.of, one.of)}) for one in entry.removes)
        kept = entry.model_copy(update={"id": names[entry.id], "removes": removes})
        add(session, event, kept, grounds.get(entry.ground))
