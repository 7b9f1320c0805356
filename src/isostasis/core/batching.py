"""Batches that feed several spots: skins of one mix at the same place in their lay-ups are worked together, so that one
bowl serves them one after the other and all of them have the same colour."""

from __future__ import annotations

from dataclasses import dataclass, replace

from .catalogue import Mix
from .document.scene import Scene
from .lifts.amount import measured_out
from .lifts.fold import Build
from .lifts.site import Labels, Work
from .mixing.batches import Batches, split


@dataclass(frozen=True, slots=True)
class Share:
    """What one course of one lift takes of shared batches, ml in place, all copies."""

    lift: str
    layer: int
    need_ml: float


@dataclass(frozen=True, slots=True)
class Shared:
    """Batches of one mix and who is fed from them, in the order of use."""

    mix: Mix
    batches: Batches
    shares: tuple[Share, ...]
    working_min: float | None

    def feeds(self, number: int) -> list[tuple[Share, float]]:
        """Who is fed from batch `number` (from 0), and with how much of it, their part of its waste included."""
        if not self.batches.count:
            return []
        useful = (self.batches.total_ml - self.batches.left_ml) / self.batches.count
        begin, end = number * useful, (number + 1) * useful
        found = []
        reached = 0.0
        for share in self.shares:
            part = min(end, reached + share.need_ml) - max(begin, reached)
            reached += share.need_ml
            if part > 1e-9 * useful:
                found.append((share, part * self.batches.each_ml / useful))
        return found


def shared(scene: Scene, works: dict[str, Work]) -> tuple[Shared, ...]:
    """All batches of a scene, in the order of the document. Raises nothing: what shares with no one stands alone."""
    assert scene.bench is not None
    groups: dict[object, list[tuple[Share, Batches, float | None, Mix]]] = {}
    for patch in scene.patches:
        for place, lift in enumerate(patch.lifts):
            work = works[lift.id]
            for layer, course in enumerate(work.courses, start=1):
                need = course.batches.total_ml - course.batches.left_ml
                tint, water = getattr(lift, "tint", ()), getattr(lift, "water_c", None)
                alike = (work.mix, tint, water, getattr(lift, "clouded", False), place, layer)
                together = alike if lift.shares_batches else (lift.id, layer)
                groups.setdefault(together, []).append(
                    (Share(lift.id, layer, need), course.batches, course.working_min, work.mix)
                )
    found = []
    for members in groups.values():
        shares = tuple(share for share, *_ in members)
        minutes = [one for _, _, one, _ in members if one is not None]
        working = min(minutes) if minutes else None
        batches = members[0][1]
        if len(members) > 1:
            most = scene.bench.bowl_ml if working is None else scene.bench.spread_ml_per_min * working
            dry = members[0][3].family == "texture"
            batches = split(sum(share.need_ml for share in shares), scene.bench.bowl_ml, most, wasted=not dry)
        found.append(Shared(members[0][3], batches, shares, working))
    return tuple(found)


def with_shares(works: dict[str, Work], groups: tuple[Shared, ...], built: Build, labels: Labels) -> dict[str, Work]:
    """The works with the amounts that shared batches leave them: each bears its part of the waste."""
    parts: dict[str, dict[int, Batches]] = {}
    for group in groups:
        if len(group.shares) < 2:
            continue
        need = sum(share.need_ml for share in group.shares)
        for share in group.shares:
            part = share.need_ml / need if need else 0.0
            whole = group.batches
            mine = Batches(whole.count, whole.each_ml, whole.total_ml * part, whole.left_ml * part)
            parts.setdefault(share.lift, {})[share.layer] = mine
    out = dict(works)
    for lift_id, layers in parts.items():
        work, site = works[lift_id], built.stages[lift_id].site
        batches = tuple(layers.get(number, course.batches) for number, course in enumerate(work.courses, start=1))
        tint = tuple((one.material, one.drops_per_100_ml) for one in getattr(site.lift, "tint", ()))
        terms, cups = (work.plan.volume_ml.term("in place"),), "its share of what stays in the bowls"
        strewn = work.plan.mix_ml.working[-1] if work.plan.strewn else None
        made = measured_out(site.scene, labels, work.mix, batches, terms, cups, tint, strewn)
        aside = tuple(one for one in work.plan.ingredients if one._aside)
        plan = replace(work.plan, mix_ml=made.mix_ml, mass_g=made.mass_g, ingredients=(*made.ingredients, *aside))
        out[lift_id] = replace(work, plan=plan)
    return out
