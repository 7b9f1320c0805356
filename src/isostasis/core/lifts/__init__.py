"""Kinds of lifts: how much, how it hardens, what to watch.

Each kind is one module with the kind's MODEL, `lay` (the ground after it) and `work` (its figures). To add a
kind, copy a neighbour and name it in LIFT_MODULES. `fold` takes the ground through all lifts of a scene.
"""

from __future__ import annotations

from types import ModuleType
from typing import get_args

from ..document.scene import Lift
from . import coat, fix, pour, shell, skin, texture, waves

LIFT_MODULES: tuple[ModuleType, ...] = (shell, skin, texture, fix, coat, pour, waves)

LIFT_MODELS: tuple[type[Lift], ...] = tuple(module.MODEL for module in LIFT_MODULES)
_BY_KIND = {get_args(module.MODEL.model_fields["kind"].annotation)[0]: module for module in LIFT_MODULES}


def module_of(lift: Lift) -> ModuleType:
    """The module of the lift's kind."""
    return _BY_KIND[lift.kind]
