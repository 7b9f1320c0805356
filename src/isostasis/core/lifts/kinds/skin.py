"""A skin: a compound or plaster trowelled on to a depth. It sets, then dries."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from math import ceil, cos, radians
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...catalogue import Mix
from ...catalogue.model import Id
from ...colour.light import Colours
from ...document.scene import Lift, Tint, WaterC
from ...fault import fault
from ...figure import Figure, Term
from ...ground.field import SLIVER, Ground
from ...ground.offset import fill_to_slope, laid
from ...ground.raster import Array
from ...ground.surface import slopes
from ...hardening.drying import CRITICAL_SHARE, open_hours
from ...hardening.setting import CLOUDED, WORKING_SHARE, dry_strength, mixed_temp, set_minutes
from ...hardening.uneven import Thickness, evened
from ...mixing.consistency import LOOK, Purpose, for_purpose
from ...mixing.parts import water_ratio, wet
from ...stages import cached_stage
from ..alternative import Alternative, cost_of, warnings_of
from ..amounts import mixed
from ..areas import Cover, mean_over, true_area
from ..beds import SOAKED_MM, Drinking, OpenLayer
from ..colours import tinted
from ..estimate import WONT_DRY, Course, Hours, Layer, LiftEstimate, LiftPlan, Notice, Window, span
from ..hands import SETUP_MIN
from ..labels import Labels
from ..site import Site, kept_clear
from ..wet_film import drying_hours, ready_hours


class Skin(Lift):
    """N mm of a mix, square to the surface."""

    kind: Literal["skin"] = "skin"
    levels_itself: ClassVar[bool] = False
    raises_ground: ClassVar[bool] = True
    shares_batches: ClassVar[bool] = True
    dries_as_bed: ClassVar[bool] = True
    wants_dry_bed: ClassVar[bool] = False
    names_material: ClassVar[tuple[str, ...]] = ()
    names_mix: ClassVar[tuple[str, ...]] = ("mix",)
    mix: Id
    depth_mm: Annotated[float, Field(gt=0, le=200)]
    fill_steps_deg: Annotated[float, Field(gt=0, lt=90)] | None = None
    feather_mm: Annotated[float, Field(gt=0, le=500)] | None = None
    consistency: Purpose = "general"
    courses: Annotated[int, Field(ge=1, le=20)] = 1
    tint: tuple[Tint, ...] = ()
    water_c: WaterC | None = None
    clouded: bool = False


MODEL = Skin
CHALKY_RATIO = 1.0  # water to powder by mass, craft estimate
SAGS_DEG = 20.0  # craft estimate
DAMP_H = 1.0  # from the set: colour soaks into the damp face, default
UNEVEN_MM = 0.5  # a pocket so much deeper than the mean is named
HOT_MM = 40.0  # a setting lump thicker than this gets hot


@cached_stage
def _filled(ground: Ground, cover: Cover, slope_deg: float, mix: str) -> Ground:
    return ground.after(fill_to_slope(ground, cover.mask, slope_deg), mix)


@cached_stage
def _away(cover: Cover, clear: bytes, cell_mm: float) -> Array:
    """Distance (ny, nx) in mm from each cell to the nearest ground of another patch; far where there is none."""
    from scipy.ndimage import distance_transform_edt

    others = (cover.inside > SLIVER) & ~cover.mask & ~np.frombuffer(clear, dtype=bool).reshape(cover.share.shape)
    if not others.any():
        return np.full(cover.share.shape, np.inf)
    return np.asarray(np.maximum(distance_transform_edt(~others) - 0.5, 0.0) * cell_mm)


def thickness(lift: Skin, site: Site) -> float | Array:
    """How thick the skin is, mm: its depth, or (ny, nx) thinning to nothing at its neighbours' ground."""
    if lift.feather_mm is None or site.cover.face:
        return lift.depth_mm
    away = _away(site.cover, kept_clear(site).tobytes(), site.ground.cell_mm)
    return np.asarray(lift.depth_mm * np.minimum(away / lift.feather_mm, 1.0))


@cached_stage
def _laid(ground: Ground, cover: Cover, depth_mm: float, mix: str) -> Ground:
    return ground.dressed(laid(ground, cover.mask, depth_mm), mix, cover.mask, depth_mm)


