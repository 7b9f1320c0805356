"""What the whole scene takes of each material, and what that costs where the user has priced it."""

from __future__ import annotations

from math import ceil

from ..built.forms import FormsMade
from ..built.remains import Work
from ..catalogue import Bench, Material
from ..document import ResolvedScene
from ..document.resolve import BATTEN
from ..figure import Figure, Term
from ..lifts.cast import CastPlan
from ..lifts.estimate import Ingredient
from ..lifts.fold import Build
from ..lifts.labels import Labels
from ..terrain.keep import protections
from .model import Need


def glue_film(material: Material) -> float:
    """mm of glue over the joined area, both faces together."""
    return material.glue_film_mm * (2 if material.glue_both_faces else 1)


def _bought(name: str, need: float, unit: str, bench: Bench, panels: bool) -> tuple[Figure | None, Figure | None]:
    """Packs and their cost, where the user gave a price. How many panels depends on how pieces nest, not on area."""
    price = next((one for one in bench.prices if one.material == name), None)
    if price is None or panels:
        return None, None
    packs = ceil(need / price.pack - 1e-9)
    holds = Term("one pack", price.pack, unit, "your price list")
    return (
        Figure(packs, "packs", "need / what a pack holds, rounded up", (Term("need", need, unit), holds)),
        Figure(
            packs * price.amount, "money", "packs × price", (Term("packs", packs), Term("price", price.amount, "money"))
        ),
    )


def needs_of(
    scene: ResolvedScene, labels: Labels, works: dict[str, Work], built: Build, casts: dict[str, CastPlan]
) -> tuple[Need, ...]:
    """Everything that the scene, all copies, still takes, by material in the order of their ids."""
    known = FormsMade.of(scene)
    terms: dict[str, list[Term]] = {}

    def take(material: str, what: str, amount: float, unit: str) -> None:
        terms.setdefault(material, []).append(Term(what, amount, unit))

    def take_all(ingredients: tuple[Ingredient, ...], title: str) -> None:
        for part in ingredients:
            material = labels.materials[part.material]
            each = {
                "g": part.mass_g.number,
                "mm2": part.volume_ml.number * 1000 / (material.thickness_mm or 1.0),
            }.get(material.sold_by, part.volume_ml.number)
            unit = material.sold_by if material.sold_by in ("g", "mm2") else "ml"
            take(part.material, title + (f", part {part.part}" if part.part else ""), each * scene.copies, unit)

    if not scene.built:
        take(scene.base.board, "boards", float(scene.copies), "piece")
    if scene.base.battens and "battens" not in known.used:
        take(BATTEN, "under the board", float(scene.base.battens * scene.copies), "piece")
    for one in built.forms:
        material = labels.materials[one.form.made_of] if one.form.made_of and one.volume_ml > 0 else None
        made = "cast" if one.form.id in casts else "form"
        if known.record(made, one.form) is not None:
            material = None
        elif one.form.id in casts:
            take_all(casts[one.form.id].ingredients, one.form.title)
        elif material and material.sold_by == "mm2":
            stock = material.thickness_mm or 25.0
            # A sheet is cut from whole sheets; anything else is built up from as much as it holds.
            thick = getattr(one.form, "thickness_mm", None)
            layers = max(ceil(thick / stock - 1e-9), 1) if thick else 0
            area = one.area_mm2 * layers if layers else one.volume_ml * 1000 / stock
            title = f"{one.form.title}, {layers} thick" if layers > 1 else one.form.title
            take(material.id, title, area * scene.copies, "mm2")
        elif material:
            grams = material.sold_by == "g"
            amount = one.volume_ml * (material.density if grams else 1.0)
            take(material.id, one.form.title, amount * scene.copies, "g" if grams else "ml")
        if one.form.glue and known.record("glue", one.form) is None:
            glue = labels.materials[one.form.glue]
            ml = one.area_mm2 * glue_film(glue) / 1000 * scene.copies
            grams = glue.sold_by == "g"
            take(glue.id, f"under {one.form.title}", ml * glue.density if grams else ml, "g" if grams else "ml")
    sealed = [thing for thing in scene.protect if thing.how == "seal" and f"seal-{thing.id}" not in known.used]
    for thing in sealed:
        kept = protections(scene, built)[thing.id]
        if kept.near and kept.seal_ml is not None:
            grams = labels.materials[thing.material].sold_by == "g"
            ml = kept.seal_ml.number * scene.copies * (labels.materials[thing.material].density if grams else 1.0)
            take(thing.material, f"over {thing.name}", ml, "g" if grams else "ml")
    for lift_id, work in works.items():
        if work.estimate is not None:
            take_all(work.estimate.plan.ingredients, scene.lift(lift_id).title)
    return tuple(
        Need(
            name,
            Figure(
                sum(float(term.value) for term in parts),
                parts[0].unit,
                "sum over the scene, waste included",
                tuple(parts),
            ),
            parts[0].unit,
            *_bought(
                name,
                sum(float(term.value) for term in parts),
                parts[0].unit,
                scene.bench,
                name in labels.materials and labels.materials[name].panel_mm is not None,
            ),
        )
        for name, parts in sorted(terms.items())
    )
