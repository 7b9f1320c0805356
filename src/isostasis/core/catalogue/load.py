"""Reads the shipped labels. The only files that the core reads are these."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from .model import Caution, Material, Mix, NeighbourRule, OrderRule


@dataclass(frozen=True)
class Catalogue:
    """Materials and mixes by id, cautions in the order they are told, rules of what goes on, beside and after what."""

    materials: dict[str, Material]
    mixes: dict[str, Mix]
    cautions: tuple[Caution, ...]
    neighbours: tuple[NeighbourRule, ...]
    order: tuple[OrderRule, ...]


@lru_cache(maxsize=1)
def shipped() -> Catalogue:
    """The catalogue that comes with the program. A TOML file that does not fit its model raises at once."""
    here = files(__package__)

    def entries(folder: str) -> list[dict[str, object]]:
        paths = sorted((path for path in (here / folder).iterdir() if path.name.endswith(".toml")), key=str)
        return [{"id": path.name.removesuffix(".toml"), **tomllib.loads(path.read_text("utf-8"))} for path in paths]

    cautions = tomllib.loads((here / "cautions.toml").read_text("utf-8"))["caution"]
    rules = {
        name: tomllib.loads((here / f"{name}.toml").read_text("utf-8"))["rule"] for name in ("neighbours", "order")
    }
    return Catalogue(
        materials={str(entry["id"]): Material.model_validate(entry) for entry in entries("materials")},
        mixes={str(entry["id"]): Mix.model_validate(entry) for entry in entries("mixes")},
        cautions=tuple(Caution.model_validate(entry) for entry in cautions),
        neighbours=tuple(NeighbourRule.model_validate(entry) for entry in rules["neighbours"]),
        order=tuple(OrderRule.model_validate(entry) for entry in rules["order"]),
    )
