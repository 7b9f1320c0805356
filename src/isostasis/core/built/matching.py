"""Which planned lift each built layer is: by spot, kind and order; and the scene with what stays though it is planned
no more."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

from ..document import ResolvedScene
from ..document.scene import Lift, Patch
from ..ground.field import Ground
from ..lifts.areas import Cover
from ..lifts.kinds import kind_of
from .lying import Lying, extent_of, lying

WHOLE = 0.98  # of a layer that must lie there for it to count as all of it
NEAR_SHARE = 0.02  # by which a thickness may differ and is the same, craft estimate
LEVEL_NEAR_MM = 0.25  # a level is no nearer than that, craft estimate


def made_of(lift: Lift) -> str:
    """The id of the mix or the material that a lift is laid in."""
    return str(getattr(lift, "mix", None) or getattr(lift, "material", None) or "")


@dataclass(frozen=True, eq=False)
class Match:
    """What lies there, by planned lift; `stays`: layers that are planned no more and stay where they are, under what is
    (their lifts stand in `scene`, which is the scene to plan); `asked`: lifts as they are planned, of which there is
    more already or can be no more, and which stand in `scene` as they lie there; `leaves`: what must come off whole."""

    scene: ResolvedScene
    layers: dict[str, tuple[Lying, ...]]
    asked: dict[str, Lift]
    stays: tuple[Lying, ...]
    leaves: tuple[Lying, ...]


def _is(lift: Lift, laid: Lift) -> bool:
    """Whether what was laid is a planned lift: the same layer, in whatever it was laid; of coats, in the same."""
    if lift.id == laid.id:
        return lift.kind == laid.kind and (lift.kind != "coat" or made_of(lift) == made_of(laid))
    return lift.kind == laid.kind and made_of(lift) == made_of(laid)


def match(scene: ResolvedScene, bare: Ground, covers: dict[str, Cover], as_it_lies: bool = True) -> Match:
    """Pair what was built with what is planned on this bare ground. Without `as_it_lies` the scene stands as it is
    planned also where more or less lies there."""
    there = lying(scene, bare, covers)
    layers: dict[str, tuple[Lying, ...]] = {}
    stays: list[Lying] = []
    leaves: list[Lying] = []
    patches: list[Patch] = []
    known = {patch.id for patch in scene.patches}
    for patch in scene.patches:
        found, stay, leave, lifts = _in_patch(patch, [one for one in there if one.patch == patch.id])
        layers |= found
        stays += stay
        leaves += leave
        patches.append(patch if len(lifts) == len(patch.lifts) else patch.model_copy(update={"lifts": lifts}))
    leaves += [one for one in there if one.patch not in known and one.raises and one.kept]
    asked: dict[str, Lift] = {}
    lying_there = tuple(_as_it_lies(patch, layers, asked) if as_it_lies else patch for patch in patches)
    return Match(_with_labels(scene, lying_there, stays, bool(asked)), layers, asked, tuple(stays), tuple(leaves))


def _as_it_lies(patch: Patch, layers: dict[str, tuple[Lying, ...]], asked: dict[str, Lift]) -> Patch:
    """The patch with those lifts as they lie there of which more lies there than is planned, or less under what lies on
    it; `asked` is told what was planned."""
    lifts = list(patch.lifts)
    for place, lift in enumerate(lifts):
        there = [layer for layer in layers.get(lift.id, ()) if layer.kept > 0]
        if not there or any(layer.kept < WHOLE for layer in there):
            continue
        over = any(layer.kept > 0 for later in lifts[place + 1 :] for layer in layers.get(later.id, ()))
        changed = _much_of(lift, there, over)
        if changed is not None:
            asked[lift.id], lifts[place] = lift, changed
    return patch.model_copy(update={"lifts": tuple(lifts)}) if any(one.id in asked for one in lifts) else patch


def _much_of(lift: Lift, there: list[Lying], over: bool) -> Lift | None:
    """A lift as much as lies there; None where more can and should be laid, or it is just so."""
    if lift.levels_itself:
        level, reached = getattr(lift, "level_mm", None), [one.entry.level_mm for one in there if one.entry.level_mm]
        higher = level is not None and reached and max(reached) > level + LEVEL_NEAR_MM
        return lift.model_copy(update={"level_mm": max(reached), "lifts": "auto"}) if higher else None
    kind = kind_of(lift)
    laid, wanted = sum(extent_of(one.entry) for one in there), kind.extent(lift)
    if laid > wanted * (1 + NEAR_SHARE) or (over and laid < wanted * (1 - NEAR_SHARE)):
        return cast(Lift, kind.with_extent(lift, laid))
    return None


def _in_patch(
    patch: Patch, there: list[Lying]
) -> tuple[dict[str, tuple[Lying, ...]], list[Lying], list[Lying], tuple[Lift, ...]]:
    """(layers by planned lift, what stays, what leaves, the lifts with what stays in its place)."""
    groups: dict[str, list[Lying]] = {}
    for one in there:
        groups.setdefault(one.entry.lift.id, []).append(one)
    order = list(groups)
    taken: dict[str, str] = {}  # a group's lift by the id under which it was laid
    planned = {lift.id: lift for lift in patch.lifts}
    for name, group in groups.items():
        if name in planned and _is(planned[name], group[-1].entry.lift):
            taken[name] = name
    free = [lift for lift in patch.lifts if lift.id not in taken.values()]
    for name in order:
        if name in taken:
            continue
        place = order.index(name)
        before = [list(planned).index(taken[one]) for one in order[:place] if one in taken]
        after = [list(planned).index(taken[one]) for one in order[place + 1 :] if one in taken]
        low, high = max(before, default=-1), min(after, default=len(planned))
        for lift in free:
            if low < list(planned).index(lift.id) < high and _is(lift, groups[name][-1].entry.lift):
                taken[name] = lift.id
                free.remove(lift)
                break
    layers = {lift: tuple(groups[name]) for name, lift in taken.items()}
    stay: list[Lying] = []
    leave: list[Lying] = []
    lifts = list(patch.lifts)
    for place, name in enumerate(order):
        if name in taken:
            continue
        group = [one for one in groups[name] if one.kept]
        buried = any(one in taken and any(layer.kept for layer in groups[one]) for one in order[place + 1 :])
        if group and (buried or not group[-1].raises):
            stay += group
            below = [lifts.index(planned[taken[one]]) for one in order[:place] if one in taken]
            if all(lift.id != name for lift in lifts):
                lifts.insert(max(below, default=-1) + 1, group[-1].entry.lift)
        else:
            leave += group
    return layers, stay, leave, tuple(lifts)


def _with_labels(scene: ResolvedScene, patches: tuple[Patch, ...], stays: list[Lying], changed: bool) -> ResolvedScene:
    """The scene with these patches, and the labels of what stays in it."""
    if not stays:
        return scene.model_copy(update={"patches": patches}) if changed else scene
    mixes = {one.id: one for one in scene.mixes}
    materials = {one.id: one for one in scene.materials}
    for lift in stays:
        if lift.entry.mix is not None and lift.entry.mix.id == getattr(lift.entry.lift, "mix", None):
            mixes.setdefault(lift.entry.mix.id, lift.entry.mix)
        for material in lift.entry.materials:
            materials.setdefault(material.id, material)
    return scene.model_copy(
        update={"patches": patches, "mixes": tuple(mixes.values()), "materials": tuple(materials.values())}
    )
