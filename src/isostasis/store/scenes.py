"""Scenes and their revisions: save, undo, redo, history, copy. Nothing is ever lost.

A save names the revision it started from. If the scene has moved on since, the save is refused, and what was
to be saved is kept beside the history (`set_aside`), so that neither side loses anything.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload, object_session

from ..core.catalogue import Bench, Catalogue
from ..core.document import ResolvedScene, Scene
from ..core.document import resolve as resolve_with
from ..core.document.edit import set_fields, slug_of, written
from ..core.document.read import check
from ..core.fault import Fault, Faults, fault
from ..core.plan import plan
from ..core.reading import read
from ..core.stages import cached_stage
from . import built, clock, labels, pictures, settings
from .blobs import MARK, grid_bytes, packed, whole
from .kept import kept, once
from .tables import RevisionRow, SceneRow

MAX_BYTES = 2_000_000
MAX_GRID_BYTES = 12_000_000
_AT_HAND = SceneRow.archived_at.is_(None), SceneRow.binned_at.is_(None)


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


def to_json(document: dict[str, Any]) -> str:
    """A document as kept: compact JSON."""
    return json.dumps(document, separators=(",", ":"), ensure_ascii=False)


def validate_plannable(session: Session, scene: Scene, row: SceneRow | None = None) -> ResolvedScene:
    """The resolved scene of a document that can be planned with all that the pages will use, what was built of it (its
    `row`) too. Raises Faults."""
    data = written(scene)
    heights, text = grid_bytes(data), to_json(data)
    if len(text) - heights > MAX_BYTES:
        raise fault("document", f"it is larger than {MAX_BYTES / 1e6:g} MB", "leave something out, or split the scene")
    if heights > MAX_GRID_BYTES:
        raise fault("forms", f"its grids are larger than {MAX_GRID_BYTES / 1e6:g} MB", "thin one out, or take it away")
    check(scene)
    resolved = _with_built(session, row, text)
    plan(resolved)
    return resolved


@once
def find(session: Session, slug: str) -> SceneRow:
    """The scene of that slug, archived or not; nobody else may write to it until a writing session ends. Raises
    NoSuchScene, also for one in the bin."""
    wanted = select(SceneRow).where(SceneRow.slug == slug, SceneRow.binned_at.is_(None))
    if session.info.get("writes"):  # a file is locked whole; of a server the row, and its head is read after that
        wanted = wanted.with_for_update().execution_options(populate_existing=True)
    else:
        wanted = wanted.options(joinedload(SceneRow.head))
    row = session.scalar(wanted)
    if row is None:
        raise NoSuchScene(slug)
    return row


def all_scenes(session: Session) -> list[SceneRow]:
    """Every scene that is not put away, the oldest first."""
    return list(session.scalars(select(SceneRow).where(*_AT_HAND).order_by(SceneRow.id)))


def named(session: Session) -> list[tuple[str, str]]:
    """Address and name of every scene that is not put away, the oldest first."""
    return [
        (row.slug, name_of(row.head))
        for row in session.scalars(
            select(SceneRow).options(joinedload(SceneRow.head)).where(*_AT_HAND).order_by(SceneRow.id)
        )
    ]


def name_of(revision: RevisionRow) -> str:
    """The name in a revision's document, whether or not the rest can be read."""
    return _name(revision.document)


@cached_stage
def _name(text: str) -> str:
    return str(json.loads(text).get("name", ""))


def data_of(revision: RevisionRow) -> dict[str, Any]:
    """A revision's document as it was written, whole, as JSON data."""
    data: dict[str, Any] = json.loads(revision.document)
    if MARK in revision.document:
        session = object_session(revision)
        assert session is not None
        data = whole(session, data)
    return data


def document(revision: RevisionRow) -> Scene:
    """A revision's document as it was written. Raises Faults for one that this version cannot read."""
    return _document(_text_of(revision))


def _readable(revision: RevisionRow) -> Scene | None:
    try:
        return document(revision)
    except Faults:
        return None


def _text_of(revision: RevisionRow) -> str:
    return to_json(data_of(revision)) if MARK in revision.document else revision.document


@cached_stage
def _document(text: str) -> Scene:
    """By the document's own text, so that a preview need not read the same document again."""
    return read(text)


@kept
def resolve(session: Session, revision: RevisionRow) -> ResolvedScene:
    """The resolved document of a revision: labels and rules embedded, the user's own things where it gives none.
    With what was built of the scene. Raises Faults."""
    row = session.get(SceneRow, revision.scene_id)
    assert row is not None
    return _with_built(session, row, _text_of(revision))


def legible(session: Session) -> Iterator[tuple[SceneRow, ResolvedScene]]:
    """Every scene that is not put away, resolved, the oldest first; one that this version cannot read is left out, and
    says so on its own page."""
    for row in all_scenes(session):
        try:
            scene = resolve(session, row.head)
        except Faults:
            continue
        yield row, scene


@kept
def resolve_as_written(session: Session, revision: RevisionRow, bench: Bench) -> ResolvedScene:
    """The resolved document of a revision alone, on a bench, without what was built. Raises Faults."""
    return _resolved(_text_of(revision), labels.catalogue(session), bench)


