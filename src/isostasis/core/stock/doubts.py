"""What to look at on the shelf before it stops the work: too little, halves that do not match, what goes off."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Literal

from ..catalogue import Mix
from .model import Key, Pack
from .reserve import Reserved, reserve

# Days after which a tin that was opened is worth a trial on scrap, by family; craft estimates, the label wins.
OPENED_DAYS = {
    "resin": 180, "powder": 180, "cloth": 180, "paste": 180, "glue": 365, "binder": 365, "seal": 365, "varnish": 365,
    "colour": 730, "wetting": 730,
}  # fmt: skip
HALVES_OFF = 0.05  # of a kit: by less no mixing cup tells, craft estimate
Code = Literal["short", "twice", "halves", "past", "opened", "low"]


@dataclass(frozen=True, slots=True)
class Doubt:
    """Something about a material, or a pack of it: `short` before a step, `twice`: enough for each scene and too little
    for all, `halves` of a kit of which one runs out first (`part`, with so much of the other left over), `past` its
    date, `opened` long ago, `low`: less than one wants to keep."""

    code: Code
    material: str
    part: str | None = None
    amount: float | None = None
    unit: str = ""
    pack: int | None = None
    scene: str = ""
    step: str = ""
    at: datetime | None = None
    on: date | None = None

    def sentence(
        self, name: str, shown: Callable[[float, str], str], when: Callable[[datetime], str], step: str = ""
    ) -> str:
        """It in words: the material's `name`, an amount and a moment as the reader has them, the step's title."""
        amount = shown(self.amount or 0.0, self.unit)
        what = name + (f", {self.part}" if self.part else "")
        if self.code == "short":
            at = f" on {when(self.at)}" if self.at else ""
            return f"{what}: {amount} too little before {step or self.step}{at}."
        if self.code == "twice":
            return f"{what}: enough for each scene alone, {amount} too little for all of them."
        if self.code == "halves":
            other = "B" if self.part == "A" else "A"
            return f"{name}: part {self.part} runs out first, {amount} of part {other} will be left over."
        if self.code == "past":
            return f"{what}: past its date, {self.on:%d %b %Y}. Try it on scrap first."
        if self.code == "opened":
            return f"{what}: opened on {self.on:%d %b %Y}, long ago for its kind. Try it on scrap first."
        return f"{what}: {amount} less than you want to keep."


def _too_little(reserved: Sequence[Reserved]) -> list[Doubt]:
    """The first step that each thing is short for, and how much is short in all."""
    first: dict[Key, Reserved] = {}
    short: dict[Key, float] = {}
    for demand in reserved:
        if demand.short > 0:
            first.setdefault(demand.demand.key, demand)
            short[demand.demand.key] = short.get(demand.demand.key, 0.0) + demand.short
    return [
        Doubt(
            "short", *key, short[key], one.demand.unit, scene=one.demand.scene, step=one.demand.step, at=one.demand.at
        )
        for key, one in first.items()
    ]


def _counted_twice(packs: Sequence[Pack], reserved: Sequence[Reserved]) -> list[Doubt]:
    """What each scene has enough of by itself, and all together have not."""
    twice = []
    for key in dict.fromkeys(one.demand.key for one in reserved if one.short > 0):
        demands = [one.demand for one in reserved if one.demand.key == key]
        scenes = {one.scene for one in demands}
        alone = [reserve(packs, [one for one in demands if one.scene == scene]) for scene in scenes]
        if len(scenes) > 1 and not any(one.short > 0 for made in alone for one in made):
            short = sum(one.short for one in reserved if one.demand.key == key)
            twice.append(Doubt("twice", *key, short, demands[0].unit))
    return twice


def kit_parts(
    mixes: Iterable[Mix], densities: Callable[[str, str], float], by_mass: bool
) -> dict[str, dict[str, float]]:
    """For each material that comes in parts what of each goes into one measure, in what it is sold by: by mass, or by
    volume; from the first mix that says."""
    by_material: dict[str, dict[str, float]] = {}
    for mix in mixes:
        for ingredient in mix.ingredients:
            if ingredient.part is None or ingredient.part in by_material.get(ingredient.material, {}):
                continue
            density = densities(ingredient.material, ingredient.part)
            measured_by_mass = mix.basis == "mass"
            share = (
                ingredient.parts
                if measured_by_mass == by_mass
                else ingredient.parts * density
                if by_mass
                else ingredient.parts / density
            )
            by_material.setdefault(ingredient.material, {})[ingredient.part] = share
    return {name: parts for name, parts in by_material.items() if len(parts) > 1 and all(parts.values())}


def _halves(packs: Sequence[Pack], parts: Mapping[str, Mapping[str, float]], units: Mapping[str, str]) -> list[Doubt]:
    halves = []
    for material, measure in parts.items():
        there = {part: sum(one.left for one in packs if one.key == (material, part)) for part in measure}
        if not any(there.values()):
            continue
        measures = {part: there[part] / measure[part] for part in measure}
        least, most = min(measures, key=lambda one: measures[one]), max(measures, key=lambda one: measures[one])
        if measures[most] - measures[least] > HALVES_OFF * measures[most]:
            over = (measures[most] - measures[least]) * measure[most]
            halves.append(Doubt("halves", material, least, over, units.get(material, "ml")))
    return halves


def doubts(
    packs: Sequence[Pack],
    reserved: Sequence[Reserved],
    today: date,
    families: Mapping[str, str],
    units: Mapping[str, str],
    parts: Mapping[str, Mapping[str, float]],
    wanted: Mapping[str, float],
) -> list[Doubt]:
    """All that is doubtful, what stops work first: by material its family, the unit that it is sold by, what of its
    parts goes into one measure, and how much of it one wants to keep (`wanted`)."""
    full = [one for one in packs if one.left > 0]
    doubtful = [*_too_little(reserved), *_counted_twice(full, reserved), *_halves(full, parts, units)]
    for pack in full:
        days = OPENED_DAYS.get(families.get(pack.material, ""))
        if pack.best_before is not None and pack.best_before < today:
            doubtful.append(Doubt("past", pack.material, pack.part, pack=pack.id, on=pack.best_before))
        elif pack.opened is not None and days is not None and pack.opened < today - timedelta(days=days):
            doubtful.append(Doubt("opened", pack.material, pack.part, pack=pack.id, on=pack.opened))
    for material, keep in wanted.items():
        there = sum(one.left for one in full if one.material == material)
        if there < keep:
            doubtful.append(Doubt("low", material, None, keep - there, units.get(material, "ml")))
    return doubtful
