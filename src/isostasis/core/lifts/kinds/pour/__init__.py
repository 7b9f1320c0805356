"""A pour: liquid that levels itself in the hollows of the ground, in one lift or several.

`pools` its model and where it goes, `fill` what stands then, `heat` in how many lifts of resin, `resin` and `drying`
the figures of what reacts and of what dries, `acts` the short acts round a pour of resin, `course` how it goes hour by
hour, `bands` its bed from shore to deep.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ....catalogue import Mix
from ....colour.light import Colours
from ....document.scene import Lift
from ....fault import fault
from ....ground.field import Ground, tilted
from ...alternative import Alternative
from ...areas import Cover
from ...beds import CLOSED, Drinking
from ...estimate import LiftEstimate, LiftPlan
from ...labels import Labels
from ...site import Site
from ..waves import Waves
from .drying import depths_of, dried, must_dry
from .fill import layer_volumes, pour_fill, touched_patches
from .pools import PourLift, filled, raised
from .resin import estimate_resin
from .ways import SHEETS, TISSUE, ways

MODEL = PourLift
RUNS_DEG = 30.0  # a resin that stands steeper at its edge does not level a pool by itself


def lay(lift: PourLift, site: Site) -> Ground:
    """The ground after the pour: level where it stands."""
    return raised(site.ground, site.scene.base, filled(lift, site).pools, lift.mix)


def estimate(lift: PourLift, site: Site, labels: Labels) -> LiftEstimate:
    """Where it stands, how much to mix, in how many lifts, how hot, how long. Raises Faults."""
    mix = labels.mixes[lift.mix]
    if mix.reacts is not None:
        return estimate_resin(lift, site, labels, mix, mix.reacts)
    must_dry(mix, site.where)
    if lift.rest_h:
        raise fault(f"{site.where}.rest_h", f"'{mix.id}' gains nothing by a rest in the cup", "leave it out, or 0")
    stood = pour_fill(lift, site, labels)
    depths, pools = depths_of(lift, site, labels, stood), stood.fill.pools
    in_layers = layer_volumes(site, tilted(site.ground, site.scene.base), pools, depths)
    return dried(lift, site, labels, depths, in_layers, stood, touched_patches(site, pools))


def covers(lift: PourLift, site: Site, labels: Labels) -> Cover:
    """Its pools, whoever owns the ground under them."""
    cells = np.zeros(site.ground.shape)
    for pool in filled(lift, site).pools:
        cells[pool.cells] = 1.0
    return Cover(cells, site.ground.inside)


def look(lift: PourLift, below: Colours, labels: Labels, drop_ml: float) -> Colours:
    """Water is drawn by its depth, not as a coat of the surface."""
    return below


def drinks(lift: PourLift, labels: Labels, filled: float) -> Drinking:
    """Cured resin and dry varnish let nothing pass."""
    return CLOSED


def edge_mm(lift: PourLift, site: Site, labels: Labels) -> float:
    """No step where it ends: it ends at its shore."""
    return 0.0


def mess(lift: PourLift, mix: Mix) -> str:
    """Resin, where it is one."""
    return "resin" if mix.family == "resin" else ""


def traits(lift: PourLift, labels: Labels) -> frozenset[str]:
    """Nothing that rules go by beyond its kind and family."""
    return frozenset()


ALTERNATIVE_FAMILIES: tuple[str, ...] = ("resin", "binder", "tissue", "varnish")
SOONEST = "whole_h"  # the figure by which one alternative is over sooner than another; empty: none is tried for time


def alternatives(
    lift: PourLift, site: Site, labels: Labels, beneath: Colours, try_out: Callable[[Lift], LiftEstimate]
) -> dict[str, Alternative]:
    """The same water of every resin, of what dries in coats, and of tissue."""
    return ways(lift, site, labels, beneath, try_out)


def levels(mix: Mix) -> bool:
    """Whether a mix levels a pool by itself."""
    return mix.reacts is None or mix.reacts.contact_angle_deg <= RUNS_DEG


def chosen(lift: PourLift) -> str:
    """The present alternative."""
    return lift.mix


def adopt(lift: PourLift, name: str) -> Lift | None:
    """The pour of another mix, split anew; or tissue where it stood."""
    if name == TISSUE:
        return Waves(id=lift.id, kind="waves", layers=SHEETS, after=lift.after, place=lift.place)
    return lift.model_copy(update={"mix": name, "lifts": "auto"})


def may_replace(lift: PourLift, name: str, labels: Labels) -> bool:
    """Whether an alternative serves as well: what does not level itself serves no pour that did."""
    return name != TISSUE and (levels(labels.mixes[name]) or not levels(labels.mixes[lift.mix]))


def quicker(lift: PourLift, lift_plan: LiftPlan) -> list[tuple[str, Lift]]:
    """A resin in one lift fewer and in one lift more."""
    layers = [layer.depth_mm.number for layer in lift_plan.layers]
    if not lift_plan.layers[0].peak_c:
        return []
    return [
        (
            f"{lift.title} in {count} lift{'s' * (count > 1)} instead of {len(layers)}",
            lift.model_copy(update={"lifts": (sum(layers) / count,) * count}),
        )
        for count in (len(layers) - 1, len(layers) + 1)
        if count
    ]


def as_planned(lift: PourLift, lift_plan: LiftPlan) -> Lift:
    """Split as planned: in another room it might be split into other lifts."""
    if lift.lifts != "auto":
        return lift
    depths = tuple(layer.depth_mm.number for layer in lift_plan.layers)
    return lift.model_copy(update={"lifts": depths}) if lift_plan.pools and depths else lift


def extent(lift: PourLift) -> float:
    """All of it: how much of it stands already is read off its level, not off a share."""
    return 1.0


def with_extent(lift: PourLift, amount: float) -> Lift:
    """It goes to the same level, on what stands there."""
    return lift
