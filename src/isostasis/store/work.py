"""What happened at the bench: batches mixed, and events of steps. Rows keep the plan as it stood."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.lifts.cast import CastPlan
from ..core.lifts.site import LiftPlan
from ..core.plan import Batch, Plan, Step
from ..core.replan import Done, layer_ml
from ..core.schedule import Marks
from .tables import BatchRow, SceneRow, StepEventRow


class NoSuchBatch(LookupError):  # noqa: N818 - reads as what it is
    """There is no batch row of that number in this scene."""


def start_batch(
    session: Session,
    scene: SceneRow,
    batch: str,
    lift: str,
    planned: dict[str, Any],
    room: tuple[float, float],
    now: datetime,
) -> BatchRow:
    """A batch whose working time runs from now; `planned` are its figures, `room` degC and humidity.

    A batch of that name that is already open is returned as it is: a second press starts no second clock.
    """
    running = session.scalar(
        select(BatchRow).where(BatchRow.scene_id == scene.id, BatchRow.batch == batch, BatchRow.finished_at.is_(None))
    )
    if running:
        return running
    row = BatchRow(
        scene_id=scene.id,
        revision_id=scene.head_id or 0,
        batch=batch,
        lift=lift,
        planned=planned,
        temp_c=room[0],
        rh=room[1],
        started_at=now,
    )
    session.add(row)
    session.flush()
    return row


def get_batch(session: Session, scene: SceneRow, row_id: int) -> BatchRow:
    """A batch row of this scene. Raises NoSuchBatch."""
    row = session.get(BatchRow, row_id)
    if row is None or row.scene_id != scene.id:
        raise NoSuchBatch(str(row_id))
    return row


def write_down(row: BatchRow, actual: dict[str, float]) -> None:
    """What really went in, by ingredient; keeps what was written before for the others."""
    row.actual = {**row.actual, **actual}


def finish_batch(row: BatchRow, now: datetime, note: str = "") -> None:
    """The cup is empty."""
    if row.finished_at is None:
        row.finished_at = now
        row.note = note[:500]


def batches(session: Session, scene: SceneRow) -> list[BatchRow]:
    """All batches of a scene, the newest first."""
    return list(
        session.scalars(
            select(BatchRow)
            .where(BatchRow.scene_id == scene.id)
            .order_by(BatchRow.started_at.desc(), BatchRow.id.desc())
        )
    )


def add_event(
    session: Session,
    scene: SceneRow,
    step: str,
    lift: str | None,
    what: str,
    planned: dict[str, Any],
    now: datetime,
    note: str = "",
) -> StepEventRow:
    """Something that happened to a step at `now`; a note says why."""
    row = StepEventRow(
        scene_id=scene.id,
        revision_id=scene.head_id or 0,
        step=step,
        lift=lift,
        what=what,
        planned=planned,
        at=now,
        note=note[:500],
    )
    session.add(row)
    session.flush()
    return row


def marks(found: Iterable[StepEventRow]) -> Marks:
    """What the events of a scene come to, step by step: the last mark holds, and `undone` takes all of them back."""
    kinds: dict[str, dict[str, datetime]] = {what: {} for what in ("started", "done", "skipped", "not-yet", "ready")}
    for event in found:
        if event.what in ("undone", "started"):
            for known in kinds.values():
                known.pop(event.step, None)
        elif event.what in ("done", "skipped"):
            for what in ("done", "skipped", "not-yet", "ready"):
                kinds[what].pop(event.step, None)
        if event.what in kinds:
            kinds[event.what][event.step] = event.at
    return Marks(kinds["started"], kinds["done"], kinds["skipped"], kinds["not-yet"], kinds["ready"])


def done_steps(found: Iterable[StepEventRow]) -> list[Done]:
    """The steps that were done and not taken back, as they were planned then."""
    rows = list(found)
    done = marks(rows).done
    last = {event.step: event for event in rows if event.what == "done" and event.step in done}
    return [
        Done(
            event.step, event.planned.get("do", event.step), event.lift, event.planned.get("layer"),
            event.planned.get("volume_ml"),
        )
        for event in last.values()
    ]  # fmt: skip


def events(session: Session, scene: SceneRow | None = None) -> list[StepEventRow]:
    """All step events (of one scene, or of all), the oldest first."""
    wanted = select(StepEventRow).order_by(StepEventRow.at, StepEventRow.id)
    return list(session.scalars(wanted if scene is None else wanted.where(StepEventRow.scene_id == scene.id)))


def mixed_for(plan: Plan, into: str) -> LiftPlan | CastPlan:
    """The figures of the lift, or of the casting's pieces, that a batch feeds."""
    if into in plan.lifts:
        return plan.lifts[into]
    made = plan.forms[into].cast
    assert made is not None
    return made


def planned_batch(plan: Plan, batch: Batch) -> dict[str, Any]:
    """The figures of a batch as a row keeps them: what was planned when it was mixed."""
    first = batch.feeds[0]
    made = mixed_for(plan, first.into)
    share = batch.volume_ml.number / (getattr(made, "_mixed_ml", None) or made.mix_ml.number)
    return {
        "lift": first.into,
        "layer": first.layer,
        "mix": batch.mix,
        "volume_ml": batch.volume_ml.number,
        "working_min": batch.working_min,
        "feeds": [[feed.into, feed.layer, feed.volume_ml.number] for feed in batch.feeds],
        "ingredients": [
            {
                "key": f"{part.material}:{part.part or ''}",
                "material": part.material,
                "part": part.part,
                "volume_ml": part.volume_ml.number * share,
                "mass_g": part.mass_g.number * share,
                "drops": None if part.drops is None else part.drops.number * share,
            }
            for part in made.ingredients
            if not part._aside
        ],
    }


def planned_step(plan: Plan, step: Step) -> dict[str, Any]:
    """The figures of a step as a row keeps them."""
    return {
        "do": step.do, "wait_h": step.wait_h, "hands_on_min": step.hands_on_min, "layer": step.layer,
        "volume_ml": layer_ml(plan, step),
    }  # fmt: skip
