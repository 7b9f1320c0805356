"""Which planned lift each built layer is: by spot, kind and order; and the scene with what stays though it is planned
no more."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import ResolvedScene
from ..document.scene import Lift, Patch
from ..ground.field import Ground
from ..lifts.areas import Cover
from .lying import Lying, lying


def made_of(lift: Lift) -> str:
    """The id of the mix or the material that a lift is laid in."""
    return str(getattr(lift, "mix", None) or getattr(lift, "material", None) or "")


@dataclass(frozen=True, eq=False)
class Match:
    """What lies there, by planned lift; `stays`: layers that are planned no more and stay where they are, under what is
    (their lifts stand in `scene`, which is the scene to plan); `leaves`: those that must come off whole."""

    scene: ResolvedScene
    layers: dict[str, tuple[Lying, ...]]
    stays: tuple[Lying, ...]
    leaves: tuple[Lying, ...]


def _is(lift: Lift, laid: Lift) -> bool:
    """Whether what was laid is a planned lift: the same layer, in whatever it was laid; of coats, in the same."""
    if lift.id == laid.id:
        return lift.kind == laid.kind and (lift.kind != "coat" or made_of(lift) == made_of(laid))
    return lift.kind == laid.kind and made_of(lift) == made_of(laid)


def match(scene: ResolvedScene, bare: Ground, covers: dict[str, Cover]) -> Match:
    """Pair what was built with what is planned on this bare ground."""
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
    return Match(_with_labels(scene, tuple(patches), stays), layers, tuple(stays), tuple(leaves))


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


def _with_labels(scene: ResolvedScene, patches: tuple[Patch, ...], stays: list[Lying]) -> ResolvedScene:
    """The scene with these patches, and the labels of what stays in it."""
    if not stays:
        return scene
    mixes = {one.id: one for one in scene.mixes}
    materials = {one.id: one for one in scene.materials}
    for one in stays:
        if one.entry.mix is not None and one.entry.mix.id == getattr(one.entry.lift, "mix", None):
            mixes.setdefault(one.entry.mix.id, one.entry.mix)
        for material in one.entry.materials:
            materials.setdefault(material.id, material)
    return scene.model_copy(
        update={"patches": patches, "mixes": tuple(mixes.values()), "materials": tuple(materials.values())}
    )
