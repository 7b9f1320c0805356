"""Kinds of forms, one module each: its model and `shape`, which maps the ground to the ground after it.

`bare_ground` folds the ground through all forms of a scene. To add a kind, write its module and name it in
FORM_MODULES (CONTRIBUTING.md walks through it).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, get_args

from ...document.scene import Base, Form
from ...stages import cached_stage
from ..field import Ground, Shaped, empty_ground
from . import basin, bevel, casting, channel, dips, mound, ramp, rim, sheet, survey

FORM_MODULES = (sheet, mound, ramp, rim, basin, channel, bevel, casting, survey, dips)

FORM_MODELS: tuple[type[Form], ...] = tuple(module.MODEL for module in FORM_MODULES)
_SHAPES: dict[str, Callable[[Any, Ground, str], Shaped]] = {
    get_args(module.MODEL.model_fields["kind"].annotation)[0]: module.shape for module in FORM_MODULES
}


@cached_stage
def shaped(form: Form, ground: Ground, where: str) -> Shaped:
    """One form's step of the fold. Raises Faults with the form's path in the document."""
    return _SHAPES[form.kind](form, ground, where)


def bare_ground(base: Base, cell_mm: float, forms: tuple[Form, ...]) -> tuple[Ground, tuple[Shaped, ...]]:
    """The fold over all forms that wait for no lift, in their order: the ground before any lift, and what each did."""
    ground = empty_ground(base, cell_mm)
    done = []
    for index, form in enumerate(forms):
        if form.off or form.after:
            continue
        step = shaped(form, ground, f"forms[{index}]")
        done.append(step)
        ground = step.ground
    return ground, tuple(done)
