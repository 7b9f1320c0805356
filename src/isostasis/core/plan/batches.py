"""Batches that feed several spots: skins of one mix at the same place in their lay-ups, and resin of one label and
tint, are worked together, so that one bowl serves them one after the other and all have the same colour."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from ..built.forms import FormsMade
from ..built.remains import Work
from ..catalogue import Mix
from ..document import ResolvedScene
from ..figure import Figure, Term
from ..lifts.amounts import measured_out
from ..lifts.cast import CastPlan
from ..lifts.estimate import LiftEstimate, Notice, heavy_cup
from ..lifts.fold import Build
from ..lifts.labels import Labels
from ..mixing.batches import Batches, split
from ..mixing.parts import wet
from .model import Batch, Feed


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
        fed = []
        reached = 0.0
        for share in self.shares:
            part = min(end, reached + share.need_ml) - max(begin, reached)
            reached += share.need_ml
            if part > 1e-9 * useful:
                fed.append((share, part * self.batches.each_ml / useful))
        return fed


def shared(scene: ResolvedScene, works: dict[str, Work]) -> tuple[Shared, ...]:
    """All batches that are to be mixed, in the order of the document; what shares with no one stands alone."""
    groups: dict[object, list[Member]] = {}
    for patch in scene.patches:
        for place, lift in enumerate(patch.lifts):
            work = works[lift.id]
            estimate = work.estimate
            if estimate is None:
                continue
            for layer, course in enumerate(estimate.courses, start=work.first):
                need = course.batches.total_ml - course.batches.left_ml
                tint, water = getattr(lift, "tint", ()), getattr(lift, "water_c", None)
                alike: tuple[object, ...] = (estimate.mix, tint, water, getattr(lift, "clouded", False), place, layer)
                if lift.levels_itself:  # poured in one visit, wherever it stands in its lay-up
                    alike = (estimate.mix, tint, "pour", layer)
                shares = lift.shares_batches and (estimate.mix.reacts is not None or not lift.levels_itself)
                together = alike if shares else (lift.id, layer)
                groups.setdefault(together, []).append(
                    (Share(lift.id, layer, need), course.batches, course.working_min, estimate.mix)
                )
    batches_shared = []
    labels = Labels.of(scene)
    waits = _waits(scene) if any(len(alike) > 1 for alike in groups.values()) else {}
    for members in (part for alike in groups.values() for part in _in_one_bowl(scene, alike, waits)):
        shares = tuple(share for share, *_ in members)
        minutes = [one for _, _, one, _ in members if one is not None]
        working = min(minutes) if minutes else None
        batches = members[0][1]
        if len(members) > 1:
            vessel = scene.bench.cup_ml if members[0][3].reacts else scene.bench.bowl_ml
            most = vessel if working is None else scene.bench.spread_ml_per_min * working
            dry = members[0][3].family == "texture"
            need, times = sum(share.need_ml for share in shares), labels.times(members[0][3].id, "cup")
            batches = split(need, vessel, most, wasted=not dry, times=times)
        batches_shared.append(Shared(members[0][3], batches, shares, working))
    return tuple(batches_shared)


Member = tuple[Share, Batches, float | None, Mix]


def _in_one_bowl(scene: ResolvedScene, alike: list[Member], waits: Mapping[str, frozenset[str]]) -> list[list[Member]]:
    """Those of a kind that one bowl can serve: none waits for another, and all wait for the same gates."""
    if len(alike) == 1:
        return [alike]
    gates = {
        name: frozenset(gate.id for gate in scene.gates if not gate.done and {name, *waits[name]} & {*gate.blocks})
        for name in {member[0].lift for member in alike}
    }
    parts: list[list[Member]] = []
    for member in alike:
        name = member[0].lift
        for part in parts:
            names = [other.lift for other, *_ in part]
            if not any(name in waits[one] or one in waits[name] or gates[one] != gates[name] for one in names):
                part.append(member)
                break
        else:
            parts.append([member])
    return parts


def _waits(scene: ResolvedScene) -> dict[str, frozenset[str]]:
    """For each lift all lifts and forms that come before it: by lay-up, by `after`, by forms that wait for lifts."""
    direct: dict[str, set[str]] = {}
    bare = {form.id for form in scene.forms if not form.after}
    for patch in scene.patches:
        for place, lift in enumerate(patch.lifts):
            direct[lift.id] = {*lift.after, *bare, *(one.id for one in patch.lifts[:place])}
            for form in scene.forms:
                if form.after in direct[lift.id]:
                    direct[lift.id].add(form.id)
    waits: dict[str, frozenset[str]] = {}
    for name, known in direct.items():
        reached: set[str] = set()
        ahead = list(known)
        while ahead:
            earlier = ahead.pop()
            if earlier not in reached:
                reached.add(earlier)
                ahead += direct.get(earlier, ())
        waits[name] = frozenset(reached)
    return waits


def with_shares(works: dict[str, Work], groups: tuple[Shared, ...], built: Build, labels: Labels) -> dict[str, Work]:
    """What is to be done with the amounts that shared batches leave them: each bears its part of the waste."""
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
        estimate = work.estimate
        assert estimate is not None
        batches = tuple(
            layers.get(number, course.batches) for number, course in enumerate(estimate.courses, start=work.first)
        )
        tint = tuple((one.material, one.per_100_ml) for one in getattr(site.lift, "tint", ()))
        terms, cups = estimate.plan.mix_ml.working[:-1], "its share of what stays in the bowls"
        strewn = estimate.plan.mix_ml.working[-1] if estimate.plan.strewn else None
        mixed = measured_out(site.scene, labels, estimate.mix, batches, terms, cups, tint, strewn)
        heavy = _heavy_cup(batches, estimate, labels)
        aside = tuple(one for one in estimate.plan.ingredients if one.aside)
        plan = replace(
            estimate.plan, mix_ml=mixed.mix_ml, mass_g=mixed.mass_g, ingredients=(*mixed.ingredients, *aside)
        )
        out[lift_id] = replace(work, estimate=replace(estimate, plan=plan).warned(heavy))
    return out


def _heavy_cup(batches: tuple[Batches, ...], estimate: LiftEstimate, labels: Labels) -> tuple[Notice, ...]:
    """That a cup which serves several spots is heavy, where the lift's own would not have been."""
    if estimate.mix.reacts is None or any(one.code == "heavy-cup" for one in estimate.plan.warnings):
        return ()
    return heavy_cup(max(one.each_ml for one in batches) * wet(estimate.mix, labels.materials).density)


