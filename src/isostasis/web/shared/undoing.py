"""Undo and redo, of edits and of marks, and what they say."""

from __future__ import annotations

from flask import flash
from werkzeug.wrappers import Response

from ...store import logbook, scenes, undoing
from ...store.tables import RevisionRow, StepEventRow
from .answers import hx_redirect, safe_return_url
from .scenes import database, now

EVENT_LABELS = {
    "started": "begun", "done": "done", "part": "done in part", "skipped": "skipped", "not-yet": "not ready yet",
    "ready": "ready", "undone": "taken back", "paused": "paused", "cup-not-yet": "not ready yet, by its cup",
    "cup-ready": "ready, by its cup",
}  # fmt: skip


def _words(step: StepEventRow | RevisionRow) -> str:
    if isinstance(step, RevisionRow):
        return step.note
    return f"“{logbook.step_of(step).do}” marked as {EVENT_LABELS[step.what]}"


def undo(slug: str) -> Response:
    """Back one step, and what that undid."""
    with database().writing() as session:
        undone = undoing.undo(session, scenes.find(session, slug), now())
        if undone is not None:
            flash(f"Undone: {_words(undone)}", "told")
    return hx_redirect(safe_return_url())


def redo(slug: str) -> Response:
    """Forward again, and what that brought back."""
    with database().writing() as session:
        again = undoing.redo(session, scenes.find(session, slug), now())
        if again is not None:
            flash(f"Done again: {_words(again)}", "told")
    return hx_redirect(safe_return_url())