@cached_stage
def _feathered(ground: Ground, cover: Cover, depths: bytes, mix: str) -> Ground:
    deep = np.frombuffer(depths).reshape(ground.shape)
    return ground.dressed(laid(ground, cover.mask, deep), mix, cover.mask, deep)


def _bed(lift: Skin, site: Site) -> Ground:
    """The ground that the skin itself goes on: its steps filled first if that is wanted."""
    if lift.fill_steps_deg is None:
        return site.ground
    return _filled(site.ground, site.cover, lift.fill_steps_deg, lift.mix)


@cached_stage
def _evened(ground: Ground, bed: Ground, cover: Cover, depths: bytes, fill_share: float) -> Thickness:
    deep = np.frombuffer(depths).reshape(ground.shape) + (bed.z - ground.z) * fill_share
    return evened(deep, np.where(cover.mask, cover.share, 0.0), ground.cell_mm)


def _evened_out(lift: Skin, site: Site, bed: Ground) -> Thickness:
    """How thick it lies, square to its face, its fill over steps included."""
    deep = thickness(lift, site)
    even = isinstance(deep, float) and bed is site.ground
    if even or site.cover.face or not site.cover.mask.any():
        return Thickness(lift.depth_mm, lift.depth_mm, lift.depth_mm, lift.depth_mm, (0, 0))
    square = cos(radians(lift.fill_steps_deg or 0.0))
    return _evened(site.ground, bed, site.cover, np.broadcast_to(deep, bed.shape).tobytes(), square)


def lay(lift: Skin, site: Site) -> Ground:
    """The ground after the skin."""
    deep = thickness(lift, site)
    if isinstance(deep, float):
        return _laid(_bed(lift, site), site.cover, deep, lift.mix)
    return _feathered(_bed(lift, site), site.cover, deep.tobytes(), lift.mix)


def _volume(lift: Skin, site: Site, bed: Ground) -> Figure:
    """What lies there, ml, its fill over steps included."""
    area = true_area(bed, site.cover)
    mean = mean_over(bed, site.cover, thickness(lift, site))
    skin_ml = area * mean / 1000
    fill_ml = float(((bed.z - site.ground.z) * site.cover.share).sum()) * bed.cell_area / 1000
    terms = (
        Term("true area of the patch", area, "mm2", "triangulated ground under this lift"),
        Term("thickness", lift.depth_mm, "mm", "this scene"),
        *(
            (Term(f"mean, thinning to nothing over {lift.feather_mm:g} mm", mean, "mm", "cell by cell"),)
            if lift.feather_mm
            else ()
        ),
        *(
            (Term(f"fill over steps to {lift.fill_steps_deg:g}°", fill_ml, "ml", "sum of what the fill adds"),)
            if fill_ml
            else ()
        ),
    )
    formula = "true area × " + ("mean thickness" if lift.feather_mm else "thickness")
    return Figure(skin_ml + fill_ml, "ml", formula + (" + fill over steps" if fill_ml else ""), terms)


def _set(lift: Skin, mix: Mix, site: Site, labels: Labels) -> tuple[float, Figure] | None:
    """(hours to the set, how long it can be worked) of what sets; None for what only dries."""
    if not mix.sets:
        return None
    ratio = water_ratio(mix, labels.materials) or mix.sets.water_ratio
    room = site.climate.temp_c[0]
    temp = room if lift.water_c is None else mixed_temp(ratio, lift.water_c, 1.0, room)
    clouded = CLOUDED if lift.clouded else 1.0
    sets_h = set_minutes(mix.sets.set_min, mix.sets.water_ratio, ratio, temp) * clouded / 60
    warmth = f"room at {room:g} °C" + (f", water at {lift.water_c:g} °C" if lift.water_c is not None else "")
    return sets_h, span(
        sets_h * WORKING_SHARE,
        "half of the initial set",
        Term("set on the label at 20 °C", mix.sets.set_min, "min", f"label of {mix.name}"),
        Term("water to powder by mass", ratio, "", f"{mix.sets.water_ratio:g} on the label"),
        Term("the mix is", temp, "degC", warmth),
        *((Term("clouded water", CLOUDED, "", "default: sets so much faster"),) if lift.clouded else ()),
        Term("set here", sets_h, "h", "label × water × 0.97 per degree above 20"),
    )


