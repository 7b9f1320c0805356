"""Everything to one archive and back, merged or in the place of what is here. What came from elsewhere is first brought
into a database of its own, by the migrations, so that archives of every earlier version can be read.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from hashlib import sha256
from pathlib import Path
from secrets import token_urlsafe
from typing import Any, Literal, Protocol

from sqlalchemy import MetaData, Table, delete, func, insert, select, text, update
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from ..core.fault import Faults, fault
from ..core.plan import plan
from . import records, scenes
from .database import MIGRATIONS, Database, migrated_to, sqlite_engine
from .swatch_tables import ScrapRow
from .tables import LabelRow, PackRow, PictureRow, Row, SceneRow, SettingRow

# Who may speak to this machine, what it is doing, and the key of its cookies stay here.
LEFT_OUT = frozenset({"device", "pairing", "sent", "solver_job", "lease"})
SECRETS = {"setting": {"secret"}}
NEWEST = max(path.name[:4] for path in (MIGRATIONS / "versions").glob("0*.py"))
MANY = 500  # rows that are brought in at once
Way = Literal["merge", "replace"]


class Incoming(Protocol):
    """An archive that is open: what it says of itself, rows by table, pictures by digest."""

    head: dict[str, Any]

    @property
    def tables(self) -> tuple[str, ...]:
        """The names of its tables."""

    def rows(self, table: str) -> Iterator[dict[str, Any]]:
        """The rows of a table."""

    def picture(self, digest: str) -> bytes:
        """A picture."""


def kept() -> list[Table]:
    """The tables that an archive has, each after those that it refers to."""
    return [one for one in Row.metadata.sorted_tables if one.name not in LEFT_OUT]


def _plain(value: Any) -> Any:
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat(timespec="microseconds")
    return value.isoformat() if isinstance(value, date) else value


def rows_of(session: Session, table: Table) -> Iterator[dict[str, Any]]:
    """The rows of a table as JSON has them, without pictures, devices and secrets."""
    left = {"device_id", "content"} if table.name == "picture" else {"device_id"}
    if table.name == "clock":
        left = {"token"}  # whoever has it reads the calendar
    columns = [one for one in table.columns if one.name not in left]
    for row in session.execute(select(*columns).order_by(*table.primary_key.columns)).mappings():
        if row.get("name") not in SECRETS.get(table.name, ()):
            yield {name: _plain(value) for name, value in row.items()}


def pictures_of(session: Session) -> Iterator[tuple[str, bytes]]:
    """Every picture with its digest."""
    for digest in session.scalars(select(PictureRow.digest).order_by(PictureRow.digest)).all():
        yield digest, session.get_one(PictureRow, digest).content


def hash_of(session: Session, row: SceneRow) -> str | None:
    """The SHA-256 of a scene's plan; None for one that this version cannot plan."""
    try:
        planned = plan(scenes.resolve(session, row.head)).as_json()
    except Faults:
        return None
    return sha256(json.dumps(planned, sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def head_of(session: Session, now: datetime) -> dict[str, Any]:
    """What an archive says of itself: the version of its tables, when it was made, its scenes with the hash of each
    plan, how many rows each table has."""
    every = session.scalars(select(SceneRow).order_by(SceneRow.id)).all()
    return {
        "schema": NEWEST,
        "made_at": _plain(now),
        "scenes": [
            {"slug": row.slug, "name": scenes.name_of(row.head), "plan": hash_of(session, row)} for row in every
        ],
        "rows": {one.name: session.scalar(select(func.count()).select_from(one)) for one in kept()},
    }


@contextmanager
def scratch(incoming: Incoming, folder: Path) -> Iterator[Database]:
    """What came, in a database of its own in a folder, brought up to date. Raises Faults."""
    file = folder / "incoming.db"
    schema = str(incoming.head["schema"])
    known = {path.name[:4] for path in (MIGRATIONS / "versions").glob("0*.py")}
    if schema not in known:
        raise fault("archive", f"a newer version of Isostasis wrote it ({schema[:12]})", "bring this one up to date")
    engine = sqlite_engine(file)
    try:
        migrated_to(engine, schema)
        _fill(engine, incoming)
    except SQLAlchemyError:
        raise fault("archive", "its rows do not fit together", "save it anew where it was made") from None
    finally:
        engine.dispose()
    scratched = Database(file)
    try:
        with scratched.reading() as session:
            _refuse_odd(session)
        yield scratched
    finally:
        scratched.close()


def _refuse_odd(session: Session) -> None:
    """Raises Faults for scenes without a document, which nothing that is shown could be made of."""
    for row in session.scalars(select(SceneRow)):
        try:
            sound = row.head is not None and isinstance(json.loads(row.head.document), dict)
        except ValueError:
            sound = False
        if not sound:
            raise fault(f"archive, scene {row.slug[:40]}", "it has no document", "save it anew where it was made")


def _fill(engine: Any, incoming: Incoming) -> None:
    """Rows as they came into tables of the version that wrote them. Raises Faults, SQLAlchemyError."""
    tables = MetaData()
    tables.reflect(engine)
    with engine.execution_options(writes=True).begin() as connection:
        connection.exec_driver_sql("PRAGMA defer_foreign_keys=ON")  # scenes and revisions refer to each other
        for name in incoming.tables:
            table = tables.tables.get(name)
            if table is None or name in LEFT_OUT or name == "alembic_version":
                raise fault(
                    "archive", f"it has a table “{name}” that version {incoming.head['schema']} has not", "save it anew"
                )
            many: list[dict[str, Any]] = []
            for row in incoming.rows(name):
                strange = [one for one in row if one not in table.columns]
                if strange:
                    raise fault(
                        f"archive, {name}", f"it has “{strange[0][:40]}”, which no row of it has", "save it anew"
                    )
                many.append(_as_came(name, row, incoming))
                if len(many) >= MANY:
                    connection.execute(insert(table), many)
                    many = []
            if many:
                connection.execute(insert(table), many)
        if connection.exec_driver_sql("PRAGMA foreign_key_check").first() is not None:
            raise fault("archive", "some of its rows refer to what is not in it", "save it anew where it was made")


def _as_came(table: str, row: dict[str, Any], incoming: Incoming) -> dict[str, Any]:
    if table == "picture":
        return {**row, "content": incoming.picture(str(row.get("digest", "")))}
    return {**row, "token": token_urlsafe(24)} if table == "clock" else row


@dataclass
class Summary:
    """What will happen, or did: sentences, and the slugs under which scenes come, by what they are called there."""

    way: Way
    sentences: list[str] = field(default_factory=list)
    slugs: dict[str, str] = field(default_factory=dict)


def _print_of(session: Session, row: SceneRow) -> str:
    """What a scene comes to with all that was done on it: the same on two machines where it is the same."""
    told_apart_by: list[Any] = [row.slug, _plain(row.created_at), row.head.number]
    for table in kept():
        if "scene_id" in table.columns and table.name not in ("clock", "forecast", "moved_wait"):
            names = [
                one for one in table.columns
                if not one.primary_key and not one.foreign_keys and one.name not in ("token",)
            ]  # fmt: skip
            rows = session.execute(
                select(*names).where(table.c.scene_id == row.id).order_by(*table.primary_key.columns)
            )
            told_apart_by.append([[_plain(value) for value in one] for one in rows])
    return sha256(json.dumps(told_apart_by, ensure_ascii=False, sort_keys=True, default=str).encode()).hexdigest()


def _names(session: Session) -> list[str]:
    return [scenes.name_of(row.head) for row in session.scalars(select(SceneRow).order_by(SceneRow.id))]


def _count(session: Session, table: type[Row]) -> int:
    return session.scalar(select(func.count()).select_from(table)) or 0


def summarise(target: Session, source: Session, way: Way) -> Summary:
    """What will happen if an archive is taken in. Writes nothing."""
    summary = Summary(way)
    coming = list(source.scalars(select(SceneRow).order_by(SceneRow.id)))
    if way == "replace":
        lost = _names(target)
        packs, scraps = _count(target, PackRow), _count(target, ScrapRow)
        if lost or packs or scraps:
            summary.sentences.append(
                f"All that is here goes: {_listed(lost) or 'no scene'}, {packs} packs, {scraps} scraps, labels and "
                "settings. Save it first."
            )
        summary.sentences.append(
            f"In its place come {_listed(_names(source)) or 'no scene'}, {_count(source, PackRow)} packs, "
            f"{_count(source, ScrapRow)} scraps, labels and settings. Paired devices stay as they are."
        )
        summary.slugs = {row.slug: row.slug for row in coming}
        return summary
    for row in coming:
        name, slug = scenes.name_of(row.head), _slug_here(target, source, row)
        if slug is None:
            summary.sentences.append(f"{name} is here already, just so: it is left.")
        elif slug == row.slug:
            summary.sentences.append(f"{name} comes.")
        else:
            summary.sentences.append(f"{name} is here, but otherwise: the one that comes stands beside it, as {slug}.")
        summary.slugs[row.slug] = slug or row.slug
    ours = {(kind, name): data for kind, name, data in target.execute(_newest_labels())}
    for kind, name, data in source.execute(_newest_labels()):
        if (kind, name) not in ours:
            summary.sentences.append(f"Your label {name} comes.")
        elif ours[kind, name] != data:
            summary.sentences.append(f"The label {name} says otherwise here: what is here stays.")
    known = set(target.scalars(select(SettingRow.name)))
    new = [one for one in source.scalars(select(SettingRow.name)) if one not in known and one not in SECRETS["setting"]]
    if new:
        summary.sentences.append(
            f"Settings that you have not made come: {', '.join(sorted(new))}. Those that you made stay."
        )
    for table, single, many in ((PackRow, "pack", "packs"), (ScrapRow, "scrap", "scraps")):
        count = sum(_same(target, table.__table__, row) is None for row in _mappings(source, table.__table__))  # type: ignore[arg-type]
        if count:
            summary.sentences.append(f"{count} {single if count == 1 else many} come{'s' if count == 1 else ''}.")
    return summary


def _listed(names: list[str]) -> str:
    return ", ".join(names[:8]) + (f" and {len(names) - 8} more" if len(names) > 8 else "")


def _newest_labels() -> Any:
    newest = select(func.max(LabelRow.id)).group_by(LabelRow.kind, LabelRow.name)
    return select(LabelRow.kind, LabelRow.name, LabelRow.data).where(LabelRow.id.in_(newest))


def _slug_here(target: Session, source: Session, row: SceneRow) -> str | None:
    """Under which slug a scene comes; None where it is here already, just so."""
    number, slug = 1, row.slug
    while (mine := target.scalar(select(SceneRow).where(SceneRow.slug == slug))) is not None:
        if mine.binned_at is None and _print_of(target, mine) == _print_of(source, row):
            return None
        number += 1
        slug = f"{row.slug[:90]}-{number}"
    return slug


# By what a thing is known again where its number is another.
SAME_BY: dict[str, tuple[str, ...]] = {
    "blob": ("digest",), "picture": ("digest",), "label_photo": ("kind", "name"), "entered_record": ("key",),
    "pack": ("material", "part", "size", "added_at"), "pack_line": ("pack_id", "what", "amount", "at"),
    "purchase": ("material", "made_at"), "scrap": ("title", "made_at"), "device_reading": ("kind", "at"),
}  # fmt: skip


def _mappings(session: Session, table: Table) -> Iterator[dict[str, Any]]:
    for row in session.execute(select(table).order_by(*table.primary_key.columns)).mappings():
        yield dict(row)


def _same(target: Session, table: Table, row: dict[str, Any]) -> Any | None:
    """What is the same here as a row of there: its first key; None where there is none."""
    by = SAME_BY.get(table.name)
    if by is None:
        return None
    wanted = [table.c[name].is_(None) if row[name] is None else table.c[name] == row[name] for name in by]
    return target.scalar(select(next(iter(table.primary_key.columns))).where(*wanted))


def take_in(target: Session, source: Session, way: Way) -> Summary:
    """Take in all that came, in a session that writes: merged, or in the place of what is here. Tells what it did."""
    summary = summarise(target, source, way)
    if way == "replace":
        _empty(target)
        _copy(target, source)
    else:
        _merge(target, source)
    target.flush()
    target.expire_all()
    records.forget()
    return summary


def _empty(target: Session) -> None:
    target.execute(update(SceneRow).values(head_id=None))
    for table in reversed(kept()):
        wanted = delete(table)
        if table.name in SECRETS:
            wanted = wanted.where(table.c.name.not_in(SECRETS[table.name]))
        target.execute(wanted)


def _copy(target: Session, source: Session) -> None:
    """Every row with the number that it has there."""
    for table in kept():
        rows = list(_mappings(source, table))
        if table.name == "scene":
            rows = [{**row, "head_id": None} for row in rows]
        rows = [row for row in rows if row.get("name") not in SECRETS.get(table.name, ())]
        for begin in range(0, len(rows), MANY):
            target.execute(insert(table), rows[begin : begin + MANY])
    for number, head in source.execute(select(SceneRow.id, SceneRow.head_id)):
        target.execute(update(SceneRow).where(SceneRow.id == number).values(head_id=head))
    if target.get_bind().dialect.name == "postgresql":
        for table in kept():
            if "id" in table.columns:
                sequence = f"pg_get_serial_sequence('{table.name}', 'id')"
                target.execute(
                    text(f"select setval({sequence}, coalesce((select max(id) from {table.name}), 0) + 1, false)")
                )


def _merge(target: Session, source: Session) -> None:
    """What is not here yet, under new numbers; what hangs on something that is here already is left with it."""
    numbers: dict[str, dict[Any, Any]] = {"device": {}}
    heads: list[tuple[int, int]] = []
    label_here = {(kind, name) for kind, name, _ in target.execute(_newest_labels())}
    for table in sorted(kept(), key=lambda one: one.name == "mishap"):  # it names rows of others in its key
        mine = numbers.setdefault(table.name, {})
        for row in _mappings(source, table):
            key = row.get("id")
            owned = _renumbered(table, row, numbers)
            if table.name == "scene":
                slug = _slug_here(target, source, source.get_one(SceneRow, row["id"]))
                heads.append((row["id"], row["head_id"]))
                row.update(slug=slug, head_id=None)
                owned = slug is not None
            elif table.name == "label":
                owned = (row["kind"], row["name"]) not in label_here
            elif table.name == "setting":
                owned = row["name"] not in SECRETS["setting"] and target.get(SettingRow, row["name"]) is None
            elif table.name == "mishap":
                owned = _renamed(row, numbers)
            if not owned:
                continue
            same = _same(target, table, row)
            if same is not None:
                if table.name == "pack":
                    mine[key] = same
                continue
            if "id" in table.columns:
                del row["id"]
            if key is None:
                target.execute(insert(table), row)
            else:
                mine[key] = target.scalar(insert(table).returning(table.c.id), row)
    for number, head in heads:
        if number in numbers["scene"]:
            new = numbers["scene"][number]
            target.execute(update(SceneRow).where(SceneRow.id == new).values(head_id=numbers["revision"][head]))


def _renumbered(table: Table, row: dict[str, Any], numbers: Mapping[str, Mapping[Any, Any]]) -> bool:
    """Whether all that a row cannot do without comes too; in place, by the new numbers."""
    for column in table.columns:
        if column.name == "device_id":
            row[column.name] = None
        elif column.foreign_keys and row[column.name] is not None and column.name != "head_id":
            target = next(iter(column.foreign_keys)).column.table.name
            row[column.name] = numbers[target].get(row[column.name])
            if row[column.name] is None and not column.nullable:
                return False
    return True


def _renamed(row: dict[str, Any], numbers: Mapping[str, Mapping[Any, Any]]) -> bool:
    """A mishap's key by the new number of what it was read off; whether that comes too."""
    what, _, number = str(row["key"]).partition(":")
    table = "batch" if what == "batch" else "step_event"
    new = numbers.get(table, {}).get(int(number)) if number.isdecimal() else None
    row["key"] = f"{what}:{new}"
    return new is not None


def alike(session: Session, head: Mapping[str, Any], slugs: Mapping[str, str]) -> list[tuple[str, bool]]:
    """(name, whether its plan is the same by its hash) of each scene that came; what could not be planned there is left
    out."""
    unchanged = []
    for entry in head["scenes"]:
        row = session.scalar(select(SceneRow).where(SceneRow.slug == slugs.get(entry["slug"], entry["slug"])))
        if row is not None and entry.get("plan"):
            unchanged.append((str(entry["name"]), hash_of(session, row) == entry["plan"]))
    return unchanged
