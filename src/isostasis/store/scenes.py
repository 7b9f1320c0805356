"""Scenes and their revisions: save, undo, redo, history, copy. Nothing is ever lost.

A save names the revision it started from. If the scene has moved on since, the save is refused, and what was
to be saved is kept beside the history (`set_aside`), so that neither side loses anything.
"""

from __future__ import annotations

import json
import re
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, object_session

from ..core.catalogue import Bench, shipped
from ..core.document import Scene
from ..core.document import resolve as resolve_with
from ..core.fault import fault
from ..core.kinds import read
from ..core.plan import plan
from ..core.stages import cached_stage
from .blobs import MARK, grid_bytes, packed, whole
from .tables import RevisionRow, SceneRow

MOST_BYTES = 2_000_000
MOST_GRID_BYTES = 12_000_000


class NoSuchScene(LookupError):  # noqa: N818 - reads as what it is
    """There is no scene of that name."""


class Stale(Exception):  # noqa: N818 - reads as what it is
    """The scene has moved on since the revision that a save started from.

    `kept` is the revision in which the refused document stands, `head` the one that is current.
    """

    def __init__(self, base: int, head: RevisionRow, kept: RevisionRow) -> None:
        self.base, self.head, self.kept = base, head, kept
        super().__init__(
            f"This was changed elsewhere meanwhile (revision {base} is no longer the latest, {head.number} is). "
            f"Nothing is lost: yours is kept as revision {kept.number}."
        )


def slug_of(name: str, nameless: str = "scene") -> str:
    """A name as it stands in addresses and ids; `nameless` where no letter or digit of it can."""
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:60] or nameless


def dumped(document: dict[str, Any]) -> str:
    """A document as kept: compact JSON."""
    return json.dumps(document, separators=(",", ":"), ensure_ascii=False)


def checked(document: dict[str, Any], bench: Bench | None = None) -> Scene:
    """The resolved scene of a document that can be planned. Raises Faults."""
    heights = grid_bytes(document)
    if len(dumped(document)) - heights > MOST_BYTES:
        raise fault("document", f"it is larger than {MOST_BYTES / 1e6:g} MB", "leave something out, or split the scene")
    if heights > MOST_GRID_BYTES:
        raise fault("forms", f"its grids are larger than {MOST_GRID_BYTES / 1e6:g} MB", "thin one out, or take it away")
    scene = resolve_with(read(document), shipped(), bench)
    plan(scene)
    return scene


def find(session: Session, slug: str) -> SceneRow:
    """The scene of that slug. Raises NoSuchScene."""
    row = session.scalar(select(SceneRow).where(SceneRow.slug == slug))
    if row is None:
        raise NoSuchScene(slug)
    return row


def all_scenes(session: Session) -> list[SceneRow]:
    """Every scene, the oldest first."""
    return list(session.scalars(select(SceneRow).order_by(SceneRow.id)))


def document(revision: RevisionRow) -> dict[str, Any]:
    """A revision's document, whole."""
    data: dict[str, Any] = json.loads(revision.document)
    if MARK in revision.document:
        session = object_session(revision)
        assert session is not None
        data = whole(session, data)
    return data


def resolve(revision: RevisionRow, bench: Bench | None = None) -> Scene:
    """The resolved document of a revision: labels embedded, the user's own things where it gives none."""
    text = revision.document
    return _resolved(dumped(document(revision)) if MARK in text else text, bench)


@cached_stage
def _resolved(text: str, bench: Bench | None) -> Scene:
    """By the document's own text, so that a preview need not read the same document again."""
    return resolve_with(read(text), shipped(), bench)


def exported(revision: RevisionRow, bench: Bench | None = None) -> dict[str, Any]:
    """A revision's resolved document as data: what `isostasis plan` reads to give the figures of the screen."""
    data: dict[str, Any] = resolve(revision, bench).model_dump(mode="json", exclude_none=True)
    return data


