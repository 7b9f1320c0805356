"""One step back and one forward again: over marks as over revisions, in the order in which they were made.

A mark is undone before the revision on which it was made; it is taken back by one more mark, as on the Clock.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from . import built, scenes, shelf
from .marks import BACK, events
from .tables import RevisionRow, SceneRow, StepEventRow

RECENT = timedelta(hours=24)  # older marks are mended on the Clock, each by itself


def _standing(session: Session, scene: SceneRow) -> tuple[list[StepEventRow], list[StepEventRow]]:
    """Marks that hold, and those that were taken back and could be made again, each in their order."""
    held: list[StepEventRow] = []
    back: list[StepEventRow] = []
    for event in events(session, scene):
        if event.what == BACK:
            last = next((one for one in reversed(held) if one.step == event.step), None)
            if last is not None:
                held.remove(last)
                back.append(last)
        else:
            again = back and (back[-1].step, back[-1].what, back[-1].at) == (event.step, event.what, event.at)
            back = back[:-1] if again else []
            held.append(event)
    return held, back


@dataclass(frozen=True)
class Next:
    """The marks that undo and redo would meet; None where they would meet a revision, or nothing."""

    undo: StepEventRow | None
    redo: StepEventRow | None


def next_marks(session: Session, scene: SceneRow, now: datetime) -> Next:
    """The last mark made on the revision that stands, if it is of the last day, and the one taken back last on it."""
    held, back = _standing(session, scene)
    last = held[-1] if held else None
    undo = last if last and last.revision_id == scene.head_id and now - last.at < RECENT else None
    return Next(undo, back[-1] if back and back[-1].revision_id == scene.head_id else None)


def can(session: Session, scene: SceneRow, now: datetime) -> tuple[bool, bool]:
    """Whether there is anything to undo, and to redo."""
    marks = next_marks(session, scene, now)
    return (
        marks.undo is not None or scenes.can_undo(scene),
        marks.redo is not None or scenes.next_of(session, scene) is not None,
    )


def _like(event: StepEventRow, what: str, at: datetime) -> StepEventRow:
    return StepEventRow(
        scene_id=event.scene_id, revision_id=event.revision_id, step=event.step, lift=event.lift, what=what,
        planned=event.planned, at=at, note=event.note if what != BACK else "",
    )  # fmt: skip


def undo(session: Session, scene: SceneRow, now: datetime) -> StepEventRow | RevisionRow | None:
    """Take the last step back; returns what is undone, None where there is nothing."""
    event = next_marks(session, scene, now).undo
    if event is not None:
        session.add(_like(event, BACK, now))
        return event
    before = scene.head
    return before if scenes.undo(session, scene) is not before else None


def redo(session: Session, scene: SceneRow, now: datetime) -> StepEventRow | RevisionRow | None:
    """Make the last step again that was undone; returns it, None where there is nothing."""
    event = next_marks(session, scene, now).redo
    if event is None:
        before = scene.head
        return again if (again := scenes.redo(session, scene)) is not before else None
    again_made = _like(event, event.what, event.at)
    session.add(again_made)
    session.flush()
    shelf.book_again(session, event, again_made, 1.0, event.at)
    known = built.row_of(session, event)
    if known is not None:
        record = built.record_of(known).model_copy(update={"id": built.name_of(again_made)})
        built.add(session, again_made, record, built.given_ground(known))
    return event
