"""A scene that comes alone, as a document or an archive with its photos: taken in whole, or not at all."""

from __future__ import annotations

from datetime import datetime

from ...core.fault import fault
from ...core.reading import read as read_scene
from ...exchange.archive import SceneArchive
from ...exchange.picture import as_kept, small
from ...store import photos, pictures, scenes
from ..shared.scenes import database, now


def taken_in(brought: SceneArchive | None, text: bytes, name: str) -> str:
    """The slug of a scene that was taken in, with all of its pictures or not at all. Raises Faults."""
    kept_pictures = [as_kept(one) for one in brought.pictures] if brought else []
    steps = [(one, as_kept(one.content)) for one in brought.steps] if brought else []
    scene = read_scene(brought.document if brought else text)
    with database().writing() as session:
        for one in kept_pictures:
            pictures.keep(session, one.content, one.size, now(), one.focus)
        row = scenes.create(session, scene, f"Imported{' from ' + name if name else ''}", now())
        for step, whole in steps:
            kept, thumb = (whole.content, whole.size), small(whole)
            photos.add(
                session,
                row,
                step.step[:80],
                step.moment,
                kept,
                (thumb.content, thumb.size),
                _moment(step.at),
                step.note,
            )
        return row.slug


def _moment(text: str) -> datetime:
    """A moment of an archive. Raises Faults."""
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        moment = None
    if moment is None or moment.tzinfo is None:
        raise fault("archive", f"“{text[:30]}” is no moment", "save it anew")
    return moment