def _add(
    session: Session,
    scene: SceneRow,
    parent: RevisionRow | None,
    text: str,
    note: str,
    now: datetime,
    *,
    aside: bool = False,
) -> RevisionRow:
    number = 1 + (session.scalar(select(func.max(RevisionRow.number)).where(RevisionRow.scene_id == scene.id)) or 0)
    row = RevisionRow(
        scene_id=scene.id,
        number=number,
        parent_id=parent.id if parent else None,
        document=text,
        note=note[:200],
        set_aside=aside,
        created_at=now,
    )
    session.add(row)
    session.flush()
    return row


def create(session: Session, data: dict[str, Any], note: str, now: datetime) -> SceneRow:
    """A new scene from a document that can be planned. Raises Faults."""
    checked(data)
    wanted = slug = slug_of(data["name"])
    number = 1
    while session.scalar(select(SceneRow.id).where(SceneRow.slug == slug)):
        number += 1
        slug = f"{wanted}-{number}"
    scene = SceneRow(slug=slug, created_at=now)
    session.add(scene)
    session.flush()
    scene.head = _add(session, scene, None, dumped(packed(session, data)), note, now)
    session.flush()
    return scene


def save(session: Session, scene: SceneRow, base: int, data: dict[str, Any], note: str, now: datetime) -> RevisionRow:
    """A new revision on top of revision number `base`. Raises Faults, or returns a row that is set aside.

    The caller commits first and then tells the user (`Stale`), so that the refused document is kept.
    """
    checked(data)
    head, text = scene.head, dumped(packed(session, data))
    if base != head.number:
        parent = session.scalar(select(RevisionRow).where(RevisionRow.scene_id == scene.id, RevisionRow.number == base))
        return _add(session, scene, parent or head, text, f"Set aside: {note}", now, aside=True)
    if text == head.document:
        return head
    scene.head = _add(session, scene, head, text, note, now)
    session.flush()
    return scene.head


def can_undo(scene: SceneRow) -> bool:
    """Whether there is a revision before this one."""
    return scene.head.parent_id is not None


def next_of(session: Session, scene: SceneRow) -> RevisionRow | None:
    """The revision that redo would bring: the newest made from the current one."""
    return session.scalar(
        select(RevisionRow)
        .where(RevisionRow.parent_id == scene.head.id, RevisionRow.set_aside.is_(False))
        .order_by(RevisionRow.id.desc())
        .limit(1)
    )


def undo(session: Session, scene: SceneRow) -> RevisionRow:
    """Go back to the revision that this one was made from; stays where there is none."""
    parent = session.get(RevisionRow, scene.head.parent_id) if scene.head.parent_id else None
    if parent:
        scene.head = parent
    return scene.head


def redo(session: Session, scene: SceneRow) -> RevisionRow:
    """Go forward again; stays where nothing was undone."""
    ahead = next_of(session, scene)
    if ahead:
        scene.head = ahead
    return scene.head


def history(session: Session, scene: SceneRow) -> list[RevisionRow]:
    """Every revision, the newest first; refused saves too."""
    return list(
        session.scalars(select(RevisionRow).where(RevisionRow.scene_id == scene.id).order_by(RevisionRow.number.desc()))
    )


def revision(session: Session, scene: SceneRow, number: int) -> RevisionRow:
    """The scene's revision of that number. Raises NoSuchScene."""
    row = session.scalar(select(RevisionRow).where(RevisionRow.scene_id == scene.id, RevisionRow.number == number))
    if row is None:
        raise NoSuchScene(f"{scene.slug} has no revision {number}")
    return row


def restore(session: Session, scene: SceneRow, number: int, now: datetime) -> RevisionRow:
    """Bring an old or set-aside revision back, as a new one on top. Raises NoSuchScene, Faults."""
    old = revision(session, scene, number)
    return save(session, scene, scene.head.number, document(old), f"Back to revision {number}", now)


def copy(session: Session, scene: SceneRow, now: datetime) -> SceneRow:
    """A scene of its own that starts as this one stands."""
    data = document(scene.head)
    taken = {document(other.head)["name"] for other in all_scenes(session)}
    name = next(
        name
        for number in range(1, 10_000)
        if (name := f"{data['name'][:70]}, copy{f' {number}' if number > 1 else ''}") not in taken
    )
    return create(session, {**data, "name": name}, f"Copied from {data['name']}", now)
