"""What the scenes ask of the shelf: each step's demands with their dates, what of it was mixed already taken off."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy.orm import Session

from ..core.catalogue import Bench, Catalogue
from ..core.document import ResolvedScene
from ..core.fault import Faults
from ..core.plan import Plan, plan
from ..core.schedule import Schedule
from ..core.schedule.forecast import by_rule
from ..core.stock.asking import asked
from ..core.stock.buying import Shopping, parts_in, shopping
from ..core.stock.doubts import Doubt, doubts
from ..core.stock.model import Demand
from ..core.stock.reserve import Reserved, reserve
from . import clock, labels, logbook, marks, scenes, settings, shelf
from .tables import SceneRow


@dataclass(frozen=True)
class SceneNeeds:
    """A scene that can be planned: its address and name, its plan, what it asks of the shelf."""

    slug: str
    name: str
    scene: ResolvedScene
    plan: Plan
    demands: tuple[Demand, ...]

    def title(self, step: str) -> str:
        """What people call a step of it, with its spot."""
        planned = next((one for one in self.plan.steps if one.id == step), None)
        if planned is None:
            return step or "the beginning"
        spot = next((patch.name for patch in self.scene.patches if patch.id == planned.patch), "")
        return f"{spot}, {planned.title}" if spot else planned.title


@dataclass(frozen=True)
class Supply:
    """The shelf against all that is asked of it: by scene, what is reserved for which step, what to look at."""

    catalogue: Catalogue
    bench: Bench
    stocked: tuple[shelf.Stocked, ...]
    scenes: tuple[SceneNeeds, ...]
    reserved: tuple[Reserved, ...]
    doubts: tuple[Doubt, ...]

    def sentence(self, doubt: Doubt, shown: Callable[[float, str], str], when: Callable[[datetime], str]) -> str:
        """A doubt in words, with an amount and a moment as the reader has them."""
        asking = self.scene(doubt.scene)
        step = f"{asking.title(doubt.step)} of {asking.name}" if asking else doubt.step
        return doubt.sentence(self.named(doubt.material), shown, when, step)

    def named(self, material: str) -> str:
        """A material's name."""
        label = shelf.label_of(self.catalogue, material)
        return label.name if label else material

    def for_scenes(self, slugs: Sequence[str]) -> Supply:
        """This for some of the scenes alone; what others count on stays theirs."""
        return replace(self, scenes=tuple(one for one in self.scenes if one.slug in slugs))

    def scene(self, slug: str) -> SceneNeeds | None:
        """One of the scenes."""
        return next((one for one in self.scenes if one.slug == slug), None)


def _mixed_already(session: Session, row: SceneRow, planned: Plan) -> dict[tuple[str, int], float]:
    """For each course that is still to be laid the share of what is mixed for it that is in finished cups."""
    finished = {one.batch for one in logbook.batches(session, row) if one.finished_at is not None}
    whole: dict[tuple[str, int], float] = {}
    mixed: dict[tuple[str, int], float] = {}
    for batch in planned.batches:
        for feed in batch.feeds:
            key = feed.into, feed.layer
            whole[key] = whole.get(key, 0.0) + feed.volume_ml.number
            if batch.id in finished:
                mixed[key] = mixed.get(key, 0.0) + feed.volume_ml.number
    return {key: amount / whole[key] for key, amount in mixed.items() if whole[key] > 0}


def times_of(session: Session, row: SceneRow, scene: ResolvedScene, now: datetime) -> dict[str, datetime]:
    """When each step starts by the newest forecast; of a scene without one by the next-ready rule."""
    forecast = clock.latest(session, row)
    made = ruled(session, row, scene, now) if forecast is None else Schedule.of(forecast.made)
    timed = made.steps if made else ()
    return {
        one.step or one.id: datetime.fromisoformat(one.start)
        for one in timed
        if one.scene in ("", row.slug) and one.state in ("planned", "begun")
    }


def ruled(session: Session, row: SceneRow, scene: ResolvedScene, now: datetime) -> Schedule | None:
    """When a scene's steps come by the next-ready rule, in the user's hours, with what was marked; None where it finds
    none."""
    known = marks.marks(marks.events(session, row))
    marked = tuple((kind, tuple(getattr(known, kind).items())) for kind in ("started", "done", "skipped"))
    try:
        return by_rule(scene, settings.read(session).hours, now.replace(minute=0, second=0, microsecond=0), marked)
    except Faults:
        return None


def _demands(
    session: Session, row: SceneRow, scene: ResolvedScene, planned: Plan, known: Catalogue, now: datetime
) -> list[Demand]:
    times, mixed = times_of(session, row, scene, now), _mixed_already(session, row, planned)
    steps = {step.id: (place, step) for place, step in enumerate(planned.steps)}
    demands = []
    first = next((step.id for step in planned.steps if not step.built), "")
    for use in asked(scene, planned, known):
        place, step = steps.get(use.step or first, (0, None))
        share = 1.0
        if use.mix and step is not None and step.course is not None:
            share -= mixed.get((step.lift or step.form or "", step.course), 0.0)
        if share * use.amount > shelf.LEAST:
            demands.append(
                Demand(row.slug, use.step or first, times.get(use.step or first), use.material, use.part,
                       use.amount * share, use.unit, use.what, place)
            )  # fmt: skip
    return demands


def needs_of(session: Session, now: datetime) -> list[SceneNeeds]:
    """What the scenes that are not put away ask of the shelf; one that cannot be planned is left out, and says so on
    its own page. A tool that serves a whole scene is asked for once. `now` has the zone of the clock on the wall."""
    known = labels.catalogue(session)
    lasting = {rule.material for rule in known.sundries if rule.each == "scene"}
    had: set[str] = set()
    needs = []
    for row in scenes.all_scenes(session):
        try:
            scene = scenes.resolve(session, row.head)
            planned = plan(scene)
        except Faults:
            continue
        demands = [one for one in _demands(session, row, scene, planned, known, now) if one.material not in had]
        had |= {one.material for one in demands} & lasting
        needs.append(SceneNeeds(row.slug, scene.name, scene, planned, tuple(demands)))
    return needs


def supply(session: Session, now: datetime) -> Supply:
    """The shelf against what all scenes ask of it."""
    known, mine = labels.catalogue(session), settings.read(session)
    stocked = shelf.stocked(session)
    asking = needs_of(session, now)
    packs = [one.pack for one in stocked]
    reserved = reserve(packs, [demand for one in asking for demand in one.demands])
    materials = known.materials
    doubtful = doubts(
        packs, reserved, now.date(), {name: one.family for name, one in materials.items()},
        {name: one.sold_by for name, one in materials.items()}, parts_in(known), mine.keep,
    )  # fmt: skip
    return Supply(known, mine.bench, tuple(stocked), tuple(asking), tuple(reserved), tuple(doubtful))


def to_buy(session: Session, supplied: Supply) -> Shopping:
    """What to buy for the scenes of a supply: what they need beyond the shelf, of which others that come before them
    have their share. Raises ValueError where no basket is proved best in time."""
    meant = {one.slug for one in supplied.scenes}
    packs = [one.pack for one in supplied.stocked]
    reserved = [one for one in supplied.reserved if one.demand.scene in meant]
    return shopping(packs, reserved, supplied.catalogue, supplied.bench, settings.read(session).sellers)
