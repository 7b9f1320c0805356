"""What tins say, for whoever plans: the labels that come with the program."""

from __future__ import annotations

from sqlalchemy.orm import Session

from ..core.catalogue import Catalogue, shipped


def catalogue(session: Session) -> Catalogue:
    """The labels and rules in force for everything in this database."""
    return shipped()
