"""A pour of a two-part resin: how much to mix, in how many lifts, how hot, how long."""

from __future__ import annotations

from collections.abc import Callable
from math import pi

import numpy as np

from ....catalogue import Mix, Reacts
from ....figure import Figure, Term
from ....ground.field import tilted
from ....ground.filling import Pool
from ....ground.meniscus import capillary_length, climb_ml, shore
from ....ground.raster import Array
from ....hardening.climate import Climate
from ....hardening.flow import wave_window
from ....hardening.layer import RESIN, Courses, Cured, Heat, Slab, heat_from_label, working_minutes
from ....mixing.batches import Batches
from ....mixing.drops import count_drops
from ....mixing.parts import wet
from ....units import show
from ...amounts import mixed
from ...estimate import Act, Course, Hours, Layer, LiftEstimate, LiftPlan, Notice, Window, heavy_cup, range_of, span
from ...labels import Labels
from ...site import Site
from .acts import bubbles, dam_off, dam_on, rest, scuff, waves
from .fill import drunk_in_layers, layer_volumes, pool_figures, pour_fill, split_of, touched_patches
from .heat import TOO_HOT_C, Split, bed_under, bond_end
from .pools import PourLift

MELTS_C = 75.0  # the bed's face melts foam
RIPPLE_MM = 15.0


def _climb_ml(
    site: Site, z: Array, pools: tuple[Pool, ...], label: Reacts, density: float, lift: PourLift
) -> tuple[float, float, float, float]:
    """(ml that climb shores, dams and what stands in it, mm of bank shore, of dam, and round what stands in it)."""
    capillary = capillary_length(label.surface_tension_n_m, density * 1000)
    by_bank = climb_ml(label.contact_angle_deg, capillary)
    upright = float(by_bank[-1])
    total = banks = dams = 0.0
    for pool in pools:
        lengths, angles, edge = shore(site.ground, z, pool)
        total += float((lengths * np.interp(angles, np.arange(91), by_bank)).sum()) / 1000 + edge * upright / 1000
        banks += float(lengths.sum())
        dams += edge
    girth = sum(2 * (pi * stand.area_mm2) ** 0.5 * stand.count for stand in lift.stands)
    return total + girth * upright / 1000, banks, dams, girth


