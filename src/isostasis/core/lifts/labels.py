"""Labels of a resolved scene by id, and the mix that a lift is laid in."""

from __future__ import annotations

from dataclasses import dataclass

from ..catalogue import Factor, Material, Mix, Part
from ..document.scene import Lift, Scene


@dataclass(frozen=True, slots=True)
class Labels:
    """Labels of a resolved scene by id, and what records say of them; what a lift thins with water counts as
    thinned."""

    materials: dict[str, Material]
    mixes: dict[str, Mix]
    factors: tuple[Factor, ...] = ()

    @classmethod
    def of(cls, scene: Scene) -> Labels:
        """The labels that the resolved scene embeds."""
        return cls(
            {entry.id: entry for entry in scene.materials},
            {entry.id: entry for entry in scene.mixes},
            scene.factors or (),
        )

    def factor(self, label: str, quantity: str) -> Factor | None:
        """What records say of a quantity of a label; None where they say nothing."""
        return next((one for one in self.factors if (one.label, one.quantity) == (label, quantity)), None)

    def times(self, label: str, quantity: str) -> float:
        """What records make of a quantity of a label; 1 where they say nothing."""
        found = self.factor(label, quantity)
        return found.mean if found else 1.0

    def mix_of(self, lift: Lift) -> Mix:
        """The lift's mix; a material used from the tin is a mix of itself alone."""
        mix, thin = self._unthinned(lift), getattr(lift, "thin", 0.0)
        if not thin:
            return mix
        water = Part(material="water", parts=thin * sum(part.parts for part in mix.ingredients))
        return mix.model_copy(update={"ingredients": (*mix.ingredients, water)})

    def _unthinned(self, lift: Lift) -> Mix:
        name = getattr(lift, "mix", None)
        if name:
            return self.mixes[name]
        material = self.materials[getattr(lift, "material")]  # noqa: B009 - kinds differ in their fields
        return Mix(
            id=material.id,
            name=material.name,
            family="skin" if material.family == "cloth" else "seal" if material.seals else "colour",
            ingredients=(Part(material=material.id, parts=1),),
            sets=material.sets,
            dries=material.dries,
            film_mm=material.film_mm,
            seals=material.seals,
            opacity=material.opacity,
            thermal=material.thermal,
            colour=material.colour,
            look_for=material.look_for,
            source=material.source,
        )

    def hazards(self, mix: Mix, extra: tuple[str, ...] = ()) -> frozenset[str]:
        """Hazards of all that goes into a mix."""
        names = [part.material for part in mix.ingredients] + list(extra)
        return frozenset(hazard for name in names for hazard in self.materials[name].hazards)
