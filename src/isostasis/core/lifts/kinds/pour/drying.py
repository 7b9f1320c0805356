"""A pour that dries: glue water, varnish or gel, in coats that each lose most of their height as the water leaves."""

from __future__ import annotations

from math import inf

from ....catalogue import Mix
from ....fault import fault
from ....figure import Figure, Term
from ....ground.spill import Lip, lip_of
from ....hardening.drying import READY_SHARE, coats_below_lip, coats_to_reach, hours_to_share, open_hours
from ....mixing.parts import wet
from ....units import show
from ...amounts import mixed
from ...estimate import WONT_DRY, Course, Hours, Layer, LiftEstimate, LiftPlan, Notice, Window, span
from ...labels import Labels
from ...site import Site
from ...wet_film import ready_hours
from .fill import FILM_MM, PourFill, drunk_in_layers, no_trace, pool_figures
from .pools import DENT_MM, MAX_LIFTS, PourLift, stays_of


def must_dry(mix: Mix, where: str) -> float:
    """The deepest wet coat of a mix that is poured to dry, mm. Raises Faults for one that neither reacts nor is."""
    if mix.pour_mm is None:
        raise fault(
            f"{where}.mix",
            f"'{mix.id}' neither reacts nor is it poured in coats",
            "name a two-part resin, or a glue water or varnish such as glue-water-1-1",
        )
    return mix.pour_mm


def depths_of(lift: PourLift, site: Site, labels: Labels, stood: PourFill) -> tuple[float, ...]:
    """The coats' finished depths from the bed up, as the scene gives them or as few as stay below the lip while wet.
    Raises Faults for more coats than make sense, or given ones that do not add up."""
    mix, where, deepest_mm = labels.mixes[lift.mix], site.where, stood.depth_mm
    coat, solids = must_dry(mix, where), stays_of(lift, labels)
    if not stood.fill.pools:
        return (0.0,)
    no_trace(stood, site)
    if lift.lifts != "auto":
        if abs(sum(lift.lifts) - deepest_mm) > max(0.25, 0.02 * deepest_mm):
            raise fault(
                f"{where}.lifts",
                f"they add up to {sum(lift.lifts):g} mm, but the pool is {deepest_mm:.4g} mm deep",
                f'make them add up to {deepest_mm:.4g}, or write "auto"',
            )
        return tuple(part * deepest_mm / sum(lift.lifts) for part in lift.lifts)
    count = coats_to_reach(deepest_mm, coat, solids)
    if count > MAX_LIFTS:
        raise fault(
            f"{where}.mix",
            f"{deepest_mm:.3g} mm would take {count} coats: each leaves {coat * solids:.2g} mm",
            f"at most {MAX_LIFTS * coat * solids:.3g} mm deep, or a resin",
        )
    lip = _lip(site, stood)
    room = inf if lip is None else lip.level_mm - _bed_mm(stood)
    return coats_below_lip(deepest_mm, coat, solids, room, MAX_LIFTS) or (deepest_mm / count,) * count


def _lip(site: Site, stood: PourFill) -> Lip | None:
    return lip_of(site.ground, site.scene.base, stood.fill.pools, DENT_MM)


def _bed_mm(stood: PourFill) -> float:
    """The level at which the first coat begins, mm: its deepest point."""
    return max(pool.level_mm for pool in stood.fill.pools) - stood.depth_mm


def _over_the_lip(site: Site, stood: PourFill, depths: tuple[float, ...], solids: float) -> tuple[Notice, ...]:
    """What is said of coats that stand over the lip while they are wet."""
    lip = _lip(site, stood) if stood.fill.pools else None
    if lip is None:
        return ()
    before = [_bed_mm(stood) + sum(depths[:number]) for number in range(len(depths))]
    over = [base + depth / solids - lip.level_mm for base, depth in zip(before, depths, strict=True)]
    worst = max(over)
    if worst <= 1e-6:
        return ()
    area = sum(pool.area_mm2 for pool in stood.fill.pools)
    ml = " ".join(show(worst * area / 1000, "ml"))
    place = "the edge" if lip.off_board else "the lip into the next hollow"
    text = (
        f"Coat {over.index(worst) + 1} of {len(depths)} stands {worst:.2g} mm over the lip while it is wet: about {ml} "
        f"run over {place} near x {lip.x_mm:.0f}, y {lip.y_mm:.0f}. Dam it there, or leave the water a little lower."
    )
    return (Notice("over-lip-wet", text),)