def estimate_resin(lift: PourLift, site: Site, labels: Labels, mix: Mix, label: Reacts) -> LiftEstimate:
    """A pour of a two-part resin."""
    climate = site.climate
    z = tilted(site.ground, site.scene.base)
    stood = pour_fill(lift, site, labels)
    volume, liquid_ml = stood.volume, stood.liquid_ml
    pools, density, drunk_ml = stood.fill.pools, wet(mix, labels.materials).density, stood.drunk.number
    bed = bed_under(site, labels, stood.lowest)
    plan = split_of(lift, site, labels, stood)
    shrinks = liquid_ml * label.shrinkage
    climbs, banks_mm, dams_mm, girth_mm = _climb_ml(site, z, pools, label, density, lift)
    in_layers = layer_volumes(site, z, pools, plan.depths)
    stays = liquid_ml / stood.pools_ml if pools else 1.0  # beside what stands in it
    # A given volume is what is poured out; a level or a depth is reached in spite of shrinkage and climb.
    # The bed drinks of each lift where that newly wets it.
    drunk = drunk_in_layers(lift, site, pools, plan.depths, drunk_ml)
    of_all = [part / stood.pools_ml for part in in_layers] if pools else [1.0]
    extra = liquid_ml + shrinks + climbs + stood.lost.number
    needs = tuple(extra * share + drunk[number] for number, share in enumerate(of_all))
    terms = (
        volume.term("in place"),
        Term("shrinks on cure", shrinks, "ml", f"{label.shrinkage:.1%} of it, label of {mix.name}"),
        Term(
            f"climbs {banks_mm / 10:.0f} cm of bank" + (f", {dams_mm / 10:.0f} cm of dam" if dams_mm else ""),
            climbs,
            "ml",
            "meniscus" + (f"; {girth_mm / 10:.0f} cm round what stands in it" if girth_mm else ""),
        ),
        *((Term("drunk by the bed", drunk_ml, "ml", "unsealed"),) if drunk_ml and lift.volume_ml is None else ()),
    )
    heat = heat_from_label(label, mix.thermal or RESIN)
    full_cup = _working(label, site.bench.cup_ml, density, heat.j_g, climate)
    placeable = site.bench.spread_ml_per_min * full_cup.number * 60
    reckoned = mixed(
        site, labels, mix, needs, terms, site.bench.cup_ml, placeable,
        tuple((tint.material, tint.per_100_ml) for tint in lift.tint),
    )  # fmt: skip
    biggest = max(one.each_ml for one in reckoned.batches)
    workable = _working(label, biggest, density, heat.j_g, climate)
    last = plan.courses[-1][0]
    kept = wave_window(last, label, plan.depths[-1], RIPPLE_MM, density * 1000) if plan.depths[-1] else None
    shared_out = Term("deepest", stood.depth_mm, "mm"), Term("lifts", len(plan.depths))
    layers = tuple(
        Layer(
            Figure(depth, "mm", "the deepest point shared out", shared_out),
            Figure(part * stays, "ml", "what this lift adds to the pools"),
            _peak(course, depth, label, bed, climate, heat),
        )
        for depth, part, course in zip(plan.depths, in_layers, plan.courses, strict=True)
    )
    gel, hard, full = _cure_hours(label, plan.courses[-1])
    bonds_next = site.above is None or site.above.levels_itself
    hours = Hours(workable, gel if bonds_next else hard, full, hard)
    pour_plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=reckoned.mix_ml,
        mass_g=reckoned.mass_g,
        ingredients=reckoned.ingredients,
        layers=layers,
        hours=hours,
        windows=_windows(last, label, kept, bool(dams_mm)),
        look_for=mix.look_for,
        warnings=(
            *stood.notices,
            *_warnings(lift, site, label, pools, plan, min(one.each_ml for one in reckoned.batches), biggest * density),
        ),
        pools=pool_figures(lift, site, labels, stood),
        drunk_ml=stood.drunk,
        lost_ml=stood.lost,
    )
    return LiftEstimate(
        pour_plan,
        mix,
        _courses(lift, site, mix, label, plan, pools, reckoned.batches, hours, kept, dams_mm),
        labels.hazards(mix, tuple(tint.material for tint in lift.tint)),
        touched_patches(site, pools),
        soft_h=last.gel_h,
    )


def _courses(
    lift: PourLift,
    site: Site,
    mix: Mix,
    label: Reacts,
    plan: Split,
    pools: tuple[Pool, ...],
    every: tuple[Batches, ...],
    hours: Hours,
    kept: tuple[float, float] | None,
    dams_mm: float,
) -> tuple[Course, ...]:
    """The lifts one after the other: each on the one before while it bonds, or on what was scuffed."""
    count = len(plan.depths)
    courses = []
    for number, (depth, batches, course) in enumerate(zip(plan.depths, every, plan.courses, strict=True), start=1):
        likely = course[0]
        lift_name = f", lift {number} of {count}" if count > 1 else ""
        bond = (
            ()
            if likely.gel_h is None
            else (Window("bonds without scuffing", likely.gel_h, bond_end(label, likely.gel_h)),)
        )
        courses.append(
            Course(
                do=f"Mix and pour {mix.name.lower()} into {site.patch.name}{lift_name}"
                + (f", {depth:.3g} mm" if depth else ""),
                batches=batches,
                working_min=hours.workable.number * 60,
                hands_on_min=8 + 8 * batches.count,
                wait_h=likely.gel_h if number < count else hours.wait_h(site.above is None),
                next_window=bond if number < count else (),
                rest=rest(lift, site, mix.name, batches.count, hours.workable.number) if lift.rest_h else None,
                before=dam_on(site, dams_mm) if dams_mm and number == 1 else None,
                mend=scuff(site, pools) if bond and number < count else None,
                acts=(
                    *bubbles(lift, site, likely),
                    *(_last_acts(lift, site, likely, kept, dams_mm) if number == count else ()),
                ),
            )
        )
    return tuple(courses)