@kept
def as_written(session: Session, slug: str) -> ResolvedScene:
    """The resolved document of a scene as it stands, on the user's bench, without what was built. Raises NoSuchScene,
    Faults."""
    return resolve_as_written(session, find(session, slug).head, settings.read(session).bench)


def _with_built(session: Session, row: SceneRow | None, text: str) -> ResolvedScene:
    """The resolved scene of a document's text, with what was built of it."""
    catalogue, bench = labels.catalogue(session), settings.read(session).bench
    rows = [] if row is None else built.in_force(session, row)
    if not rows:
        return _resolved(text, catalogue, bench)
    records, grounds = [], {}
    for entry, record in rows:
        given = built.given_ground(entry)
        records.append(record)
        if record.ground not in grounds:
            revision = session.get(RevisionRow, entry.revision_id)
            assert revision is not None
            grounds[record.ground] = given or built.of_revision(document(revision), revision)
    return _resolved(text, catalogue, bench).model_copy(
        update={"built": tuple(records), "built_on": tuple(grounds.values())}
    )


@cached_stage
def _resolved(text: str, catalogue: Catalogue, bench: Bench) -> ResolvedScene:
    return resolve_with(_document(text), catalogue, bench)


def exported(session: Session, revision: RevisionRow) -> dict[str, Any]:
    """A revision's resolved document as data: what `isostasis plan` reads to give the figures of the screen. Says of
    its photo that it is left out."""
    data: dict[str, Any] = resolve(session, revision).model_dump(mode="json", exclude_none=True)
    if "photo" in data:
        data["photo"]["left_out"] = True
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


def create(session: Session, scene: Scene, note: str, now: datetime) -> SceneRow:
    """A new scene from a document that can be planned. Raises Faults."""
    scene = pictures.with_pictures(session, scene)
    validate_plannable(session, scene)
    wanted = slug = slug_of(scene.name, "scene")
    number = 1
    while session.scalar(select(SceneRow.id).where(SceneRow.slug == slug)):
        number += 1
        slug = f"{wanted}-{number}"
    row = SceneRow(slug=slug, created_at=now)
    session.add(row)
    session.flush()
    clock.add_clock(session, row)
    meant = scene.model_copy(update={"built": (), "built_on": ()}) if scene.built else scene
    row.head = _add(session, row, None, to_json(packed(session, written(meant))), note, now)
    session.flush()
    built.take_in(session, row, scene)
    return row


def save(session: Session, row: SceneRow, base: int, scene: Scene, note: str, now: datetime) -> RevisionRow:
    """A new revision on top of revision number `base`. Raises Faults, or returns a row that is set aside.

    The caller commits first and then tells the user (`Stale`), so that the refused document is kept. What changes
    nothing makes no revision.
    """
    validate_plannable(session, scene, row)
    head, text = row.head, to_json(packed(session, written(scene)))
    if base != head.number:
        parent = session.scalar(select(RevisionRow).where(RevisionRow.scene_id == row.id, RevisionRow.number == base))
        return _add(session, row, parent or head, text, f"Set aside: {note}", now, aside=True)
    if text == head.document or scene == _readable(head):
        return head
    row.head = _add(session, row, head, text, note, now)
    session.flush()
    return row.head


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


def restore(session: Session, row: SceneRow, number: int, now: datetime) -> RevisionRow:
    """Bring an old or set-aside revision back, as a new one on top. Raises NoSuchScene, Faults."""
    old = document(revision(session, row, number))
    return save(session, row, row.head.number, old, f"Back to revision {number}", now)


def copy(session: Session, row: SceneRow, now: datetime, made: Scene | None = None) -> SceneRow:
    """A scene of its own that starts as this one stands, or as what was `made` of it."""
    scene = made or document(row.head)
    taken = {name for _, name in named(session)}
    name = next(
        name
        for number in range(1, 10_000)
        if (name := f"{scene.name[:70]}, copy{f' {number}' if number > 1 else ''}") not in taken
    )
    renamed = set_fields(scene, {"name": name})
    return create(session, renamed, f"Copied from {scene.name}", now)


def refuse_bench(session: Session, bench: Bench) -> None:
    """Refuse a bench with which a scene that can be planned now could not be planned. Raises Faults that name it."""
    _refuse(session, lambda scene: resolve_with(scene, labels.catalogue(session), bench))


def refuse_labels(session: Session, known: Catalogue) -> None:
    """Refuse labels with which a scene that can be planned now could not be. Raises Faults that name it."""
    bench = settings.read(session).bench
    _refuse(session, lambda scene: resolve_with(scene, known, bench))


def _refuse(session: Session, otherwise: Callable[[Scene], ResolvedScene]) -> None:
    faults: list[Fault] = []
    for row in all_scenes(session):
        try:
            plan(resolve(session, row.head))
        except Faults:
            continue  # it is broken as it is, and says so on its own page
        try:
            plan(otherwise(document(row.head)))
        except Faults as broken:
            name, first = document(row.head).name, broken.faults[0]
            faults.append(Fault(first.where, f"“{name}” could not be planned any more: {first.what}", first.right))
    if faults:
        raise Faults(faults)
