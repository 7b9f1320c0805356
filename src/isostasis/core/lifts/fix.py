"""A fix: a texture is wetted and soaked with thinned binder, from the top down, in as many passes as it takes."""

from __future__ import annotations

from math import ceil
from typing import ClassVar, Literal

from ..catalogue import Mix
from ..catalogue.model import Id
from ..document.scene import Lift
from ..fault import fault
from ..figure import Figure, Term
from ..ground.field import Ground
from ..hardening.drying import CRITICAL_SHARE, open_hours
from ..mixing.batches import split
from ..mixing.grains import DRY_REACH, FULL, HOLD, WETTING_SHARE, bed_of, hold_words, taken_up
from ..mixing.parts import wet
from .amount import measured_out
from .site import WONT_DRY, Course, Fixing, Hours, Ingredient, Labels, Layer, LiftPlan, Notice, Site, Window, Work, span
from .texture import Texture, held, placed_ml
from .wet_film import drying_hours, next_and_full

By = Literal["drip", "spray", "brush"]
# Of the reach of one pass, craft estimates: a spray wets the top, a brush just the face.
REACHES: dict[By, float] = {"drip": 1.0, "spray": 0.5, "brush": 0.25}
SOAK_ML_PER_MIN = 25.0  # dripped from the top down until it is milky, craft estimate
DIFFUSIVITY = 1e-9  # m2/s, glue-bound texture, default
BLOWN_MM = 0.3  # grains finer than this are blown about by a spray before they are wet, craft estimate


class Fix(Lift):
    """A thinned binder for the texture just beneath; `wetting` goes before it, `by` how it is brought on."""

    kind: Literal["fix"] = "fix"
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


def work(lift: Fix, site: Site, labels: Labels) -> Work:
    """Litres of each, passes, how hard it will be, hours to dry."""
    texture, under = texture_under(site)
    mix, bench, copies = labels.mixes[lift.mix], site.bench, site.scene.copies
    if mix.family != "binder":
        raise fault(f"{site.where}.mix", f"'{mix.id}' binds nothing", "name a binder such as glue-water-1-1")
    wetting = _wetting(lift, site, labels)
    blend = labels.mixes[texture.mix]
    bed, depth = bed_of(blend, labels.materials), held(texture, labels)
    bed_ml, area, _ = placed_ml(texture, under, labels)
    reach = bed.reach_mm * REACHES[lift.by] * (1.0 if wetting else DRY_REACH)
    passes = max(1, ceil(depth / reach - 1e-9))
    wetting_ml, binder_ml = taken_up(bed_ml, bed.voids, WETTING_SHARE if wetting else 0.0)
    voids = Term("voids of the bed", bed.voids, "", f"label of {blend.name}")
    in_place = Term("texture in place", bed_ml, "ml", texture.title)
    first = Figure(wetting_ml, "ml", f"{WETTING_SHARE} of the voids", (in_place, voids))
    wetted = first.term("wetting")
    then = Figure(binder_ml, "ml", f"{FULL} of the voids, less the wetting that is left", (in_place, voids, wetted))
    volume = Figure(
        wetting_ml + binder_ml, "ml", "wetting + binder, as the bed takes it up", (wetted, then.term("binder"))
    )

    each = tuple(split(binder_ml / passes * copies, bench.cup_ml, bench.cup_ml) for _ in range(passes))
    cups = f"left in {sum(one.count for one in each)} cups"
    made = measured_out(site.scene, labels, mix, each, (then.term("binder in place"),), cups)
    ingredients, mix_ml, mass_g = made.ingredients, made.mix_ml, made.mass_g
    if wetting:
        parts = (split(wetting_ml * copies, bench.cup_ml, bench.cup_ml),)
        before = measured_out(site.scene, labels, wetting, parts, (wetted,), "left in the bottle")
        ingredients += tuple(
            Ingredient(one.material, one.part, one.volume_ml, one.mass_g, one.drops, "wetting")
            for one in before.ingredients
        )
        mix_ml = _sum("binder + wetting, each with what stays behind", made.mix_ml, before.mix_ml)
        mass_g = _sum("sum of the ingredients' masses", made.mass_g, before.mass_g)

    measure = wet(mix, labels.materials)
    hold = Figure(
        binder_ml * measure.dry_g_per_ml / bed_ml,
        "g/ml",
        f"glue solids / texture; under {HOLD[0][0]} fragile, under {HOLD[1][0]} sound",
        (then.term("binder"), Term("solids of a ml", measure.dry_g_per_ml, "g", f"label of {mix.name}"), in_place),
    )
    solvent = wet(wetting, labels.materials).free_water_g_per_ml * wetting_ml if wetting else 0.0
    covered = area * texture.cover or 1.0
    water = (measure.free_water_g_per_ml * binder_ml + solvent) / covered * 1e6 / passes
    of_pass = Term("water and alcohol of one pass", water, "g/m2")
    workable = span(open_hours(water, site.climate), "until a third of its water has left", of_pass)
    next_h, full_h = next_and_full(site.above, labels, water, depth, DIFFUSIVITY, site.climate)
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
        hours=Hours(workable, next_h, full_h),
        windows=(milky,) if workable.value else (),
        look_for=(*mix.look_for, "once it is dry, rub a corner: loose grains below want another pass"),
        warnings=_warnings(lift, labels, texture, bed.grain_mm, hold.number, next_h),
        fixing=Fixing(
            Figure(
                passes, "passes" if passes > 1 else "pass", "depth / how deep one reaches, rounded up",
                (Term("depth", depth, "mm"), Term("one pass reaches", reach, "mm")),
            ),
            Figure(
                reach, "mm", "reach × how it is brought on" + ("" if wetting else " × a third, not wetted"),
                (Term("reach of the finest, wetted", bed.reach_mm, "mm", f"label of {blend.name}"),
                 Term(f"by {lift.by}", REACHES[lift.by], "", "craft estimate")),
            ),
            first,
            then,
            hold,
        ),
        _mixed_ml=made.mix_ml.number,
    )  # fmt: skip
    courses = tuple(
        Course(
            do=_do(lift, mix, wetting, site) + (f", pass {number} of {passes}" if passes > 1 else ""),
            batches=batches,
            working_min=None,
            hands_on_min=5 + volume.number * copies / passes / SOAK_ML_PER_MIN,
            wait_h=next_h.value if number == passes else between.value,
        )
        for number, batches in enumerate(each, start=1)
    )
    extra = tuple(part.material for part in wetting.ingredients) if wetting else ()
    return Work(plan, mix, courses, labels.hazards(mix, extra))


