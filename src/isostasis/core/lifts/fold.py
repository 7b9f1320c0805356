"""The fold over the ground: every lift in the order in which the ground meets it.

A pour sees the lifts below it in its own patch, of every other patch the lifts before that patch's first
pour, and earlier pours in document order.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..document.scene import Lift, Patch, Scene
from ..ground.field import Ground, Shaped, bare_ground, empty_ground
from ..hardening.climate import Climate
from . import module_of
from .site import Cover, Labels, Site, covers


@dataclass(frozen=True, slots=True)
class Stage:
    """One lift's step of the fold: where it goes on and the ground after it."""

    site: Site
    after: Ground


@dataclass(frozen=True, slots=True)
class Build:
    """The ground from bare board to finished: forms, what each patch owns, every lift's stage, the end."""

    bare: Ground
    forms: tuple[Shaped, ...]
    covers: dict[str, Cover]
    stages: dict[str, Stage]
    finished: Ground


def build(scene: Scene, until: str | None = None) -> Build:
    """Fold the ground through all forms and lifts of a resolved scene, in build order.

    With `until`, the ground after that lift is not needed: the fold stops once its site is known.
    """
    bare, forms = bare_ground(scene.base, scene.cell_mm, scene.forms)
    owned = covers(tuple(patch.area for patch in scene.patches), empty_ground(scene.base, scene.cell_mm))
    by_patch = {patch.id: cover for patch, cover in zip(scene.patches, owned, strict=True)}
    labels, climate = Labels.of(scene), Climate.of(scene.room)
    stages: dict[str, Stage] = {}
    porous: set[str] = set()

    def site(patch: Patch, index: int, lift: Lift, ground: Ground) -> Site:
        place = patch.lifts.index(lift)
        above = patch.lifts[place + 1] if place + 1 < len(patch.lifts) else None
        where = f"patches[{index}].lifts[{place}]"
        return Site(scene, patch, lift, where, ground, by_patch, frozenset(porous), climate, above)

    def put(here: Site) -> Ground:
        lift = here.lift
        after: Ground = here.ground if lift.id == until else module_of(lift).lay(lift, here)
        mix = labels.mix_of(lift)
        if mix.family == "skin":
            porous.add(here.patch.id)
        elif mix.seals:
            porous.discard(here.patch.id)
        stages[lift.id] = Stage(here, after)
        return after

    def first_pour(patch: Patch) -> int:
        return next((place for place, lift in enumerate(patch.lifts) if lift.levels_itself), len(patch.lifts))

    ground = bare
    for index, patch in enumerate(scene.patches):
        for lift in patch.lifts[: first_pour(patch)]:
            ground = put(site(patch, index, lift, ground))
            if lift.id == until:
                return Build(bare, forms, by_patch, stages, ground)
    late: list[np.ndarray] = []
    for index, patch in enumerate(scene.patches):
        own = ground
        for lift in patch.lifts[first_pour(patch) :]:
            here = site(patch, index, lift, own)
            own = put(here)
            if lift.id == until:
                return Build(bare, forms, by_patch, stages, own)
            if not lift.levels_itself:
                late.append(own.z - here.ground.z)
            else:
                poured = np.maximum(ground.z, np.where(own.z > here.ground.z, own.z, ground.z))
                ground = own if own.z is poured else _joined(ground, own, lift, poured)
    finished = ground if not any(part.any() for part in late) else ground.after(ground.z + sum(late), None)
    return Build(bare, forms, by_patch, stages, finished)


def _joined(ground: Ground, own: Ground, lift: Lift, poured: np.ndarray) -> Ground:
    """The ground that later patches see: `own` itself where nothing but pours was laid, so that caches hold."""
    if np.array_equal(own.z, poured):
        return own
    return ground.after(poured, getattr(lift, "mix", None))
