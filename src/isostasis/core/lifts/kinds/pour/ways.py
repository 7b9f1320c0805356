"""Ways to make the same water, side by side: every resin, every liquid that dries in coats, tissue under varnish."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ....colour.light import Colours, hexed
from ....colour.tint import tinted
from ....document.scene import Lift
from ....fault import Faults
from ....figure import Figure, Term
from ....ground.meniscus import capillary_length, climb
from ....mixing.parts import wet
from ...alternative import Alternative, cost_of_plan, warnings_of
from ...areas import Cover
from ...colours import dyes
from ...estimate import LiftEstimate, LiftPlan, span
from ...labels import Labels
from ...learnt import learnt
from ...site import Site
from .. import coat, waves
from .pools import PourLift, filled, raised

TISSUE = "tissue"  # the way that pours nothing
SHEETS, COATS, VARNISH = 3, 2, "gloss-varnish"
CREST_MM = 2.0  # of waves pushed up in tissue, craft estimate
AGES = {
    "resin": "Cured resin ambers over years of sun: keep it from a window.",
    "binder": "What dries stays milky until its water has left; water-based, it hardly yellows.",
}
BEDDED = "bed at the shore, at the deepest"


def whole_hours(work: LiftEstimate) -> Figure:
    """From mixing the first lift to cured through, every lift poured as soon as it may."""
    waits = [course.wait_h for course in work.courses[:-1]]
    full = work.plan.hours.full
    terms = [
        Term(f"lift {number} until the next may go on", "never" if wait is None else wait, "h")
        for number, wait in enumerate(waits, 1)
    ]
    known = [wait for wait in waits if wait is not None]
    total = sum(known) + full.value if full.value is not None and len(known) == len(waits) else None
    return span(
        total,
        "each lift goes on as soon as the one before it may take it",
        *terms,
        full.term("last lift, cured through"),
    )


def poured(
    lift: PourLift, site: Site, labels: Labels, try_out: Callable[[Lift], LiftEstimate], name: str, bed: Colours
) -> Alternative:
    """A pour as it would be; where it cannot be done its notes say why, and there are no figures."""
    try:
        work = try_out(lift)
    except Faults as refused:
        return Alternative(name, {}, (refused.faults[0].what.capitalize() + ".",))
    lift_plan, mix = work.plan, labels.mixes[lift.mix]
    peaks = [layer.peak_c for layer in lift_plan.layers if layer.peak_c]
    word = "lifts" if peaks else "coats"
    deepest = max(one.depth_mm.number for one in lift_plan.layers)
    layers = len(lift_plan.layers)
    count = Figure(layers, word if layers != 1 else word[:-1], "as few as the label and heat allow",
                   (Term("deepest layer", deepest, "mm"),))  # fmt: skip
    figures = {
        "lifts": count, "peak_c": max(peaks, key=lambda one: one.number) if peaks else None, "mix_ml": lift_plan.mix_ml,
        "next_h": lift_plan.hours.next, "whole_h": whole_hours(work), "hands_h": _hands(work),
        "cost": cost_of_plan(lift_plan, labels, site.scene), "flat_mm": _off_level(lift, labels, deepest),
    }  # fmt: skip
    seen = dyes(lift.tint, tuple(labels.materials.values()), site.scene.bench.drop_ml)
    deep = sum(layer.depth_mm.number for layer in lift_plan.layers)
    look = tuple(hexed(np.clip(tinted(bed, list(seen), depth), 0, 1)) for depth in (0.0, deep))
    return Alternative(
        name,
        figures,
        warnings_of(lift_plan, site.scene),
        (look[0], look[1]),
        remark=AGES.get(mix.family, ""),
        looks=BEDDED,
    )


def _hands(*works: LiftEstimate) -> Figure:
    terms = [Term(course.do[:60], course.hands_on_min, "min") for work in works for course in work.courses]
    return Figure(sum(float(term.value) for term in terms) / 60, "h", "sum over its stretches of work", tuple(terms))


def _off_level(lift: PourLift, labels: Labels, deepest_mm: float) -> Figure:
    """mm that a figure's base may rock by: a rim that climbs, or what the last coat sinks from its rim."""
    mix = labels.mixes[lift.mix]
    measure = wet(mix, labels.materials)
    if mix.reacts is None:
        sinks = deepest_mm * (1 - measure.stays) / measure.stays
        return Figure(sinks, "mm", "wet − dry of its thickest coat: it sinks from its rim",
                      (Term("stays of a wet coat", measure.stays, "ml", f"label of {mix.name}"),))  # fmt: skip
    label = mix.reacts
    capillary = capillary_length(label.surface_tension_n_m, measure.density * 1000)
    rises = climb(90, label.contact_angle_deg, capillary)[0]
    return Figure(rises, "mm", "a √(2 (1 − sin θ)): it climbs an upright rim, level within 5 mm of it",
                  (Term("contact angle", label.contact_angle_deg, "deg", f"label of {mix.name}"),
                   Term("capillary length", capillary, "mm")))  # fmt: skip


