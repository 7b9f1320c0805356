"""How far what is left will go: which spots are done with it, in which order and how thick, so that each ends whole and
level and none is left half done; solved exactly.

Every spot is done all over or not at all. Of what may be thinner the thickness comes down alike for all, to a least one
at worst. Most is made of it where most ground is covered; of that, the thickest.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..document import ResolvedScene
from ..plan import Plan, Step

# The least share of its planned thickness at which a layer of a kind still does its work, craft estimates; what is not
# named comes as it is planned or not at all.
LEAST = {"skin": 0.6, "pour": 0.5, "texture": 0.5}
GRAIN = 100  # amounts are counted in hundredths of a ml
LIMIT_S = 10.0


@dataclass(frozen=True, slots=True)
class Spot:
    """A course of a lift that is to be laid: of which scene, what it is called, ml of the mix that it takes with what
    stays in the cup, its area, the least share of it, its planned thickness in mm, the course before it."""

    scene: str
    step: str
    name: str
    need_ml: float
    area_mm2: float
    least: float = 1.0
    thick_mm: float | None = None
    below: str = ""


@dataclass(frozen=True, slots=True)
class Laid:
    """A spot that is done with it: at what share of its thickness, with how many ml."""

    spot: Spot
    share: float

    @property
    def ml(self) -> float:
        """So much of it."""
        return self.spot.need_ml * self.share

    @property
    def thick_mm(self) -> float | None:
        """So thick."""
        return None if self.spot.thick_mm is None else self.spot.thick_mm * self.share


@dataclass(frozen=True, slots=True)
class Far:
    """What is done with so much, in order, what is not, ml left over, and ml that all of it as planned would take
    more."""

    done: tuple[Laid, ...]
    left_out: tuple[Spot, ...]
    left_ml: float
    short_ml: float


def spots_of(scene: ResolvedScene, slug: str, plan: Plan, mix: str, over: Iterable[str] = ()) -> list[Spot]:
    """The courses of a plan that take a mix and are still to be laid, in the plan's order."""
    finished = set(over)
    names = {lift.id: (patch.id, patch.name) for patch in scene.patches for lift in patch.lifts}
    needs: dict[tuple[str, int], float] = {}
    for batch in plan.batches:
        if batch.mix == mix:
            for feed in batch.feeds:
                key = feed.into, feed.layer
                needs[key] = needs.get(key, 0.0) + feed.volume_ml.number
    spots: list[Spot] = []
    last: dict[str, str] = {}
    for step in plan.steps:
        key = step.lift or "", step.course or 0
        if step.built or step.id in finished or key not in needs or key[0] not in names:
            continue
        patch, name = names[key[0]]
        spots.append(
            Spot(
                slug, step.id, f"{name}, {step.title}", needs[key], plan.patches[patch].true_area_mm2.number,
                LEAST.get(step.kind, 1.0), _thick(plan, step), last.get(key[0], ""),
            )
        )  # fmt: skip
        last[key[0]] = step.id
    return spots


def _thick(plan: Plan, step: Step) -> float | None:
    layer = plan.layer(step)
    return None if layer is None else layer.depth_mm.value


def how_far(spots: Sequence[Spot], there_ml: float) -> Far:
    """What is made of `there_ml`: as much ground as it covers, each spot whole, then as thick as it goes. Raises
    ValueError for less than nothing, or if no answer is proved best in time.

    >>> made = how_far([Spot("a", "floor", "Floor", 100, 500, 0.6), Spot("a", "hill", "Hill", 60, 200, 0.6)], 80)
    >>> [(one.spot.name, round(one.share, 2)) for one in made.done], float(made.short_ml)
    ([('Floor', 0.8)], 80.0)
    """
    if there_ml < 0:
        raise ValueError("what is left is 0 ml or more")
    chosen = _chosen(tuple(spots), there_ml)
    share = _share([spots[place] for place in chosen], there_ml)
    done = tuple(Laid(spots[place], max(share, spots[place].least)) for place in chosen)
    used = sum(one.ml for one in done)
    left_out = tuple(one for place, one in enumerate(spots) if place not in set(chosen))
    whole = sum(one.need_ml for one in spots)
    return Far(done, left_out, max(there_ml - used, 0.0), max(whole - there_ml, 0.0))


def _chosen(spots: tuple[Spot, ...], there_ml: float) -> list[int]:
    """The places of the spots that are done: the most ground for what they take at least, of equal ground the least."""
    least = [round(one.need_ml * one.least * GRAIN + 0.4999) for one in spots]
    there = int(there_ml * GRAIN + 1e-6)
    if sum(least) <= there:
        return list(range(len(spots)))
    if not spots or min(least) > there:
        return []
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    picks = [model.new_bool_var("") for _ in spots]
    model.add(sum(one * pick for one, pick in zip(least, picks, strict=True)) <= there)
    places = {one.step: place for place, one in enumerate(spots)}
    for place, one in enumerate(spots):
        if one.below in places and spots[places[one.below]].scene == one.scene:
            model.add_implication(picks[place], picks[places[one.below]])
    worth = [max(round(one.area_mm2 / 100), 1) for one in spots]
    scale = sum(least) + 1
    model.maximize(
        sum(one * pick for one, pick in zip(worth, picks, strict=True)) * scale
        - sum(one * pick for one, pick in zip(least, picks, strict=True))
    )
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.max_time_in_seconds = LIMIT_S
    if solver.solve(model) != cp_model.OPTIMAL:
        raise ValueError("no answer was proved best in time")
    return [place for place, pick in enumerate(picks) if solver.value(pick)]


def _share(spots: Sequence[Spot], there_ml: float) -> float:
    """The share of its thickness that all of them have alike, those that want more as much as they want."""
    low, high = 0.0, 1.0
    if sum(one.need_ml for one in spots) <= there_ml:
        return 1.0
    for _ in range(60):
        middle = (low + high) / 2
        takes = sum(one.need_ml * max(middle, one.least) for one in spots)
        low, high = (middle, high) if takes <= there_ml else (low, middle)
    return low
