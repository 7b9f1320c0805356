"""Settings: reading system, light or dark, the user's bench and its hours, lay-ups, sieves, stand-ins, cookies' key."""

from __future__ import annotations

from typing import Any, Literal

from sqlalchemy.orm import Session

from ..core.catalogue import Bench
from .tables import SettingRow

Name = Literal["system", "theme", "bench", "secret", "level", "layups", "sieves", "hours", "together", "air"]


def get(session: Session, name: Name, default: Any) -> Any:
    """A setting, or what holds while it is not set."""
    row = session.get(SettingRow, name)
    return default if row is None else row.value


def put(session: Session, name: Name, value: Any) -> None:
    """Set it."""
    session.merge(SettingRow(name=name, value=value))


def bench(session: Session) -> Bench:
    """The user's own things."""
    return Bench.model_validate(get(session, "bench", {}))
