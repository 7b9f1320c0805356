"""Starters: whole scenes from a few answers. `model` what a starter is, `boards` and `hills` those that there are,
`layups` lay-ups ready to be laid, `layout` and `parts` what they are made of."""

from __future__ import annotations

from .boards import BASES, EMPTY, FLOODED, FRAMED, PONDS
from .hills import FALLING, HILLS, SHELF
from .layups import READY, ReadyLayup, ready
from .model import Question, Starter

__all__ = ["READY", "STARTERS", "Question", "ReadyLayup", "Starter", "ready", "starter"]

STARTERS: tuple[Starter, ...] = (PONDS, HILLS, SHELF, FRAMED, BASES, FLOODED, FALLING, EMPTY)


def starter(starter_id: str) -> Starter | None:
    """The starter of that id."""
    return next((one for one in STARTERS if one.id == starter_id), None)
