"""From a scene and a catalogue to a resolved document, in which everything that a plan depends on is written out.

`plan` takes nothing else, so a screen and a command line that start from the same resolved document cannot differ.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from difflib import get_close_matches

from ..catalogue import Bench, Catalogue, Factor, Material, Mix, Rules
from ..fault import Fault, Faults
from .scene import Scene


class ResolvedScene(Scene):
    """A scene with grid, bench, rules in force, every label in use and what records say of it written out."""

    grid_mm: float
    bench: Bench
    rules: Rules
    factors: tuple[Factor, ...]


BATTEN = "batten"  # the label of what keeps a board straight


def _named(scene: Scene) -> Iterator[tuple[str, str, str]]:
    """(path, "material" or "mix", id) for every label that the document names."""
    yield "base.board", "material", scene.base.board
    if scene.base.battens:
        yield "base.battens", "material", BATTEN
    for index, form in enumerate(scene.forms):
        for field, name in (("material", form.made_of), ("glue", form.glue)):
            if name:
                yield f"forms[{index}].{field}", "material", name
        if getattr(form, "mix", None):
            yield f"forms[{index}].mix", "mix", form.mix
    for index, thing in enumerate(scene.protect):
        if thing.how == "seal":
            yield f"protect[{index}].material", "material", thing.material
    for index, patch in enumerate(scene.patches):
        for place, lift in enumerate(patch.lifts):
            where = f"patches[{index}].lifts[{place}]"
            for kind, fields in (("material", lift.names_material), ("mix", lift.names_mix)):
                for field in fields:
                    if getattr(lift, field, None):
                        yield f"{where}.{field}", kind, getattr(lift, field)
            if getattr(lift, "thin", 0.0):
                yield f"{where}.thin", "material", "water"
            for number, tint in enumerate(getattr(lift, "tint", ())):
                yield f"{where}.tint[{number}].material", "material", tint.material


def _missing(where: str, kind: str, name: str, known: Iterable[str]) -> Fault:
    known = sorted(known)
    close = get_close_matches(name, known, n=1)
    right = f"did you mean '{close[0]}'?" if close else f"one of {', '.join(known)}"
    return Fault(where, f"there is no {kind} '{name}'", right)


def resolve(scene: Scene, catalogue: Catalogue, bench: Bench | None = None) -> ResolvedScene:
    """`scene` with grid, bench, rules and labels written out: its own entries, all of them, and those of the catalogue
    that it uses; its own win.

    `bench` are the user's own things, taken where the document gives none. Raises Faults for
    names that lead nowhere, with the nearest name.
    """
    materials = {**catalogue.materials, **{entry.id: entry for entry in scene.materials}}
    mixes = {**catalogue.mixes, **{entry.id: entry for entry in scene.mixes}}
    faults: list[Fault] = []
    used_materials: dict[str, Material] = {entry.id: entry for entry in scene.materials}
    used_mixes: dict[str, Mix] = {}

    def use(where: str, kind: str, name: str) -> None:
        if kind == "material":
            if name in materials:
                used_materials[name] = materials[name]
                if materials[name].takes_water:
                    used_materials["water"] = materials["water"]
            else:
                faults.append(_missing(where, kind, name, materials))
        elif name not in mixes:
            faults.append(_missing(where, kind, name, mixes))
        elif name not in used_mixes:
            used_mixes[name] = mixes[name]
            for part in mixes[name].ingredients:
                use(f"mixes.{name}.ingredients", "material", part.material)

    for where, kind, name in _named(scene):
        use(where, kind, name)
    for entry in scene.mixes:
        use("mixes", "mix", entry.id)
    if faults:
        raise Faults(faults)
    fields = {name: getattr(scene, name) for name in type(scene).model_fields}
    return ResolvedScene.model_construct(
        **{
            **fields,
            "grid_mm": scene.cell_mm,
            "bench": scene.bench or bench or Bench(),
            "rules": scene.rules or catalogue.rules,
            "factors": tuple(
                one
                for one in (catalogue.factors if scene.factors is None else scene.factors)
                if one.label in used_mixes or one.label in used_materials
            ),
            "materials": tuple(used_materials[name] for name in sorted(used_materials)),
            "mixes": tuple(used_mixes[name] for name in sorted(used_mixes)),
        }
    )
