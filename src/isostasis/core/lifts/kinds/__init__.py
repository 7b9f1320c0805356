"""Kinds of lifts, one module or folder each. All of them answer the same hooks; `HOOKS` names them.

To add a kind, write its module and name it in KINDS (CONTRIBUTING.md walks through it).
"""

from __future__ import annotations

from types import ModuleType
from typing import get_args

from ...document.scene import Lift
from . import coat, falls, fix, pour, shell, skin, texture, waves

KINDS: tuple[ModuleType, ...] = (shell, skin, texture, fix, coat, pour, waves, falls)

# What each module defines itself, and what each MODEL says of itself: none of them has a default.
HOOKS = (
    "MODEL", "lay", "estimate", "covers", "look", "drinks", "edge_mm", "mess", "traits", "ALTERNATIVE_FAMILIES",
    "SOONEST", "alternatives", "chosen", "adopt", "may_replace", "quicker", "as_planned", "extent", "with_extent",
)  # fmt: skip
TAGS = (
    "levels_itself", "raises_ground", "shares_batches", "dries_as_bed", "wants_dry_bed", "names_material", "names_mix",
)  # fmt: skip

LIFT_MODELS: tuple[type[Lift], ...] = tuple(module.MODEL for module in KINDS)
_BY_NAME = {get_args(module.MODEL.model_fields["kind"].annotation)[0]: module for module in KINDS}


def kind_of(lift: Lift) -> ModuleType:
    """The module of the lift's kind."""
    return _BY_NAME[lift.kind]
