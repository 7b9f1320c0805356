"""What was built, day by day, beside what is planned: a diary to print."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from itertools import groupby

from flask import render_template

from ...core.built.ratio import OffRatio, worst
from ...core.document.built import Built
from ...core.plan import plan
from ...store import built, logbook, photos, scenes
from ...store.tables import BatchRow, StepPhotoRow
from ..shared.scenes import database, open_scene
from .asking import zone
from .views import blueprint


@dataclass(frozen=True)
class DiaryRow:
    """One thing that was done: its record, its times on the wall, what the plan as it is now would lay there, what to
    expect of a batch that went off its ratio, the device that marked it, if not this machine, its photos, and the
    batches that went into it."""

    entry: Built
    begun: datetime | None
    ended: datetime
    planned_ml: float | None
    off: OffRatio | None
    by: str | None
    photos: tuple[StepPhotoRow, ...] = ()
    batches: tuple[BatchRow, ...] = ()


@blueprint.get("/s/<slug>/clock/diary")
def diary(slug: str) -> str:
    """As built beside as planned."""
    opened = open_scene(slug)
    meant = plan(opened.scene.model_copy(update={"built": (), "built_on": ()}))
    with database().reading() as session:
        row = scenes.find(session, slug)
        makers, shots = built.by_device(session, row), photos.by_step(session, row)
        mixed = {one.batch: one for one in reversed(logbook.batches(session, row))}
    rows = []
    for entry in opened.scene.built:
        whole = meant.lifts.get(entry.lift.id) if entry.lift else None
        layers = whole.layers if whole else ()
        planned = layers[entry.course - 1].volume_ml.number if 0 < entry.course <= len(layers) else None
        begun = None if entry.begun is None else entry.begun.astimezone(zone())
        batches = tuple(mixed[one.batch] for one in entry.batches if one.batch in mixed)
        shown = tuple(shots.pop(entry.step, ()))
        by, ended = makers.get(entry.id), entry.ended.astimezone(zone())
        rows.append(DiaryRow(entry, begun, ended, planned, worst(entry), by, shown, batches))
    days: list[tuple[date, list[DiaryRow]]] = [
        (day, list(found))
        for day, found in groupby(sorted(rows, key=lambda row: row.ended), lambda row: row.ended.date())
    ]
    others = [one for found in shots.values() for one in found]
    left = sum(1 for step in opened.plan.steps if not step.built and not step.gate and not step.only_if)
    return render_template("clock/diary.html", opened=opened, days=days, left=left, others=others, place="clock.page")
