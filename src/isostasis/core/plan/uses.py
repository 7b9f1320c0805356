"""What each step takes off the shelf: what a scene needs, and when, both follow from it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from math import ceil

from ..built.forms import FormsMade
from ..built.remains import Work
from ..catalogue import Material
from ..document import ResolvedScene
from ..document.resolve import BATTEN
from ..ground.field import Shaped
from ..lifts.cast import CastPlan
from ..lifts.estimate import Ingredient
from ..lifts.fold import Build
from ..lifts.labels import Labels
from ..terrain.keep import protections
from .model import Batch, Step, Use

BOARD_MM = 25.0  # of a sheet whose label does not say how thick it is


def glue_film(material: Material) -> float:
    """mm of glue over the joined area, both faces together."""
    return material.glue_film_mm * (2 if material.glue_both_faces else 1)


def sold(material: Material, volume_ml: float, mass_g: float) -> tuple[float, str]:
    """(amount, unit) of a material in what it is sold by: g, mm2 of what comes as a sheet, else ml."""
    if material.sold_by == "g":
        return mass_g, "g"
    if material.sold_by == "mm2":
        return volume_ml * 1000 / (material.thickness_mm or 1.0), "mm2"
    return volume_ml, "ml"


def uses_of(
    scene: ResolvedScene,
    labels: Labels,
    works: dict[str, Work],
    built: Build,
    casts: dict[str, CastPlan],
    steps: tuple[Step, ...],
    batches: Iterable[Batch],
) -> tuple[Use, ...]:
    """What the steps of all copies that are not done still take."""
    known = FormsMade.of(scene)
    at = {(step.kind, name, step.course or 1): step.id for step in steps for name in (step.form, *step.forms) if name}
    fed: dict[tuple[str, int], float] = {}
    mixes: dict[str, str] = {}
    for batch in batches:
        for feed in batch.feeds:
            fed[feed.into, feed.layer] = fed.get((feed.into, feed.layer), 0.0) + feed.volume_ml.number
            mixes[feed.into] = batch.mix
    uses: list[Use] = []
    if not scene.built:
        uses.append(Use(scene.base.board, None, float(scene.copies), "piece", "boards", ""))
    if scene.base.battens and "battens" not in known.used:
        count = float(scene.base.battens * scene.copies)
        uses.append(Use(BATTEN, None, count, "piece", "under the board", "battens"))
    for shaped in built.forms:
        cast = casts.get(shaped.form.id)
        if known.record("cast" if cast else "form", shaped.form) is None:
            if cast:
                courses = [
                    (number, at.get(("cast", shaped.form.id, number), "")) for number in range(1, len(cast.minutes) + 1)
                ]
                uses += _measured(scene, labels, cast.ingredients, shaped.form.title, courses,
                                   {number: fed.get((shaped.form.id, number), 0.0) for number, _ in courses},
                                   mixes.get(shaped.form.id, ""))  # fmt: skip
            else:
                uses += _of_form(scene, labels, shaped, at.get(("form", shaped.form.id, 1), ""))
        if shaped.form.glue and known.record("glue", shaped.form) is None:
            glue = labels.materials[shaped.form.glue]
            ml = shaped.area_mm2 * glue_film(glue) / 1000 * scene.copies
            amount, unit = sold(glue, ml, ml * glue.density)
            uses.append(
                Use(glue.id, None, amount, unit, f"under {shaped.form.title}", at.get(("glue", shaped.form.id, 1), ""))
            )
    uses += _seals(scene, labels, built, known)
    for lift_id, work in works.items():
        if work.estimate is not None:
            courses = list(enumerate(work.ids, start=work.first))
            uses += _measured(scene, labels, work.estimate.plan.ingredients, scene.lift(lift_id).title, courses,
                               {number: fed.get((lift_id, number), 0.0) for number, _ in courses},
                               mixes.get(lift_id, ""))  # fmt: skip
    return tuple(uses)


def _of_form(scene: ResolvedScene, labels: Labels, shaped: Shaped, step: str) -> Iterator[Use]:
    """A sheet is cut from whole sheets; anything else is built up from as much as it holds."""
    material = labels.materials[shaped.form.made_of] if shaped.form.made_of and shaped.volume_ml > 0 else None
    if material is None:
        return
    title = shaped.form.title
    amount, unit = shaped.volume_ml, "ml"
    if material.sold_by == "mm2":
        stock = material.thickness_mm or BOARD_MM
        thick = getattr(shaped.form, "thickness_mm", None)
        layers = max(ceil(thick / stock - 1e-9), 1) if thick else 0
        amount, unit = shaped.area_mm2 * layers if layers else shaped.volume_ml * 1000 / stock, "mm2"
        title = f"{title}, {layers} thick" if layers > 1 else title
    elif material.sold_by == "g":
        amount, unit = shaped.volume_ml * material.density, "g"
    yield Use(material.id, None, amount * scene.copies, unit, title, step)


def _seals(scene: ResolvedScene, labels: Labels, built: Build, known: FormsMade) -> Iterator[Use]:
    """What closes the card kits and the like that stand near wet work."""
    for thing in scene.protect:
        step = f"seal-{thing.id}"
        if thing.how != "seal" or step in known.used:
            continue
        kept = protections(scene, built)[thing.id]
        if kept.near and kept.seal_ml is not None:
            material = labels.materials[thing.material]
            ml = kept.seal_ml.number * scene.copies
            amount, unit = sold(material, ml, ml * material.density)
            yield Use(thing.material, None, amount, unit, f"over {thing.name}", step)


def _measured(
    scene: ResolvedScene,
    labels: Labels,
    ingredients: tuple[Ingredient, ...],
    title: str,
    courses: list[tuple[int, str]],
    fed: dict[int, float],
    mix: str,
) -> Iterator[Use]:
    """What is measured out for a lift or a casting, course by course, as its batches share it out."""
    whole = sum(fed.values())
    for part in ingredients:
        material = labels.materials[part.material]
        amount, unit = sold(material, part.volume_ml.number, part.mass_g.number)
        what = title + (f", part {part.part}" if part.part else "")
        mixed = whole > 0 and not part.aside
        for number, step in courses:
            share = fed[number] / whole if whole > 0 else 1 / len(courses)
            use = Use(part.material, part.part, amount * scene.copies * share, unit, what, step)
            yield replace(use, mix=mix, mix_ml=fed[number]) if mixed else use
