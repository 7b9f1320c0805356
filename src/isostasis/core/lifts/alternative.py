"""One way to do a lift otherwise, and what it costs: the shape that all kinds' alternatives share."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from ..catalogue import Mix
from ..document import ResolvedScene
from ..figure import Figure, Term
from ..mixing.parts import amounts
from .estimate import LiftPlan
from .labels import Labels


@dataclass(frozen=True, slots=True)
class Alternative:
    """One way to do the same lift: its figures by name (None where a price or a law is missing), what to bear in mind,
    and how it looks in two states (hex) where that differs, which `looks` names. `words` say in words what a figure
    means; `remark` is what holds for the way itself, and warns of nothing."""

    name: str
    figures: dict[str, Figure | None]
    notes: tuple[str, ...] = ()
    look: tuple[str, str] | None = None
    words: dict[str, str] = field(default_factory=dict)
    remark: str = ""
    looks: str = "wet, dry"

    def hours(self, name: str) -> float | None:
        """A figure's value in hours; None where there is none, or it never comes."""
        figure = self.figures.get(name)
        return None if figure is None else figure.value


def alike(ways: Iterable[Alternative]) -> tuple[str, ...]:
    """What is to be borne in mind whichever of the ways it is, so that it can be told once."""
    first, *others = ways
    return tuple(note for note in first.notes if all(note in one.notes for one in others))


def warnings_of(lift_plan: LiftPlan, scene: ResolvedScene) -> tuple[str, ...]:
    """What is to be warned of, without the advice that holds for every way alike and so tells none from the others."""
    advice = {rule.code for rule in scene.rules.neighbours if rule.advice}
    return tuple(notice.text for notice in lift_plan.warnings if notice.code not in advice)


def cost_of(mix: Mix, volume_ml: float, labels: Labels, scene: ResolvedScene) -> Figure | None:
    """Money for so many ml of a mix; None where the user has not priced all of it (water is free)."""
    made = amounts(mix, labels.materials, volume_ml, (), scene.bench.drop_ml)
    return priced(((part.material, part.volume_ml, part.mass_g) for part in made), labels, scene)


def cost_of_plan(made: LiftPlan, labels: Labels, scene: ResolvedScene) -> Figure | None:
    """Money for all that a lift takes; None where the user has not priced all of it."""
    parts = ((one.material, one.volume_ml.number, one.mass_g.number) for one in made.ingredients)
    return priced(parts, labels, scene)


def priced(parts: Iterable[tuple[str, float, float]], labels: Labels, scene: ResolvedScene) -> Figure | None:
    """Money for so much of each (material, ml, g); None where the user has not priced all of it (water is free)."""
    terms = []
    for name, volume_ml, mass_g in parts:
        material = labels.materials[name]
        if material.family == "water":
            continue
        each = scene.bench.price_each(name)
        if each is None:
            return None
        amount = mass_g if material.sold_by == "g" else volume_ml
        terms.append(Term(material.name, amount * each, "money", f"{amount:.4g} {material.sold_by} at your price"))
    return Figure(sum(float(term.value) for term in terms), "money", "sum over its ingredients", tuple(terms))
