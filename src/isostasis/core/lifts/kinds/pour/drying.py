"""A pour that dries: glue water, varnish or gel, in coats that each lose most of their height as the water leaves."""

from __future__ import annotations

from ....catalogue import Mix
from ....fault import fault
from ....figure import Figure, Term
from ....hardening.drying import READY_SHARE, coats_to_reach, open_hours
from ....mixing.parts import wet
from ...amounts import mixed
from ...estimate import WONT_DRY, Course, Hours, Layer, LiftEstimate, LiftPlan, Notice, PoolFigures, Window, span
from ...labels import Labels
from ...site import Site
from ...wet_film import drying_hours
from .pools import MAX_LIFTS, PourLift, stays_of


def must_dry(mix: Mix, where: str) -> float:
    """The deepest wet coat of a mix that is poured to dry, mm. Raises Faults for one that neither reacts nor is."""
    if mix.pour_mm is None:
        raise fault(
            f"{where}.mix",
            f"'{mix.id}' neither reacts nor is it poured in coats",
            "name a two-part resin, or a glue water or varnish such as glue-water-1-1",
        )
    return mix.pour_mm


def depths_of(lift: PourLift, site: Site, labels: Labels, deepest_mm: float) -> tuple[float, ...]:
    """The coats' finished depths from the bed up, as the scene gives them or as many equal ones as it takes. Raises
    Faults for more coats than make sense, or given ones that do not add up."""
    mix, where = labels.mixes[lift.mix], site.where
    coat, solids = must_dry(mix, where), stays_of(lift, labels)
    if lift.lifts != "auto":
        if abs(sum(lift.lifts) - deepest_mm) > max(0.25, 0.02 * deepest_mm):
            raise fault(
                f"{where}.lifts",
                f"they add up to {sum(lift.lifts):g} mm, but the pool is {deepest_mm:.4g} mm deep",
                f'make them add up to {deepest_mm:.4g}, or write "auto"',
            )
        return tuple(part * deepest_mm / sum(lift.lifts) for part in lift.lifts)
    count = coats_to_reach(deepest_mm, coat, solids)
    if count < 1:
        raise fault(
            where, "nothing of it is left to stand: its bed drinks all of it", "seal the bed first, or pour more"
        )
    if count > MAX_LIFTS:
        raise fault(
            f"{where}.mix",
            f"{deepest_mm:.3g} mm would take {count} coats: each leaves {coat * solids:.2g} mm",
            f"at most {MAX_LIFTS * coat * solids:.3g} mm deep, or a resin",
        )
    return (deepest_mm / count,) * count


def dried(
    lift: PourLift,
    site: Site,
    labels: Labels,
    depths: tuple[float, ...],
    in_layers: tuple[float, ...],
    volume: Figure,
    drunk: Figure,
    lost: Figure,
    pools: tuple[PoolFigures, ...],
    touched: frozenset[str],
) -> LiftEstimate:
    """The pour's figures: what each coat leaves (`in_layers`, ml) is poured wet, and dries through before the next."""
    mix, climate = labels.mixes[lift.mix], site.climate
    measure, solids = wet(mix, labels.materials), stays_of(lift, labels)
    needs = tuple(part / solids + (drunk.number if number == 0 else 0.0) for number, part in enumerate(in_layers))
    left = Term("of a wet coat stays", solids, "", f"1 − water of {mix.name}")
    terms = (volume.term("in place, dry"), left, *((drunk.term("drunk by the bed"),) if drunk.number else ()))
    tints = tuple((tint.material, tint.drops_per_100_ml) for tint in lift.tint)
    reckoned = mixed(site, labels, mix, needs, terms, site.bench.cup_ml, site.bench.cup_ml, tints)
    deepest = max(depths)
    film = deepest / solids
    water = measure.free_water_g_per_ml * film * 1000
    diffusivity = mix.dries.diffusivity_m2_s if mix.dries else 1e-9
    clear = drying_hours(water, film, diffusivity, climate, READY_SHARE, "clear, ready for the next coat at")
    workable = span(
        open_hours(water, climate), "until a third of its water has left", Term("water to lose", water, "g/m2")
    )
    wet_term = Term("poured wet", film, "mm", f"at most {mix.pour_mm:g} mm, label of {mix.name}")
    layers = tuple(
        Layer(Figure(depth, "mm", "what is left of a coat once it is dry", (wet_term, left)),
              Figure(part, "ml", "what this coat leaves in the pools"))
        for depth, part in zip(depths, in_layers, strict=True)
    )  # fmt: skip
    windows = [Window("level it, tease bubbles out", 0.0, workable.value, "it still runs")] if workable.value else []
    if clear.value is not None:
        windows += [
            Window("milky, keep dust off", 0.0, clear.value, "white in the depth"),
            Window("clear: the next coat", clear.value, None, "no milk in it anywhere"),
        ]
    warnings = [] if clear.value is not None else [
        WONT_DRY]  # fmt: skip
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
        hours=Hours(workable, clear, clear),
        windows=tuple(windows),
        look_for=mix.look_for,
        warnings=tuple(warnings),
        pools=pools,
        drunk_ml=drunk,
        lost_ml=lost,
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
            wait_h=clear.value,
        )
        for number, (depth, batches) in enumerate(zip(depths, reckoned.batches, strict=True), start=1)
    )
    hazards = labels.hazards(mix, tuple(tint.material for tint in lift.tint))
    return LiftEstimate(plan, mix, courses, hazards, touched)
