"""What the surface will look like: each lift's colour over what lies beneath it, wet as it is laid and dry later."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .catalogue import Material, Mix
from .colour.blend import dry_blend, paint_blend
from .colour.light import Colours, difference, hexed, lab, linear, wet_look, words
from .colour.recipe import LEAST_GRAIN_MM
from .document.scene import Lift, Scene
from .figure import Figure, Term
from .ground.field import Ground
from .lifts.coat import Coat
from .lifts.fix import Fix
from .lifts.fold import Build
from .lifts.shell import Shell, covered_by_shell
from .lifts.site import Labels
from .lifts.skin import Skin
from .lifts.texture import Texture
from .mixing.parts import water_ratio
from .stages import cached_stage

TINT_STRENGTH = 12.0  # how far a drop of paint pulls a compound, against as much of the compound; craft estimate
DRYBRUSH_HIDES = 0.35  # of what a full coat hides, craft estimate
STAINS = 0.4  # of a full coat that a coloured binder leaves on the grains, craft estimate
FOAM = "#e9d9b4"  # what lies under all lifts where no ground says otherwise


def colour_of(mix: Mix, labels: Labels) -> Colours:
    """Linear colour (3,) of a mix as it looks dry: a strewn blend by its grains, paints stirred together, else the
    label's own."""
    parts = [(labels.materials[one.material], one.parts) for one in mix.ingredients if one.parts > 0]
    if mix.family == "texture":
        return dry_blend(*_arrays(parts))
    paints = [(material, amount) for material, amount in parts if material.family == "colour"]
    if len(paints) > 1:
        amounts, _, colours = _arrays(paints)
        return paint_blend(amounts, np.array([material.strength for material, _ in paints]), colours)
    return linear(paints[0][0].colour if paints and mix.family == "colour" else mix.colour)


def _arrays(parts: list[tuple[Material, float]]) -> tuple[Colours, Colours, Colours]:
    return (
        np.array([amount for _, amount in parts]),
        np.array([material.grain_mm or LEAST_GRAIN_MM for material, _ in parts]),
        np.array([linear(material.colour) for material, _ in parts]),
    )


def over(below: Colours, lift: Lift, labels: Labels) -> Colours:
    """Linear colours (..., 3) of a surface once a lift lies on it and is dry. What is clear changes nothing."""
    mix = labels.mix_of(lift)
    if isinstance(lift, Skin):
        return np.broadcast_to(_tinted(lift, mix, labels), below.shape)
    if isinstance(lift, Shell):
        return np.broadcast_to(linear(mix.colour), below.shape)
    if isinstance(lift, Texture):
        return np.asarray(lift.cover * colour_of(mix, labels) + (1 - lift.cover) * below)
    hides = hiding(lift, mix, labels)
    if hides <= 0:
        return below
    return np.asarray(hides * colour_of(mix, labels) + (1 - hides) * below)


def hiding(lift: Lift, mix: Mix, labels: Labels) -> float:
    """Share of the light that a coat or a coloured binder takes from what lies beneath, 0 to 1."""
    paints = [one for one in mix.ingredients if labels.materials[one.material].family in ("colour", "seal", "varnish")]
    full = max((labels.materials[one.material].opacity for one in paints), default=0.0)
    if isinstance(lift, Fix):
        return STAINS * full if any(labels.materials[one.material].family == "colour" for one in paints) else 0.0
    if not isinstance(lift, Coat):
        return 0.0
    each = 1 - (1 - min(full, 0.999)) ** (1 / (1 + lift.thin))
    each *= DRYBRUSH_HIDES if lift.how == "drybrush" else 1.0
    return float((1 - (1 - each) ** lift.coats) * lift.cover)


def _tinted(lift: Skin, mix: Mix, labels: Labels) -> Colours:
    """A compound's colour with its tint stirred in."""
    colours = [linear(mix.colour), *(linear(labels.materials[tint.material].colour) for tint in lift.tint)]
    drops = [tint.drops_per_100_ml * 0.05 for tint in lift.tint]
    strengths = [1.0, *(TINT_STRENGTH * labels.materials[tint.material].strength for tint in lift.tint)]
    return paint_blend(np.array([100 - sum(drops), *drops]), np.array(strengths), np.array(colours))


@cached_stage
def _bare(ground: Ground, board: str, known: tuple[tuple[str, str], ...]) -> Colours:
    """Linear colours (ny, nx, 3) of what forms leave: the board, and each material where it lies on top."""
    of = dict(known)
    out = np.broadcast_to(linear(board), (*ground.shape, 3)).copy()
    z, last = np.zeros(ground.shape), linear(of.get("foam-xps", board))
    for what, here, after in ground.history:
        rises, falls = after > z[here] + 1e-9, after < z[here] - 1e-9
        if what in of:
            last = linear(of[what])
        out[here][rises] = last
        out[here][falls] = linear(of.get("foam-xps", board))
        z[here] = after
    return out


def surface(scene: Scene, built: Build, stage: str = "finished", wet: bool = False) -> Colours:
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
        cover = covered_by_shell(site.lift, site, labels) if isinstance(site.lift, Shell) else site.cover
        share = (cover.share / np.maximum(built.bare.inside, 1e-9))[..., None]
        laid = over(out, site.lift, labels)
        if wet and name == stage:
            laid = wet_look(laid)
        out = out + share * (laid - out)
    return out


@dataclass(frozen=True, slots=True)
class Look:
    """What a lift looks like as hex: wet as it is laid, dry later, and what lies beneath; how far each is from the
    other (CIEDE2000) with the words that people say."""

    wet: str
    dry: str
    beneath: str
    drying: Figure
    change: Figure
    drying_words: str
    change_words: str


def looks(scene: Scene, patch_id: str) -> dict[str, Look]:
    """The look of each lift of a patch that has one, over the lifts under it, on foam at the bottom."""
    labels = Labels.of(scene)
    patch = next(one for one in scene.patches if one.id == patch_id)
    below = linear(FOAM)
    found = {}
    for lift in patch.lifts:
        if lift.levels_itself:
            continue
        dry = over(below, lift, labels)
        clear = np.allclose(dry, below)
        found[lift.id] = _look(lift, below, dry, clear, labels)
        below = np.asarray(dry)
    return found


def _look(lift: Lift, below: Colours, dry: Colours, clear: bool, labels: Labels) -> Look:
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
    return Look(
        hexed(soaked),
        hexed(dry),
        hexed(below),
        Figure(dries, "ΔE", "CIEDE2000 between its wet and its dry look", terms[:2]),
        Figure(changes, "ΔE", "CIEDE2000 between it and what lies beneath", (terms[1], Term("beneath", hexed(below)))),
        words(dries),
        words(changes),
    )