def estimate(lift: Skin, site: Site, labels: Labels) -> LiftEstimate:
    """Amounts from the true area, hours from setting and drying."""
    mix = for_purpose(labels.mix_of(lift), lift.consistency, labels.materials)
    bed, climate = _bed(lift, site), site.climate
    volume = _volume(lift, site, bed)
    water = wet(mix, labels.materials)
    dries = mix.dries
    diffusivity = dries.diffusivity_m2_s if dries else 1e-9
    lies = _evened_out(lift, site, bed)
    deepest, a_mm = lies.deepest_mm / lift.courses, water.free_water_g_per_ml * 1000 / lift.courses
    held = [sum(CRITICAL_SHARE**below for below in range(number + 1)) for number in range(lift.courses)]
    to_lose = a_mm * lies.slow_mm  # of one course by itself
    last = to_lose * held[-1]

    _must_bind(mix, labels, site)
    sets_h, workable = _set(lift, mix, site, labels) or (
        None,
        span(
            open_hours(to_lose, climate),
            "until a third of its water has left",
            Term("water to lose", to_lose, "g/m2"),
        ),
    )
    next_h, full_h, damp_h = ready_hours(
        site.above, labels, last, deepest, diffusivity, climate, a_mm * lies.pocket_mm * held[-1]
    )
    if lies.deepest_mm > lies.mean_mm + UNEVEN_MM:
        x, y = bed.point_of(*lies.at)
        place = f"near x {x:.0f}, y {y:.0f}; {lies.mean_mm:.3g} on the mean"
        full_h = full_h.with_terms(Term("deepest pocket", lies.deepest_mm, "mm", place))
    usable = damp_h
    if sets_h is not None and damp_h.value is not None and sets_h > damp_h.value:
        usable = span(sets_h, "once it has set", Term("set here", sets_h, "h"))
    hours = Hours(workable, next_h, full_h, usable)
    # What never dries here stays workable: then the bowl alone limits a batch.
    working_min = None if workable.value is None else workable.value * 60
    placeable = site.bench.bowl_ml if working_min is None else site.bench.spread_ml_per_min * working_min
    each_ml = volume.number / lift.courses
    reckoned = mixed(
        site, labels, mix, (each_ml,) * lift.courses, (volume.term("in place"),), site.bench.bowl_ml, placeable,
        tuple((tint.material, tint.per_100_ml) for tint in lift.tint),
    )  # fmt: skip
    spread = each_ml * site.scene.copies / site.bench.spread_ml_per_min
    between = [
        drying_hours(
            to_lose * share, deepest, diffusivity, climate, CRITICAL_SHARE, "ready for the next course at"
        ).value
        for share in held
    ]
    layer = Layer(
        Figure(lift.depth_mm / lift.courses, "mm", "thickness / courses, as this scene says"),
        replace(volume, value=each_ml, formula=volume.formula + (" / courses" if lift.courses > 1 else "")),
    )
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=reckoned.mix_ml,
        mass_g=reckoned.mass_g,
        ingredients=reckoned.ingredients,
        layers=(layer,) * lift.courses,
        hours=hours,
        windows=_windows(
            site,
            workable.value,
            sets_h,
            damp_h.value,
            full_h.value,
        ),
        look_for=(*_looks(mix, lift.consistency), *_measured(mix, labels)),
        warnings=_warnings(lift, mix, site, deepest, next_h, labels),
    )
    courses = tuple(
        Course(
            do=f"Mix and lay {mix.name.lower()} on {site.patch.name}, {lift.depth_mm / lift.courses:.3g} mm"
            + (f", course {number} of {lift.courses}" if lift.courses > 1 else ""),
            batches=batches,
            working_min=working_min,
            hands_on_min=SETUP_MIN + 6 * batches.count + spread,
            wait_h=hours.wait_h(site.above is None) if number == lift.courses else between[number - 1],
        )
        for number, batches in enumerate(reckoned.batches, start=1)
    )
    hazards = labels.hazards(mix, tuple(tint.material for tint in lift.tint))
    soft = workable.value if sets_h is None else sets_h
    damp = None if soft is None else (soft if sets_h else 0.0, soft + (DAMP_H if sets_h else 0.0))
    return LiftEstimate(plan, mix, courses, hazards, soft_h=soft, damp_h=damp)


def _looks(mix: Mix, purpose: Purpose) -> tuple[str, ...]:
    """What the label says to look for; how stiff it is ("like ...") goes by the purpose that it is mixed for."""
    if purpose not in LOOK:
        return mix.look_for
    return (LOOK[purpose], *(text for text in mix.look_for if not text.startswith("like ")))


