"""What was built, day by day, beside what is planned: a diary to print."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from itertools import groupby

from flask import render_template

from ...core.built.ratio import OffRatio, worst
from ...core.document.built import Built
from ...core.plan import plan
from ...store import built, scenes
from ..shared.scenes import database, open_scene
from .asking import zone
from .views import blueprint


@dataclass(frozen=True)
class DiaryRow:
    """One thing that was done: its record, its times on the wall, what the plan as it is now would lay there, what to
    expect of a batch that went off its ratio, and the device that marked it, if not this machine."""

    entry: Built
    begun: datetime | None
    ended: datetime
    planned_ml: float | None
    off: OffRatio | None
    by: str | None


@blueprint.get("/s/<slug>/clock/diary")
def diary(slug: str) -> str:
    """As built beside as planned."""
    opened = open_scene(slug)
    meant = plan(opened.scene.model_copy(update={"built": (), "built_on": ()}))
    with database().reading() as session:
        makers = built.by_device(session, scenes.find(session, slug))
    rows = []
    for entry in opened.scene.built:
        whole = meant.lifts.get(entry.lift.id) if entry.lift else None
        layers = whole.layers if whole else ()
        planned = layers[entry.course - 1].volume_ml.number if 0 < entry.course <= len(layers) else None
        begun = None if entry.begun is None else entry.begun.astimezone(zone())
        rows.append(DiaryRow(entry, begun, entry.ended.astimezone(zone()), planned, worst(entry), makers.get(entry.id)))
    days: list[tuple[date, list[DiaryRow]]] = [
        (day, list(found))
        for day, found in groupby(sorted(rows, key=lambda row: row.ended), lambda row: row.ended.date())
    ]
    left = sum(1 for step in opened.plan.steps if not step.built and not step.gate and not step.only_if)
    return render_template("clock/diary.html", opened=opened, days=days, left=left, place="clock.page")
