"""From what must stand in place to what must be mixed: the reckoning that all kinds of lifts share."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..catalogue import Factor, Mix
from ..document import ResolvedScene
from ..figure import Figure, Term
from ..mixing.batches import LEFT_FILM, LEFT_SHARE, Batches, split
from ..mixing.parts import amounts, wet
from .estimate import Ingredient
from .labels import Labels
from .site import Site


@dataclass(frozen=True, slots=True)
class Mixed:
    """Figures of what to mix for one copy, and the batches of each course for all copies."""

    mix_ml: Figure
    mass_g: Figure
    ingredients: tuple[Ingredient, ...]
    batches: tuple[Batches, ...]


def mixed(
    site: Site,
    labels: Labels,
    mix: Mix,
    needs_ml: Sequence[float],
    terms: tuple[Term, ...],
    cup_ml: float,
    placeable_ml: float,
    tint: tuple[tuple[str, float], ...] = (),
) -> Mixed:
    """What to mix so that `needs_ml` (one for each course, of one copy) leave the cup.

    `terms` say what the needs consist of; the waste is added as a term of its own, and what records say of the mix.
    Batches are for all copies.
    """
    learnt, times = labels.factor(mix.id, "volume"), labels.times(mix.id, "cup")
    if learnt:
        more = (learnt.mean - 1) * sum(needs_ml)
        needs_ml = tuple(need * learnt.mean for need in needs_ml)
        terms = (*terms, Term("your records", more, "ml", f"× {learnt.mean:.3g}, {learnt.records} of them"))
    batches = tuple(split(need * site.scene.copies, cup_ml, placeable_ml, times=times) for need in needs_ml)
    count = sum(one.count for one in batches)
    cups = f"left in {count} cup{'s' if count != 1 else ''}"
    cups += f", × {times:.3g} as your records have it" if times != 1 else ""
    made = measured_out(site.scene, labels, mix, batches, terms, cups, tint)
    return _ranged(made, learnt) if learnt else made


def _ranged(exact: Mixed, learnt: Factor) -> Mixed:
    """The same with the range that records leave to its figures."""
    down, up = learnt.low / learnt.mean, learnt.high / learnt.mean

    def ranged(figure: Figure) -> Figure:
        return replace(figure, low=figure.number * down, high=figure.number * up)

    return replace(exact, mix_ml=ranged(exact.mix_ml), mass_g=ranged(exact.mass_g))


def measured_out(
    scene: ResolvedScene,
    labels: Labels,
    mix: Mix,
    batches: tuple[Batches, ...],
    terms: tuple[Term, ...],
    cups: str,
    tint: tuple[tuple[str, float], ...] = (),
    strewn: Term | None = None,
) -> Mixed:
    """The figures of what the batches of all copies come to for one copy; `cups` names the waste. What is strewn leaves
    nothing in a cup: `strewn` is the term of what falls beside."""
    drop_ml = scene.bench.drop_ml
    total = sum(one.total_ml for one in batches) / scene.copies
    left = sum(one.left_ml for one in batches) / scene.copies
    formula = "in place / (1 − loss)" if strewn else "in place + what stays in cup and on tools"
    source = f"default: {LEFT_SHARE:.0%} of each batch + {LEFT_FILM} × batch to the power 2/3"
    mix_ml = Figure(total, "ml", formula, (*terms, strewn or Term(cups, left, "ml", source)))
    out = []
    measured = amounts(mix, labels.materials, total, tint, drop_ml)
    for amount in measured:
        material = labels.materials[amount.material]
        ingredient = next(
            (one for one in mix.ingredients if (one.material, one.part) == (amount.material, amount.part)),
            None,
        )
        ratio = ":".join(f"{one.parts:g}" for one in mix.ingredients)
        density = Term("density", material.density_of(amount.part), "g/ml", f"label of {material.name}")
        if ingredient is None:
            share = next(per_100 for name, per_100 in tint if name == amount.material)
            counted = "grams" if material.weighed else "drops"
            working: tuple[Term, ...] = (
                Term(f"{counted} per 100 ml", share, "", "this scene"),
                Term("to mix", total, "ml"),
                *(() if material.weighed else (Term("one drop", drop_ml, "ml", "your bench"),)),
            )
            formula = f"{counted} per 100 ml × what is mixed"
        else:
            share = ingredient.parts
            working = (
                Term("to mix", total, "ml"),
                Term(f"parts of {ratio} by {mix.basis}", share, "", f"label of {mix.name}"),
            )
            formula = "its share of the parts, scaled so that the wet mix has the volume wanted"
        out.append(
            Ingredient(
                amount.material,
                amount.part,
                Figure(amount.volume_ml, "ml", formula, working),
                Figure(amount.mass_g, "g", "volume × density", (Term("volume", amount.volume_ml, "ml"), density)),
                None if amount.drops is None else Figure(amount.drops, "drops", formula, working),
            )
        )
    mass = sum(amount.mass_g for amount in measured)
    mass_g = Figure(
        mass,
        "g",
        "sum of the ingredients' masses",
        (
            *(
                Term(
                    labels.materials[one.material].name + (f", {one.part}" if one.part else ""),
                    one.mass_g,
                    "g",
                )
                for one in measured
            ),
            Term(
                "density of the wet mix",
                wet(mix, labels.materials).density,
                "g/ml",
                "sum of masses / wet volume",
            ),
        ),
    )
    return Mixed(mix_ml, mass_g, tuple(out), batches)
