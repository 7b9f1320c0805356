"""What is read off the database again and again: kept until anything is written to it, or as long as a session."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Hashable
from functools import wraps
from itertools import count
from pathlib import Path
from threading import Lock
from typing import Any, Concatenate, ParamSpec, TypeVar, cast

from sqlalchemy.orm import Session

from ..core.stages import STAGES
from .tables import Row

P = ParamSpec("P")
R = TypeVar("R")
BUSY_S = 15
_numbers = count()


class Watch:
    """Sees whether anything was written to a SQLite file, by whichever process."""

    def __init__(self, path: Path) -> None:
        self._number = 0
        self._lock = Lock()
        self._path = path
        self._opened: sqlite3.Connection | None = None

    def stamp(self) -> tuple[int, int]:
        """Another one once anything was committed."""
        with self._lock:
            if self._opened is None:  # what a new connection counts tells nothing of an earlier one's
                self._number = next(_numbers)
                self._opened = sqlite3.connect(self._path, timeout=BUSY_S, check_same_thread=False)
            return self._number, self._opened.execute("PRAGMA data_version").fetchone()[0]

    def close(self) -> None:
        """Look no more, until the next look."""
        with self._lock:
            if self._opened is not None:
                self._opened.close()
            self._opened = None


def kept(function: Callable[Concatenate[Session, P], R]) -> Callable[Concatenate[Session, P], R]:
    """`function`, which reads off a session about rows and values that can be hashed, with its answers kept until
    anything is written to the file; of a server, as long as the session. A session that writes reads anew each time.
    What is answered is shared: it holds no rows, and nobody changes it."""
    name = f"{function.__module__.removeprefix('isostasis.')}.{function.__qualname__}"

    @wraps(function)
    def reading(session: Session, *args: P.args, **kwargs: P.kwargs) -> R:
        stamp = session.info.get("stamp")
        if stamp is None or session.info.get("writes"):
            return in_session(session, *args, **kwargs)
        return STAGES.once(name, (stamp, _about(args, kwargs)), lambda: function(session, *args, **kwargs))

    in_session = once(function)
    return cast(Callable[Concatenate[Session, P], R], reading)


def once(function: Callable[Concatenate[Session, P], R]) -> Callable[Concatenate[Session, P], R]:
    """`function`, which reads off a session about rows and values that can be hashed, asked once in a session that only
    reads: that sees one moment. What is answered is shared, and nobody changes it; it may hold rows of the session."""

    @wraps(function)
    def reading(session: Session, *args: P.args, **kwargs: P.kwargs) -> R:
        if session.info.get("writes"):
            return function(session, *args, **kwargs)
        known: dict[Any, R] = session.info.setdefault("once", {})
        about = function, _about(args, kwargs)
        if about not in known:
            known[about] = function(session, *args, **kwargs)
        return known[about]

    return cast(Callable[Concatenate[Session, P], R], reading)


def _about(args: tuple[Any, ...], kwargs: dict[str, Any]) -> Hashable:
    rows = ((type(one), one.id) if isinstance(one, Row) else one for one in args)  # type: ignore[attr-defined]
    return *rows, *sorted(kwargs.items())
