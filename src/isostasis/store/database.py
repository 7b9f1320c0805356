"""Opens the database: a SQLite file of one's own (WAL, full sync, foreign keys, immediate write transactions), or a
PostgreSQL server for a club; migrations; and plain words for one that cannot be used.
"""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from contextvars import ContextVar
from datetime import datetime
from pathlib import Path
from typing import Any

from platformdirs import user_data_path
from sqlalchemy import Engine, create_engine, event, inspect, make_url, text
from sqlalchemy.exc import ArgumentError, DBAPIError, IntegrityError, NoSuchModuleError
from sqlalchemy.orm import Session

from .kept import BUSY_S, Watch
from .tables import MadeBy, SentRow

MIGRATIONS = Path(__file__).parent / "migrations"
SQLITE_HEAD = b"SQLite format 3\0"

made_by: ContextVar[int | None] = ContextVar("made_by", default=None)  # the device that is served just now
# The key of the press that is served just now, and its moment: it is kept with the first thing that is written.
pressed: ContextVar[tuple[str, datetime] | None] = ContextVar("pressed", default=None)


def own_file(name: str = "isostasis") -> Path:
    """Where a database lies unless another is named: in a checkout that has one under var/, there; else in the user's
    own folder for data."""
    there = Path("var") / f"{name}.db"
    return there if there.exists() else user_data_path("isostasis") / f"{name}.db"


class Unusable(Exception):  # noqa: N818 - reads as what it is
    """A database that cannot be opened, in a sentence."""


class AlreadySent(Exception):  # noqa: N818 - reads as what it is
    """What is sent here has arrived before."""


class Database:
    """A SQLite file, or a PostgreSQL address. `reading()` and `writing()` give sessions; a write is all or nothing.
    Raises Unusable."""

    def __init__(self, where: Path | str) -> None:
        self.address = self.name = str(where)
        self.path = Path(where)
        self.shared = "://" in self.name  # several processes may serve it
        self.watch: Watch | None = None
        if self.shared:
            self.name = _without_password(self.name)
        try:
            if self.shared:
                self.engine = _server(str(where))
            else:
                _refuse_file(self.path)
                self.path.parent.mkdir(parents=True, exist_ok=True)
                _for_owner_alone(self.path)
                self.engine = sqlite_engine(self.path)
                self.watch = Watch(self.path)
            migrated = _migrate(self.engine, self.name)
        except (OSError, DBAPIError) as error:
            raise Unusable(f"{self.name}: {why_not(error)}") from None
        if migrated:
            from .logbook import record_old_marks

            with self.writing() as session:
                record_old_marks(session)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that sees one moment of the database."""
        with Session(self.engine, expire_on_commit=False) as session:
            if self.watch:
                session.info["stamp"] = self.watch.stamp()
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session that writes: of a file it holds the write lock from its start, of a server it locks the scenes that
        it finds. Commits at the end, or leaves nothing. Raises AlreadySent for a press that has arrived before."""
        with (
            Session(self.engine.execution_options(writes=True), expire_on_commit=False) as session,
            session.begin(),
        ):
            session.info["writes"] = True
            event.listen(session, "before_flush", _say_who)
            _refuse_sent(session)
            yield session

    def close(self) -> None:
        """Let go of it."""
        self.engine.dispose()
        if self.watch:
            self.watch.close()


def why_not(error: Exception) -> str:
    """Why a database cannot be used just now, in plain words."""
    said = str(getattr(error, "orig", None) or getattr(error, "strerror", None) or error).strip().splitlines()[0]
    for sign, words in (
        ("is full", "the disk is full: free some space, then try again"),
        ("No space left", "the disk is full: free some space, then try again"),
        ("locked", "it is busy: another program holds it; try again"),
        ("readonly", "it cannot be written to: change its permissions, or name another with --db"),
        ("malformed", "it is damaged: bring a backup back with `isostasis restore`"),
        ("not a database", "it is no database of Isostasis: name another with --db"),
    ):
        if sign in said:
            return words
    return f"it cannot be opened: {said[:1].lower() + said[1:]}; name another with --db"


