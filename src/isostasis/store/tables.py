"""The rows. Times are UTC; documents and planned figures are JSON text."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import JSON, Dialect, Double, ForeignKey, LargeBinary, String, Text, TypeDecorator, UniqueConstraint
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Moment(TypeDecorator[datetime]):
    """A moment with its zone: kept in UTC as ISO text, which SQLite can order."""

    impl = String(32)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> str | None:
        """To UTC text; refuses times without a zone."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a moment needs its zone")
        return value.astimezone(UTC).isoformat(timespec="microseconds")

    def process_result_value(self, value: str | None, dialect: Dialect) -> datetime | None:
        """Back to a moment in UTC."""
        return None if value is None else datetime.fromisoformat(value)


class Day(TypeDecorator[date]):
    """A day of the calendar, kept as ISO text."""

    impl = String(10)
    cache_ok = True

    def process_bind_param(self, value: date | None, dialect: Dialect) -> str | None:
        """To text."""
        return None if value is None else value.isoformat()

    def process_result_value(self, value: str | None, dialect: Dialect) -> date | None:
        """Back to a day."""
        return None if value is None else date.fromisoformat(value)


class Row(DeclarativeBase):
    """The base of all rows."""


class MadeBy:
    """Rows that say which device made them; None: this machine itself. Set by `Database.writing`."""

    device_id: Mapped[int | None] = mapped_column(ForeignKey("device.id"), default=None)


class DeviceRow(Row):
    """A device that was paired: its name, its role (`all`, or `bench`: mark, weigh, photograph), the SHA-256 of its
    key, when it was last seen, and when it was turned away."""

    __tablename__ = "device"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    role: Mapped[str] = mapped_column(String(10))
    key: Mapped[str] = mapped_column(String(64), unique=True)
    paired_at: Mapped[datetime] = mapped_column(Moment)
    seen_at: Mapped[datetime] = mapped_column(Moment)
    turned_away_at: Mapped[datetime | None] = mapped_column(Moment, default=None)


class PairingRow(Row):
    """The one code by which a device may pair now: its SHA-256 (None: there is none), for which role, until when, and
    the moments of the last tries."""

    __tablename__ = "pairing"

    id: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str | None] = mapped_column(String(64), default=None)
    role: Mapped[str] = mapped_column(String(10), default="bench")
    ends_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    tries: Mapped[list[str]] = mapped_column(JSON, default=list)


class SceneRow(Row):
    """A scene: where its history stands now; when it was archived, or put into the bin, if it was."""

    __tablename__ = "scene"

    id: Mapped[int] = mapped_column(primary_key=True)
    slug: Mapped[str] = mapped_column(String(100), unique=True)
    created_at: Mapped[datetime] = mapped_column(Moment)
    archived_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    binned_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    head_id: Mapped[int | None] = mapped_column(
        ForeignKey("revision.id", use_alter=True, name="fk_scene_head"), default=None
    )
    head: Mapped[RevisionRow] = relationship(foreign_keys=[head_id], post_update=True)


