"""A lift done otherwise, side by side: by every other way that its kind knows, or in another room."""

from __future__ import annotations

from .catalogue import Catalogue
from .document import ResolvedScene
from .document.scene import Lift
from .lifts.alternative import Alternative
from .lifts.estimate import LiftEstimate
from .lifts.kinds import kind_of
from .lifts.kinds.pour.pools import PourLift
from .lifts.kinds.pour.ways import poured
from .lifts.labels import Labels
from .lifts.site import Site
from .plan.preview import lift_alone, site_of
from .surface import beneath


def with_families(scene: ResolvedScene, catalogue: Catalogue, families: tuple[str, ...]) -> ResolvedScene:
    """The scene with the labels of every mix and material of some families embedded, its own winning."""
    labels = Labels.of(scene)
    mixes = {mix.id: mix for mix in catalogue.mixes.values() if mix.family in families} | labels.mixes
    named = {part.material for mix in mixes.values() for part in mix.ingredients}
    named |= {tin.id for tin in catalogue.materials.values() if tin.family in families}
    found = {name: catalogue.materials[name] for name in named if name in catalogue.materials} | labels.materials
    return scene.model_copy(update={"mixes": tuple(mixes.values()), "materials": tuple(found.values())})


def alternatives(scene: ResolvedScene, lift_id: str, catalogue: Catalogue) -> dict[str, Alternative]:
    """The lift of a resolved scene done by every way that its kind knows. Raises KeyError, Faults."""
    kind = kind_of(scene.lift(lift_id))
    whole = with_families(scene, catalogue, kind.ALTERNATIVE_FAMILIES)
    site = site_of(whole, lift_id)

    def try_out(lift: Lift) -> LiftEstimate:
        return lift_alone(site, lift)

    others: dict[str, Alternative] = kind.alternatives(
        site.lift, site, Labels.of(whole), beneath(whole, site.lift), try_out
    )
    return others


def rooms(scene: ResolvedScene, lift_id: str, temps_c: tuple[float, ...]) -> dict[str, Alternative]:
    """The pour `lift_id` as it is, in steady rooms of other temperatures, by their degC. Raises KeyError."""
    by_room = {}
    for temp in temps_c:
        room = scene.room.model_copy(update={"temp_c": temp, "series": ()})
        there = scene.model_copy(update={"room": room})
        site = site_of(there, lift_id)
        assert isinstance(site.lift, PourLift)
        by_room[f"{temp:g}"] = _in_room(site, site.lift, f"{temp:g} °C")
    return by_room


def _in_room(site: Site, lift: PourLift, name: str) -> Alternative:
    bed = beneath(site.scene, lift)
    return poured(lift, site, Labels.of(site.scene), lambda tried: lift_alone(site, tried), name, bed)