def _sum(law: str, binder: Figure, wetting: Figure) -> Figure:
    return Figure(binder.number + wetting.number, binder.unit, law, (binder.term("binder"), wetting.term("wetting")))


def _wetting(lift: Fix, site: Site, labels: Labels) -> Mix | None:
    if lift.wetting is None:
        return None
    mix = labels.mixes[lift.wetting]
    if mix.family != "wetting":
        raise fault(f"{site.where}.wetting", f"'{mix.id}' wets nothing", "name one such as alcohol-water-1-1")
    return mix


def _do(lift: Fix, mix: Mix, wetting: Mix | None, site: Site) -> str:
    if wetting:
        return (
            f"Mist {wetting.name.lower()} on {site.patch.name}, then {lift.by} {mix.name.lower()} on, from the top down"
        )
    return f"{lift.by.capitalize()} {mix.name.lower()} on {site.patch.name}, from the top down"


def _warnings(
    lift: Fix, labels: Labels, texture: Texture, grain_mm: float, hold: float, next_h: Figure
) -> tuple[Notice, ...]:
    found = []
    if hold_words(hold) == "fragile":
        text = f"It will be fragile ({hold:.2g} g of glue in a ml): a stronger binder, or one pass more."
        found.append(Notice("fragile", text))
    if lift.by == "spray" and grain_mm < BLOWN_MM:
        found.append(Notice("blows-about", "A spray blows dust this fine about: mist it from above first, or drip."))
    if lift.wetting is None and bed_of(labels.mixes[texture.mix], labels.materials).reach_mm < 10:
        text = "Unwetted, glue water beads on fines and binds a third as deep: wet it first."
        found.append(Notice("beads", text))
    if next_h.value is None:
        found.append(WONT_DRY)
    return tuple(found)
