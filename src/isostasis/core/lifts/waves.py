"""Waves of thin paper laid in thinned glue, worked while they are wet and hard once the water has left."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..catalogue import Material, Mix
from ..catalogue.model import Id
from ..document.scene import Lift
from ..fault import fault
from ..figure import Figure, Term
from ..ground.field import Ground
from ..ground.offset import laid
from ..hardening.drying import open_hours
from ..mixing.parts import wet
from .amount import mixed
from .site import (
    WONT_DRY,
    Course,
    Hours,
    Ingredient,
    Labels,
    Layer,
    LiftPlan,
    Notice,
    Site,
    Window,
    Work,
    span,
    true_area,
)
from .wet_film import next_and_full

GLUE_MM = 0.30  # of thinned glue that one layer takes up, craft estimate
SPARE = 1.15  # folds and torn pieces, craft estimate
LAY_MM2_PER_MIN = 3000.0  # laid and brushed through, craft estimate
MOST_LAYERS = 6  # more stay soft beneath for weeks, craft estimate
DIFFUSIVITY = 1e-9


class Waves(Lift):
    """So many layers of tissue in a thinned binder over the whole patch, pushed into waves."""

    kind: Literal["waves"] = "waves"
    names_material: ClassVar[tuple[str, ...]] = ("material",)
    mix: Id = "glue-water-1-1"
    material: Id = "tissue-paper"
    layers: Annotated[int, Field(ge=1, le=12)] = 3


MODEL = Waves


def _labels(lift: Waves, labels: Labels, where: str) -> tuple[Mix, Material]:
    """The binder and the paper. Raises Faults for others."""
    mix, paper = labels.mixes[lift.mix], labels.materials[lift.material]
    if mix.family != "binder":
        raise fault(f"{where}.mix", f"'{mix.id}' binds nothing", "name a binder such as glue-water-1-1")
    if paper.family != "tissue":
        raise fault(f"{where}.material", f"'{paper.id}' is no thin paper", "name tissue-paper, or one of your own")
    return mix, paper


def _layer_mm(mix: Mix, paper: Material, labels: Labels) -> float:
    """What one layer leaves once it is dry, mm."""
    return (paper.thickness_mm or 0.05) + GLUE_MM * wet(mix, labels.materials).stays


def lay(lift: Waves, site: Site) -> Ground:
    """The ground after the waves, on the mean."""
    labels = Labels.of(site.scene)
    mix, paper = _labels(lift, labels, site.where)
    return site.ground.after(laid(site.ground, site.cover.mask, lift.layers * _layer_mm(mix, paper, labels)), lift.mix)


def work(lift: Waves, site: Site, labels: Labels) -> Work:
    """Paper and litres, how long it can be worked before it wants wetting again, hours to dry."""
    mix, paper = _labels(lift, labels, site.where)
    area, each = true_area(site.ground, site.cover), _layer_mm(mix, paper, labels)
    ground = Term("true area of the patch", area, "mm2", "triangulated ground under this lift")
    count = Term("layers", lift.layers, "", "this scene")
    volume = Figure(
        area * lift.layers * each / 1000, "ml", "true area × layers × what one leaves",
        (ground, count, Term("one layer, dry", each, "mm", f"paper, and {GLUE_MM} mm of glue once its water has left")),
    )  # fmt: skip
    need = area * lift.layers * GLUE_MM / 1000
    glue = Term("taken up by the paper", need, "ml", f"{GLUE_MM} mm a layer, craft estimate")
    reckoned = mixed(site, labels, mix, (need,), (glue,), site.bench.cup_ml, site.bench.cup_ml)
    sheet = area * lift.layers * SPARE
    thick = paper.thickness_mm or 0.05
    paper_ml = Figure(sheet * thick / 1000, "ml", "true area × layers × 1.15 × thickness", (ground, count))
    paper_g = Figure(paper_ml.number * paper.density, "g", "volume × density", (paper_ml.term("paper"),))
    water = wet(mix, labels.materials).free_water_g_per_ml * GLUE_MM * lift.layers * 1000
    lost = Term("water in it", water, "g/m2", "all layers")
    workable = span(open_hours(water, site.climate), "until a third of its water has left: then wet it again", lost)
    depth = lift.layers * (GLUE_MM + thick)
    next_h, full_h = next_and_full(site.above, labels, water, depth, DIFFUSIVITY, site.climate)
    windows = [Window("push it into waves", 0.0, workable.value, "it glistens and slides")] if workable.value else []
    if workable.value and next_h.value:
        windows.append(Window("wet it again to go on", workable.value, next_h.value, "its shine has gone"))
    warnings = []
    if lift.layers > MOST_LAYERS:
        text = f"{lift.layers} layers at once stay soft beneath: lay {MOST_LAYERS}, let them dry, then the rest."
        warnings.append(Notice("stays-soft", text))
    if next_h.value is None:
        warnings.append(WONT_DRY)
    layer = Layer(
        Figure(each, "mm", "paper + glue once its water has left", (count,)),
        Figure(volume.number / lift.layers, "ml", "of all layers", (volume.term("all"),)),
    )
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=reckoned.mix_ml,
        mass_g=reckoned.mass_g,
        ingredients=(*reckoned.ingredients, Ingredient(paper.id, None, paper_ml, paper_g, _aside="paper")),
        layers=(layer,) * lift.layers,
        hours=Hours(workable, next_h, full_h),
        windows=tuple(windows),
        look_for=(*paper.look_for, "crests brushed up last stay sharpest"),
        warnings=tuple(warnings),
    )
    course = Course(
        do=f"Lay {lift.layers} layer{'s' if lift.layers > 1 else ''} of {paper.name.lower()} on {site.patch.name} in "
        f"{mix.name.lower()}, and push them into waves",
        batches=reckoned.batches[0],
        working_min=None,
        hands_on_min=10 + sheet * site.scene.copies / LAY_MM2_PER_MIN,
        wait_h=next_h.value,
    )
    return Work(plan, mix, (course,), labels.hazards(mix))