class RevisionRow(MadeBy, Row):
    """One version of a scene's document. Never changed, never deleted.

    `parent_id` is the revision it was made from. `set_aside` marks a save that was refused as stale: it is kept
    beside the line of history, not in it.
    """

    __tablename__ = "revision"
    __table_args__ = (UniqueConstraint("scene_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), index=True)
    number: Mapped[int]
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id"), index=True)
    document: Mapped[str] = mapped_column(Text)
    note: Mapped[str] = mapped_column(String(200))
    set_aside: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(Moment)


class BatchRow(MadeBy, Row):
    """One mixing: what was planned then, what really went in, when, in what room; `walk`: the points of its card that
    are behind, each with its moment."""

    __tablename__ = "batch"

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), index=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revision.id"))
    batch: Mapped[str] = mapped_column(String(80))
    lift: Mapped[str] = mapped_column(String(64))
    planned: Mapped[dict[str, Any]] = mapped_column(JSON)
    actual: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    temp_c: Mapped[float]
    rh: Mapped[float]
    started_at: Mapped[datetime] = mapped_column(Moment)
    finished_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    note: Mapped[str] = mapped_column(String(500), default="")
    walk: Mapped[list[Any]] = mapped_column(JSON, default=list, server_default="[]")


class StepEventRow(MadeBy, Row):
    """Something that happened to a step: `started`, `paused`, `done`, `part` (a share of it), `skipped` (`note` says
    why), a touch-test of it (`not-yet`, `ready`) or of its kept cup (`cup-not-yet`, `cup-ready`), or `undone` (its
    last mark is taken back). Keeps the planned figures as they then stood."""

    __tablename__ = "step_event"

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), index=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revision.id"))
    step: Mapped[str] = mapped_column(String(80))
    lift: Mapped[str | None] = mapped_column(String(64))
    what: Mapped[str] = mapped_column(String(20))
    planned: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    at: Mapped[datetime] = mapped_column(Moment)
    note: Mapped[str] = mapped_column(String(500), default="", server_default="")


class BuiltRow(Row):
    """What was built by a mark, a record as JSON text, with the ground where it came from elsewhere. Never changed: it
    holds as long as its mark does."""

    __tablename__ = "built"

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), index=True)
    event_id: Mapped[int] = mapped_column(ForeignKey("step_event.id"), unique=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revision.id"))
    record: Mapped[str] = mapped_column(Text)
    ground: Mapped[str | None] = mapped_column(Text, default=None)


class ClockRow(Row):
    """What a scene's schedule is asked for (deadline, hours to spare, pins), and the secret part of its calendar's
    address."""

    __tablename__ = "clock"

    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), primary_key=True)
    asked: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    token: Mapped[str] = mapped_column(String(64), unique=True)


class ForecastRow(Row):
    """A schedule as it was found: when, for which question (a digest), what made it necessary, what would buy time."""

    __tablename__ = "forecast"

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), index=True)
    at: Mapped[datetime] = mapped_column(Moment)
    question: Mapped[str] = mapped_column(String(64))
    cause: Mapped[str] = mapped_column(String(200))
    made: Mapped[dict[str, Any]] = mapped_column(JSON)
    options: Mapped[list[Any]] = mapped_column(JSON, default=list)


class BlobRow(Row):
    """A large thing, kept once by the SHA-256 of its content, however many revisions refer to it."""

    __tablename__ = "blob"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    content: Mapped[str] = mapped_column(Text)


class PictureRow(Row):
    """A picture (WebP, nothing in it but the picture), kept once by the SHA-256 of its content. `focus` is the focal
    length that its camera told, in longer sides of the picture."""

    __tablename__ = "picture"

    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)
    width: Mapped[int]
    height: Mapped[int]
    focus: Mapped[float | None] = mapped_column(default=None)
    kept_at: Mapped[datetime] = mapped_column(Moment)


