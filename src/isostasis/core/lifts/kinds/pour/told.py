"""What a pour that stands lower than it was meant to tells of its bed."""

from __future__ import annotations

from dataclasses import dataclass

from ....fault import fault
from ...estimate import LiftPlan
from ...site import Site
from .pools import PourLift, bed_drinks, filled


@dataclass(frozen=True, slots=True)
class BedTold:
    """What the thirstiest layer of a bed was said to drink, as if nothing were learnt of it, and what came, in ml."""

    label: str
    said_ml: float
    came_ml: float


def bed_told(lift: PourLift, site: Site, lift_plan: LiftPlan, lower_mm: float) -> BedTold:
    """What a bed drank beyond its plan where its pour stands `lower_mm` lower once it is hard (below 0: higher).

    `came_ml` = drunk as planned + `lower_mm` x the area of the pools. It is put down to the layer that holds most.
    Raises Faults where the bed drinks nothing, and where it would have drunk less than nothing.
    """
    beds = bed_drinks(lift, site, filled(lift, site).pools)
    thirstiest = max(beds, key=lambda one: one.figure.number, default=None)
    layers = site.open_beds[thirstiest.patch.id] if thirstiest else ()
    drunk_ml = lift_plan.drunk_ml.number if lift_plan.drunk_ml else 0.0
    if not layers or not drunk_ml:
        raise fault("pour", "its bed is sealed and drinks nothing", "choose one on an open bed")
    most = max(layers, key=lambda one: one.depth_mm * one.voids)
    came_ml = drunk_ml + lower_mm * sum(pool.area_mm2.number for pool in lift_plan.pools or ()) / 1000
    if came_ml <= 0:
        raise fault("stands lower", "the bed would have drunk less than nothing", "write a smaller number")
    return BedTold(most.label, drunk_ml / (most.learnt.mean if most.learnt else 1.0), came_ml)
