"""What is left of a mix, and the spots that wait for it, over all scenes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ..core.bench import BenchScene
from ..core.catalogue import Catalogue
from ..core.fault import Faults
from ..core.mixing.parts import amounts
from ..core.plan.uses import sold
from ..core.stock.far import Spot, spots_of
from . import bench, labels, logbook, scenes, shelf
from .tables import BatchRow


def open_scenes(session: Session, now: datetime) -> list[BenchScene]:
    """Every scene that can be planned."""
    opened = []
    for row in scenes.all_scenes(session):
        try:
            opened.append(bench.bench_scene(session, row, now))
        except Faults:
            continue
    return opened


@dataclass(frozen=True)
class Waiting:
    """A mix that spots wait for: its id and name, ml of it that the shelf gives, in cups, and that all of it takes."""

    mix: str
    name: str
    there_ml: float
    cup_ml: float
    need_ml: float


def on_shelf(session: Session, known: Catalogue, mix: str) -> float:
    """ml of a mix that can be made of what is on the shelf, and what stands of it in jars; water is always there."""
    left: dict[tuple[str, str | None], float] = {}
    for one in shelf.stocked(session):
        key = one.row.material, one.row.part
        left[key] = left.get(key, 0.0) + one.left
    jars = left.get((mix, None), 0.0)
    recipe = known.mixes.get(mix)
    if recipe is None:
        return jars
    measure = amounts(recipe, known.materials, 100.0)
    shares = []
    for part in measure:
        label = known.materials[part.material]
        takes = sold(label, part.volume_ml, part.mass_g)[0]
        if label.family != "water" and takes > 0:
            whole = left.get((part.material, None), 0.0)
            shares.append((left.get((part.material, part.part), 0.0) if part.part else whole) / takes)
    return jars + 100.0 * min(shares, default=0.0)


def in_cups(session: Session, bench_scenes: Sequence[BenchScene], mix: str) -> float:
    """ml of a mix in cups that are open: by what was weighed into them, else as planned."""
    there = 0.0
    for number in bench.open_cups(session, bench_scenes).values():
        row = session.get_one(BatchRow, number)
        planned = logbook.batch_of(row)
        if planned.mix == mix:
            whole = sum(one.mass_g for one in planned.ingredients)
            share = sum(row.actual.values()) / whole if row.actual and whole else 1.0
            there += planned.volume_ml * share
    return there


def waiting(session: Session, bench_scenes: Sequence[BenchScene]) -> list[Waiting]:
    """The mixes that anything waits for, those that take most first."""
    known = labels.catalogue(session)
    needs: dict[str, float] = {}
    names: dict[str, str] = {}
    for scene in bench_scenes:
        for mix in {batch.mix for batch in scene.plan.batches}:
            spots = spots_of(scene.scene, scene.slug, scene.plan, mix, over=_over(scene))
            if spots:
                needs[mix] = needs.get(mix, 0.0) + sum(spot.need_ml for spot in spots)
                names[mix] = next((each.name for each in scene.scene.mixes if each.id == mix), mix)
    return [
        Waiting(mix, names[mix], on_shelf(session, known, mix), in_cups(session, bench_scenes, mix), needs[mix])
        for mix in sorted(needs, key=lambda mix: -needs[mix])
    ]


def _over(one: BenchScene) -> set[str]:
    return {*one.marks.done, *one.marks.skipped}


def spots(bench_scenes: Iterable[BenchScene], mix: str) -> list[Spot]:
    """Every spot that waits for a mix, those that come first by the schedules first; a course behind the one below."""
    waits = []
    for scene in bench_scenes:
        far = datetime.max.replace(tzinfo=next(iter(scene.times.values())).tzinfo) if scene.times else None
        for place, spot in enumerate(spots_of(scene.scene, scene.slug, scene.plan, mix, over=_over(scene))):
            at = scene.times.get(spot.step, far)
            waits.append((at is None, at, scene.slug, place, spot))
    return [one[-1] for one in sorted(waits, key=lambda one: (one[0], str(one[1]), one[2], one[3]))]
