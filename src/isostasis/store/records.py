"""Records: what was predicted and what came, read off batches and marks; which were mishaps; what they teach."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from math import isfinite
from typing import Any
from weakref import WeakKeyDictionary

from sqlalchemy import ColumnElement, Engine, func, select
from sqlalchemy.orm import Session

from ..core.catalogue import Factor
from ..core.fault import fault
from ..core.learning.records import QUANTITIES, Choice, Record, Taught, in_use, taught
from ..core.mixing.batches import left_behind
from . import marks, settings
from .tables import (
    BatchRow,
    EnteredRecordRow,
    MishapRow,
    MovedWaitRow,
    PackLineRow,
    PackRow,
    SceneRow,
    SettingRow,
    StepEventRow,
)

SHORTEST_MIN = 1.0  # of hands: less is how a mark is set, not how long it took
LONGEST_TIMES = 8.0  # the predicted hands: more is a mark that was forgotten
MAX_ENTERED, LARGEST = 20_000, 1e6
_known: WeakKeyDictionary[Engine, tuple[str, tuple[Factor, ...]]] = WeakKeyDictionary()


@dataclass(frozen=True)
class NewRecord:
    """A record to enter, as `Record` has it; `where` names its line in a table."""

    key: str
    scene: str
    title: str
    label: str
    quantity: str
    predicted: float
    low: float | None
    high: float | None
    at: datetime
    mishap: str = ""
    where: str = ""

    @property
    def wrong(self) -> tuple[str, str] | None:
        """What is wrong with it and what would be right; None where nothing is."""
        numbers = [one for one in (self.predicted, self.low, self.high) if one is not None]
        if self.quantity not in QUANTITIES:
            return f"“{self.quantity[:20]}” is no quantity", f"one of {', '.join(QUANTITIES)}"
        if not all(isfinite(one) and 0 <= one <= LARGEST for one in numbers) or self.predicted <= 0:
            return "a number of it is none that can be", f"above 0, {LARGEST:,.0f} at most"
        if self.low is None and self.high is None:
            return "it says nothing of what came", "write what came, or from when to when"
        if self.low is not None and self.high is not None and self.low > self.high:
            return f"it is from {self.low:g} to {self.high:g}", "write the lower one first"
        if not self.label or not self.title.strip():
            return "it names no label or no title", "say of what it is"
        return None


def records(session: Session) -> list[Record]:
    """Every record of all scenes, the oldest first."""
    slugs = {one.id: one.slug for one in session.scalars(select(SceneRow))}
    said = {one.key: one.note or "a mishap" for one in session.scalars(select(MishapRow))}
    batches = list(session.scalars(select(BatchRow).order_by(BatchRow.id)))
    mixes = {(one.scene_id, one.planned["lift"]): str(one.planned["mix"]) for one in batches}
    known = [
        *_volumes(session, batches, slugs, said), *_of_steps(session, mixes, slugs, said), *_entered(session, said),
    ]  # fmt: skip
    return sorted(known, key=lambda one: (one.at, one.key))


def _volumes(
    session: Session, batches: Iterable[BatchRow], slugs: dict[int, str], said: dict[str, str]
) -> Iterable[Record]:
    """What went in of a batch, less what was kept of it, against what was planned."""
    kept: dict[int, float] = {}
    lines = select(PackLineRow).where(PackLineRow.batch_id.is_not(None), PackLineRow.what != "taken")
    for line in session.scalars(lines):
        pack = session.get_one(PackRow, line.pack_id)
        if line.batch_id is not None and pack.part is None:  # into a jar of the mix
            kept[line.batch_id] = kept.get(line.batch_id, 0.0) + line.amount
    for row in batches:
        whole = sum(float(part["mass_g"]) for part in row.planned["ingredients"])
        if row.finished_at is None or not row.actual or whole <= 0:
            continue
        planned = float(row.planned["volume_ml"])
        came = planned * sum(row.actual.values()) / whole - kept.get(row.id, 0.0)
        if came <= 0 or planned <= 0:
            continue
        key = f"batch:{row.id}"
        yield Record(
            key, str(row.planned["mix"]), "volume", planned / float(row.planned.get("times", 1.0)), came, came,
            slugs.get(row.scene_id, ""), row.lift.replace("-", " ").capitalize(), row.finished_at, said.get(key, ""),
            row.lift,
        )  # fmt: skip


def _entered(session: Session, said: dict[str, str]) -> Iterable[Record]:
    """What was typed in, or came in a table."""
    for row in session.scalars(select(EnteredRecordRow)):
        if row.quantity in QUANTITIES:
            yield Record(
                row.key, row.label, row.quantity, row.predicted, row.low, row.high, row.scene, row.title, row.at,
                said.get(row.key, ""),
            )  # fmt: skip


def enter(session: Session, new: Iterable[NewRecord]) -> int:
    """Keep records that no mark or batch tells, each once; returns how many were new. Raises Faults for a prediction of
    nothing, for bounds the wrong way round, and beyond MAX_ENTERED."""
    count = 0
    there = session.scalar(select(func.count()).select_from(EnteredRecordRow)) or 0
    for record in new:
        wrong = record.wrong
        if wrong:
            raise fault(record.where or "record", *wrong)
        row = session.get(EnteredRecordRow, record.key)
        if row is not None:
            continue
        count += 1
        if there + count > MAX_ENTERED:
            raise fault("records", f"{MAX_ENTERED:,} of them were entered", "leave out old ones")
        session.add(
            EnteredRecordRow(
                key=record.key, scene=record.scene, title=record.title, label=record.label, quantity=record.quantity,
                predicted=record.predicted, low=record.low, high=record.high, at=record.at,
            )
        )  # fmt: skip
        session.flush()
        if record.mishap:
            session.merge(MishapRow(key=record.key, note=record.mishap[:500], at=record.at))
    return count


def take_away(session: Session, key: str) -> None:
    """A record that was entered is gone. Raises Faults for one that was read off a batch or a mark."""
    row = session.get(EnteredRecordRow, key)
    if row is None:
        raise fault("record", "it was read off a batch or a mark", "call it a mishap, and it teaches nothing")
    session.delete(row)
    mark = session.get(MishapRow, key)
    if mark is not None:
        session.delete(mark)


def cup_loss(session: Session, row: BatchRow, lost_g: float, now: datetime) -> None:
    """What stayed in the cup of a batch and on the tools, weighed; the law's own figure beside it. Raises Faults."""
    volume = float(row.planned["volume_ml"])
    mass = sum(float(row.actual.get(part["key"], part["mass_g"])) for part in row.planned["ingredients"])
    if mass <= 0 or lost_g > mass:
        raise fault("stays in the cup", f"{lost_g:g} g are more than was mixed", "weigh the cup, less the empty one")
    slug = session.get_one(SceneRow, row.scene_id).slug
    lost = lost_g / mass * volume
    title = f"{row.lift.replace('-', ' ').capitalize()}, batch {row.id}"
    one = NewRecord(f"cup:{row.id}", slug, title, str(row.planned["mix"]), "cup", left_behind(volume), lost, lost, now)
    enter(session, [one])


