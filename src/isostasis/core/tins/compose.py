"""Mixes of one's own: so many parts of anything, materials or mixes, taken apart into what is bought."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from ..catalogue import Catalogue, Mix, Part
from ..fault import fault
from ..mixing.parts import amounts

Family = Literal["skin", "texture", "binder", "wetting", "seal", "colour"]
FAMILIES: tuple[Family, ...] = get_args(Family)
MAX_PARTS = 12
# The shipped mix whose drying, setting and film stand where one's own says nothing.
LIKE: dict[Family, str] = {
    "skin": "filler-grout-render", "texture": "quarry-dust", "binder": "glue-water-1-1", "wetting": "alcohol-70",
    "seal": "satin-1-1", "colour": "satin-1-1",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Measure:
    """So many parts of a material or a mix, by its id."""

    label: str
    parts: float


def compose(
    label: str,
    name: str,
    family: Family,
    basis: Literal["volume", "mass"],
    measures: Sequence[Measure],
    known: Catalogue,
) -> tuple[Mix, tuple[str, ...]]:
    """A mix out of parts of anything, and the labels that it is made of. A mix among them is taken apart into its own
    ingredients, as they are before they are wet. What hardens by two parts cannot be a part of something else.

    Raises Faults for parts of nothing, a label that is not there, a resin.

    >>> from isostasis.core.catalogue import shipped
    >>> parts = [Measure("glue-water-1-1", 2), Measure("water", 2)]
    >>> made, of = compose("wash", "Wash", "binder", "volume", parts, shipped())
    >>> [(one.material, one.parts) for one in made.ingredients], of
    ([('white-glue', 1.0), ('water', 3.0)], ('glue-water-1-1', 'water'))
    """  # fmt: skip
    if not 1 <= len(measures) <= MAX_PARTS:
        raise fault("parts", f"it has {len(measures)}", f"write 1 to {MAX_PARTS}")
    values: dict[str, float] = {}
    for number, measure in enumerate(measures, start=1):
        if measure.parts <= 0:
            raise fault(f"part {number}", f"{measure.parts:g} parts are none", "write how many, or leave it out")
        for material, parts in _apart(measure, basis, known, number):
            values[material] = values.get(material, 0.0) + parts
    like = known.mixes[LIKE[family]]
    made_of = tuple(one.label for one in measures)
    ingredients = tuple(Part(material=material, parts=round(parts, 6)) for material, parts in values.items())
    names = ", ".join(f"{one.parts:g} {_name(one.label, known)}" for one in measures)
    data = like.model_dump(mode="json", exclude_unset=True)
    data |= {
        "id": label, "name": name, "family": family, "basis": basis, "ingredients": ingredients,
        "source": f"my own: {names}; hardens as {like.name.lower()} by default"[:400],
    }  # fmt: skip
    return Mix.model_validate(data), made_of


def _name(label: str, known: Catalogue) -> str:
    entry = known.mixes.get(label) or known.materials.get(label)
    return entry.name.lower() if entry else label


def _apart(
    measure: Measure, basis: Literal["volume", "mass"], known: Catalogue, number: int
) -> list[tuple[str, float]]:
    """(material, parts) of a measure by that basis; of a mix so much of it as fills, or weighs, that many parts."""
    if measure.label in known.mixes:
        mix = known.mixes[measure.label]
        if mix.reacts is not None:
            raise fault(f"part {number}", f"{mix.name} hardens by itself", "pour it, or tint it on its lift")
        made = amounts(mix, known.materials, 100.0)
        each = [(one.material, one.volume_ml if basis == "volume" else one.mass_g) for one in made]
        whole = sum(amount for _, amount in each)
        return [(material, measure.parts * amount / whole) for material, amount in each]
    material = known.materials.get(measure.label)
    if material is None:
        raise fault(f"part {number}", f"there is no label “{measure.label[:60]}”", "choose one of the list")
    if material.part_density:
        raise fault(f"part {number}", f"{material.name} comes in two parts", "mix it as its own tin says")
    return [(measure.label, measure.parts)]
