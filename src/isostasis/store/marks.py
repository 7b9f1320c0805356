"""Marks of steps as they were entered: which of them hold, and what they come to.

The order of entry decides what holds, not the time that is written on a mark; taking back takes back the last.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.schedule import Marks
from .tables import SceneRow, StepEventRow

BACK = "undone"
LAID = ("done", "part")  # marks that leave a record of what was built
KINDS = ("started", "done", "skipped", "not-yet", "ready")


def events(session: Session, scene: SceneRow | None = None) -> list[StepEventRow]:
    """All marks (of one scene, or of all), in the order in which they were entered."""
    wanted = select(StepEventRow).order_by(StepEventRow.id)
    return list(session.scalars(wanted if scene is None else wanted.where(StepEventRow.scene_id == scene.id)))


def holding(found: Iterable[StepEventRow]) -> dict[str, list[StepEventRow]]:
    """For each step the marks that were not taken back, in the order of entry."""
    held: dict[str, list[StepEventRow]] = {}
    for event in found:
        if event.what != BACK:
            held.setdefault(event.step, []).append(event)
        elif held.get(event.step):
            held[event.step].pop()
    return {step: kept for step, kept in held.items() if kept}


def laid(found: Iterable[StepEventRow]) -> list[StepEventRow]:
    """The marks by which something was built and holds: the last of each step, in the order of their times."""
    last = [
        next((one for one in reversed(kept) if one.what in LAID), None)
        for kept in holding(found).values()
        if kept[-1].what != "started"
    ]
    return sorted((one for one in last if one is not None), key=lambda one: (one.at, one.id))


def marks(found: Iterable[StepEventRow]) -> Marks:
    """What the marks of a scene come to, step by step: the last holds. A part of a step that was done is done; what is
    left of it is a step of its own."""
    kinds: dict[str, dict[str, datetime]] = {what: {} for what in KINDS}
    for step, kept in holding(found).items():
        for event in kept:
            what = "done" if event.what == "part" else event.what
            if what == "started":
                for known in kinds.values():
                    known.pop(step, None)
            elif what in ("done", "skipped"):
                for other in ("done", "skipped", "not-yet", "ready"):
                    kinds[other].pop(step, None)
            kinds[what][step] = event.at
    return Marks(kinds["started"], kinds["done"], kinds["skipped"], kinds["not-yet"], kinds["ready"])