def tissue(lift: PourLift, site: Site, labels: Labels) -> Alternative:
    """Tissue in glue at the water's own level, painted and varnished: its floor is built up first."""
    name = f"Tissue in {SHEETS} layers under {COATS} coats of varnish"
    try:
        pools = filled(lift, site).pools
    except Faults as refused:
        return Alternative(name, {}, (refused.faults[0].what.capitalize() + ".",))
    cells = np.zeros(site.ground.shape)
    for pool in pools:
        cells[pool.cells] = 1.0
    above = replace(
        site, ground=raised(site.ground, site.scene.base, pools, lift.mix), above=None,
        covers={**site.covers, site.patch.id: Cover(cells, site.ground.inside)},
    )  # fmt: skip
    laid = waves.Waves(id=lift.id, kind="waves", layers=SHEETS)
    brushed = coat.Coat(id=lift.id, kind="coat", material=VARNISH, coats=COATS)
    sheets = learnt(waves.estimate(laid, above, labels), labels)
    gloss = learnt(coat.estimate(brushed, above, labels), labels)
    first, last = whole_hours(sheets), whole_hours(gloss)
    costs = [cost_of_plan(one.plan, labels, site.scene) for one in (sheets, gloss)]
    floor_ml = sum(pool.volume_ml for pool in pools)
    known = [one for one in costs if one is not None]
    whole = None if first.value is None or last.value is None else first.value + last.value
    figures = {
        "lifts": Figure(SHEETS, "layers", "of tissue, and two coats"),
        "peak_c": None,
        "mix_ml": _sum([sheets.plan, gloss.plan]),
        "next_h": gloss.plan.hours.next,
        "whole_h": span(whole, "tissue, then its varnish", first.term("tissue"), last.term("varnish")),
        "hands_h": _hands(sheets, gloss),
        "cost": None if len(known) < len(costs) else Figure(
            sum(one.number for one in known), "money", "tissue and varnish", tuple(one.term("of it") for one in known)),
        "flat_mm": Figure(CREST_MM, "mm", "crests pushed up in the tissue, craft estimate"),
    }  # fmt: skip
    remark = (
        f"Its floor is built up to the level first, {floor_ml:.3g} ml of it, and painted: no bed is seen through it."
    )
    return Alternative(name, figures, warnings_of(sheets.plan, site.scene), remark=remark)


def _sum(plans: list[LiftPlan]) -> Figure:
    terms = tuple(one.mix_ml.term(one.kind) for one in plans)
    return Figure(sum(one.mix_ml.number for one in plans), "ml", "glue water and varnish", terms)


def ways(
    lift: PourLift, site: Site, labels: Labels, bed: Colours, try_out: Callable[[Lift], LiftEstimate]
) -> dict[str, Alternative]:
    """The same pour of every two-part resin, and of what dries in coats, by the mix's id; and tissue."""
    mixes = [mix for mix in labels.mixes.values() if mix.reacts or mix.pour_mm]
    others = {}
    for mix in sorted(mixes, key=lambda one: (one.reacts is None, one.name)):
        tried = lift.model_copy(update={"mix": mix.id, "lifts": "auto"})
        others[mix.id] = poured(tried, site, labels, try_out, mix.name, bed)
    if {"tissue-paper", VARNISH} <= labels.materials.keys() and "glue-water-1-1" in labels.mixes:
        others[TISSUE] = tissue(lift, site, labels)
    return others
