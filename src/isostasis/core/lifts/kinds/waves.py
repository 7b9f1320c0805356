"""Waves of thin paper laid in thinned glue, worked while they are wet and hard once the water has left."""

from __future__ import annotations

from collections.abc import Callable
from math import ceil
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...catalogue import Material, Mix
from ...catalogue.model import Id
from ...colour.light import Colours
from ...document.scene import Lift
from ...fault import fault
from ...figure import Figure, Term
from ...ground.field import Ground
from ...ground.offset import laid
from ...hardening.drying import open_hours
from ...mixing.parts import wet
from ..alternative import Alternative
from ..amounts import mixed
from ..areas import Cover, true_area
from ..beds import PASSES, Drinking
from ..estimate import WONT_DRY, Course, Hours, Ingredient, Layer, LiftEstimate, LiftPlan, Notice, Window, span
from ..hands import SETUP_MIN, minutes_over
from ..labels import Labels
from ..site import Site
from ..wet_film import ready_hours

GLUE_MM = 0.30  # of thinned glue that one layer takes up, craft estimate
SPARE = 1.15  # folds and torn pieces, craft estimate
MAX_LAYERS = 6  # more stay soft beneath for weeks, craft estimate
DIFFUSIVITY = 1e-9


class Waves(Lift):
    """So many layers of tissue in a thinned binder over the whole patch, pushed into waves."""

    kind: Literal["waves"] = "waves"
    levels_itself: ClassVar[bool] = False
    raises_ground: ClassVar[bool] = True
    shares_batches: ClassVar[bool] = False
    dries_as_bed: ClassVar[bool] = False
    wants_dry_bed: ClassVar[bool] = False
    names_material: ClassVar[tuple[str, ...]] = ("material",)
    names_mix: ClassVar[tuple[str, ...]] = ("mix",)
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
    deep, mask = lift.layers * _layer_mm(mix, paper, labels), site.cover.mask
    return site.ground.dressed(laid(site.ground, mask, deep), lift.mix, mask, deep)


def estimate(lift: Waves, site: Site, labels: Labels) -> LiftEstimate:
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
    next_h, full_h, usable = ready_hours(site.above, labels, water, depth, DIFFUSIVITY, site.climate)
    hours = Hours(workable, next_h, full_h, usable)
    windows = [Window("push it into waves", 0.0, workable.value, "it glistens and slides")] if workable.value else []
    if workable.value and next_h.value:
        windows.append(Window("wet it again to go on", workable.value, next_h.value, "its shine has gone"))
    warnings = []
    if lift.layers > MAX_LAYERS:
        text = f"{lift.layers} layers at once stay soft beneath: lay {MAX_LAYERS}, let them dry, then the rest."
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
        ingredients=(*reckoned.ingredients, Ingredient(paper.id, None, paper_ml, paper_g, aside="paper")),
        layers=(layer,) * lift.layers,
        hours=hours,
        windows=tuple(windows),
        look_for=(*paper.look_for, "crests brushed up last stay sharpest"),
        warnings=tuple(warnings),
    )
    course = Course(
        do=f"Lay {lift.layers} layer{'s' if lift.layers > 1 else ''} of {paper.name.lower()} on {site.patch.name} in "
        f"{mix.name.lower()}, and push them into waves",
        batches=reckoned.batches[0],
        working_min=None,
        hands_on_min=2 * SETUP_MIN + minutes_over(sheet * site.scene.copies, "tissue", site.bench),
        wait_h=hours.wait_h(site.above is None),
    )
    return LiftEstimate(plan, mix, (course,), labels.hazards(mix))


def covers(lift: Waves, site: Site, labels: Labels) -> Cover:
    """The whole patch."""
    return site.cover


def look(lift: Waves, below: Colours, labels: Labels, drop_ml: float) -> Colours:
    """Clear once it is dry."""
    return below


def drinks(lift: Waves, labels: Labels, filled: float) -> Drinking:
    """Thin paper lets liquid pass."""
    return PASSES


def edge_mm(lift: Waves, site: Site, labels: Labels) -> float:
    """No step where it ends."""
    return 0.0


def mess(lift: Waves, mix: Mix) -> str:
    """Clean work."""
    return ""


def traits(lift: Waves, labels: Labels) -> frozenset[str]:
    """Nothing that rules go by beyond its kind and family."""
    return frozenset()


ALTERNATIVE_FAMILIES: tuple[str, ...] = ()
SOONEST = ""  # the figure by which one alternative is over sooner than another; empty: none is tried for time


def alternatives(
    lift: Waves, site: Site, labels: Labels, beneath: Colours, try_out: Callable[[Lift], LiftEstimate]
) -> dict[str, Alternative]:
    """None are compared."""
    return {}


def chosen(lift: Waves) -> str:
    """No alternative is the present one."""
    return ""


def adopt(lift: Waves, name: str) -> Lift | None:
    """There is nothing to swap it for. Raises KeyError."""
    raise KeyError(name)


def may_replace(lift: Waves, name: str, labels: Labels) -> bool:
    """No alternative is tried for time."""
    return False


def quicker(lift: Waves, made: LiftPlan) -> list[tuple[str, Lift]]:
    """Fewer layers would be other waves."""
    return []


def as_planned(lift: Waves, made: LiftPlan) -> Lift:
    """It stays as it is in any room."""
    return lift


def extent(lift: Waves) -> float:
    """Layers of it."""
    return float(lift.layers)


def with_extent(lift: Waves, amount: float) -> Lift:
    """So many layers, a part of one counted whole."""
    return lift.model_copy(update={"layers": max(1, ceil(amount - 1e-9))})
