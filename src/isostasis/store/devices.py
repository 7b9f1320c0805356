"""Devices beyond this machine: pairing by a code that is good once, keys, roles, turning away.

A key and a code are kept as their SHA-256 alone: who reads the database cannot speak as a device.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from hashlib import sha256
from secrets import randbelow, token_urlsafe
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.fault import fault
from .tables import DeviceRow, PairingRow

Role = Literal["all", "bench", "sensor"]
ROLES: tuple[Role, ...] = ("all", "bench")  # of those that pair by a code; a sensor's key is made for it
CODE_LASTS = timedelta(minutes=10)
TRIES_IN = timedelta(minutes=1)
MAX_TRIES = 5
MAX_DEVICES = 200
MAX_NAME = 60


def _digest(text: str) -> str:
    return sha256(text.encode()).hexdigest()


def _pairing(session: Session) -> PairingRow:
    row = session.get(PairingRow, 1, with_for_update=True)
    if row is None:
        row = PairingRow(id=1, tries=[])
        session.add(row)
        session.flush()
    return row


def new_code(session: Session, role: Role, now: datetime) -> str:
    """A code of six digits by which one device may pair for a role within ten minutes; the one before it is good no
    more."""
    code = f"{randbelow(1_000_000):06d}"
    row = _pairing(session)
    row.code, row.role, row.ends_at = _digest(code), role, now + CODE_LASTS
    return code


def try_code(session: Session, code: str, now: datetime) -> Role | None:
    """The role of the code that is good now, which is good no more then; None for any other. Raises Faults for a sixth
    try within a minute, by whichever device."""
    row = _pairing(session)
    recent = [one for one in row.tries if datetime.fromisoformat(one) > now - TRIES_IN]
    if len(recent) >= MAX_TRIES:
        raise fault("code", f"there were {MAX_TRIES} tries within a minute", "wait a minute, then try once more")
    row.tries = [*recent, now.isoformat()]
    good = row.ends_at is not None and now < row.ends_at and row.code == _digest(code.replace(" ", ""))
    if not good:
        return None
    row.code = row.ends_at = None
    return "all" if row.role == "all" else "bench"


def refuse_name(session: Session, name: str) -> str:
    """The name of a new device, spaces made plain. Raises Faults for one that is none or taken, or too many devices."""
    name = " ".join(name.split())
    if not 0 < len(name) <= MAX_NAME:
        raise fault("name", f"it has {len(name)} letters", f"write 1 to {MAX_NAME}, such as Phone at the bench")
    rows = in_force(session)
    if any(one.name == name for one in rows):
        raise fault("name", f"there is a device “{name}” already", "call it otherwise, or turn that one away first")
    if len(rows) >= MAX_DEVICES:
        raise fault("devices", f"there are {len(rows)}", f"turn some away: {MAX_DEVICES} are the most")
    return name


def pair(session: Session, name: str, role: Role, now: datetime) -> str:
    """A new device; gives the key that it must keep. Raises Faults as `refuse_name`."""
    key = token_urlsafe(32)
    session.add(DeviceRow(name=refuse_name(session, name), role=role, key=_digest(key), paired_at=now, seen_at=now))
    session.flush()
    return key


def of_key(session: Session, key: str) -> DeviceRow | None:
    """The device that has a key, unless it was turned away."""
    return session.scalar(select(DeviceRow).where(DeviceRow.key == _digest(key), DeviceRow.turned_away_at.is_(None)))


def in_force(session: Session) -> list[DeviceRow]:
    """Devices that are not turned away, the oldest first."""
    return list(session.scalars(select(DeviceRow).where(DeviceRow.turned_away_at.is_(None)).order_by(DeviceRow.id)))


def names(session: Session) -> dict[int, str]:
    """The name of every device there ever was, by its id."""
    return {one.id: one.name for one in session.scalars(select(DeviceRow))}


def get(session: Session, number: int) -> DeviceRow:
    """A device that is not turned away. Raises Faults."""
    row = session.get(DeviceRow, number)
    if row is None or row.turned_away_at is not None:
        raise fault("device", "it is not paired any more", "reload the page")
    return row


def seen(session: Session, moments: dict[int, datetime]) -> None:
    """Keep when devices, by id, were there last."""
    for row in in_force(session):
        if row.id in moments:
            row.seen_at = max(row.seen_at, moments[row.id])


def turn_away(session: Session, row: DeviceRow, now: datetime) -> None:
    """Its key is good no more, from the next request on."""
    row.turned_away_at = now
