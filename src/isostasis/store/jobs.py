"""Questions to the one solver that several processes share: rows that who asked and who solves both look at; and the
lease that says which process solves."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from .tables import LeaseRow, SolverJobRow

SOLVES = "solver"
LASTS = timedelta(seconds=15)


def holds_lease(session: Session, who: str, now: datetime) -> bool:
    """Whether `who` is the one that solves from now on: it was already, or nobody was, or who was has not been heard of
    for LASTS."""
    row = session.get(LeaseRow, SOLVES, with_for_update=True)
    if row is None:
        row = LeaseRow(name=SOLVES, holder=who, ends_at=now + LASTS)
        session.add(row)
        session.flush()
    if row.holder != who and row.ends_at > now:
        return False
    row.holder, row.ends_at = who, now + LASTS
    return True


def release(session: Session, who: str, now: datetime) -> None:
    """Let another one solve at once."""
    row = session.get(LeaseRow, SOLVES, with_for_update=True)
    if row is not None and row.holder == who:
        row.ends_at = now


def ask(session: Session, key: str, question: dict[str, Any], about: str) -> int:
    """A question under a key, in place of the one before; gives its number."""
    row = session.get(SolverJobRow, key, with_for_update=True)
    if row is None:
        row = SolverJobRow(key=key, number=0, question=question)
        session.add(row)
    row.number += 1
    row.question, row.about, row.options = question, about, []
    row.best = row.bound = row.first = row.made = row.wrong = None
    row.over = False
    session.flush()
    return row.number


def of(session: Session, key: str) -> SolverJobRow | None:
    """What was asked last under a key."""
    return session.get(SolverJobRow, key)


def unanswered(session: Session) -> list[SolverJobRow]:
    """What is still to be worked on."""
    return list(session.scalars(select(SolverJobRow).where(SolverJobRow.over.is_(False))))


def report_progress(session: Session, key: str, number: int, **columns: Any) -> None:
    """What is known of a question by now; nothing where another was asked since, or it was ended."""
    row = session.get(SolverJobRow, key, with_for_update=True)
    if row is not None and row.number == number and not row.over:
        for name, value in columns.items():
            setattr(row, name, value)


def refuse(session: Session, key: str, number: int, words: str) -> None:
    """Nobody could keep its answer; nothing where another was asked since."""
    row = session.get(SolverJobRow, key, with_for_update=True)
    if row is not None and row.number == number:
        row.wrong, row.over = words, True


def end(session: Session, key: str, words: str) -> None:
    """Nobody is to look any further."""
    row = session.get(SolverJobRow, key, with_for_update=True)
    if row is not None and not row.over:
        row.wrong, row.over = words, True
