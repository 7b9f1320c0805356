"""What devices post of their own: the weight on a scale, the air of the room."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from ..core.document.scene import Reading
from .tables import DeviceReadingRow

KEPT = {"scale": timedelta(minutes=10), "room": timedelta(days=30)}
EVERY = timedelta(minutes=10)  # room readings that come more often are thinned


def add(session: Session, kind: str, value: dict[str, Any], at: datetime) -> None:
    """Keep a reading; those that are too old to be of use go."""
    old = select(DeviceReadingRow.id).where(DeviceReadingRow.kind == kind, DeviceReadingRow.at < at - KEPT[kind])
    session.execute(delete(DeviceReadingRow).where(DeviceReadingRow.id.in_(old)))
    session.add(DeviceReadingRow(kind=kind, value=value, at=at))
    session.flush()


def newest(session: Session, kind: str) -> DeviceReadingRow | None:
    """The last reading of a kind that was posted."""
    rows = select(DeviceReadingRow).where(DeviceReadingRow.kind == kind)
    return session.scalar(rows.order_by(DeviceReadingRow.at.desc(), DeviceReadingRow.id.desc()).limit(1))


def room(session: Session, since: datetime, until: datetime) -> list[Reading]:
    """The air of the room between two moments, and just before them, thinned."""
    rows = session.scalars(
        select(DeviceReadingRow)
        .where(DeviceReadingRow.kind == "room", DeviceReadingRow.at <= until)
        .order_by(DeviceReadingRow.at)
    )
    measured: list[Reading] = []
    for row in rows:
        if not measured or row.at - measured[-1].at >= EVERY:
            measured.append(Reading(at=row.at, temp_c=row.value["temp_c"], rh=row.value["rh"]))
    first = next((place for place, one in enumerate(measured) if one.at > since), len(measured))
    return measured[max(first - 1, 0) :]
