"""One lift without the rest of the plan: what a preview shows, with the functions that the plan uses."""

from __future__ import annotations

from ..catalogue import Mix
from ..document import ResolvedScene
from ..document.scene import Lift, Patch
from ..fault import fault
from ..ground.field import tilted
from ..judging.neighbours import at_site
from ..lifts.estimate import LiftEstimate
from ..lifts.fold import build
from ..lifts.kinds import kind_of
from ..lifts.kinds.pour.pools import PourLift, brim_of, lowest_cell
from ..lifts.labels import Labels
from ..lifts.learnt import learnt
from ..lifts.site import Site

A_DROP_ML = 0.05


def site_of(scene: ResolvedScene, lift_id: str) -> Site:
    """Where one lift of a resolved scene goes on: the ground is folded just up to it. Raises KeyError, Faults."""
    return build(scene, until=lift_id).stages[lift_id].site


def first_level(scene: ResolvedScene, patch: Patch, lift_id: str, mix: Mix) -> float:
    """A level for a new pour of a mix to start from: four fifths of what the patch's deepest hollow holds. Raises
    Faults for none."""
    probe = PourLift.model_construct(id=lift_id, kind="pour", mix=mix.id, depth_mm=1.0, lifts="auto", tint=(), after=())
    tried = scene.model_copy(
        update={
            "patches": tuple(
                one.model_copy(update={"lifts": (*one.lifts, probe)}) if one.id == patch.id else one
                for one in scene.patches
            ),
            "mixes": (*(one for one in scene.mixes if one.id != mix.id), mix),
        }
    )
    site = site_of(tried, lift_id)
    z = tilted(site.ground, scene.base)
    lowest = float(z[lowest_cell(site)])
    brim = brim_of(site)
    held = brim.level_mm - lowest if brim else 10.0
    if held < 0.5:
        raise fault(
            "pour",
            f"{patch.name} has no hollow that holds liquid",
            "cut a basin there on Ground first, or dam an edge",
        )
    return round(lowest + 0.8 * held, 1)


def lift_alone(site: Site, lift: Lift) -> LiftEstimate:
    """The figures of one lift at its site, without the rest of the plan; its fields may differ from the scene's.

    They are those that `plan` gives for a scene with that lift.
    """
    labels = Labels.of(site.scene)
    estimate = learnt(kind_of(lift).estimate(lift, site, labels), labels)
    return estimate.warned(tuple(check.notice for check in at_site(lift, site, labels)))


def volume_from_bottle(site: Site, lift: PourLift, left_ml: float) -> float:
    """ml to pour of what is left in a bottle: so much that with shrinkage, climb and what stays in the cup just that is
    mixed. Raises Faults as the pour does, and for a bottle that is too small for anything to stand."""
    low, high = 0.0, left_ml
    for _ in range(24):
        middle = (low + high) / 2
        if middle < A_DROP_ML:
            break
        tried = lift.model_copy(update={"level_mm": None, "depth_mm": None, "volume_ml": middle, "lifts": "auto"})
        enough = lift_alone(site, tried).plan.mix_ml.number <= left_ml
        low, high = (middle, high) if enough else (low, middle)
        if high - low < 1e-3 * left_ml:
            break
    if low < A_DROP_ML:
        raise fault("bottle", f"{left_ml:g} ml do not even wet the cup", "open another, or pour less deep")
    return low
