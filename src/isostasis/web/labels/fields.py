"""What can be read off a tin: each field's place in the label, its words, and which labels have it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ...core.catalogue import Catalogue, Material, Mix
from ...store.labels import Change
from ..shared.fields import Field

Label = Material | Mix
Path = tuple[str | int, ...]
FAMILIES = {
    "resin": "Resins", "skin": "Compounds and plasters", "texture": "Textures", "binder": "Glues and binders",
    "wetting": "Wetting", "seal": "Seals", "varnish": "Varnishes", "colour": "Paints and inks", "powder": "Powders",
    "grain": "Grains", "cloth": "Cloth", "foam": "Foam", "paper": "Paper", "board": "Boards", "glue": "Glues for foam",
    "paste": "Pastes", "tissue": "Tissue", "water": "Water", "tool": "Tools and covers",
}  # fmt: skip


@dataclass(frozen=True)
class TinField:
    """A field of a label: where it stands in the data, and how it is typed."""

    path: Path
    field: Field

    @property
    def name(self) -> str:
        """Its name in a form."""
        return self.field.name

    def value(self, data: Mapping[str, Any]) -> Any:
        """What a label's data holds there; None where there is nothing."""
        node: Any = data
        for key in self.path:
            if node is None or (isinstance(key, int) and key >= len(node)):
                return None
            node = node[key] if isinstance(key, int) else node.get(key)
        return node

    def put(self, data: dict[str, Any], value: Any) -> None:
        """Put a value there; None takes the field away."""
        node: Any = data
        for key in self.path[:-1]:
            node = node[key]
        if value is None:
            node.pop(self.path[-1], None)
        else:
            node[self.path[-1]] = value


def _field(path: str, label: str, unit: Any = "number", hint: str = "", **more: Any) -> TinField:
    keys: Path = tuple(int(one) if one.isdecimal() else one for one in path.split("."))
    called = path.replace(".", "_")
    return TinField(keys, Field(called, label, unit, hint=hint, optional=True, says_unit=unit == "mm", **more))


_BASIS = _field(
    "basis", "The parts are", "choice", options=(("volume", "by volume, as scooped"), ("mass", "by mass, weighed"))
)
_MIX = (
    _field("reacts.working_min", "Working time, min", hint="100 g in the cup"),
    _field("reacts.hard_h", "Hard after, h", hint="a thin layer"),
    _field("reacts.temp_c", "Told for a room of", "degC"),
    _field("reacts.max_depth_mm", "Greatest depth of one lift", "mm"),
    _field("reacts.last_bond_h", "The next lift still bonds until, h"),
    _field("reacts.shrinkage", "Gets smaller by, percent", "percent"),
    _field("reacts.viscosity_pa_s", "Thickness, Pa s", hint="oil 0.1, honey 5"),
    _field("sets.set_min", "Sets after, min"),
    _field("sets.water_ratio", "Water to powder, by mass"),
    _field("dries.solids", "What stays when it is dry, percent", "percent", hint="by mass"),
    _field("film_mm", "One coat, wet", "mm"),
    _field("pour_mm", "Poured no deeper than", "mm"),
    _field("most_mm", "One course no thicker than", "mm"),
    _field("slump_mm", "A spoonful spreads to", "mm"),
    _field("first", "First into the bowl", "choice", options=(("liquid", "the water"), ("powder", "the powder"))),
    _field("air", "Air stirred in, percent", "percent"),
    _field("opacity", "One coat hides, percent", "percent"),
    _field("colour", "Colour", "colour"),
)
_MATERIAL = (
    _field("density", "A millilitre weighs, g"),
    _field("particle_density", "Its grains alone, g a ml"),
    _field("sets.set_min", "Sets after, min"),
    _field("sets.water_ratio", "Water to powder, by mass"),
    _field("dries.solids", "What stays when it is dry, percent", "percent", hint="by mass"),
    _field("film_mm", "One coat, wet", "mm"),
    _field("thickness_mm", "Thickness", "mm"),
    _field("roll_mm.0", "Roll, long", "mm"),
    _field("roll_mm.1", "Roll, wide", "mm"),
    _field("panel_mm.0", "Panel, long", "mm"),
    _field("panel_mm.1", "Panel, wide", "mm"),
    _field("overlap_mm", "Strips overlap by", "mm"),
    _field("takes_water", "Water taken up, ml a g"),
    _field("grain_mm", "Grain", "mm"),
    _field("voids", "Voids between grains, percent", "percent"),
    _field("reach_mm", "Glue reaches down", "mm"),
    _field("glue_line_h", "Holds after, h"),
    _field("glue_film_mm", "Film of glue", "mm"),
    _field("opacity", "One coat hides, percent", "percent"),
    _field("strength", "How far it pulls a blend"),
    _field("colour", "Colour", "colour"),
)


