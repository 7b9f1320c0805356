"""Marks of steps as they were entered: which of them hold, and what they come to.

The order of entry decides what holds, not the time that is written on a mark; taking back takes back the last.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.schedule import Marks
from .kept import once
from .tables import SceneRow, StepEventRow

BACK = "undone"
LAID = ("done", "part")  # marks that leave a record of what was built
KINDS = ("started", "done", "skipped", "not-yet", "ready", "paused")
OF_CUP = {"cup-not-yet": "not-yet", "cup-ready": "ready"}  # touches of the kept cup, and what they say of the layer


@once
def events(session: Session, scene: SceneRow | None = None) -> list[StepEventRow]:
    """All marks (of one scene, or of all), in the order in which they were entered."""
    wanted = select(StepEventRow).order_by(StepEventRow.id)
    return list(session.scalars(wanted if scene is None else wanted.where(StepEventRow.scene_id == scene.id)))


def holding(marked: Iterable[StepEventRow]) -> dict[str, list[StepEventRow]]:
    """For each step the marks that were not taken back, in the order of entry."""
    held: dict[str, list[StepEventRow]] = {}
    for event in marked:
        if event.what != BACK:
            held.setdefault(event.step, []).append(event)
        elif held.get(event.step):
            held[event.step].pop()
    return {step: kept for step, kept in held.items() if kept}


def laid(marked: Iterable[StepEventRow]) -> list[StepEventRow]:
    """The marks by which something was built and holds: the last of each step, in the order of their times."""
    last = [
        next((one for one in reversed(kept) if one.what in LAID), None)
        for kept in holding(marked).values()
        if kept[-1].what not in ("started", "paused")
    ]
    return sorted((one for one in last if one is not None), key=lambda one: (one.at, one.id))


def marks(marked: Iterable[StepEventRow]) -> Marks:
    """What the marks of a scene come to, step by step: the last holds. A part of a step that was done is done; what is
    left of it is a step of its own."""
    kinds: dict[str, dict[str, datetime]] = {what: {} for what in KINDS}
    for step, kept in holding(marked).items():
        for event in kept:
            what = "done" if event.what == "part" else event.what
            if what in OF_CUP:
                _bound(kinds[OF_CUP[what]], step, datetime.fromisoformat(event.planned["stands_for"]), OF_CUP[what])
                continue
            if what == "started":
                begun = kinds["started"].get(step) if step in kinds["paused"] else None
                for known in kinds.values():
                    known.pop(step, None)
                if begun is not None:  # it goes on: begun is begun
                    kinds["started"][step] = begun
                    continue
            elif what in ("done", "skipped"):
                for other in ("done", "skipped", "not-yet", "ready", "paused"):
                    kinds[other].pop(step, None)
            kinds[what][step] = event.at
    return Marks(*(kinds[kind] for kind in KINDS))


def _bound(known: dict[str, datetime], step: str, at: datetime, what: str) -> None:
    """Keep the tighter of two bounds."""
    held = known.get(step)
    if held is None or (at > held if what == "not-yet" else at < held):
        known[step] = at
