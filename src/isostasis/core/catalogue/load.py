"""Reads the shipped labels and rules. The only files that the core reads are these."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from .model import Caution, Factor, Material, Mix, NeighbourRule, OrderRule, Rules, Sundry


@dataclass(frozen=True, eq=False)
class Catalogue:
    """Materials and mixes by id, the rules in force, what steps use up beside, and what records say of labels. One
    value, passed to whatever needs it; it is never changed, and compares by identity."""

    materials: dict[str, Material]
    mixes: dict[str, Mix]
    rules: Rules
    sundries: tuple[Sundry, ...] = ()
    factors: tuple[Factor, ...] = ()

    @property
    def names(self) -> dict[str, str]:
        """What each label is called, by id; a mix wins over a material."""
        materials = {key: one.name for key, one in self.materials.items()}
        return materials | {key: one.name for key, one in self.mixes.items()}

    def with_own(self, materials: Iterable[Material], mixes: Iterable[Mix]) -> Catalogue:
        """This with someone's own entries, which win."""
        return Catalogue(
            {**self.materials, **{one.id: one for one in materials}}, {**self.mixes, **{one.id: one for one in mixes}},
            self.rules, self.sundries, self.factors,
        )  # fmt: skip


@cache
def shipped() -> Catalogue:
    """The catalogue that comes with the program. A TOML file that does not fit its model raises at once.

    Only the edges call this (command line, store, solver's process); the core takes what it is given.
    """
    package = files(__package__)

    def entries(folder: str) -> list[dict[str, object]]:
        paths = sorted((path for path in (package / folder).iterdir() if path.name.endswith(".toml")), key=str)
        return [{"id": path.name.removesuffix(".toml"), **tomllib.loads(path.read_text("utf-8"))} for path in paths]

    def rules(name: str, table: str) -> list[dict[str, object]]:
        found: list[dict[str, object]] = tomllib.loads((package / f"{name}.toml").read_text("utf-8"))[table]
        return found

    return Catalogue(
        materials={str(entry["id"]): Material.model_validate(entry) for entry in entries("materials")},
        mixes={str(entry["id"]): Mix.model_validate(entry) for entry in entries("mixes")},
        rules=Rules(
            cautions=tuple(Caution.model_validate(entry) for entry in rules("cautions", "caution")),
            neighbours=tuple(NeighbourRule.model_validate(entry) for entry in rules("neighbours", "rule")),
            order=tuple(OrderRule.model_validate(entry) for entry in rules("order", "rule")),
        ),
        sundries=tuple(Sundry.model_validate(entry) for entry in rules("sundries", "sundry")),
    )
