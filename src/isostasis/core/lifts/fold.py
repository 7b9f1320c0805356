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


def _first_pour(patch: Patch) -> int:
    """The place of a patch's first pour; the number of its lifts where it has none."""
    return next((place for place, lift in enumerate(patch.lifts) if lift.levels_itself), len(patch.lifts))


class _Fold:
    """The fold on its way: the stages so far, which beds are porous, which of them a pour above the shore still finds
    open (`drinking`), and where liquid has stood (`soaked`, by cell)."""

    def __init__(self, scene: ResolvedScene, until: str | None) -> None:
        self.scene, self.until, self.labels = scene, until, Labels.of(scene)
        self.bare, forms = bare_ground(scene.base, scene.cell_mm, scene.forms)
        self.forms = list(forms)
        self.covers = owned(scene, self.bare, empty_ground(scene.base, scene.cell_mm))
        rooms = (None, *(one.id for one in scene.places))
        self.climates = {place: Climate.of(scene.room_of(place)) for place in rooms}
        self.places = {lift.id: place for patch in scene.patches for place, lift in enumerate(patch.lifts)}
        self.stages: dict[str, Stage] = {}
        self.porous: set[str] = set()
        self.drinking: set[str] = set()
        self.soaked = np.zeros(self.bare.shape, dtype=bool)

    def put(self, patch: Patch, index: int, lift: Lift, ground: Ground) -> Ground:
        """The ground after a lift of the patch with that index. Raises Faults."""
        on = self._site(patch, index, lift, ground)
        after: Ground = ground if lift.id == self.until else kind_of(lift).lay(lift, on)
        mix = self.labels.mix_of(lift)
        if mix.family in ("skin", "texture"):
            self.porous.add(patch.id)
            self.drinking.add(patch.id)
            self.soaked[on.cover.mask] = False
        elif mix.seals or lift.levels_itself:
            self.porous.discard(patch.id)
        if mix.seals and not lift.levels_itself:
            self.drinking.discard(patch.id)
        if lift.levels_itself:
            self.soaked[after.z > ground.z] = True
        self.stages[lift.id] = Stage(on, after)
        return after

    def rebuilt(self, lift: Lift, ground: Ground, again: bool = False) -> Ground:
        """`ground` after the forms that waited for a lift; `again` where they stand on another ground already."""
        for number, form in enumerate(self.scene.forms):
            if form.after == lift.id and not form.off:
                step = shaped(form, ground, f"forms[{number}]")
                if not again:
                    self.forms.append(step)
                ground = step.ground
        return ground

    def built(self, ground: Ground) -> Build:
        """What was built, with its last ground."""
        return Build(self.bare, tuple(self.forms), self.covers, self.stages, ground)

    def _site(self, patch: Patch, index: int, lift: Lift, ground: Ground) -> Site:
        place = self.places[lift.id]
        above = patch.lifts[place + 1] if place + 1 < len(patch.lifts) else None
        where = f"patches[{index}].lifts[{place}]"
        beds = {one.id: self._open_under(one, patch, lift) for one in self.scene.patches if one.id in self.drinking}
        below = self.stages[patch.lifts[place - 1].id].site if place else None
        return Site(
            self.scene, patch, lift, where, ground, self._covers_for(patch, lift, where), frozenset(self.porous), beds,
            self.climates[lift.place], above, self.soaked.copy(), below,
        )  # fmt: skip

    def _covers_for(self, patch: Patch, lift: Lift, where: str) -> dict[str, Cover]:
        """What the patches own; of its own a lift that is said to keep to the shore has no more than that."""
        within = getattr(lift, "shore_mm", None)
        if within is None:
            return self.covers
        shore = shore_of(self.covers[patch.id], self.soaked, within, self.scene.cell_mm)
        if not shore.mask.any():
            raise fault(f"{where}.shore_mm", "there is no water before it whose shore it could keep to",
                        "lay it after the pour of its own patch, or leave shore_mm out")  # fmt: skip
        return {**self.covers, patch.id: shore}

    def _open_under(self, bed: Patch, patch: Patch, lift: Lift) -> tuple[OpenLayer, ...]:
        """What a patch leaves open to a pour: all below the pour in its own patch, all before the first in others."""
        under = bed.lifts[: self.places[lift.id]] if bed is patch else bed.lifts[: _first_pour(bed)]
        return open_layers(under, self.labels) if lift.levels_itself else ()


@cached_stage
def build(scene: ResolvedScene, until: str | None = None) -> Build:
    """Fold the ground through all forms and lifts of a resolved scene, in build order.

    Forms that wait for a lift come right after it, on the ground that it leaves. With `until`, the ground after that
    lift is not needed: the fold stops once its site is known. Raises Faults for a shore where there is no water.
    """
    fold = _Fold(scene, until)
    ground = fold.bare
    for index, patch in enumerate(scene.patches):
        for lift in patch.lifts[: _first_pour(patch)]:
            ground = fold.put(patch, index, lift, ground)
            if lift.id == until:
                return fold.built(ground)
            ground = fold.rebuilt(lift, ground)
    late: list[np.ndarray] = []  # what lies on water, by cell in mm: later patches do not see it
    for index, patch in enumerate(scene.patches):
        of_patch = ground
        for lift in patch.lifts[_first_pour(patch) :]:
            before = of_patch
            of_patch = fold.put(patch, index, lift, before)
            if lift.id == until:
                return fold.built(of_patch)
            if lift.levels_itself:
                poured = np.maximum(ground.z, np.where(of_patch.z > before.z, of_patch.z, ground.z))
                ground = _joined(ground, of_patch, lift, poured)
            else:
                late.append(of_patch.z - before.z)
            is_seen = of_patch is ground
            of_patch = fold.rebuilt(lift, of_patch)
            ground = of_patch if is_seen else fold.rebuilt(lift, ground, again=True)
    finished = ground if not any(part.any() for part in late) else ground.after(ground.z + sum(late), None)
    return fold.built(finished)


def _joined(ground: Ground, patch_ground: Ground, lift: Lift, poured: np.ndarray) -> Ground:
    """The ground that later patches see: the patch's own where nothing but pours was laid, so that caches hold."""
    if np.array_equal(patch_ground.z, poured):
        return patch_ground
    return ground.after(poured, getattr(lift, "mix", None))