def _measured(mix: Mix, labels: Labels) -> tuple[str, ...]:
    """What shows that it is mixed right, and what it will be worth dry."""
    terms = []
    if mix.slump_mm:
        terms.append(f"a level spoonful turned out on a plate spreads to about {mix.slump_mm:.0f} mm")
    ratio = water_ratio(mix, labels.materials)
    if ratio and wet(mix, labels.materials).plaster_share > 0:
        terms.append(
            f"water to powder {ratio:.2f} by mass: dry, about {dry_strength(ratio):.0f} MPa if it were pure plaster"
        )
    return tuple(terms)


def _must_bind(mix: Mix, labels: Labels, site: Site) -> None:
    """Refuse a compound in which nothing sets or glues."""
    parts = [labels.materials[part.material] for part in mix.ingredients if part.parts > 0]
    if mix.sets is None and not any(one.family in ("binder", "paste") or one.hemihydrate for one in parts):
        raise fault(
            f"{site.where}.mix",
            f"nothing in '{mix.id}' binds: no plaster, glue or paste",
            "add one of them to the mix, or say how it sets",
        )


def _windows(
    site: Site, workable: float | None, sets_h: float | None, damp_h: float | None, dry_h: float | None
) -> tuple[Window, ...]:
    windows = (
        [Window("spread and shape", 0.0, workable, "it moves under the tool and does not tear")] if workable else []
    )
    if sets_h:
        if workable and workable < sets_h:
            windows.append(
                Window("smooth with a wet brush", workable, sets_h, "its shine has gone; the brush closes marks")
            )
        windows.append(
            Window("press stones and pieces in", 0.0, sets_h, "a thumb leaves a print that holds", "press-in")
        )
        if site.scene.base.joints_x_mm or site.scene.base.joints_y_mm:
            windows.append(Window("pull separators", sets_h, 2 * sets_h, "a finger dents it and takes nothing with it"))
        windows.append(
            Window(
                "colour on the damp face",
                sets_h,
                sets_h + DAMP_H,
                "dark all over without shine; blot what pools",
                "set",
            )
        )
    if damp_h is not None:
        windows.append(
            Window(
                "colour on the dry face, build on it", damp_h, None, "pale on top, still cool to the back of the hand"
            )
        )
    if dry_h is not None:
        windows.append(Window("sand, seal", dry_h, None, "pale all over, no longer cool to the hand"))
    return tuple(windows)


def _warnings(lift: Skin, mix: Mix, site: Site, deepest: float, next_h: Figure, labels: Labels) -> tuple[Notice, ...]:
    notices = []
    if mix.most_mm and deepest > mix.most_mm + 1e-9:
        courses = int(np.ceil(deepest / mix.most_mm - 1e-9))
        notices.append(
            Notice("may-crack", f"{deepest:.3g} mm of {mix.name.lower()} in one go may crack and dries slowly; "
                   f"{courses} thinner lifts are safer ({mix.most_mm:g} mm at most each).")
        )  # fmt: skip
    if water_ratio(mix, labels.materials) > CHALKY_RATIO:
        text = "More water than powder by weight: it will be soft and chalky. Mix it stiffer."
        notices.append(Notice("chalky", text))
    if lift.consistency == "floor":
        steepest = float(np.degrees(np.arctan(slopes(site.ground)[site.cover.mask])).max(initial=0.0))
        if steepest > SAGS_DEG:
            text = f"Mixed to level itself it sags from ground of {steepest:.0f}°: cliff or general consistency there."
            notices.append(Notice("sags", text))
    if mix.sets and deepest > HOT_MM:
        text = f"A lump of {deepest:.0f} mm heats as it sets and may soften the foam under it: fill with foam first."
        notices.append(Notice("sets-hot", text))
    if next_h.value is None:
        notices.append(WONT_DRY)
    return tuple(notices)


def covers(lift: Skin, site: Site, labels: Labels) -> Cover:
    """The whole patch."""
    return site.cover


def look(lift: Skin, below: Colours, labels: Labels, drop_ml: float) -> Colours:
    """Linear colours once it is dry: the compound with its tint stirred in."""
    return np.broadcast_to(tinted(lift.tint, labels.mix_of(lift), labels, drop_ml), below.shape)


