"""What tins say: generic materials and mixes as TOML, one file an entry, and their typed loader.

To add a material, copy a neighbour in `materials/`; the file's name is its id. Recipes with
labels of their own are in `mixes/`, the cautions that hazards call for in `cautions.toml`, and what steps use up beside
what is laid in `sundries.toml`.
"""

from .load import Catalogue, shipped
from .model import (
    Bench,
    Caution,
    Dries,
    Entry,
    Factor,
    HandRate,
    LiftSelector,
    Material,
    Mix,
    NeighbourRule,
    OrderRule,
    Part,
    Price,
    Reacts,
    Rules,
    Sets,
    Sundry,
    Thermal,
    Tool,
)

__all__ = [
    "Bench",
    "Catalogue",
    "Caution",
    "Dries",
    "Entry",
    "Factor",
    "HandRate",
    "LiftSelector",
    "Material",
    "Mix",
    "NeighbourRule",
    "OrderRule",
    "Part",
    "Price",
    "Reacts",
    "Rules",
    "Sets",
    "Sundry",
    "Thermal",
    "Tool",
    "shipped",
]