class LabelRow(Row):
    """One version of a label of the user's own, a material or a mix, as JSON text (None: the shipped one holds again);
    `made_from` is the label that it was copied from, `made_of` (kind, id, version) what a mix was put together from.
    Never changed: the newest version holds."""

    __tablename__ = "label"
    __table_args__ = (UniqueConstraint("kind", "name", "version"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(10))
    name: Mapped[str] = mapped_column(String(64))
    version: Mapped[int]
    data: Mapped[str | None] = mapped_column(Text, default=None)
    made_from: Mapped[str | None] = mapped_column(String(64), default=None)
    made_of: Mapped[list[Any] | None] = mapped_column(JSON(none_as_null=True), default=None)
    made_at: Mapped[datetime] = mapped_column(Moment)


class LabelPhotoRow(Row):
    """The photo of a tin, whatever version of its label holds: the SHA-256 of a picture."""

    __tablename__ = "label_photo"

    kind: Mapped[str] = mapped_column(String(10), primary_key=True)
    name: Mapped[str] = mapped_column(String(64), primary_key=True)
    digest: Mapped[str] = mapped_column(String(64))


class PackRow(Row):
    """A pack on the shelf: of which material (or part A or B of a kit), what it held in what that is sold by, what was
    paid and where, dates as ISO days, where it stands; when it was thrown away, if it was."""

    __tablename__ = "pack"

    id: Mapped[int] = mapped_column(primary_key=True)
    material: Mapped[str] = mapped_column(String(64), index=True)
    part: Mapped[str | None] = mapped_column(String(1), default=None)
    size: Mapped[float] = mapped_column(Double)
    price: Mapped[float | None] = mapped_column(Double, default=None)
    seller: Mapped[str] = mapped_column(String(60), default="")
    opened: Mapped[date | None] = mapped_column(Day, default=None)
    best_before: Mapped[date | None] = mapped_column(Day, default=None)
    place: Mapped[str] = mapped_column(String(60), default="")
    added_at: Mapped[datetime] = mapped_column(Moment)
    gone_at: Mapped[datetime | None] = mapped_column(Moment, default=None)


class PackLineRow(MadeBy, Row):
    """What was entered of a pack: so much was `counted` in it, `taken` out of it or put `back`; by which mark (it holds
    as long as the mark does) or which batch, if by any. Never changed."""

    __tablename__ = "pack_line"

    id: Mapped[int] = mapped_column(primary_key=True)
    pack_id: Mapped[int] = mapped_column(ForeignKey("pack.id"), index=True)
    what: Mapped[str] = mapped_column(String(10))
    amount: Mapped[float] = mapped_column(Double)
    event_id: Mapped[int | None] = mapped_column(ForeignKey("step_event.id"), index=True, default=None)
    batch_id: Mapped[int | None] = mapped_column(ForeignKey("batch.id"), index=True, default=None)
    at: Mapped[datetime] = mapped_column(Moment)
    note: Mapped[str] = mapped_column(String(200), default="")


class PurchaseRow(Row):
    """A line of the list for the shop: of which offers how many are `bought`, what of each part they are to cover, in
    which unit, for which scenes (address, and the gate there that waits for it); when it was ticked off, when it comes
    if it was ordered, when it was put on the shelf."""

    __tablename__ = "purchase"

    id: Mapped[int] = mapped_column(primary_key=True)
    material: Mapped[str] = mapped_column(String(64))
    bought: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    short: Mapped[list[Any]] = mapped_column(JSON)
    unit: Mapped[str] = mapped_column(String(10))
    scenes: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    made_at: Mapped[datetime] = mapped_column(Moment)
    ticked_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    comes_at: Mapped[datetime | None] = mapped_column(Moment, default=None)
    shelved_at: Mapped[datetime | None] = mapped_column(Moment, default=None)


class SentRow(MadeBy, Row):
    """A press that has arrived, by the key that the device gave it: sent again it does nothing."""

    __tablename__ = "sent"

    key: Mapped[str] = mapped_column(String(80), primary_key=True)
    at: Mapped[datetime] = mapped_column(Moment)


class TimerNoteRow(MadeBy, Row):
    """A timer that was put off `until` a moment, or (None) heard and stopped. The newest of a timer holds."""

    __tablename__ = "timer_note"

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), index=True)
    timer: Mapped[str] = mapped_column(String(200))
    until: Mapped[datetime | None] = mapped_column(Moment, default=None)
    at: Mapped[datetime] = mapped_column(Moment)


class CautionReadRow(MadeBy, Row):
    """A caution that was read, by its code, about a batch or a step."""

    __tablename__ = "caution_read"

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), index=True)
    about: Mapped[str] = mapped_column(String(120))
    code: Mapped[str] = mapped_column(String(60))
    at: Mapped[datetime] = mapped_column(Moment)


