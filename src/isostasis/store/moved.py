"""Waits that the logged room has moved: what was laid or mixed is worked out anew along the readings since then.

By the plan of the revision on which it was laid, in the room as it is known now: by the same laws as at first. Kept, so
that the wet line, the Clock, the plan and its export say the same; the record itself stays as it was written.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from ..core.document import ResolvedScene, Scene
from ..core.document.scene import Reading, Room
from ..core.fault import Faults
from ..core.plan import plan
from ..core.schedule.forecast import steps_along
from . import built, logbook, readings, scenes, settings
from .tables import BatchRow, BuiltRow, MovedWaitRow, RevisionRow, SceneRow

NEAR = 0.005  # a wait that is moved by no more stays as it was


def moves(session: Session, scene: SceneRow, now: datetime) -> list[MovedWaitRow]:
    """What is wet or in a cup, worked out anew along the readings of the room since: the waits that are moved by it, to
    be kept. Raises Faults for a document that this version cannot read."""
    head = scenes.document(scene.head)
    moved = []
    for row, record in built.in_force(session, scene):
        if not record.lift or (record.wait_h is not None and record.ended + timedelta(hours=record.wait_h) <= now):
            continue
        room = _since(session, head, record.lift.place, record.ended, now)
        known = None if room is None else _laid_on(session, row, room, record.lift.place)
        if known is None:
            continue
        step = next((one for one in steps_along(known)(record.ended) if one.id == record.step), None)
        if step is not None and _differs(record.wait_h, step.wait_h):
            moved.append(MovedWaitRow(scene_id=scene.id, event_id=row.event_id, hours=step.wait_h, at=now))
    for cup in logbook.batches(session, scene):
        room = None if cup.finished_at is not None else _since(session, head, None, cup.started_at, now)
        mixed = None if room is None else _laid_on(session, cup, room, None)
        batch = None if mixed is None else next((one for one in plan(mixed).batches if one.id == cup.batch), None)
        if batch is not None and batch.working_min and _differs(logbook.working_min(session, cup), batch.working_min):
            hours = batch.working_min / 60
            moved.append(MovedWaitRow(scene_id=scene.id, batch_id=cup.id, hours=hours, at=now))
    return moved


def _since(session: Session, scene: Scene, place: str | None, begun: datetime, now: datetime) -> Room | None:
    """A place's room from a moment on, as it was read by hand or, at the bench, by a probe; None where it was not read
    since."""
    room = next((one.room for one in scene.places if one.id == place), scene.room)
    written = [one for one in room.series if one.at.tzinfo is not None]
    probed = readings.room(session, begun, now) if room is scene.room else []
    if not any(begun < one.at <= now for one in (*written, *probed)):
        return None
    first = Reading(at=begun, temp_c=room.temp_c, rh=room.rh)
    if probed:
        before = [one for one in written if one.at < probed[0].at]
        written = [*before, *probed, *(one for one in written if one.at > probed[-1].at)]
    if written[0].at > begun:
        written = [first, *written]
    return room.model_copy(update={"series": tuple(written)}).since(begun)


def _laid_on(session: Session, row: BuiltRow | BatchRow, room: Room, place: str | None) -> ResolvedScene | None:
    """The scene of a row's own revision in another room; None where that can be planned no more."""
    revision = session.get(RevisionRow, row.revision_id)
    if revision is None:
        return None
    try:
        scene = scenes.resolve_as_written(session, revision, settings.read(session).bench)
        if place is None:
            scene = scene.model_copy(update={"room": room})
        else:
            places = tuple(one.model_copy(update={"room": room}) if one.id == place else one for one in scene.places)
            scene = scene.model_copy(update={"places": places})
        plan(scene)
    except Faults:
        return None
    return scene


def _differs(was: float | None, is_now: float | None) -> bool:
    if was is None or is_now is None:
        return was is not is_now
    return abs(is_now - was) > NEAR * max(was, 1e-9)
