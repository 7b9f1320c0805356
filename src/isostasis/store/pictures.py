"""Pictures, kept once by their content, however many scenes and revisions show them."""

from __future__ import annotations

from datetime import datetime, timedelta
from hashlib import sha256

from sqlalchemy import delete, exists, or_, select
from sqlalchemy.orm import Session

from ..core.document import Scene
from ..core.document.edit import set_fields, written
from .swatch_tables import ScrapPhotoRow
from .tables import LabelPhotoRow, PictureRow, RevisionRow, StepPhotoRow

UNUSED_H = 24  # after which a picture that no revision, tin, step or scrap shows is let go


def keep(session: Session, content: bytes, size: tuple[int, int], now: datetime, focus: float | None = None) -> str:
    """Keep a picture of (width, height) px; returns its digest. Lets go of old ones that nothing shows."""
    digest = sha256(content).hexdigest()
    row = session.get(PictureRow, digest)
    if row is None:
        _let_go(session, now - timedelta(hours=UNUSED_H))
        session.add(PictureRow(digest=digest, content=content, width=size[0], height=size[1], focus=focus, kept_at=now))
        session.flush()
    else:
        row.kept_at = now
    return digest


def find(session: Session, digest: str) -> PictureRow | None:
    """The picture of that digest."""
    return session.get(PictureRow, digest)


def with_pictures(session: Session, scene: Scene) -> Scene:
    """A document that is taken in, its photo marked as left out unless both pictures are here."""
    if scene.photo is None:
        return scene
    left_out = any(find(session, name) is None for name in (scene.photo.straight, scene.photo.taken))
    if left_out == scene.photo.left_out:
        return scene
    return set_fields(scene, {"photo": {**written(scene.photo), "left_out": left_out}})


def _let_go(session: Session, before: datetime) -> None:
    shown = exists(select(RevisionRow.id).where(RevisionRow.document.contains(PictureRow.digest)))
    on_tin = exists(select(LabelPhotoRow.name).where(LabelPhotoRow.digest == PictureRow.digest))
    of_step = exists(
        select(StepPhotoRow.id).where(
            or_(StepPhotoRow.digest == PictureRow.digest, StepPhotoRow.thumb == PictureRow.digest),
            StepPhotoRow.gone_at.is_(None),
        )
    )
    of_scrap = exists(select(ScrapPhotoRow.id).where(ScrapPhotoRow.digest == PictureRow.digest))
    session.execute(delete(PictureRow).where(PictureRow.kept_at < before, ~shown, ~on_tin, ~of_step, ~of_scrap))
