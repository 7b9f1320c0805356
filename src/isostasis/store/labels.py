"""What tins say, for whoever plans: the labels that come with the program, and the user's own, which win.

Every version of a label is kept; the newest holds. One without data says that the shipped label holds again, or that
there is none of that name any more.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Literal

from pydantic import ValidationError
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.catalogue import Catalogue, Factor, Material, Mix, shipped
from ..core.document.read import faults_of
from ..core.fault import fault
from ..core.stages import cached_stage
from . import records
from .kept import kept
from .tables import LabelPhotoRow, LabelRow

Kind = Literal["material", "mix"]
MODELS: dict[Kind, type[Material] | type[Mix]] = {"material": Material, "mix": Mix}
MAX_OWN = 2000
Label = Material | Mix
_NEWEST = LabelRow.id.in_(select(func.max(LabelRow.id)).group_by(LabelRow.kind, LabelRow.name))


@kept
def catalogue(session: Session) -> Catalogue:
    """The labels, rules and factors in force for everything in this database: one value as long as none changes."""
    return _joined(_own(session), records.in_force(session))


@kept
def labelled(session: Session) -> Catalogue:
    """The labels and rules in force, without the factors that records teach: a write, which reads anew, asks no more
    than it needs."""
    return _joined(_own(session), ())


def _own(session: Session) -> tuple[tuple[str, str], ...]:
    rows = session.execute(select(LabelRow.kind, LabelRow.data).where(_NEWEST).order_by(LabelRow.id))
    return tuple((kind, data) for kind, data in rows if data)


@cached_stage
def _joined(rows: tuple[tuple[str, str], ...], factors: tuple[Factor, ...]) -> Catalogue:
    if not rows and not factors:
        return shipped()
    by_kind: dict[str, list[Any]] = {"material": [], "mix": []}
    for kind, data in rows:
        try:
            by_kind[kind].append(MODELS["material" if kind == "material" else "mix"].model_validate_json(data))
        except ValidationError:  # of an earlier version: the shipped one holds meanwhile
            continue
    return replace(shipped().with_own(by_kind["material"], by_kind["mix"]), factors=factors)


def in_force(session: Session) -> list[LabelRow]:
    """The newest version of each label of one's own, in the order of their names."""
    return list(session.scalars(select(LabelRow).where(_NEWEST).order_by(LabelRow.kind, LabelRow.name)))


def versions(session: Session, kind: Kind, name: str) -> list[LabelRow]:
    """Every version of a label of one's own, the newest first."""
    wanted = select(LabelRow).where(LabelRow.kind == kind, LabelRow.name == name)
    return list(session.scalars(wanted.order_by(LabelRow.version.desc())))


def entry_of(known: Catalogue, kind: Kind, name: str) -> Label | None:
    """The label of that kind and id."""
    return known.materials.get(name) if kind == "material" else known.mixes.get(name)


def as_shipped(kind: Kind, name: str) -> Label | None:
    """The label of that kind and id that comes with the program."""
    return entry_of(shipped(), kind, name)


def read(kind: Kind, data: dict[str, Any]) -> Label:
    """A label from its data. Raises Faults with its fields as paths."""
    try:
        return MODELS[kind].model_validate(data)
    except ValidationError as error:
        raise faults_of(error, data) from None


def with_label(known: Catalogue, label: Label) -> Catalogue:
    """The catalogue with one label as it would be."""
    return known.with_own([label], []) if isinstance(label, Material) else known.with_own([], [label])


def keep(
    session: Session, label: Label, now: datetime, made_from: str | None = None, made_of: list[Any] | None = None
) -> LabelRow:
    """Keep a label as one's own: a version of its own, unless it is what holds. `made_of`: (kind, id, version) of what
    it was put together from. Raises Faults."""
    kind: Kind = "material" if isinstance(label, Material) else "mix"
    known = versions(session, kind, label.id)
    if not known and len(in_force(session)) >= MAX_OWN:
        raise fault("labels", f"there are {MAX_OWN} of your own already", "take some away first")
    text = label.model_dump_json(exclude_unset=True)
    if known and known[0].data is not None and json.loads(known[0].data) == json.loads(text):
        return known[0]
    row = _add(session, (kind, label.id), known, text, now, made_from or (known[0].made_from if known else label.id))
    row.made_of = made_of or (known[0].made_of if known else None)
    return row


