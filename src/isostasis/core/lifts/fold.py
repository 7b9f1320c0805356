"""The fold over the ground: every lift in the order in which the ground meets it.

A pour sees the lifts below it in its own patch, of every other patch the lifts before that patch's first
pour, and earlier pours in document order. A form with `after` comes once that lift is hard.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..document import ResolvedScene
from ..document.scene import Lift, Patch
from ..fault import fault
from ..ground.field import Ground, Shaped, empty_ground
from ..ground.forms import bare_ground, shaped
from ..hardening.climate import Climate
from ..stages import cached_stage
from .areas import Cover, owned, shore_of
from .beds import OpenLayer
from .drinking import open_layers
from .kinds import kind_of
from .labels import Labels
from .site import Site


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

    def at(self, stage: str) -> Ground:
        """The ground at a stage: "bare", "finished", or after the form or lift of that id. Raises KeyError."""
        if stage in ("bare", "finished"):
            return self.bare if stage == "bare" else self.finished
        if stage in self.stages:
            return self.stages[stage].after
        ground: Ground | None = next((one.ground for one in self.forms if one.form.id == stage), None)
        if ground is None:
            raise KeyError(stage)
        return ground


@cached_stage
def build(scene: ResolvedScene, until: str | None = None) -> Build:
    """Fold the ground through all forms and lifts of a resolved scene, in build order.

    Forms that wait for a lift come right after it, on the ground that it leaves. With `until`, the ground after that
    lift is not needed: the fold stops once its site is known. Raises Faults for a shore where there is no water.
    """
    bare, forms = bare_ground(scene.base, scene.cell_mm, scene.forms)
    by_patch = owned(scene, bare, empty_ground(scene.base, scene.cell_mm))
    labels = Labels.of(scene)
    climates = {place: Climate.of(scene.room_of(place)) for place in (None, *(one.id for one in scene.places))}
    stages: dict[str, Stage] = {}
    done = list(forms)
    porous: set[str] = set()
    drinking: set[str] = set()  # what was poured covers a part of it: above the shore it drinks on
    soaked = np.zeros(bare.shape, dtype=bool)

    places = {lift.id: place for patch in scene.patches for place, lift in enumerate(patch.lifts)}

    def first_pour(patch: Patch) -> int:
        return next((place for place, lift in enumerate(patch.lifts) if lift.levels_itself), len(patch.lifts))

    def site(patch: Patch, index: int, lift: Lift, ground: Ground) -> Site:
        place = places[lift.id]
        above = patch.lifts[place + 1] if place + 1 < len(patch.lifts) else None
        where = f"patches[{index}].lifts[{place}]"
        beds = {one.id: open_under(one, patch, lift) for one in scene.patches if one.id in drinking}
        below = stages[patch.lifts[place - 1].id].site if place else None
        return Site(
            scene, patch, lift, where, ground, along_shore(patch, lift, where), frozenset(porous), beds,
            climates[lift.place], above, soaked.copy(), below,
        )  # fmt: skip

    def along_shore(patch: Patch, lift: Lift, where: str) -> dict[str, Cover]:
        """What the patches own; of its own a lift that is said to keep to the shore has no more than that."""
        within = getattr(lift, "shore_mm", None)
        if within is None:
            return by_patch
        shore = shore_of(by_patch[patch.id], soaked, within, scene.cell_mm)
        if not shore.mask.any():
            raise fault(f"{where}.shore_mm", "there is no water before it whose shore it could keep to",
                        "lay it after the pour of its own patch, or leave shore_mm out")  # fmt: skip
        return {**by_patch, patch.id: shore}

    def open_under(bed: Patch, patch: Patch, lift: Lift) -> tuple[OpenLayer, ...]:
        """What a patch leaves open to a pour: all below the pour in its own patch, all before the first in others."""
        under = bed.lifts[: places[lift.id]] if bed is patch else bed.lifts[: first_pour(bed)]
        return open_layers(under, labels) if lift.levels_itself else ()

    def put(on: Site) -> Ground:
        lift = on.lift
        after: Ground = on.ground if lift.id == until else kind_of(lift).lay(lift, on)
        mix = labels.mix_of(lift)
        if mix.family in ("skin", "texture"):
            porous.add(on.patch.id)
            drinking.add(on.patch.id)
            soaked[on.cover.mask] = False
        elif mix.seals or lift.levels_itself:
            porous.discard(on.patch.id)
        if mix.seals and not lift.levels_itself:
            drinking.discard(on.patch.id)
        if lift.levels_itself:
            soaked[after.z > on.ground.z] = True
        stages[lift.id] = Stage(on, after)
        return after

    def rebuilt(lift: Lift, ground: Ground, tell: bool = True) -> Ground:
        """`ground` after the forms that waited for this lift."""
        for number, form in enumerate(scene.forms):
            if form.after == lift.id and not form.off:
                step = shaped(form, ground, f"forms[{number}]")
                if tell:
                    done.append(step)
                ground = step.ground
        return ground

    ground = bare
    for index, patch in enumerate(scene.patches):
        for lift in patch.lifts[: first_pour(patch)]:
            ground = put(site(patch, index, lift, ground))
            if lift.id == until:
                return Build(bare, tuple(done), by_patch, stages, ground)
            ground = rebuilt(lift, ground)
    late: list[np.ndarray] = []
    for index, patch in enumerate(scene.patches):
        ground_here = ground
        for lift in patch.lifts[first_pour(patch) :]:
            site_here = site(patch, index, lift, ground_here)
            ground_here = put(site_here)
            if lift.id == until:
                return Build(bare, tuple(done), by_patch, stages, ground_here)
            if not lift.levels_itself:
                late.append(ground_here.z - site_here.ground.z)
            else:
                poured = np.maximum(ground.z, np.where(ground_here.z > site_here.ground.z, ground_here.z, ground.z))
                ground = ground_here if ground_here.z is poured else _joined(ground, ground_here, lift, poured)
            same = ground_here is ground
            ground_here = rebuilt(lift, ground_here)
            ground = ground_here if same else rebuilt(lift, ground, tell=False)
    finished = ground if not any(part.any() for part in late) else ground.after(ground.z + sum(late), None)
    return Build(bare, tuple(done), by_patch, stages, finished)


def _joined(ground: Ground, patch_ground: Ground, lift: Lift, poured: np.ndarray) -> Ground:
    """The ground that later patches see: the patch's own where nothing but pours was laid, so that caches hold."""
    if np.array_equal(patch_ground.z, poured):
        return patch_ground
    return ground.after(poured, getattr(lift, "mix", None))
