"""Cautions that were read: about a batch or a step, by their codes."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from .tables import CautionReadRow, SceneRow


def read_of(session: Session, scene: SceneRow, about: str) -> dict[str, datetime]:
    """The codes of the cautions that were read about a batch or a step, each with its first moment."""
    rows = session.scalars(
        select(CautionReadRow)
        .where(CautionReadRow.scene_id == scene.id, CautionReadRow.about == about)
        .order_by(CautionReadRow.id.desc())
    )
    return {row.code: row.at for row in rows}


def mark_read(session: Session, scene: SceneRow, about: str, codes: Iterable[str], now: datetime) -> None:
    """Keep that cautions were read; those that were before keep their moment."""
    known = read_of(session, scene, about)
    for code in codes:
        if code not in known:
            session.add(CautionReadRow(scene_id=scene.id, about=about[:120], code=code[:60], at=now))
    session.flush()