def _of_steps(
    session: Session, mixes: dict[tuple[int, str], str], slugs: dict[int, str], said: dict[str, str]
) -> Iterable[Record]:
    """Waits as bounds between looks, and minutes of hands between a beginning and an end."""
    by_scene: dict[int, list[StepEventRow]] = {}
    for event in marks.events(session):
        by_scene.setdefault(event.scene_id, []).append(event)
    moved = {one.event_id: one.hours for one in session.scalars(select(MovedWaitRow).order_by(MovedWaitRow.id))}
    for scene, events in by_scene.items():
        for kept in marks.holding(events).values():
            yield from _of_step(kept, mixes, moved, slugs.get(scene, ""), said)


def _of_step(
    kept: list[StepEventRow],
    mixes: dict[tuple[int, str], str],
    moved: dict[int | None, float | None],
    slug: str,
    said: dict[str, str],
) -> Iterable[Record]:
    done = next((one for one in reversed(kept) if one.what == "done"), None)
    if done is None or not done.lift:
        return
    label = done.planned.get("mix") or mixes.get((done.scene_id, done.lift))
    if not label:
        return
    title = done.lift.replace("-", " ").capitalize()
    wait = moved.get(done.id, done.planned.get("wait_h"))
    looks = [one for one in kept if one.at > done.at and one.what in ("not-yet", "ready")]
    if wait and looks:
        hours = {what: [_hours(one, done) for one in looks if one.what == what] for what in ("not-yet", "ready")}
        key = f"wait:{done.id}"
        yield Record(
            key, label, "hours", float(wait) / float(done.planned.get("hours_times", 1.0)),
            max(hours["not-yet"], default=None), min(hours["ready"], default=None), slug, title, looks[-1].at,
            said.get(key, ""), done.lift,
        )  # fmt: skip
    begun = next((one for one in kept if one.what == "started" and one.at < done.at), None)
    minutes = float(done.planned.get("hands_on_min") or 0.0) / float(done.planned.get("hands_times", 1.0))
    if begun is not None and minutes > 0 and not any(one.what == "paused" for one in kept):
        took = (done.at - begun.at).total_seconds() / 60
        if SHORTEST_MIN <= took <= LONGEST_TIMES * minutes:
            key = f"hands:{done.id}"
            yield Record(key, label, "hands", minutes, took, took, slug, title, done.at, said.get(key, ""), done.lift)


