"""The Mix page: choose a batch, start it, write down what went in, finish it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from flask import Blueprint, g, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.built.ratio import OffRatio, off_ratio
from ...core.catalogue import Mix
from ...core.fault import fault
from ...core.figure import Figure
from ...core.mixing.drops import Counted, count_drops
from ...core.mixing.parts import by_mass_error
from ...core.mixing.repair import Repair, repair
from ...core.plan import Batch
from ...core.plan.cautions import worst_first
from ...core.units import measured
from ...store import bench, cautions, devices, logbook, records, scenes, shelf, walk
from ...store.planned import PlannedBatch
from ...store.tables import BatchRow
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.fields import Field, parse_grams, read_one
from ..shared.scenes import OpenScene, database, now, open_scene
from .extras import stock_of

blueprint = Blueprint("mix", __name__)
STIRRING = {
    "reacts": "Tint into one part. Stir 3 min, slowly; scrape walls and stick; second cup, stir; pour.",
    "wet": "Stir 3 min until no dry lump is left; scrape; use it.",
    "one": "Stir it, and what has settled with it.",
    "dry": "Shake it in a closed jar until it is of one colour.",
}
LOST = Field("lost", "stays in the cup", "g", optional=True, low=0)
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
    walk_words: str  # what is done once the parts are in
    off_by_measures: float  # how far the ratio would be off with the reader's own measures (0.1: a tenth too much)
    keeps: bool  # whether a leftover can be kept: it hardens neither by itself nor with its water

    @property
    def pick(self) -> list[tuple[str, str]]:
        """(key, name) of the parts of which one may be used up."""
        return [
            (line.key, f"{line.part} {line.name}" if line.part else line.name)
            for line in self.lines
            if line.drops is None
        ]

    @property
    def state(self) -> str:
        """planned, open or done."""
        if self.row is None:
            return "planned"
        return "open" if self.row.finished_at is None else "done"


def card_of(opened: OpenScene, planned: PlannedBatch, key: str, row: BatchRow | None) -> Card:
    """The card of a batch, planned or mixed."""
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
        cautions=tuple(worst_first(opened.plan.cautions_of(step.id))) if step else (),
        weighed_wrong=by_mass_error(mix, materials) if two_part and mix else 0.0,
        mend=mend,
        off=off_ratio(mix, materials, logbook.built_batch(row)) if mix and row else None,
        figures=_figures(opened, key, planned.lift),
        feeds=list(planned.feeds),
        walk_words=STIRRING[_stirred(mix, lines)],
        off_by_measures=_off_by_measures(lines) if mix is not None and mix.reacts is not None else 0.0,
        keeps=mix is not None and mix.id in opened.catalogue.mixes and mix.reacts is None and mix.sets is None,
    )


def _stirred(mix: Mix | None, lines: tuple[Line, ...]) -> str:
    """How a batch is stirred."""
    if mix is not None and mix.reacts is not None:
        return "reacts"
    return "one" if len(lines) == 1 else "dry" if mix is not None and mix.family == "texture" else "wet"


def _off_by_measures(lines: tuple[Line, ...]) -> float:
    """By how much a second part would be off its ratio if both were measured with what the reader has."""
    both = [(line.volume_ml, measured(line.volume_ml, g.measures)[1]) for line in lines if line.drops is None]
    if len(both) != 2 or min(min(pair) for pair in both) <= 0:
        return 0.0
    (first, had_first), (second, had_second) = both
    return (had_second / had_first) / (second / first) - 1


def _figures(opened: OpenScene, key: str, lift: str) -> tuple[tuple[str, str, Figure], ...]:
    """The plan's figures behind a card: the batch, its lift's ingredients, the working time."""
    place = next((place for place, batch in enumerate(opened.plan.batches) if batch.id == key), None)
    if place is None:
        return ()
    mixed, materials = logbook.mixed_for(opened.plan, lift), opened.labels.materials
    path, whole = (f"lifts.{lift}", "whole lift") if lift in opened.plan.lifts else (f"forms.{lift}.cast", "all pieces")
    rows = [("this batch", f"batches.{place}.volume_ml", opened.plan.batches[place].volume_ml)]
    for number, part in enumerate(mixed.ingredients):
        name = materials[part.material].name + (f", {part.part}" if part.part else "")
        rows.append((f"{name}, {whole}", f"{path}.ingredients.{number}.volume_ml", part.volume_ml))
        rows.append((f"{name}, {whole}", f"{path}.ingredients.{number}.mass_g", part.mass_g))
    return (*rows, ("working time", f"{path}.hours.workable", mixed.hours.workable))


def planned_of(opened: OpenScene, key: str) -> PlannedBatch | None:
    """The batch of that id as the plan has it; None for one that it has no more."""
    batch: Batch | None = next((batch for batch in opened.plan.batches if batch.id == key), None)
    return logbook.planned_batch(opened.plan, batch) if batch else None


def names_of(opened: OpenScene) -> dict[str, str]:
    """What batches go into, by the ids of lifts and forms."""
    names = {lift.id: patch.spot(lift) for patch in opened.scene.patches for lift in patch.lifts}
    return names | {form.id: f"{form.title}, pieces" for form in opened.scene.forms}


def _chosen(opened: OpenScene, rows: list[BatchRow], latest: dict[str, BatchRow]) -> str:
    """The batch that is asked for, else one in a cup, the first to mix, the last that was; empty if none."""
    in_cup = [row.batch for row in rows if row.finished_at is None]
    todo = [batch.id for batch in opened.plan.batches if batch.id not in latest]
    return request.args.get("batch") or next(iter([*in_cup, *todo, *(row.batch for row in rows)]), "")


@blueprint.get("/s/<slug>/mix")
def page(slug: str) -> str:
    """The batches of a scene, and the card of the chosen one. Raises Faults."""
    opened = open_scene(slug)
    with database().reading() as session:
        scene = scenes.find(session, slug)
        rows, makers, mark = logbook.batches(session, scene), devices.names(session), bench.mark_of(session)
        latest: dict[str, BatchRow] = {row.batch: row for row in reversed(rows)}
        chosen = _chosen(opened, rows, latest)
        current = latest.get(chosen)
        planned = logbook.batch_of(current) if current else planned_of(opened, chosen)
        running = current is not None and current.finished_at is None and walk.is_wet(current)
        minutes = logbook.working_min(session, current) if running and current else None
        read = cautions.read_of(session, scene, chosen)
        jar = shelf.in_jars(session, planned.mix) if planned else 0.0
    if planned is None and request.args.get("batch"):
        raise fault(
            "batch", f"there is no batch '{chosen}' in this scene", "go back to Mix and choose one of its batches"
        )
    runs_out = None if minutes is None or current is None else current.started_at + timedelta(minutes=minutes)
    stock = stock_of(opened, planned) if planned is not None else None
    return render_template(
        "mix/page.html",
        opened=opened,
        card=card_of(opened, planned, chosen, current) if planned else None,
        batches=opened.plan.batches,
        latest=latest,
        by=makers.get(current.device_id or 0) if current else None,
        names=names_of(opened),
        retired=[row for key, row in latest.items() if key not in {batch.id for batch in opened.plan.batches}],
        runs_out=runs_out,
        read=read,
        mark=mark,
        jar=jar,
        stock=stock,
        place="mix.page",
    )


def back_to(slug: str, key: str) -> Response:
    """To the card of a batch."""
    return hx_redirect(url_for("mix.page", slug=slug, batch=key))


@blueprint.post("/s/<slug>/mix/<int:row_id>/actual")
def actual(slug: str, row_id: int) -> Response:
    """What really went in, by mass (or by volume, turned to mass by the plan's density)."""
    with database().writing() as session:
        row = logbook.get_batch(session, scenes.find(session, slug), row_id)
        written: dict[str, float] = {}
        for part in logbook.batch_of(row).ingredients:
            text = request.form.get(part.key, "").strip()
            if text:
                written[part.key] = round(parse_grams(text, part.material, part.mass_g / part.volume_ml), 2)
        logbook.write_down(row, written)
        key = row.batch
    return back_to(slug, key)


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
        lost = read_one(LOST, request.form)
        if lost:
            records.cup_loss(session, row, float(lost), now())
        key = logbook.empty_cup(session, scene, row, (opened.scene, opened.plan), now(), note, kept)
    return hx_redirect(safe_return_url()) if request.form.get("here") else back_to(slug, key)
