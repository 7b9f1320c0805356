"""Opens the database: WAL, full sync, foreign keys, a busy timeout, immediate write transactions, migrations."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session

from .tables import MadeBy

made_by: ContextVar[int | None] = ContextVar("made_by", default=None)  # the device that is served just now


class Database:
    """One SQLite file. `reading()` and `writing()` give sessions; a write is all or nothing."""

    def __init__(self, path: Path | str) -> None:
        self.path = Path(path)
        self.path.parent.mkdir(parents=True, exist_ok=True)
        _for_owner_alone(self.path)
        self.engine = _engine(self.path)
        if _migrate(self.engine):
            from .logbook import record_old_marks

            with self.writing() as session:
                record_old_marks(session)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that sees one moment of the database."""
        with Session(self.engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session that holds the write lock from its start; commits at the end, or leaves nothing."""
        with (
            Session(self.engine.execution_options(writes=True), expire_on_commit=False) as session,
            session.begin(),
        ):
            event.listen(session, "before_flush", _say_who)
            yield session

    def close(self) -> None:
        """Let go of the file."""
        self.engine.dispose()


def _say_who(session: Session, _: Any, __: Any) -> None:
    for row in session.new:
        if isinstance(row, MadeBy) and row.device_id is None:
            row.device_id = made_by.get()


def _for_owner_alone(path: Path) -> None:
    """Nobody else may read or write the file; SQLite gives those beside it the same mode. Raises OSError."""
    os.close(os.open(path, os.O_RDWR | os.O_CREAT, 0o600))
    path.chmod(0o600)


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 15})

    @event.listens_for(engine, "connect")
    def _prepare(connection: Any, _: Any) -> None:
        connection.isolation_level = None  # transactions are begun below, not by the driver
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "busy_timeout=15000"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        writes = connection.get_execution_options().get("writes", False)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")

    return engine


def _migrate(engine: Engine) -> bool:
    """Bring the tables up to date; costs one query where they are. Whether there was anything to do."""
    from sqlalchemy import inspect, text

    here = Path(__file__).parent / "migrations"
    newest = max(path.name[:4] for path in (here / "versions").glob("0*.py"))
    with engine.connect() as connection:
        if inspect(connection).has_table("alembic_version"):
            at = connection.execute(text("select version_num from alembic_version")).scalar()
            if at == newest:
                return False
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(here))
    with engine.execution_options(writes=True).begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
    return True
