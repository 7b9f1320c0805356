"""The Mix page: choose a batch, start it, write down what went in, finish it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from flask import Blueprint, g, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.built.ratio import OffRatio, off_ratio
from ...core.fault import fault
from ...core.figure import Figure
from ...core.mixing.drops import Counted, count_drops
from ...core.mixing.parts import by_mass_error
from ...core.mixing.repair import Repair, repair
from ...core.plan import Batch
from ...core.units import NotAMeasure, parse
from ...store import devices, logbook, scenes
from ...store.logbook import PlannedBatch, PlannedPart
from ...store.tables import BatchRow
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.fields import Field, read_one
from ..shared.scenes import OpenScene, database, now, open_scene

blueprint = Blueprint("mix", __name__)
KEPT = Field("kept", "left over", "ml", optional=True, low=0)


@dataclass(frozen=True)
class Line:
    """One ingredient on the card: planned, and what went in (g) if that is written down."""

    key: str
    name: str
    part: str | None
    volume_ml: float
    mass_g: float
    drops: float | None
    counted: Counted | None
    actual_g: float | None


@dataclass(frozen=True)
class Card:
    """A batch to mix, or one that was."""

    key: str
    lift: str
    layer: int
    mix: str
    mix_name: str
    volume_ml: float
    working_min: float | None
    lines: tuple[Line, ...]
    row: BatchRow | None
    cautions: tuple[Any, ...]
    weighed_wrong: float
    mend: Repair | None
    off: OffRatio | None  # what to expect of it as it was really mixed
    figures: tuple[tuple[str, str, Figure], ...]  # label, path in the plan, figure
    feeds: list[tuple[str, int, float]]  # lift, layer, ml: in the order of use
    keeps: bool  # whether a leftover can be kept: it hardens neither by itself nor with its water

    @property
    def state(self) -> str:
        """planned, open or done."""
        if self.row is None:
            return "planned"
        return "open" if self.row.finished_at is None else "done"


def _card(opened: OpenScene, planned: PlannedBatch, key: str, row: BatchRow | None) -> Card:
    materials = opened.labels.materials
    actual: dict[str, float] = dict(row.actual) if row else {}
    lines = tuple(
        Line(
            part.key,
            materials[part.material].name if part.material in materials else part.material,
            part.part,
            part.volume_ml,
            part.mass_g,
            part.drops,
            count_drops(part.drops, planned.volume_ml) if part.drops else None,
            actual.get(part.key),
        )
        for part in planned.ingredients
    )
    weighed = [line for line in lines if line.drops is None]
    mend = None
    if len(weighed) > 1 and all(line.actual_g is not None for line in weighed):
        mend = repair(tuple(line.mass_g for line in weighed), tuple(line.actual_g or 0.0 for line in weighed))
    mix = opened.labels.mixes.get(planned.mix)
    step = logbook.laying(opened.plan, planned.lift, planned.course)
    two_part = mix is not None and mix.reacts is not None and mix.basis == "volume"
    return Card(
        key=key,
        lift=planned.lift,
        layer=planned.course,
        mix=planned.mix,
        mix_name=mix.name if mix else materials[planned.mix].name if planned.mix in materials else planned.mix,
        volume_ml=planned.volume_ml,
        working_min=planned.working_min,
        lines=lines,
        row=row,
        cautions=opened.plan.cautions_of(step.id) if step else (),
        weighed_wrong=by_mass_error(mix, materials) if two_part and mix else 0.0,
        mend=mend,
        off=off_ratio(mix, materials, logbook.built_batch(row)) if mix and row else None,
        figures=_figures(opened, key, planned.lift),
        feeds=list(planned.feeds),
        keeps=mix is not None and mix.id in opened.catalogue.mixes and mix.reacts is None and mix.sets is None,
    )


def _figures(opened: OpenScene, key: str, lift: str) -> tuple[tuple[str, str, Figure], ...]:
    """The plan's figures behind a card: the batch, its lift's ingredients, the working time."""
    place = next((place for place, batch in enumerate(opened.plan.batches) if batch.id == key), None)
    if place is None:
        return ()
    made, materials = logbook.mixed_for(opened.plan, lift), opened.labels.materials
    path, whole = (f"lifts.{lift}", "whole lift") if lift in opened.plan.lifts else (f"forms.{lift}.cast", "all pieces")
    rows = [("this batch", f"batches.{place}.volume_ml", opened.plan.batches[place].volume_ml)]
    for number, part in enumerate(made.ingredients):
        name = materials[part.material].name + (f", {part.part}" if part.part else "")
        rows.append((f"{name}, {whole}", f"{path}.ingredients.{number}.volume_ml", part.volume_ml))
        rows.append((f"{name}, {whole}", f"{path}.ingredients.{number}.mass_g", part.mass_g))
    return (*rows, ("working time", f"{path}.hours.workable", made.hours.workable))


def _planned(opened: OpenScene, key: str) -> PlannedBatch | None:
    batch: Batch | None = next((batch for batch in opened.plan.batches if batch.id == key), None)
    return logbook.planned_batch(opened.plan, batch) if batch else None


@blueprint.get("/s/<slug>/mix")
def page(slug: str) -> str:
    """The batches of a scene, and the card of the chosen one. Raises Faults."""
    opened = open_scene(slug)
    with database().reading() as session:
        rows = logbook.batches(session, scenes.find(session, slug))
        makers = devices.names(session)
    latest: dict[str, BatchRow] = {}
    for row in reversed(rows):
        latest[row.batch] = row
    open_now = [row for row in rows if row.finished_at is None]
    todo = [batch.id for batch in opened.plan.batches if batch.id not in latest]
    chosen = request.args.get("batch") or (
        open_now[0].batch if open_now else todo[0] if todo else rows[0].batch if rows else ""
    )
    current = latest.get(chosen)
    planned = logbook.batch_of(current) if current else _planned(opened, chosen)
    if planned is None and request.args.get("batch"):
        raise fault(
            "batch", f"there is no batch '{chosen}' in this scene", "go back to Mix and choose one of its batches"
        )
    names = {lift.id: f"{patch.name}, {lift.short_title}" for patch in opened.scene.patches for lift in patch.lifts}
    names |= {form.id: f"{form.title}, pieces" for form in opened.scene.forms}
    return render_template(
        "mix/page.html",
        opened=opened,
        card=_card(opened, planned, chosen, current) if planned else None,
        batches=opened.plan.batches,
        latest=latest,
        by=makers.get(current.device_id or 0) if current else None,
        names=names,
        retired=[row for key, row in latest.items() if key not in {batch.id for batch in opened.plan.batches}],
        runs_out=current.started_at + timedelta(minutes=planned.working_min)
        if current and planned and planned.working_min
        else None,
        place="mix.page",
    )


def _back(slug: str, key: str) -> Response:
    return hx_redirect(url_for("mix.page", slug=slug, batch=key))


@blueprint.post("/s/<slug>/mix/<key>/start")
def start(slug: str, key: str) -> Response:
    """The second part goes in: the working time runs. Raises Faults."""
    opened = open_scene(slug)
    planned = _planned(opened, key)
    if planned is None:
        raise fault("batch", f"the plan has no batch '{key}' any more", "choose one on Mix")
    room = opened.scene.room
    with database().writing() as session:
        logbook.start_batch(session, scenes.find(session, slug), key, planned, (room.temp_c, room.rh), now())
    return _back(slug, key)


@blueprint.post("/s/<slug>/mix/<int:row_id>/actual")
def actual(slug: str, row_id: int) -> Response:
    """What really went in, by mass (or by volume, turned to mass by the plan's density)."""
    with database().writing() as session:
        row = logbook.get_batch(session, scenes.find(session, slug), row_id)
        written: dict[str, float] = {}
        for part in logbook.batch_of(row).ingredients:
            text = request.form.get(part.key, "").strip()
            if text:
                written[part.key] = round(_as_mass(text, part), 2)
        logbook.write_down(row, written)
        key = row.batch
    return _back(slug, key)


def _as_mass(text: str, part: PlannedPart) -> float:
    """g from what was typed: a mass, or a volume of this ingredient. Raises Faults."""
    try:
        return parse(text, "mass", g.measures)
    except NotAMeasure as problem:
        try:
            return float(parse(text, "volume", g.measures) * part.mass_g / part.volume_ml)
        except NotAMeasure:
            raise fault(
                part.material,
                f"“{text}” is neither a mass nor a volume",
                "write 120 g, 4 oz, 110 ml or 8 drops",
            ) from problem


@blueprint.post("/s/<slug>/mix/<int:row_id>/finish")
def finish(slug: str, row_id: int) -> Response:
    """The cup is empty, but for what is kept. With a layer's last batch its step is done, and hardening starts. Raises
    Faults."""
    opened = open_scene(slug)
    with database().writing() as session:
        scene = scenes.find(session, slug)
        row = logbook.get_batch(session, scene, row_id)
        note, kept = request.form.get("note", "").strip(), read_one(KEPT, request.form) or 0.0
        if kept > logbook.batch_of(row).volume_ml:
            raise fault("left over", f"{kept:g} ml are more than was mixed", "write what is left in the cup")
        key = logbook.empty_cup(session, scene, row, (opened.scene, opened.plan), now(), note, kept)
    return hx_redirect(safe_return_url()) if request.form.get("here") else _back(slug, key)