def let_go(session: Session, kind: Kind, name: str, now: datetime) -> None:
    """The shipped label holds again; one of a name of its own is gone. Earlier versions stay readable."""
    known = versions(session, kind, name)
    if known and known[0].data is not None:
        _add(session, (kind, name), known, None, now, known[0].made_from)


def version_of(session: Session, kind: Kind, name: str) -> int:
    """The version of a label that holds; 0 is the shipped one."""
    known = versions(session, kind, name)
    return known[0].version if known and known[0].data is not None else 0


def photo_of(session: Session, kind: Kind, name: str) -> str | None:
    """The digest of a tin's photo."""
    row = session.get(LabelPhotoRow, (kind, name))
    return row.digest if row else None


def set_photo(session: Session, kind: Kind, name: str, digest: str | None) -> None:
    """A tin's photo, or none."""
    row = session.get(LabelPhotoRow, (kind, name))
    if digest is None:
        if row is not None:
            session.delete(row)
    elif row is None:
        session.add(LabelPhotoRow(kind=kind, name=name, digest=digest))
    else:
        row.digest = digest
    session.flush()


@dataclass(frozen=True)
class Change:
    """A label that says something else than before: when, which, and field by field before and after."""

    at: datetime
    kind: Kind
    label: str
    name: str
    fields: tuple[tuple[str, Any, Any], ...]


def changes(session: Session, since: datetime, used: Iterable[str]) -> list[Change]:
    """What labels of these ids say otherwise since a moment, the newest first."""
    wanted = set(used)
    changed = []
    rows = session.scalars(select(LabelRow).where(LabelRow.made_at > since).order_by(LabelRow.id.desc()))
    for row in rows:
        if row.name not in wanted:
            continue
        kind: Kind = "material" if row.kind == "material" else "mix"
        before = next((one for one in versions(session, kind, row.name) if one.version < row.version), None)
        was, says = _said(kind, row.name, before), _said(kind, row.name, row)
        fields = tuple(_differing(was, says))
        if fields:
            changed.append(
                Change(row.made_at, kind, row.name, str(says.get("name") or was.get("name") or row.name), fields)
            )
    return changed


def _said(kind: Kind, name: str, row: LabelRow | None) -> dict[str, Any]:
    """What a version says; without data, or before the first, what the shipped one does."""
    if row is not None and row.data is not None:
        data: dict[str, Any] = json.loads(row.data)
        return data
    label = as_shipped(kind, name)
    return label.model_dump(mode="json", exclude_unset=True) if label is not None else {}


def _differing(was: Any, says: Any, path: str = "") -> Iterator[tuple[str, Any, Any]]:
    """(path, before, after) of each value that differs."""
    if isinstance(was, dict) and isinstance(says, dict):
        for key in dict.fromkeys((*was, *says)):
            yield from _differing(was.get(key), says.get(key), f"{path}.{key}" if path else key)
    elif isinstance(was, list) and isinstance(says, list) and len(was) == len(says):
        for place, (old, new) in enumerate(zip(was, says, strict=True)):
            yield from _differing(old, new, f"{path}.{place}")
    elif was != says:
        yield path, was, says


def _add(
    session: Session,
    label: tuple[str, str],
    known: list[LabelRow],
    data: str | None,
    now: datetime,
    made_from: str | None,
) -> LabelRow:
    kind, name = label
    version = known[0].version + 1 if known else 1
    row = LabelRow(kind=kind, name=name, version=version, data=data, made_from=made_from, made_at=now)
    session.add(row)
    session.flush()
    return row