class StepPhotoRow(MadeBy, Row):
    """A photo of a step, `before` or `after` it: the SHA-256 of a picture and of a small one of it; when it was taken
    off the page, if it was."""

    __tablename__ = "step_photo"

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), index=True)
    step: Mapped[str] = mapped_column(String(80))
    digest: Mapped[str] = mapped_column(String(64))
    thumb: Mapped[str] = mapped_column(String(64))
    moment: Mapped[str] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(String(500), default="")
    at: Mapped[datetime] = mapped_column(Moment)
    gone_at: Mapped[datetime | None] = mapped_column(Moment, default=None)


class DeviceReadingRow(MadeBy, Row):
    """What a device posted of its own: `scale` (grams, steady, battery) or `room` (temp_c, rh)."""

    __tablename__ = "device_reading"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(10))
    value: Mapped[dict[str, Any]] = mapped_column(JSON)
    at: Mapped[datetime] = mapped_column(Moment, index=True)


class MovedWaitRow(Row):
    """A wait as the logged room has moved it: that of what was laid by a mark, or the working time of a batch, in hours
    (None: it never ends). The newest holds."""

    __tablename__ = "moved_wait"

    id: Mapped[int] = mapped_column(primary_key=True)
    scene_id: Mapped[int] = mapped_column(ForeignKey("scene.id"), index=True)
    event_id: Mapped[int | None] = mapped_column(ForeignKey("step_event.id"), index=True, default=None)
    batch_id: Mapped[int | None] = mapped_column(ForeignKey("batch.id"), index=True, default=None)
    hours: Mapped[float | None] = mapped_column(Double, default=None)
    at: Mapped[datetime] = mapped_column(Moment)


class MishapRow(MadeBy, Row):
    """A record that teaches nothing, by the key of what it was read off, and why."""

    __tablename__ = "mishap"

    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    note: Mapped[str] = mapped_column(String(500), default="")
    at: Mapped[datetime] = mapped_column(Moment)


class EnteredRecordRow(MadeBy, Row):
    """A record that no mark or batch tells: typed in, or read from a table. What was predicted and what came, between
    bounds where it was only looked at."""

    __tablename__ = "entered_record"

    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    scene: Mapped[str] = mapped_column(String(100), default="")
    title: Mapped[str] = mapped_column(String(120))
    label: Mapped[str] = mapped_column(String(64))
    quantity: Mapped[str] = mapped_column(String(10))
    predicted: Mapped[float] = mapped_column(Double)
    low: Mapped[float | None] = mapped_column(Double, default=None)
    high: Mapped[float | None] = mapped_column(Double, default=None)
    at: Mapped[datetime] = mapped_column(Moment)


class SettingRow(Row):
    """One of the user's settings, as JSON."""

    __tablename__ = "setting"

    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[Any] = mapped_column(JSON)


class SolverJobRow(Row):
    """The newest question under a key to the solver that several processes share, and how far it is."""

    __tablename__ = "solver_job"

    key: Mapped[str] = mapped_column(String(300), primary_key=True)
    number: Mapped[int]
    question: Mapped[dict[str, Any]] = mapped_column(JSON)
    about: Mapped[str] = mapped_column(String(40), default="")
    best: Mapped[int | None] = mapped_column(default=None)
    bound: Mapped[int | None] = mapped_column(default=None)
    first: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), default=None)
    made: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), default=None)
    options: Mapped[list[Any]] = mapped_column(JSON, default=list)
    wrong: Mapped[str | None] = mapped_column(String(400), default=None)
    over: Mapped[bool] = mapped_column(default=False)


class LeaseRow(Row):
    """Which process does what just one may do, and until when nobody else may."""

    __tablename__ = "lease"

    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    holder: Mapped[str] = mapped_column(String(40))
    ends_at: Mapped[datetime] = mapped_column(Moment)