def drinks(lift: Skin, labels: Labels, filled: float) -> Drinking:
    """What was water in its face is air once it is dry."""
    voids = min(wet(labels.mix_of(lift), labels.materials).free_water_g_per_ml, 0.6) * (1 - filled)
    return Drinking(OpenLayer(lift.title, SOAKED_MM, voids))


def edge_mm(lift: Skin, site: Site, labels: Labels) -> float | Array:
    """How high it stands above its neighbours' ground, mm: its thickness."""
    return thickness(lift, site)


def mess(lift: Skin, mix: Mix) -> str:
    """Plaster."""
    return "plaster"


def traits(lift: Skin, labels: Labels) -> frozenset[str]:
    """It hides what lies beneath."""
    return frozenset({"hides"})


ALTERNATIVE_FAMILIES: tuple[str, ...] = ("skin",)
SOONEST = "next_h"  # the figure by which one alternative is over sooner than another; empty: none is tried for time
PLASTERED = 0.3  # share of plaster from which its law of strength says something


def alternatives(
    lift: Skin, site: Site, labels: Labels, beneath: Colours, try_out: Callable[[Lift], LiftEstimate]
) -> dict[str, Alternative]:
    """The same skin in every compound, by the mix's id."""
    mixes = sorted((mix for mix in labels.mixes.values() if mix.family == "skin"), key=lambda one: one.name)
    return {mix.id: trowelled(lift.model_copy(update={"mix": mix.id}), site, labels, try_out) for mix in mixes}


def trowelled(lift: Skin, site: Site, labels: Labels, try_out: Callable[[Lift], LiftEstimate]) -> Alternative:
    """A skin as it would be trowelled."""
    lift_plan, mix = try_out(lift).plan, labels.mixes[lift.mix]
    stiff = for_purpose(mix, lift.consistency, labels.materials)
    measure = wet(stiff, labels.materials)
    dry = measure.dry_g_per_ml
    weight = Figure(
        lift_plan.volume_ml.number * dry, "g", "in place × what stays once its water has left",
        (lift_plan.volume_ml.term("in place"), Term("dry, of a millilitre wet", dry, "g", f"label of {mix.name}")),
    )  # fmt: skip
    ratio, strength = water_ratio(stiff, labels.materials), None
    if ratio and measure.plaster_share >= PLASTERED:
        strength = Figure(
            dry_strength(ratio), "MPa", "75 × e to the power −2.75 × water ratio: pure plaster, indicative",
            (Term("water to powder by mass", ratio),),
        )  # fmt: skip
    figures = {
        "amount": lift_plan.mix_ml, "next_h": lift_plan.hours.next, "full_h": lift_plan.hours.full, "weight_g": weight,
        "cost": cost_of(stiff, lift_plan.mix_ml.number, labels, site.scene), "strength_mpa": strength,
    }  # fmt: skip
    return Alternative(mix.name, figures, warnings_of(lift_plan, site.scene))


def chosen(lift: Skin) -> str:
    """The present alternative."""
    return lift.mix


def adopt(lift: Skin, name: str) -> Lift | None:
    """The skin in another compound."""
    return lift.model_copy(update={"mix": name})


def may_replace(lift: Skin, name: str, labels: Labels) -> bool:
    """Whether an alternative serves as well: any compound does."""
    return True


def quicker(lift: Skin, made: LiftPlan) -> list[tuple[str, Lift]]:
    """A quarter thinner."""
    depth = round(lift.depth_mm * 0.75, 1)
    words = f"{lift.title} {depth:g} mm thick instead of {lift.depth_mm:g}"
    return [(words, lift.model_copy(update={"depth_mm": depth}))]


def as_planned(lift: Skin, made: LiftPlan) -> Lift:
    """It stays as it is in any room."""
    return lift


def extent(lift: Skin) -> float:
    """mm of it."""
    return lift.depth_mm


def with_extent(lift: Skin, amount: float) -> Lift:
    """N mm of it, in as many courses as that part takes; where some of it lies its steps are filled already."""
    courses = max(1, ceil(lift.courses * amount / lift.depth_mm - 1e-9))
    steps = lift.fill_steps_deg if amount >= lift.depth_mm - 1e-9 else None
    return lift.model_copy(update={"depth_mm": amount, "courses": courses, "fill_steps_deg": steps})
