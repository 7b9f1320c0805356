"""Large parts of a document, kept once by their content: the heights of surveyed grids.

In a revision's text such a part is `sha256:` and the digest; `packed` puts it aside, `whole` puts it back.
"""

from __future__ import annotations

from hashlib import sha256
from typing import Any

from sqlalchemy.orm import Session

from .tables import BlobRow

MARK = "sha256:"
LARGE = 1000  # characters from which it is worth it


def _grids(document: dict[str, Any]) -> list[dict[str, Any]]:
    forms = document.get("forms", [])
    return [form["grid"] for form in forms if isinstance(form, dict) and isinstance(form.get("grid"), dict)]


def grid_bytes(document: dict[str, Any]) -> int:
    """How much of a document its grids take."""
    return sum(len(str(grid.get("heights", ""))) for grid in _grids(document))


def packed(session: Session, document: dict[str, Any]) -> dict[str, Any]:
    """The document with its large parts in the table and their digests in their stead."""
    if not _grids(document):
        return document
    forms = []
    for form in document["forms"]:
        heights = form["grid"].get("heights", "") if isinstance(form.get("grid"), dict) else ""
        if len(heights) < LARGE:
            forms.append(form)
            continue
        digest = sha256(heights.encode()).hexdigest()
        if session.get(BlobRow, digest) is None:
            session.add(BlobRow(digest=digest, content=heights))
        forms.append({**form, "grid": {**form["grid"], "heights": MARK + digest}})
    return {**document, "forms": forms}


def whole(session: Session, document: dict[str, Any]) -> dict[str, Any]:
    """The document with its large parts put back, in place. Raises KeyError for one that is gone."""
    for grid in _grids(document):
        if str(grid.get("heights", "")).startswith(MARK):
            row = session.get(BlobRow, grid["heights"][len(MARK) :])
            if row is None:
                raise KeyError(grid["heights"])
            grid["heights"] = row.content
    return document