def _last_acts(
    lift: PourLift, site: Site, likely: Cured, kept: tuple[float, float] | None, dams_mm: float
) -> tuple[Act, ...]:
    """What is done in the wait of the last lift alone."""
    return (*waves(lift, site, kept, likely.gel_h), *(dam_off(site, likely) if dams_mm else ()))


def _cure_hours(label: Reacts, courses: Courses) -> tuple[Figure, Figure, Figure]:
    """Hours until the top face of a lift has gelled, is hard, is cured through; each with its heat's range."""
    likely, slow, quick = courses

    def until(goal: float, words: str, hours: Callable[[Cured], float | None]) -> Figure:
        return span(hours(likely), words, *_cure_terms(label, likely, goal), **range_of(hours(slow), hours(quick)))

    return (
        until(label.gel, "degree of cure at the top face reaches gel", lambda one: one.gel_h),
        until(label.hard, "the top face is hard to touch", lambda one: one.hard_h),
        until(label.full, "the top face is cured through", lambda one: one.full_h),
    )


def _cure_terms(label: Reacts, course: Cured, goal: float) -> tuple[Term, ...]:
    return (
        Term("degree of cure at the top face", goal, "", "default unless the label says"),
        Term("hard on the label", label.hard_h, "h", f"thin layer at {label.temp_c:g} °C"),
        Term("hottest in this layer", course.peak_c, "degC", "heat solved through resin, bed and board"),
        Term("greatest depth on the label", label.max_depth_mm, "mm", "sets the heat of reaction"),
        Term("law", "Kamal and Sourour (1973), 1-D heat", "", "on the safe side for puddles under eight depths wide"),
    )  # fmt: skip


def _peak(
    course: Courses,
    depth: float,
    label: Reacts,
    bed: tuple[Slab, ...],
    climate: Climate,
    heat: Heat,
) -> Figure:
    likely, low, high = course
    source = f"from the label: {label.max_depth_mm:g} mm at {label.temp_c:g} °C peaks at 45"
    if heat.cosmetic:
        source = f"held there: the label's {label.max_depth_mm:g} mm are no matter of heat, but a limit of their own"
    under = " on ".join(f"{thickness:.3g}" for thickness, _ in bed)
    return Figure(
        likely.peak_c,
        "degC",
        "the greatest temperature in the resin; the range is for 12 % less and more heat than the label implies",
        (
            Term("depth", depth, "mm"),
            Term("heat of reaction", heat.j_g, "J/g", source),
            Term("bed, from its face down", under, "mm", "the ground under the deepest point"),
            Term("room", climate.temp_c[0], "degC", "this scene"),
            Term("on the bed's face", likely.bed_peak_c, "degC", f"over {MELTS_C:g} melts foam"),
        ),
        low.peak_c,
        high.peak_c,
    )


def _working(label: Reacts, batch_ml: float, density: float, heat: float, climate: Climate) -> Figure:
    minutes = working_minutes(label, round(batch_ml, 1) or 0.1, density, heat, climate.temp_c[0])
    return span(
        minutes / 60,
        "the label's working time × gel of this batch here / gel of the label's batch",
        Term("on the label", label.working_min, "min", f"{label.pot_mass_g:g} g at {label.temp_c:g} °C"),
        Term("batch", batch_ml, "ml"),
        Term("room", climate.temp_c[0], "degC", "this scene"),
    )