def data_of(label: Label) -> dict[str, Any]:
    """A label as data, as it was given and with what stands by default."""
    data: dict[str, Any] = label.model_dump(mode="json", exclude_none=True)
    return data


def fields_of(label: Label, known: Catalogue) -> list[TinField]:
    """The fields that a label of its kind has: its parts first, then what it says of itself."""
    data = data_of(label)
    rest = _MATERIAL if isinstance(label, Material) else _MIX
    stands = [one for one in rest if one.value(data) is not None and _meant(one, label)]
    return [TinField(("name",), Field("name", "Name", most=80)), *_parts(label, known), *stands]


def _meant(field: TinField, label: Label) -> bool:
    """Whether a field means anything for a label: colours and films of paints, not of every powder by default."""
    first = field.path[0]
    given = label.model_fields_set
    return first in given or (first == "opacity" and label.family == "colour")


def _parts(label: Label, known: Catalogue) -> Iterator[TinField]:
    if isinstance(label, Material):
        return
    yield _BASIS
    for place, part in enumerate(label.ingredients):
        material = known.materials.get(part.material)
        name = (material.name if material else part.material) + (f", {part.part}" if part.part else "")
        yield TinField(
            ("ingredients", place, "parts"), Field(f"part_{place}", f"Parts of {name}", "number", optional=True, low=0)
        )


def by_mass(mix: Mix, known: Catalogue) -> str:
    """The parts of a mix as the other basis has them, against a hundred of the first; empty where that is not known."""
    amounts = []
    for part in mix.ingredients:
        material = known.materials.get(part.material)
        if material is None:
            return ""
        density = material.density_of(part.part)
        amounts.append(part.parts * density if mix.basis == "volume" else part.parts / density)
    if len(amounts) < 2 or not amounts[0]:
        return ""
    return " : ".join(f"{100 * one / amounts[0]:.4g}" for one in amounts)


def told_apart(held: Label | None, new: Label) -> list[tuple[str, str, str]]:
    """(what, here, new) of each field by which two labels differ, as far as fields have words."""
    if held is None:
        return []
    before, after = data_of(held), data_of(new)
    rest = _MATERIAL if isinstance(new, Material) else _MIX
    fields = [TinField(("name",), Field("name", "Name")), *rest]
    told_fields = [
        (one.field.label, one.field.show(one.value(before)), one.field.show(one.value(after)))
        for one in fields
        if one.value(before) != one.value(after)
    ]
    if before.get("ingredients") != after.get("ingredients"):
        told_fields.append(("Parts", _ratio(before), _ratio(after)))
    return told_fields or [("Other things", "as here", "otherwise")]


def _ratio(data: Mapping[str, Any]) -> str:
    return " : ".join(f"{one['parts']:g} {one['material']}" for one in data.get("ingredients", ()))


def told(change: Change) -> str:
    """What a label says otherwise, in one sentence."""
    known = {".".join(map(str, one.path)): one.field for one in (_MATERIAL if change.kind == "material" else _MIX)}
    parts = []
    for path, before, after in change.fields:
        field = known.get(path)
        if field is not None:
            parts.append(f"{field.label.lower()} {field.show(before) or 'nothing'} → {field.show(after) or 'nothing'}")
        elif path.startswith("ingredients"):
            parts.append("its parts")
        elif path not in ("source", "name"):
            parts.append(path.replace("_", " "))
    return f"{change.name} says otherwise: {', '.join(dict.fromkeys(parts)) or 'its name'}"
