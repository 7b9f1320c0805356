"""Copies of a SQLite database while it is in use, what is inside one, and bringing one back."""

from __future__ import annotations

import os
import re
import shutil
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from .database import SQLITE_HEAD, Unusable, why_not

_NAMED = re.compile(r"isostasis-\d{8}-\d{6}\.db")


@dataclass(frozen=True, slots=True)
class Inside:
    """What a database holds: the names of its scenes, how many revisions, marks and batches, when it last changed."""

    scenes: tuple[str, ...]
    revisions: int
    marks: int
    batches: int
    changed_at: datetime | None

    def __str__(self) -> str:
        changed = f"{self.changed_at.astimezone():%d %b %Y, %H:%M}" if self.changed_at else "never"
        return (
            f"{len(self.scenes)} scenes ({', '.join(self.scenes[:8])}{', ...' if len(self.scenes) > 8 else ''}), "
            f"{self.revisions} revisions, {self.marks} marks, {self.batches} batches; last changed {changed}"
        )


def look_inside(path: Path) -> Inside:
    """What a copy holds, once every page of it was checked. Raises Unusable for what is no whole database of ours."""
    try:
        if path.read_bytes()[: len(SQLITE_HEAD)] != SQLITE_HEAD:
            raise Unusable(f"{path}: it is no backup of Isostasis; name one that `isostasis backup` made")
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as copy:
            (sound,) = copy.execute("pragma integrity_check(1)").fetchone()
            if sound != "ok":
                raise Unusable(f"{path}: it is damaged ({sound}); take another one")

            def count(table: str) -> int:
                return int(copy.execute(f"select count(*) from {table}").fetchone()[0])

            names = copy.execute("select slug from scene order by id").fetchall()
            (last,) = copy.execute("select max(created_at) from revision").fetchone()
            return Inside(
                tuple(name for (name,) in names), count("revision"), count("step_event"), count("batch"),
                datetime.fromisoformat(last) if last else None,
            )  # fmt: skip
    except (OSError, sqlite3.Error) as error:
        raise Unusable(f"{path}: {why_not(error)}") from None


def _copied(source: Path, target: Path) -> Inside:
    """A checked copy beside `target`, put in its place in one move. Raises Unusable, with `target` as it was."""
    part = target.with_name(f".{target.name}.part")
    try:
        os.close(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600))
        with closing(sqlite3.connect(source)) as here, closing(sqlite3.connect(part)) as copy:
            here.backup(copy)
            copy.execute("pragma journal_mode=delete")  # one file, whole by itself
        head = look_inside(part)
        with part.open("rb") as file:
            os.fsync(file.fileno())
        part.replace(target)
    except (OSError, sqlite3.Error) as error:
        raise Unusable(f"{target}: no copy could be made: {why_not(error)}") from None
    finally:
        part.unlink(missing_ok=True)
    return head


def backup(source: Path, target: Path, now: datetime, keep: int | None = None) -> tuple[Path, Inside]:
    """A copy of a database in use: as the file `target`, or in the folder `target` under a name of its moment, of which
    the newest `keep` stay. Raises Unusable."""
    try:
        folder = target.is_dir()
        path = target / f"isostasis-{now.astimezone(UTC):%Y%m%d-%H%M%S}.db" if folder else target
        if path.exists() and path.samefile(source):
            raise Unusable(f"{path}: it is the database itself; name another file for its copy")
    except OSError as error:
        raise Unusable(f"{target}: {why_not(error)}") from None
    head = _copied(source, path)
    if folder and keep is not None:
        for old in sorted(one for one in target.iterdir() if _NAMED.fullmatch(one.name))[:-keep]:
            old.unlink()
    return path, head


def _refuse_if_open(path: Path) -> None:
    """Raises Unusable where a server still runs on the file: it would write on into what was moved away."""
    try:
        with closing(sqlite3.connect(path, timeout=1)) as alone:
            alone.execute("pragma journal_mode=delete")  # only who is alone may
    except sqlite3.OperationalError:
        raise Unusable(f"{path}: a server still runs on it; stop that first") from None
    except sqlite3.DatabaseError:
        return  # too damaged to be open anywhere


def restore(copy: Path, target: Path, now: datetime) -> Path | None:
    """Bring a backup back as the database `target`; gives where the one that was there is kept. Raises Unusable, with
    everything as it was; not to be done while a server runs on it."""
    look_inside(copy)
    kept = None
    if target.exists():
        _refuse_if_open(target)
        kept = target.with_name(f"{target.name}.before-{now.astimezone(UTC):%Y%m%d-%H%M%S}")
        try:
            _copied(target, kept)
        except Unusable:
            shutil.copyfile(target, kept)  # damaged as it is
            kept.chmod(0o600)
    part = target.with_name(f".{target.name}.restored")
    try:
        _copied(copy, part)
        for suffix in ("-wal", "-shm"):
            Path(f"{target}{suffix}").unlink(missing_ok=True)
        part.replace(target)
    except OSError as error:
        raise Unusable(f"{target}: {why_not(error)}") from None
    finally:
        part.unlink(missing_ok=True)
    return kept