def _windows(last: Cured, label: Reacts, kept: tuple[float, float] | None, dammed: bool) -> tuple[Window, ...]:
    windows = []
    if last.gel_h is not None:
        torch_end = min(0.5, 0.5 * last.gel_h)
        if torch_end > 5 / 60:
            windows.append(Window("burst bubbles, at 5, 15 and 30 min", 5 / 60, torch_end))
        if kept:
            windows.append(Window(f"waves of {RIPPLE_MM:g} mm keep half", *kept))
        end = bond_end(label, last.gel_h)
        windows.append(Window("next lift bonds", last.gel_h, end, code="gel"))
        if end is not None:
            windows.append(Window("scuff before the next lift", end, None))
    if last.full_h is not None:
        windows.append(Window("cured through", last.full_h, None))
    if last.hard_h is not None:
        windows.insert(1, Window("dust cover on", 0.0, last.hard_h))
        if dammed:
            windows.append(
                Window("dam and tape off", last.hard_h, 2 * last.hard_h, "a nail marks it, it does not give")
            )
        windows.append(Window("trim the rim with a blade", last.hard_h, 2 * last.hard_h, "it cuts like cheese"))
        windows.append(Window("handle it", 2 * last.hard_h, None, "no print from a warm thumb"))
    return tuple(sorted(windows, key=lambda one: one.from_h))


def _warnings(
    lift: PourLift,
    site: Site,
    label: Reacts,
    pools: tuple[Pool, ...],
    plan: Split,
    smallest_ml: float,
    largest_g: float,
) -> tuple[Notice, ...]:
    out = []
    for tint in lift.tint:
        drops = (tint.drops_per_100_ml or 0.0) * smallest_ml / 100
        counted = count_drops(drops, smallest_ml) if drops > 0 else None
        if counted and counted.stock:
            large = " ".join(show(counted.right_ml, "ml"))
            more = f"one is right for {large}; or let 1 drop down with 9 of part A and count {counted.drops} of that"
            out.append(Notice("tint-too-small", f"A batch takes {drops:.2g} drops of tint: {more}."))
    out += heavy_cup(largest_g)
    hottest = max(course[0].peak_c for course in plan.courses)
    bed = max(course[0].bed_peak_c for course in plan.courses)
    high = max(course[2].peak_c for course in plan.courses)
    if max(plan.depths) > label.max_depth_mm + 1e-6:
        out.append(
            Notice(
                "too-deep",
                f"A lift of {max(plan.depths):.3g} mm is deeper than the label's {label.max_depth_mm:g} mm.",
            )
        )
    if hottest > TOO_HOT_C:
        out.append(
            Notice(
                "runs-hot",
                f"A lift peaks at {hottest:.0f} °C: over {TOO_HOT_C:g} it may crack or yellow. Pour thinner lifts.",
            )
        )
    elif high > TOO_HOT_C:
        near = f"It should peak at {hottest:.0f} °C, but near {high:.0f} if this resin gives a little more heat."
        out.append(Notice("may-run-hot", f"{near} Thinner lifts or a cooler room are safer."))
    if bed > MELTS_C:
        out.append(Notice("melts-foam", f"The bed's face reaches {bed:.0f} °C: foam under it melts."))
    if plan.courses[-1][0].full_h is None:
        out.append(Notice("stays-soft", "In this room it never cures through. Warm the room."))
    elif min(site.climate.temp_c) < label.temp_c - 8:
        out.append(
            Notice(
                "cold",
                f"The room is well below the label's {label.temp_c:g} °C: it cures slowly, and bubbles stay in.",
            )
        )
    tilt = np.hypot(*site.scene.base.tilt_mm_per_m)
    if tilt > 0 and pools:
        out.append(_tilt_notice(site, pools, float(tilt)))
    return tuple(out)


def _tilt_notice(site: Site, pools: tuple[Pool, ...], tilt: float) -> Notice:
    """How deep the two ends are on a board that is not level."""
    pool = max(pools, key=lambda one: one.volume_ml)
    rows, columns = np.nonzero(pool.cells)
    east, north = site.scene.base.tilt_mm_per_m
    rise = (columns * east + rows * north) * site.ground.cell_mm / 1000
    deeper = f"one end of the pool stands {rise.max() - rise.min():.2g} mm deeper than the other"
    return Notice("tilted", f"The board is {tilt:.3g} mm in a metre off level: {deeper}. Shim it level first.")
