"""What the surface will look like: each lift's colour over what lies beneath it, wet as it is laid and dry later."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from .colour.light import Colours, difference, hexed, lab, linear, wet_look, words
from .colour.tint import tinted
from .document import ResolvedScene
from .document.scene import Lift, Patch
from .figure import Figure, Term
from .ground.field import Ground
from .lifts.colours import FOAM, dyes
from .lifts.fold import Build
from .lifts.kinds import kind_of
from .lifts.kinds.pour.pools import PourLift
from .lifts.labels import Labels
from .mixing.parts import water_ratio
from .stages import cached_stage


def over(below: Colours, lift: Lift, labels: Labels, drop_ml: float) -> Colours:
    """Linear colours (..., 3) of a surface once a lift lies on it and is dry. What is clear changes nothing."""
    found: Colours = kind_of(lift).look(lift, below, labels, drop_ml)
    return found


def beneath(scene: ResolvedScene, lift: Lift) -> Colours:
    """Linear colour (3,) of what a lift goes on: foam, and the lifts under it in its own lay-up."""
    labels, below = Labels.of(scene), linear(FOAM)
    lifts = scene.patch_of(lift.id).lifts
    for one in lifts[: [other.id for other in lifts].index(lift.id)]:
        below = over(below, one, labels, scene.bench.drop_ml)
    return below


def water_looks(scene: ResolvedScene, lift: PourLift, depths_mm: Sequence[float]) -> tuple[str, ...]:
    """Hex of a tinted pour over its bed at some depths; empty for one without a tint.

    Source: Kubelka (1948), as in `colour.tint`.
    """
    seen = dyes(lift.tint, tuple(scene.materials), scene.bench.drop_ml)
    if not seen:
        return ()
    bed = _bed(scene, lift.id)
    looks = np.clip(tinted(bed, list(seen), np.reshape(depths_mm, (-1, 1))), 0, 1)
    return tuple(hexed(look) for look in looks)


@cached_stage
def _bed(scene: ResolvedScene, lift_id: str) -> Colours:
    """What a lift goes on, whatever its level: kept while that is dragged."""
    return beneath(scene, scene.lift(lift_id))


@cached_stage
def _bare(ground: Ground, board: str, known: tuple[tuple[str, str], ...]) -> Colours:
    """Linear colours (ny, nx, 3) of what forms leave: the board, and each material where it lies on top."""
    of = dict(known)
    out = np.broadcast_to(linear(board), (*ground.shape, 3)).copy()
    z, last = np.zeros(ground.shape), linear(of.get("foam-xps", board))
    for what, changed, after in ground.history:
        rises, falls = after > z[changed] + 1e-9, after < z[changed] - 1e-9
        if what in of:
            last = linear(of[what])
        out[changed][rises] = last
        out[changed][falls] = linear(of.get("foam-xps", board))
        z[changed] = after
    return out


def surface(scene: ResolvedScene, built: Build, stage: str = "finished", wet: bool = False) -> Colours:
    """Linear colours (ny, nx, 3) of the surface at a stage of the build: "bare", "finished", or after the form or lift
    of that id. With `wet`, where that lift lies it is still wet. Water that was poured is not drawn. Raises KeyError.
    """
    labels = Labels.of(scene)
    known = tuple((name, material.colour) for name, material in sorted(labels.materials.items()))
    board = labels.materials[scene.base.board].colour
    order = list(built.stages)
    if stage not in ("finished", *order):
        return _bare(built.at(stage), board, known)
    out = _bare(built.bare, board, known)
    for name in order if stage == "finished" else order[: order.index(stage) + 1]:
        site = built.stages[name].site
        cover = kind_of(site.lift).covers(site.lift, site, labels)
        share = (cover.share / np.maximum(built.bare.inside, 1e-9))[..., None]
        laid = over(out, site.lift, labels, scene.bench.drop_ml)
        if wet and name == stage:
            laid = wet_look(laid)
        out = out + share * (laid - out)
    return out


def _dry(scene: ResolvedScene, patch: Patch) -> Iterator[tuple[Lift, Colours, Colours]]:
    """The lifts of a patch but its pours, bottom up on foam: linear colours (3,) beneath each, and as it looks dry."""
    labels, below = Labels.of(scene), linear(FOAM)
    for lift in patch.lifts:
        if not lift.levels_itself:
            dry = np.asarray(over(below, lift, labels, scene.bench.drop_ml))
            yield lift, below, dry
            below = dry


@cached_stage
def shades(scene: ResolvedScene) -> dict[str, str]:
    """Hex of each lift as it looks dry over those under it; none for what is clear or poured."""
    every = (one for patch in scene.patches for one in _dry(scene, patch))
    return {lift.id: hexed(dry) for lift, below, dry in every if not np.allclose(dry, below)}


@dataclass(frozen=True, slots=True)
class Appearance:
    """What a lift looks like as hex: wet as it is laid, dry later, and what lies beneath; how far each is from the
    other (CIEDE2000) with the words that people say."""

    wet: str
    dry: str
    beneath: str
    drying: Figure
    change: Figure
    drying_words: str
    change_words: str


def looks(scene: ResolvedScene, patch_id: str) -> dict[str, Appearance]:
    """The look of each lift of a patch that has one, over the lifts under it, on foam at the bottom."""
    labels = Labels.of(scene)
    patch = next(one for one in scene.patches if one.id == patch_id)
    return {
        lift.id: _appearance(lift, below, dry, np.allclose(dry, below), labels)
        for lift, below, dry in _dry(scene, patch)
    }


def _appearance(lift: Lift, below: Colours, dry: Colours, clear: bool, labels: Labels) -> Appearance:
    soaked = wet_look(dry)
    dries, changes = float(difference(soaked, dry)), float(difference(below, dry))
    mix = labels.mix_of(lift)
    ratio = water_ratio(mix, labels.materials)
    terms = (
        Term("wet", hexed(soaked), "", f"lightness {float(lab(soaked)[0]):.0f}, after Ångström (1925), n = 1.33"),
        Term("dry", hexed(dry), "", f"lightness {float(lab(dry)[0]):.0f}, " + (
            "clear: what lies beneath" if clear else f"label of {mix.name}")),
        *((Term("water to powder", ratio),) if ratio else ()),
    )  # fmt: skip
    return Appearance(
        hexed(soaked),
        hexed(dry),
        hexed(below),
        Figure(dries, "ΔE", "CIEDE2000 between its wet and its dry look", terms[:2]),
        Figure(changes, "ΔE", "CIEDE2000 between it and what lies beneath", (terms[1], Term("beneath", hexed(below)))),
        words(dries),
        words(changes),
    )
