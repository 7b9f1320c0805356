"""Find: one box for all that is kept, and for help. SQLite's full-text index in the memory of this process, over
whichever database it serves, so that files and servers find alike; made anew once anything it holds has changed.
"""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from threading import Lock
from typing import Any
from weakref import WeakKeyDictionary

from sqlalchemy import ColumnElement, Engine, func, select
from sqlalchemy.orm import Session

from ..core.catalogue import Catalogue, Material, Mix
from ..core.learning.records import QUANTITIES
from . import labels, records, scenes, shelf, swatches
from .swatch_tables import ScrapRow, SwatchRow
from .tables import (
    BatchRow,
    EnteredRecordRow,
    LabelRow,
    MishapRow,
    PackLineRow,
    PackRow,
    RevisionRow,
    SceneRow,
    StepEventRow,
)

MAX_WORDS, MAX_LETTERS, MAX_FOUND = 8, 120, 40
MAX_ENTRIES = 200_000
# What each kind is called; those that come first win where two match alike.
KINDS = {
    "scene": "scene", "spot": "spot", "form": "form", "mix": "mix", "material": "material", "swatch": "swatch",
    "batch": "batch", "record": "record", "pack": "pack", "note": "note", "help": "help",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Entry:
    """What can be found: its kind, by what its page knows it, its title, a small line beneath, and more that it is
    known by."""

    kind: str
    key: str
    title: str
    small: str = ""
    text: str = ""


@dataclass(frozen=True)
class Found:
    """What was found, the best first; `some` where nothing has all of the words and these have some."""

    entries: tuple[Entry, ...]
    some: bool = False


class Index:
    """A full-text index of entries: prefixes of words, accents and capitals alike, by the BM25 that SQLite has; a title
    weighs most."""

    def __init__(self, entries: Iterable[Entry]) -> None:
        self._lock = Lock()
        self._file = sqlite3.connect(":memory:", check_same_thread=False)
        self._file.execute(
            "create virtual table entry using fts5(title, small, body, kind unindexed, key unindexed, "
            "tokenize='unicode61 remove_diacritics 2', prefix='2 3')"
        )
        rows = ((one.title, one.small, one.text, one.kind, one.key) for one in entries)
        self._file.executemany("insert into entry values (?, ?, ?, ?, ?)", rows)

    def find(self, asked: str) -> Found:
        """What has all of the words, as they begin; where nothing has, what has some of them."""
        words = re.findall(r"\w+", asked[:MAX_LETTERS])[:MAX_WORDS]
        if not words:
            return Found(())
        quoted = [f'"{word}"*' for word in words]
        every = self._match(" AND ".join(quoted))
        if every or len(words) == 1:
            return Found(every)
        return Found(self._match(" OR ".join(quoted)), some=True)

    def _match(self, query: str) -> tuple[Entry, ...]:
        order = " ".join(f"when '{kind}' then {at}" for at, kind in enumerate(KINDS))
        with self._lock:
            rows = self._file.execute(
                "select kind, key, title, small from entry where entry match ? "
                f"order by round(bm25(entry, 10.0, 3.0, 1.0), 1), case kind {order} end, rowid limit {MAX_FOUND}",
                (query,),
            ).fetchall()
        return tuple(Entry(*row) for row in rows)


_GROWING = RevisionRow, LabelRow, BatchRow, StepEventRow, PackRow, PackLineRow, ScrapRow, SwatchRow
_indexes: WeakKeyDictionary[Engine, tuple[str, Index]] = WeakKeyDictionary()


def find(session: Session, asked: str, more: Callable[[], Sequence[Entry]] = tuple) -> Found:
    """What is found of all that is kept, and of `more` that pages know beside, asked for when the index is made."""
    engine = session.get_bind()
    assert isinstance(engine, Engine)
    mark = _mark(session)
    known = _indexes.get(engine)
    if known is None or known[0] != mark:
        known = mark, Index([*more(), *entries(session)])
        _indexes[engine] = known
    return known[1].find(asked)


def _mark(session: Session) -> str:
    """What changes whenever anything that can be found does."""
    asked: list[ColumnElement[Any]] = [
        *(func.max(table.id) for table in _GROWING),
        *(
            func.count(one)
            for one in (
                SceneRow.id,
                SceneRow.binned_at,
                PackRow.gone_at,
                ScrapRow.gone_at,
                MishapRow.key,
                EnteredRecordRow.key,
            )
        ),
        *(func.max(one) for one in (BatchRow.finished_at, MishapRow.at)),
        func.sum(SceneRow.head_id),
    ]
    return str(tuple(session.execute(select(*(select(one).scalar_subquery() for one in asked))).one()))


def entries(session: Session) -> Iterator[Entry]:
    """Everything that can be found in a database."""
    known = labels.catalogue(session)
    yield from _of_scenes(session, known)
    groups: tuple[tuple[str, Iterable[Material | Mix]], ...] = (
        ("mix", known.mixes.values()), ("material", known.materials.values()),
    )  # fmt: skip
    for kind, group in groups:
        for one in group:
            words = [one.id.replace("-", " "), one.source, *getattr(one, "look_for", ()), *getattr(one, "tags", ())]
            yield Entry(kind, f"{kind}/{one.id}", one.name, one.family, " ".join(words))
    for trial in swatches.trials(session):
        names = ", ".join(lane.name for lane in trial.lanes)
        laid = [*trial.scrap.under, *(lift for lane in trial.lanes for lift in lane.lifts)]
        mixes = " ".join(str(lift.get("mix") or lift.get("material")) for lift in laid).replace("-", " ")
        yield Entry("swatch", str(trial.scrap.id), trial.scrap.title, names, f"{mixes} {trial.scrap.note}")
    yield from _of_work(session, known)
    for pack in shelf.stocked(session):
        label = known.materials.get(pack.row.material) or known.mixes.get(pack.row.material)
        title = label.name if label else pack.row.material
        yield Entry("pack", str(pack.row.id), title, pack.row.place, pack.row.seller)


def _of_scenes(session: Session, known: Catalogue) -> Iterator[Entry]:
    for row in session.scalars(select(SceneRow).where(SceneRow.binned_at.is_(None)).order_by(SceneRow.id)):
        data = json.loads(row.head.document)
        name = str(data.get("name", row.slug))
        yield Entry("scene", row.slug, name, "archived" if row.archived_at else "", row.slug.replace("-", " "))
        for patch in data.get("patches", []):
            laid = [known.mixes.get(lift.get("mix", "")) for lift in patch.get("lifts", [])]
            mixes = ", ".join(dict.fromkeys(one.name for one in laid if one))
            title = str(patch.get("name") or patch.get("id", ""))
            yield Entry("spot", f"{row.slug}/{patch.get('id', '')}", title, name, mixes)
        for form in data.get("forms", []):
            if form.get("name"):
                yield Entry(
                    "form", f"{row.slug}/{form.get('id', '')}", str(form["name"]), name, str(form.get("kind", ""))
                )


def _of_work(session: Session, known: Catalogue) -> Iterator[Entry]:
    slugs = {
        row.id: (row.slug, scenes.name_of(row.head))
        for row in session.scalars(select(SceneRow).where(SceneRow.binned_at.is_(None)))
    }
    for batch in session.scalars(select(BatchRow).order_by(BatchRow.id.desc()).limit(MAX_ENTRIES)):
        if batch.scene_id not in slugs:
            continue
        slug, name = slugs[batch.scene_id]
        mix = known.mixes.get(str(batch.planned.get("mix", "")))
        title = f"{batch.lift.replace('-', ' ').capitalize()}, batch {batch.id}"
        said = mix.name if mix else str(batch.planned.get("mix", ""))
        yield Entry("batch", f"{slug}/{batch.id}", title, f"{said}, {name}", batch.note)
    noted = select(StepEventRow).where(StepEventRow.note != "").order_by(StepEventRow.id.desc()).limit(MAX_ENTRIES)
    for event in session.scalars(noted):
        if event.scene_id in slugs:
            slug, name = slugs[event.scene_id]
            yield Entry("note", f"{slug}/{event.id}", event.note, f"{event.step.replace('-', ' ')}, {name}", event.what)
    names: dict[str, Material | Mix] = {**known.materials, **known.mixes}
    for record in records.records(session):
        label = names.get(record.label)
        said = f"{label.name if label else record.label}, {QUANTITIES[record.quantity][0]}"
        yield Entry(
            "record",
            f"{record.label}/{record.quantity}",
            record.title,
            said,
            f"{record.scene.replace('-', ' ')} {record.mishap}",
        )
