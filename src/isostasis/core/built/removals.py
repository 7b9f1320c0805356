"""What must come off before the work can go on: how much, how long it takes, what is waste."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from ..document import ResolvedScene
from ..document.built import Removal
from ..figure import Figure, Term
from .forms import free_step
from .lying import Lying
from .matching import Match

# cm2 a minute, off and cleared away; craft estimates.
OFF_CM2_PER_MIN = {"pour": 6.0, "skin": 15.0, "shell": 25.0, "waves": 60.0, "texture": 60.0}
OFF_SETUP_MIN = 5.0
OFF_LEAST_ML = 0.05  # a crumb of a layer at an outline that moved a little is left


@dataclass(frozen=True, eq=False)
class Off:
    """What comes off one spot in one go, all copies: `parts` are the layers and whether all of each goes."""

    JSON: ClassVar[tuple[str, ...]] = ("step", "patch", "kinds", "volume_ml", "area_mm2")  # what machines read

    step: str
    patch: str
    kinds: tuple[str, ...]
    volume_ml: Figure
    area_mm2: Figure
    hands_on_min: float
    do: str
    parts: tuple[tuple[Lying, bool], ...]

    @property
    def removes(self) -> tuple[Removal, ...]:
        """What its record says once it is done."""
        return tuple(Removal(of=layer.entry.id, whole=whole) for layer, whole in self.parts)


def removals(scene: ResolvedScene, match: Match) -> tuple[Off, ...]:
    """One removal for each spot on which something must come off."""
    by_patch: dict[str, list[tuple[Lying, bool]]] = {}
    for layer in (one for layers in match.layers.values() for one in layers):
        if layer.loose_mm2 > 0 and layer.raises:
            by_patch.setdefault(layer.patch, []).append((layer, False))
    for layer in match.stays:
        if layer.loose_mm2 > 0 and layer.raises:
            by_patch.setdefault(layer.patch, []).append((layer, False))
    for layer in match.leaves:
        by_patch.setdefault(layer.patch, []).append((layer, True))
    names = {patch.id: patch.name for patch in scene.patches}
    done = {one.step for one in scene.built}
    offs: list[Off] = []
    for patch, parts in by_patch.items():
        terms, area = [], 0.0
        minutes = OFF_SETUP_MIN
        for layer, whole in parts:
            share = layer.kept + layer.loose_mm2 / layer.area_mm2 if whole and layer.area_mm2 else 0.0
            ml = (layer.entry.volume_ml or 0.0) * share if whole else layer.loose_ml
            mm2 = layer.share_mm2 + layer.loose_mm2 if whole else layer.loose_mm2
            terms.append(Term(layer.entry.title or layer.entry.kind, ml * scene.copies, "ml"))
            area = max(area, mm2 * scene.copies)
            minutes += mm2 * scene.copies / 100 / OFF_CM2_PER_MIN.get(layer.entry.kind, 60.0)
        volume = sum(float(term.value) for term in terms)
        if volume < OFF_LEAST_ML:
            continue
        others = {f"off-{other}" for other in by_patch if other != patch}
        kinds = tuple(dict.fromkeys(layer.entry.kind for layer, _ in parts))
        titles = ", ".join(dict.fromkeys((layer.entry.title or layer.entry.kind) for layer, _ in reversed(parts)))
        offs.append(
            Off(
                free_step(f"off-{patch}", {*done, *others, *(off.step for off in offs)}),
                patch,
                kinds,
                Figure(volume, "ml", "what comes off and is waste", tuple(terms)),
                Figure(area, "mm2", "true area of what comes off"),
                minutes,
                f"Take off {names.get(patch, 'a spot that is planned no more')}: {titles}, {area / 100:.0f} cm²; "
                f"{volume:.3g} ml are waste",
                tuple(parts),
            )
        )
    return tuple(offs)
