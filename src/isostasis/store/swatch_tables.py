"""The rows of trials on scrap, as those in tables.py."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, Double, ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from .tables import MadeBy, Moment, Row


class ScrapRow(MadeBy, Row):
    """A trial on scrap: what it asks, on which board, what lies `under` all of its lanes (lifts as documents have
    them), the room in which it was made, what counts how much; when it was put away, if it was."""

    __tablename__ = "scrap"

    id: Mapped[int] = mapped_column(primary_key=True)
    title: Mapped[str] = mapped_column(String(120))
    board: Mapped[str] = mapped_column(String(64))
    under: Mapped[list[Any]] = mapped_column(JSON, default=list)
    temp_c: Mapped[float] = mapped_column(Double)
    rh: Mapped[float] = mapped_column(Double)
    weights: Mapped[dict[str, float]] = mapped_column(JSON)
    note: Mapped[str] = mapped_column(String(500), default="")
    made_at: Mapped[datetime] = mapped_column(Moment)
    gone_at: Mapped[datetime | None] = mapped_column(Moment, default=None)


class SwatchRow(Row):
    """A lane of a scrap: its place from the left, its lifts over what lies under all, `versions` (kind and number)
    of their labels then by id, the batch that it was laid of, its steps in words, its colours and how they were
    found."""

    __tablename__ = "swatch"
    __table_args__ = (UniqueConstraint("scrap_id", "place"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    scrap_id: Mapped[int] = mapped_column(ForeignKey("scrap.id"), index=True)
    place: Mapped[int]
    name: Mapped[str] = mapped_column(String(80))
    control: Mapped[bool] = mapped_column(default=False)
    lifts: Mapped[list[Any]] = mapped_column(JSON, default=list)
    versions: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    batch_id: Mapped[int | None] = mapped_column(ForeignKey("batch.id"), default=None)
    steps: Mapped[str] = mapped_column(String(500), default="")
    dry: Mapped[str] = mapped_column(String(7), default="")
    wet: Mapped[str] = mapped_column(String(7), default="")
    how: Mapped[str] = mapped_column(String(200), default="")


class ScrapPhotoRow(MadeBy, Row):
    """The photo of a scrap `dry` or `wet`: the SHA-256 of a picture, and the boxes in it (shares of it: west, north,
    width, height) of the card and of each lane by its place."""

    __tablename__ = "scrap_photo"
    __table_args__ = (UniqueConstraint("scrap_id", "moment"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    scrap_id: Mapped[int] = mapped_column(ForeignKey("scrap.id"), index=True)
    moment: Mapped[str] = mapped_column(String(10))
    digest: Mapped[str] = mapped_column(String(64))
    boxes: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    at: Mapped[datetime] = mapped_column(Moment)


class ScoreRoundRow(MadeBy, Row):
    """One round of judging: in which order the places were looked at, and by place what each was given out of ten."""

    __tablename__ = "score_round"

    id: Mapped[int] = mapped_column(primary_key=True)
    scrap_id: Mapped[int] = mapped_column(ForeignKey("scrap.id"), index=True)
    order: Mapped[list[int]] = mapped_column(JSON)
    scores: Mapped[dict[str, dict[str, float]]] = mapped_column(JSON)
    note: Mapped[str] = mapped_column(String(500), default="")
    at: Mapped[datetime] = mapped_column(Moment)
