"""A fix: a texture is wetted and soaked with thinned binder, from the top down, in as many passes as it takes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import ceil
from typing import ClassVar, Literal

from ...catalogue import Bench, Mix, Tool
from ...catalogue.model import Id
from ...colour.light import Colours, hexed, wet_look
from ...document.scene import Lift
from ...fault import fault
from ...figure import Figure, Term
from ...ground.field import Ground
from ...hardening.drying import CRITICAL_SHARE, open_hours
from ...mixing.batches import split
from ...mixing.grains import DRY_REACH, FULL, HOLD, WETTING_SHARE, Bed, bed_of, hold_words, taken_up
from ...mixing.parts import wet
from ..alternative import Alternative, cost_of_plan, warnings_of
from ..amounts import measured_out
from ..areas import Cover
from ..beds import GLUED_LEAVES, Drinking
from ..colours import covered_with, opacity_of
from ..estimate import WONT_DRY, Course, Fixing, Hours, Ingredient, Layer, LiftEstimate, LiftPlan, Notice, Window, span
from ..hands import SETUP_MIN, minutes_over
from ..labels import Labels
from ..site import Site
from ..wet_film import drying_hours, ready_hours
from .texture import Texture, placed_ml, retained_depth

By = Literal["drip", "spray", "brush"]
# Of the reach of one pass, craft estimates: a spray wets the top, a brush just the face.
REACHES: dict[By, float] = {"drip": 1.0, "spray": 0.5, "brush": 0.25}
TOOLS: dict[By, Tool] = {"drip": "drip", "spray": "mist", "brush": "small brush"}
FINES_REACH_MM = 10.0  # on beds finer than what is reached so deep, unwetted glue water beads; craft estimate
DIFFUSIVITY = 1e-9  # m2/s, glue-bound texture, default
BLOWN_MM = 0.3  # grains finer than this are blown about by a spray before they are wet, craft estimate


class Fix(Lift):
    """A thinned binder for the texture just beneath; `wetting` goes before it, `by` how it is brought on."""

    kind: Literal["fix"] = "fix"
    levels_itself: ClassVar[bool] = False
    raises_ground: ClassVar[bool] = False
    shares_batches: ClassVar[bool] = False
    dries_as_bed: ClassVar[bool] = False
    wants_dry_bed: ClassVar[bool] = True
    names_material: ClassVar[tuple[str, ...]] = ()
    names_mix: ClassVar[tuple[str, ...]] = ("mix", "wetting")
    mix: Id
    wetting: Id | None = None
    by: By = "drip"


MODEL = Fix


def lay(lift: Fix, site: Site) -> Ground:
    """The ground after the fix: as it was."""
    return site.ground


def texture_under(site: Site) -> tuple[Texture, Site]:
    """The texture that a fix is for, and where that went on. Raises Faults where there is none just beneath."""
    below = site.below
    while below is not None and isinstance(below.lift, Fix):
        below = below.below
    if below is None or not isinstance(below.lift, Texture):
        raise fault(
            f"{site.where}.kind", "there is no texture just beneath to fix", "strew one first, or lay a coat instead"
        )
    return below.lift, below


@dataclass(frozen=True, slots=True)
class Soaked:
    """What a bed takes up of wetting and binder: the texture, its blend and its bed, its ml (as a term too) and mm2;
    how deep it is and one pass reaches, mm; passes, and the share of the depth that they bind."""

    texture: Texture
    blend: Mix
    bed: Bed
    bed_ml: float
    in_place: Term
    covered_mm2: float
    depth_mm: float
    reach_mm: float
    passes: int
    bound: float
    wetting: Figure
    binder: Figure

    @property
    def volume(self) -> Figure:
        """Both together, ml."""
        return Figure(
            self.wetting.number + self.binder.number,
            "ml",
            "wetting + binder, as the bed takes it up",
            (self.wetting.term("wetting"), self.binder.term("binder")),
        )


def _soaked(lift: Fix, texture: Texture, under: Site, site: Site, labels: Labels) -> Soaked:
    """What the texture, which went on at `under`, takes up. Raises Faults where there is nothing of it."""
    blend = labels.mixes[texture.mix]
    bed, depth = bed_of(blend, labels.materials), retained_depth(texture, labels)
    bed_ml, area, _ = placed_ml(texture, under, labels)
    if bed_ml <= 0:
        raise fault(
            site.where, f"there is nothing of “{texture.title}” to fix: it covers no ground",
            "give its patch an area of its own, or take both away",
        )  # fmt: skip
    reach = reach_of(lift, bed)
    # Unwetted glue water seals the face of a fine bed: another pass runs off it, and reaches no deeper.
    through = max(1, ceil(depth / reach - 1e-9))
    passes = through if lift.wetting or not _beads(bed) else 1
    bound = min(1.0, reach * passes / depth)
    open_voids = bed.voids * (1 - _filled_before(site, labels))
    wetting_ml, binder_ml = taken_up(bed_ml * bound, open_voids, WETTING_SHARE if lift.wetting else 0.0)
    told = f"label of {blend.name}" + ("" if open_voids == bed.voids else ", less what is glued already")
    in_place = Term("texture in place", bed_ml, "ml", texture.title)
    terms = in_place, Term("voids of the bed", open_voids, "", told)
    first = Figure(wetting_ml, "ml", f"{WETTING_SHARE} of the voids", terms)
    less = f"{FULL} of the voids, less the wetting that is left"
    then = Figure(binder_ml, "ml", less, (*terms, first.term("wetting")))
    covered = area * texture.cover
    return Soaked(texture, blend, bed, bed_ml, in_place, covered, depth, reach, passes, bound, first, then)


def _hold(soaked: Soaked, solids_g_ml: float, mix: Mix) -> Figure:
    """How hard it will be where the binder reaches, g of glue in a ml."""
    return Figure(
        soaked.binder.number * solids_g_ml / (soaked.bed_ml * soaked.bound),
        "g/ml",
        f"glue solids / texture that they reach; under {HOLD[0][0]} fragile, under {HOLD[1][0]} sound",
        (
            soaked.binder.term("binder"),
            Term("solids of a ml", solids_g_ml, "g", f"label of {mix.name}"),
            soaked.in_place,
            Term("bound", soaked.bound, "", "share of the depth that the binder reaches"),
        ),
    )


def _fixing(lift: Fix, soaked: Soaked, hold: Figure) -> Fixing:
    """What only a fix tells: its passes, how deep one reaches, how hard it will be above and below."""
    passes, reach = soaked.passes, soaked.reach_mm
    return Fixing(
        Figure(
            passes, "passes" if passes > 1 else "pass", "depth / how deep one reaches, rounded up",
            (Term("depth", soaked.depth_mm, "mm"), Term("one pass reaches", reach, "mm")),
        ),
        Figure(
            reach, "mm", "reach × how it is brought on" + ("" if lift.wetting else " × a third, not wetted"),
            (Term("reach of the finest, wetted", soaked.bed.reach_mm, "mm", f"label of {soaked.blend.name}"),
             Term(f"by {lift.by}", REACHES[lift.by], "", "craft estimate")),
        ),
        soaked.wetting,
        soaked.binder,
        hold,
        replace(hold, value=hold.value if soaked.bound >= 1 else 0.0),
    )  # fmt: skip


def estimate(lift: Fix, site: Site, labels: Labels) -> LiftEstimate:
    """Litres of each, passes, how hard it will be, hours to dry. Raises Faults."""
    mix, bench, copies = labels.mixes[lift.mix], site.bench, site.scene.copies
    texture, under = texture_under(site)
    if mix.family != "binder":
        raise fault(f"{site.where}.mix", f"'{mix.id}' binds nothing", "name a binder such as glue-water-1-1")
    if not mix.soaks:
        raise fault(
            f"{site.where}.mix", f"'{mix.id}' is too thick to soak in", "name a thin one such as glue-water-1-1"
        )
    wetting = _wetting(lift, site, labels)
    soaked = _soaked(lift, texture, under, site, labels)
    passes, depth, volume = soaked.passes, soaked.depth_mm, soaked.volume
    wetting_ml, binder_ml = soaked.wetting.number, soaked.binder.number

    loss = labels.times(mix.id, "cup")
    each = tuple(split(binder_ml / passes * copies, bench.cup_ml, bench.cup_ml, times=loss) for _ in range(passes))
    cups = f"left in {sum(one.count for one in each)} cups"
    mixed = measured_out(site.scene, labels, mix, each, (soaked.binder.term("binder in place"),), cups)
    ingredients, mix_ml, mass_g = mixed.ingredients, mixed.mix_ml, mixed.mass_g
    if wetting:
        loss = labels.times(wetting.id, "cup")
        parts = (split(wetting_ml * copies, bench.cup_ml, bench.cup_ml, times=loss),)
        before = measured_out(
            site.scene, labels, wetting, parts, (soaked.wetting.term("wetting"),), "left in the bottle"
        )
        ingredients += tuple(
            Ingredient(one.material, one.part, one.volume_ml, one.mass_g, one.drops, "wetting")
            for one in before.ingredients
        )
        mix_ml = _sum("binder + wetting, each with what stays behind", mixed.mix_ml, before.mix_ml)
        mass_g = _sum("sum of the ingredients' masses", mixed.mass_g, before.mass_g)

    measure = wet(mix, labels.materials)
    hold = _hold(soaked, measure.dry_g_per_ml, mix)
    solvent = wet(wetting, labels.materials).free_water_g_per_ml * wetting_ml if wetting else 0.0
    water = (measure.free_water_g_per_ml * binder_ml + solvent) / (soaked.covered_mm2 or 1.0) * 1e6 / passes
    of_pass = Term("water and alcohol of one pass", water, "g/m2")
    workable = span(open_hours(water, site.climate), "until a third of its water has left", of_pass)
    next_h, full_h, usable = ready_hours(site.above, labels, water, depth, DIFFUSIVITY, site.climate)
    hours = Hours(workable, next_h, full_h, usable)
    between = drying_hours(water, depth, DIFFUSIVITY, site.climate, CRITICAL_SHARE, "open for the next pass at")
    terms = Term("depth", depth, "mm"), Term("passes", passes)
    layer = Layer(
        Figure(depth / passes, "mm", "depth / passes", terms),
        Figure(volume.number / passes, "ml", "taken up / passes", (volume.term("in all"), terms[1])),
    )
    milky = Window("drip until it is milky through", 0.0, workable.value, "milk stands between the grains")
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=mix_ml,
        mass_g=mass_g,
        ingredients=ingredients,
        layers=(layer,) * passes,
        hours=hours,
        windows=(milky,) if workable.value else (),
        look_for=(*mix.look_for, "once it is dry, rub a corner: loose grains below want another pass"),
        warnings=_warnings(lift, soaked, hold.number, next_h),
        fixing=_fixing(lift, soaked, hold),
        mixed_ml=mixed.mix_ml.number,
    )
    courses = tuple(
        Course(
            do=_do(lift, mix, wetting, site) + (f", pass {number} of {passes}" if passes > 1 else ""),
            batches=batches,
            working_min=None,
            hands_on_min=_minutes(
                lift, soaked.covered_mm2 * copies, wetted=wetting is not None and number == 1, bench=site.bench
            ),
            wait_h=hours.wait_h(site.above is None) if number == passes else between.value,
        )
        for number, batches in enumerate(each, start=1)
    )
    extra = tuple(part.material for part in wetting.ingredients) if wetting else ()
    return LiftEstimate(plan, mix, courses, labels.hazards(mix, extra))


def reach_of(lift: Fix, bed: Bed) -> float:
    """How deep one pass reaches, mm."""
    misted = lift.by == "spray" and "snow" in bed.tags  # so light a bed takes a wet spray as deep as a drip
    dry = 1.0 if lift.wetting or not _beads(bed) else DRY_REACH
    return bed.reach_mm * (1.0 if misted else REACHES[lift.by]) * dry


def _beads(bed: Bed) -> bool:
    """Whether glue water beads on a bed that is not wetted first."""
    return bed.reach_mm < FINES_REACH_MM


def _filled_before(site: Site, labels: Labels) -> float:
    """Share of the voids that the solids of earlier fixes of the same bed fill."""
    filled, below = 0.0, site.below
    while below is not None and isinstance(below.lift, Fix):
        filled += (1 - filled) * _solids_share(below.lift, labels)
        below = below.below
    return filled


def _solids_share(lift: Fix, labels: Labels) -> float:
    """Share of a bed's open voids that its binder's solids fill once the water has left."""
    taken = FULL - (WETTING_SHARE if lift.wetting else 0.0)
    return taken * max(1 - wet(labels.mixes[lift.mix], labels.materials).free_water_g_per_ml, 0.0)


def _minutes(lift: Fix, area_mm2: float, wetted: bool, bench: Bench) -> float:
    """Hands-on minutes of one pass; the first is misted before it."""
    misted = minutes_over(area_mm2, "mist", bench) if wetted else 0.0
    return SETUP_MIN + misted + minutes_over(area_mm2, TOOLS[lift.by], bench)


def _sum(formula: str, binder: Figure, wetting: Figure) -> Figure:
    return Figure(
        binder.number + wetting.number, binder.unit, formula, (binder.term("binder"), wetting.term("wetting"))
    )


def _wetting(lift: Fix, site: Site, labels: Labels) -> Mix | None:
    if lift.wetting is None:
        return None
    mix = labels.mixes[lift.wetting]
    if mix.family != "wetting":
        raise fault(f"{site.where}.wetting", f"'{mix.id}' wets nothing", "name one such as alcohol-water-1-1")
    return mix


def _do(lift: Fix, mix: Mix, wetting: Mix | None, site: Site) -> str:
    if wetting:
        mist = f"Mist {site.patch.name} with {wetting.name.lower()}"
        return f"{mist}, then {lift.by} {mix.name.lower()} on it, from the top down"
    return f"{lift.by.capitalize()} {mix.name.lower()} on {site.patch.name}, from the top down"


def _warnings(lift: Fix, soaked: Soaked, hold: float, next_h: Figure) -> tuple[Notice, ...]:
    bound_mm, depth_mm = soaked.reach_mm * soaked.passes, soaked.depth_mm
    notices = []
    if hold_words(hold) == "fragile":
        text = f"It will be fragile ({hold:.2g} g of glue in a ml): a stronger binder, or one pass more."
        notices.append(Notice("fragile", text))
    if lift.by == "spray" and soaked.bed.grain_mm < BLOWN_MM:
        notices.append(Notice("blows-about", "A spray blows dust this fine about: mist it from above first, or drip."))
    if bound_mm < depth_mm - 1e-9:
        text = f"Unwetted it binds {bound_mm:.2g} of {depth_mm:.3g} mm and stays loose below: wet it first."
        notices.append(Notice("loose-below", text))
    elif lift.wetting is None and _beads(soaked.bed):
        text = "Unwetted, glue water beads on fines: wet it first."
        notices.append(Notice("beads", text))
    if next_h.value is None:
        notices.append(WONT_DRY)
    return tuple(notices)


STAINS = 0.4  # of a full coat that a coloured binder leaves on the grains, craft estimate


def covers(lift: Fix, site: Site, labels: Labels) -> Cover:
    """The whole patch."""
    return site.cover


def look(lift: Fix, below: Colours, labels: Labels, drop_ml: float) -> Colours:
    """Linear colours once it is dry: a coloured binder stains the grains, a clear one changes nothing."""
    mix = labels.mix_of(lift)
    coloured = any(labels.materials[one.material].family == "colour" for one in mix.ingredients)
    return covered_with(below, STAINS * opacity_of(mix, labels) if coloured else 0.0, mix, labels)


def drinks(lift: Fix, labels: Labels, filled: float) -> Drinking:
    """Glued grains seal in part: most of what the bed drank, it drinks no more."""
    return Drinking(fills=1 - GLUED_LEAVES)


def edge_mm(lift: Fix, site: Site, labels: Labels) -> float:
    """No step where it ends."""
    return 0.0


def mess(lift: Fix, mix: Mix) -> str:
    """Clean work."""
    return ""


def traits(lift: Fix, labels: Labels) -> frozenset[str]:
    """Nothing that rules go by beyond its kind and family."""
    return frozenset()


ALTERNATIVE_FAMILIES: tuple[str, ...] = ("binder", "wetting")
SOONEST = ""  # the figure by which one alternative is over sooner than another; empty: none is tried for time


def alternatives(
    lift: Fix, site: Site, labels: Labels, beneath: Colours, try_out: Callable[[Lift], LiftEstimate]
) -> dict[str, Alternative]:
    """Every binder with every wetting liquid and without, by `binder` or `binder+wetting`."""
    scene = site.scene
    wettings = [None, *sorted(mix.id for mix in labels.mixes.values() if mix.family == "wetting")]
    soaking = (mix for mix in labels.mixes.values() if mix.family == "binder" and mix.soaks)
    binders = sorted(soaking, key=lambda one: one.name)
    others = {}
    for binder in binders:
        for wet_by in wettings:
            tried = lift.model_copy(update={"mix": binder.id, "wetting": wet_by})
            lift_plan = try_out(tried).plan
            assert lift_plan.fixing is not None
            dry = look(tried, beneath, labels, scene.bench.drop_ml)
            name = binder.name + (f", {labels.mixes[wet_by].name.lower()} first" if wet_by else ", not wetted")
            fixing = lift_plan.fixing
            others[f"{binder.id}+{wet_by}" if wet_by else binder.id] = Alternative(
                name,
                {
                    "passes": fixing.passes, "wetting_ml": fixing.wetting_ml, "binder_ml": fixing.binder_ml,
                    "hold": fixing.hold, "hold_bottom": fixing.hold_bottom, "next_h": lift_plan.hours.next,
                    "full_h": lift_plan.hours.full, "cost": cost_of_plan(lift_plan, labels, scene),
                },
                warnings_of(lift_plan, scene),
                (hexed(wet_look(dry)), hexed(dry)),
                {
                    "hold": hold_words(fixing.hold.number),
                    "hold_bottom": hold_words(fixing.hold_bottom.number) if fixing.hold_bottom.value else "loose",
                },
            )  # fmt: skip
    return others


def chosen(lift: Fix) -> str:
    """The present alternative."""
    return f"{lift.mix}+{lift.wetting}" if lift.wetting else lift.mix


def adopt(lift: Fix, name: str) -> Lift | None:
    """The fix with another binder, wetted or not."""
    binder, _, wetting = name.partition("+")
    return lift.model_copy(update={"mix": binder, "wetting": wetting or None})


def may_replace(lift: Fix, name: str, labels: Labels) -> bool:
    """No alternative is tried for time."""
    return False


def quicker(lift: Fix, made: LiftPlan) -> list[tuple[str, Lift]]:
    """Nothing thinner: its depth is the texture's."""
    return []


def as_planned(lift: Fix, made: LiftPlan) -> Lift:
    """It stays as it is in any room."""
    return lift


def extent(lift: Fix) -> float:
    """A bed is soaked, or it is not."""
    return 1.0


def with_extent(lift: Fix, amount: float) -> Lift:
    """It is soaked in the same way over less of the bed."""
    return lift