def _without_password(address: str) -> str:
    try:
        return make_url(address).render_as_string(hide_password=True)
    except (ArgumentError, ValueError):
        return address


def _refuse_file(path: Path) -> None:
    """Raises Unusable for a file that cannot be a database of ours, before it is touched."""
    if path.is_dir():
        raise Unusable(f"{path}: it is a folder; name a file in it, such as {path / 'isostasis.db'}")
    if not path.exists() or not path.stat().st_size:
        return
    with path.open("rb") as file:
        if file.read(len(SQLITE_HEAD)) != SQLITE_HEAD:
            raise Unusable(f"{path}: it is no database of Isostasis; name another with --db")
    with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as look:
        try:
            tables = [name for (name,) in look.execute("select name from sqlite_master where type = 'table'")]
        except sqlite3.Error as error:
            raise Unusable(f"{path}: {why_not(error)}") from None
    if tables and "alembic_version" not in tables:
        raise Unusable(f"{path}: it belongs to another program (it holds {tables[0]}); name another with --db")


def _refuse_sent(session: Session) -> None:
    """Keep the key of this press in the same transaction as what it does. Raises AlreadySent."""
    press = pressed.get()
    if press is None:
        return
    pressed.set(None)  # what else is written for it goes with this
    key, at = press
    if session.get(SentRow, key) is not None:
        raise AlreadySent(key)
    session.add(SentRow(key=key, at=at))
    try:
        session.flush()
    except IntegrityError:  # the same press over another process
        raise AlreadySent(key) from None


def _say_who(session: Session, _: Any, __: Any) -> None:
    for row in session.new:
        if isinstance(row, MadeBy) and row.device_id is None:
            row.device_id = made_by.get()


def _for_owner_alone(path: Path) -> None:
    """Nobody else may read or write the file; SQLite gives those beside it the same mode. Raises OSError."""
    os.close(os.open(path, os.O_RDWR | os.O_CREAT, 0o600))
    path.chmod(0o600)


def _server(address: str) -> Engine:
    """An engine for a server. Raises Unusable for an address of another kind."""
    try:
        url = make_url(address)
        if url.drivername != "postgresql+psycopg":
            raise Unusable(f"{_without_password(address)}: only postgresql+psycopg://... can be used beside files")
        return create_engine(url, pool_pre_ping=True, pool_size=10, max_overflow=20)
    except (ArgumentError, ValueError, NoSuchModuleError):
        raise Unusable(f"{address}: it is no address of a database; write postgresql+psycopg://host/name") from None
    except ModuleNotFoundError:
        raise Unusable("psycopg is missing: install Isostasis with the extra `club`") from None


def sqlite_engine(path: Path) -> Engine:
    """An engine for a SQLite file, as all of ours are opened."""
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_S})

    @event.listens_for(engine, "connect")
    def _prepare(connection: Any, _: Any) -> None:
        connection.isolation_level = None  # transactions are begun below, not by the driver
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", f"busy_timeout={BUSY_S * 1000}"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        writes = connection.get_execution_options().get("writes", False)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")

    return engine


def _migrate(engine: Engine, name: str) -> bool:
    """Bring the tables up to date; costs one query where they are. Whether there was anything to do. Raises Unusable
    for tables that are not ours, or of a later version."""
    known = sorted(path.name[:4] for path in (MIGRATIONS / "versions").glob("0*.py"))
    with engine.connect() as connection:
        tables = inspect(connection).get_table_names()
        if "alembic_version" in tables:
            at = connection.execute(text("select version_num from alembic_version")).scalar()
            if at == known[-1]:
                return False
            if at is not None and at not in known:
                raise Unusable(f"{name}: a newer version of Isostasis wrote it ({at}); bring this one up to date")
        elif tables:
            raise Unusable(f"{name}: it belongs to another program (it holds {tables[0]}); name another")
    migrated_to(engine, "head")
    return True


def migrated_to(engine: Engine, version: str) -> None:
    """Bring the tables of a database up to a version."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.execution_options(writes=True).begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, version)
