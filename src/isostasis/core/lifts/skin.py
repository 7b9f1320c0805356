"""A skin: a compound or plaster trowelled on to a depth. It sets, then dries."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..catalogue import Mix
from ..catalogue.model import Id
from ..document.scene import Lift
from ..figure import Figure, Term
from ..ground.field import Ground
from ..ground.offset import fill_to_slope, laid
from ..hardening.drying import CRITICAL_SHARE, hours_to_share, open_hours
from ..hardening.setting import WORKING_SHARE, set_minutes
from ..mixing.parts import water_ratio, wet
from .amount import mixed
from .site import Course, Cover, Hours, Labels, Layer, LiftPlan, Notice, Site, Window, Work, span, true_area
from .wet_film import next_and_full


class Skin(Lift):
    """So many mm of a mix, square to the surface."""

    kind: Literal["skin"] = "skin"
    mix: Id
    depth_mm: Annotated[float, Field(gt=0, le=200)]
    fill_steps_deg: Annotated[float, Field(gt=0, lt=90)] | None = None


MODEL = Skin


@lru_cache(maxsize=64)
def _filled(ground: Ground, cover: Cover, slope_deg: float, mix: str) -> Ground:
    return ground.after(fill_to_slope(ground, cover.mask, slope_deg), mix)


@lru_cache(maxsize=128)
def _laid(ground: Ground, cover: Cover, depth_mm: float, mix: str) -> Ground:
    return ground.after(laid(ground, cover.mask, depth_mm), mix)


def _bed(lift: Skin, site: Site) -> Ground:
    """The ground that the skin itself goes on: its steps filled first if that is wanted."""
    if lift.fill_steps_deg is None:
        return site.ground
    return _filled(site.ground, site.cover, lift.fill_steps_deg, lift.mix)


def lay(lift: Skin, site: Site) -> Ground:
    """The ground after the skin."""
    return _laid(_bed(lift, site), site.cover, lift.depth_mm, lift.mix)


def work(lift: Skin, site: Site, labels: Labels) -> Work:
    """Amounts from the true area, hours from setting and drying."""
    mix, bed, climate = labels.mix_of(lift), _bed(lift, site), site.climate
    area = true_area(bed, site.cover)
    skin_ml = area * lift.depth_mm / 1000
    fill_ml = float(((bed.z - site.ground.z) * site.cover.share).sum()) * bed.cell_area / 1000
    terms = (
        Term("true area of the patch", area, "mm2", "triangulated ground under this lift"),
        Term("thickness", lift.depth_mm, "mm", "this scene"),
        *(
            (Term(f"fill over steps to {lift.fill_steps_deg:g}°", fill_ml, "ml", "sum of what the fill adds"),)
            if fill_ml
            else ()
        ),
    )
    volume = Figure(skin_ml + fill_ml, "ml", "true area × thickness" + (" + fill over steps" if fill_ml else ""), terms)
    water = wet(mix, labels.materials)
    dries = mix.dries
    diffusivity = dries.diffusivity_m2_s if dries else 1e-9
    deepest = lift.depth_mm + (float((bed.z - site.ground.z)[site.cover.mask].max(initial=0.0)) if fill_ml else 0.0)
    to_lose = water.free_water_g_per_ml * deepest * 1000

    sets_h = None
    if mix.sets:
        ratio = water_ratio(mix, labels.materials)
        sets_h = set_minutes(mix.sets.set_min, mix.sets.water_ratio, ratio, climate.temp_c[0]) / 60
        workable = span(
            sets_h * WORKING_SHARE,
            "half of the initial set",
            Term("set on the label at 20 °C", mix.sets.set_min, "min", f"label of {mix.name}"),
            Term("water to powder by mass", ratio, "", f"{mix.sets.water_ratio:g} on the label"),
            Term("set here", sets_h, "h", f"× 0.97 per degree above 20, room at {climate.temp_c[0]:g} °C"),
        )
    else:
        workable = span(
            open_hours(to_lose, climate),
            "until a third of its water has left",
            Term("water to lose", to_lose, "g/m2"),
        )
    next_h, full_h = next_and_full(site.above, labels, to_lose, deepest, diffusivity, climate)
    # What never dries here stays workable: then the bowl alone limits a batch.
    working_min = None if workable.value is None else workable.value * 60
    placeable = site.bench.bowl_ml if working_min is None else site.bench.spread_ml_per_min * working_min
    reckoned = mixed(
        site, labels, mix, (volume.number,), (volume.term("in place"),), site.bench.bowl_ml,
        placeable,
    )  # fmt: skip
    batches = reckoned.batches[0]
    spread = volume.number * site.scene.copies / site.bench.spread_ml_per_min
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=reckoned.mix_ml,
        mass_g=reckoned.mass_g,
        ingredients=reckoned.ingredients,
        layers=(Layer(Figure(lift.depth_mm, "mm", "as this scene says"), volume),),
        hours=Hours(workable, next_h, full_h),
        windows=_windows(
            site,
            workable.value,
            sets_h,
            hours_to_share(to_lose, deepest, diffusivity, climate, CRITICAL_SHARE),
        ),
        look_for=mix.look_for,
        warnings=_warnings(lift, mix, site, deepest, next_h),
    )
    course = Course(
        do=f"Mix and lay {mix.name.lower()} on {site.patch.name}, {lift.depth_mm:g} mm",
        batches=batches,
        working_min=working_min,
        hands_on_min=5 + 6 * batches.count + spread,
        wait_h=next_h.value,
    )
    return Work(plan, mix, (course,), labels.hazards(mix))


def _windows(site: Site, workable: float | None, sets_h: float | None, damp_h: float | None) -> tuple[Window, ...]:
    windows = [Window("spread and shape", 0.0, workable)] if workable else []
    if sets_h:
        windows.append(Window("press stones and pieces in", 0.0, sets_h))
        if site.scene.base.joints_x_mm or site.scene.base.joints_y_mm:
            windows.append(Window("pull separators", sets_h, 2 * sets_h))
        windows.append(Window("colour on the damp face", sets_h, sets_h + 1))
    if damp_h is not None:
        windows.append(Window("colour on the dry face", damp_h, None))
    return tuple(windows)


def _warnings(lift: Skin, mix: Mix, site: Site, deepest: float, next_h: Figure) -> tuple[Notice, ...]:
    notices = []
    if mix.most_mm and deepest > mix.most_mm + 1e-9:
        courses = int(np.ceil(deepest / mix.most_mm - 1e-9))
        notices.append(
            Notice("may-crack", f"{deepest:.3g} mm of {mix.name.lower()} in one go may crack and dries slowly; "
                   f"{courses} thinner lifts are safer ({mix.most_mm:g} mm at most each).")
        )  # fmt: skip
    if next_h.value is None:
        notices.append(Notice("wont-dry", "The room is too damp: it never dries there. Warm or air the room."))
    return tuple(notices)