def cast_batches(scene: ResolvedScene, casts: dict[str, CastPlan]) -> list[Batch]:
    """Batches of the castings that are to be cast: one a bowl of each round of filling the moulds."""
    out = []
    known = FormsMade.of(scene)
    for name, cast in casts.items():
        form: Any = next(form for form in scene.forms if form.id == name)
        workable = cast.hours.workable.value
        for number, batches in enumerate(cast.batches, start=1):
            if known.record("cast", form, number) is not None:
                continue
            terms = Term("into the moulds", batches.total_ml - batches.left_ml, "ml"), Term("bowls", batches.count)
            volume = Figure(batches.each_ml, "ml", "what the moulds of a round hold, and what stays in the bowl", terms)
            for bowl in range(1, batches.count + 1):
                feed = Feed(number, volume, form=name)
                minutes = None if workable is None else workable * 60
                out.append(Batch(f"{name}-{number}-{bowl}", form.mix, volume, minutes, (feed,)))
    return out


def batches_of(groups: tuple[Shared, ...]) -> tuple[Batch, ...]:
    """Batches of the lifts, each with whom it feeds."""
    out = []
    for group in groups:
        count, first = group.batches.count, group.shares[0]
        for number in range(count):
            terms = (
                Term("to mix, all copies and all that it feeds", group.batches.total_ml, "ml"),
                Term("batches", count),
                Term("stays in cup and on tools", group.batches.left_ml / count, "ml"),
            )
            formula = "equal batches that the cup holds and that can be placed within the working time"
            volume = Figure(group.batches.each_ml, "ml", formula, terms)
            feeds = tuple(
                Feed(share.layer, volume if part == group.batches.each_ml else _fed(part, volume, share), share.lift)
                for share, part in group.feeds(number)
            )
            name = f"{first.lift}-{first.layer}-{number + 1}"
            out.append(Batch(name, group.mix.id, volume, group.working_min, feeds))
    return tuple(out)


def _fed(part: float, volume: Figure, share: Share) -> Figure:
    formula = "its part of this bowl, in the order of use, waste included"
    return Figure(part, "ml", formula, (volume.term("batch"), Term("takes in all, in place", share.need_ml, "ml")))