def dried(
    lift: PourLift,
    site: Site,
    labels: Labels,
    depths: tuple[float, ...],
    in_layers: tuple[float, ...],
    stood: PourFill,
    touched: frozenset[str],
) -> LiftEstimate:
    """The pour's figures: what each coat leaves (`in_layers`, ml) is poured wet, and dries through before the next."""
    mix, climate = labels.mixes[lift.mix], site.climate
    measure, solids = wet(mix, labels.materials), stays_of(lift, labels)
    volume, drunk, pools = stood.volume, stood.drunk, stood.fill.pools
    wets = drunk_in_layers(lift, site, pools, depths, drunk.number)
    parts = in_layers
    if pools and stood.stood_ml:
        parts = tuple(part * stood.liquid_ml / stood.pools_ml for part in in_layers)
    runs_off = stood.lost.number / len(depths)
    needs = tuple(part / solids + soaks + runs_off for part, soaks in zip(parts, wets, strict=True))
    left = Term("of a wet coat stays", solids, "", f"1 − water of {mix.name}")
    terms = (volume.term("in place, dry"), left, *((drunk.term("drunk by the bed"),) if drunk.number else ()))
    tints = tuple((tint.material, tint.per_100_ml) for tint in lift.tint)
    reckoned = mixed(site, labels, mix, needs, terms, site.bench.cup_ml, site.bench.cup_ml, tints)
    film = (max(depths) / solids) or FILM_MM
    water = measure.free_water_g_per_ml * film * 1000
    diffusivity = mix.dries.diffusivity_m2_s if mix.dries else 1e-9
    workable = span(
        open_hours(water, climate), "until a third of its water has left", Term("water to lose", water, "g/m2")
    )
    last = (depths[-1] / solids) or FILM_MM
    next_h, clear, usable = ready_hours(site.above, labels, water * last / film, last, diffusivity, climate)
    hours = Hours(workable, next_h, clear, usable)

    def clear_h(wet_mm: float) -> float | None:
        return hours_to_share(water * wet_mm / film, wet_mm, diffusivity, climate, READY_SHARE)

    most = f"at most {mix.pour_mm:g} mm, label of {mix.name}"
    layers = tuple(
        Layer(Figure(depth, "mm", "what is left of a coat once it is dry",
                     (Term("poured wet", depth / solids, "mm", most), left)),
              Figure(part, "ml", "what this coat leaves in the pools"))
        for depth, part in zip(depths, parts, strict=True)
    )  # fmt: skip
    windows = [Window("level it, tease bubbles out", 0.0, workable.value, "it still runs")] if workable.value else []
    if clear.value is not None:
        windows += [
            Window("milky, keep dust off", 0.0, clear.value, "white in the depth"),
            Window("clear: the next coat", clear.value, None, "no milk in it anywhere"),
        ]
    warnings = [*stood.notices, *_over_the_lip(site, stood, depths, solids)]
    if clear.value is None:
        warnings.append(WONT_DRY)
    if film > (mix.pour_mm or film) + 1e-6:
        text = f"A coat of {film:.2g} mm wet skins over before its depth is dry: {mix.pour_mm:g} mm at most."
        warnings.append(Notice("too-deep", text))
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=reckoned.mix_ml,
        mass_g=reckoned.mass_g,
        ingredients=reckoned.ingredients,
        layers=layers,
        hours=hours,
        windows=tuple(windows),
        look_for=mix.look_for,
        warnings=tuple(warnings),
        pools=pool_figures(lift, site, labels, stood),
        drunk_ml=drunk,
        lost_ml=stood.lost,
    )
    count = len(depths)
    courses = tuple(
        Course(
            do=f"Pour {mix.name.lower()} into {site.patch.name}"
            + (f", coat {number} of {count}" if count > 1 else "")
            + f", {depth / solids:.2g} mm wet",
            batches=batches,
            working_min=None if workable.value is None else workable.value * 60,
            hands_on_min=6 + 2 * batches.count,
            wait_h=hours.wait_h(site.above is None) if number == count else clear_h(depth / solids),
        )
        for number, (depth, batches) in enumerate(zip(depths, reckoned.batches, strict=True), start=1)
    )
    hazards = labels.hazards(mix, tuple(tint.material for tint in lift.tint))
    return LiftEstimate(plan, mix, courses, hazards, touched, soft_h=workable.value)
