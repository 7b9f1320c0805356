"""Photos of steps, before and after: each a picture and a small one of it, by the step that they show."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.fault import fault
from . import pictures
from .tables import SceneRow, StepPhotoRow

MOMENTS = ("before", "after")
MAX_PHOTOS = 2000  # of a scene
Picture = tuple[bytes, tuple[int, int]]  # WebP, (width, height) px


def add(
    session: Session,
    scene: SceneRow,
    step: str,
    moment: str,
    whole: Picture,
    small: Picture,
    now: datetime,
    note: str = "",
) -> StepPhotoRow:
    """Keep a photo of a step. Raises Faults for another moment than before and after, or too many photos."""
    if moment not in MOMENTS:
        raise fault("photo", f"“{moment}” is no moment of a step", "before or after")
    if len(of(session, scene)) >= MAX_PHOTOS:
        raise fault("photo", f"this scene has {MAX_PHOTOS} of them", "take some off first")
    digest, thumb = (pictures.keep(session, content, size, now) for content, size in (whole, small))
    row = StepPhotoRow(scene_id=scene.id, step=step, digest=digest, thumb=thumb, moment=moment, note=note[:500], at=now)
    session.add(row)
    session.flush()
    return row


def of(session: Session, scene: SceneRow) -> list[StepPhotoRow]:
    """The photos of a scene that were not taken off, in the order in which they were taken."""
    wanted = select(StepPhotoRow).where(StepPhotoRow.scene_id == scene.id, StepPhotoRow.gone_at.is_(None))
    return list(session.scalars(wanted.order_by(StepPhotoRow.at, StepPhotoRow.id)))


def by_step(session: Session, scene: SceneRow) -> dict[str, list[StepPhotoRow]]:
    """The photos of a scene by their step, those before it first."""
    shots: dict[str, list[StepPhotoRow]] = {}
    for row in sorted(of(session, scene), key=lambda one: MOMENTS.index(one.moment)):
        shots.setdefault(row.step, []).append(row)
    return shots


def take_off(session: Session, scene: SceneRow, number: int, now: datetime) -> None:
    """A photo is shown no more. Raises Faults for one that this scene has not."""
    row = session.get(StepPhotoRow, number)
    if row is None or row.scene_id != scene.id or row.gone_at is not None:
        raise fault("photo", "it is gone already", "reload the page")
    row.gone_at = now


def shown(session: Session, scene: SceneRow, digest: str) -> bool:
    """Whether a picture is one of this scene's photos."""
    return any(digest in (row.digest, row.thumb) for row in of(session, scene))