def _hours(look: StepEventRow, done: StepEventRow) -> float:
    return (look.at - done.at).total_seconds() / 3600


def choices(session: Session) -> dict[tuple[str, str], Choice]:
    """What was said of factors, by label and quantity."""
    offered = {}
    for name, one in settings.read(session).factors.items():
        label, _, quantity = name.rpartition("/")
        offered[label, quantity] = Choice(one.off, one.since)
    return offered


def factors(session: Session) -> tuple[Taught, ...]:
    """Every factor that the records teach."""
    return taught(records(session), choices(session))


def in_force(session: Session) -> tuple[Factor, ...]:
    """The factors that plans go by: worked out anew once anything was mixed, marked, kept or said."""
    marks_of: list[ColumnElement[Any]] = [
        *(func.max(table.id) for table in (BatchRow, StepEventRow, MovedWaitRow, PackLineRow)),
        func.max(BatchRow.finished_at),
        func.count(MishapRow.key),
        func.max(MishapRow.at),
        func.count(EnteredRecordRow.key),
        func.max(EnteredRecordRow.at),
    ]
    told = select(SettingRow.value).where(SettingRow.name == "factors").scalar_subquery()
    asked: list[ColumnElement[Any]] = [*(select(one).scalar_subquery() for one in marks_of), told]
    mark = str(tuple(session.execute(select(*asked)).one()))
    engine = session.get_bind()
    assert isinstance(engine, Engine)
    known = _known.get(engine)
    if known is None or known[0] != mark:
        made = in_use(factors(session))
        known = mark, known[1] if known and known[1] == made else made
        _known[engine] = known
    return known[1]


def forget() -> None:
    """What is known of the factors is worked out anew: other rows stand in the database now."""
    _known.clear()


def mishap(session: Session, key: str, note: str, now: datetime, off: bool = False) -> None:
    """A record is a mishap, for a reason, and teaches nothing; or is none after all. Raises Faults for no record."""
    if key not in {one.key for one in records(session)}:
        raise fault("record", "it is not there any more", "reload the page")
    if off:
        row = session.get(MishapRow, key)
        if row is not None:
            session.delete(row)
    else:
        session.merge(MishapRow(key=key, note=note[:500], at=now))


def mishaps_of(session: Session, slug: str, lift: str, note: str, now: datetime) -> int:
    """All that was recorded of a lift is a mishap; returns how many records that are. Raises Faults for none."""
    mine = [one for one in records(session) if (one.scene, one.lift) == (slug, lift)]
    if not mine:
        raise fault("record", "nothing was recorded of that lift", "weigh what goes in, touch what is wet")
    for one in mine:
        session.merge(MishapRow(key=one.key, note=one.mishap or note[:500], at=now))
    return len(mine)


def say(
    session: Session, label: str, quantity: str, *, off: bool | None = None, forget: datetime | None = None
) -> None:
    """A factor is switched off or on, or what taught it until now is forgotten. Raises Faults for none."""
    held, name = settings.read(session).factors, f"{label}/{quantity}"
    known = {f"{one.label}/{one.quantity}" for one in factors(session)} | held.keys()
    if name not in known:
        raise fault("factor", f"nothing is learnt of '{label[:60]}'", "reload the page")
    was = held.get(name, settings.FactorChoice())
    said = settings.FactorChoice(off=was.off if off is None else off, since=forget or was.since)
    settings.change(session, factors={**held, name: said})


def remember(session: Session, label: str, quantity: str) -> None:
    """What was forgotten of a factor counts again."""
    held = settings.read(session).factors
    name = f"{label}/{quantity}"
    if name in held:
        settings.change(session, factors={**held, name: held[name].model_copy(update={"since": None})})
