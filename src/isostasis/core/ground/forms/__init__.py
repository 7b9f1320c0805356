"""Kinds of forms. Each module has the kind's model and `shape`, which maps the ground to the ground after it.

To add a kind, copy a neighbour and name it in FORM_MODULES.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, get_args

from ...document.scene import Form
from ..field import Ground, Shaped
from . import basin, bevel, casting, channel, mound, ramp, rim, sheet, survey

FORM_MODULES = (sheet, mound, ramp, rim, basin, channel, bevel, casting, survey)

FORM_MODELS: tuple[type[Form], ...] = tuple(module.MODEL for module in FORM_MODULES)
_SHAPES: dict[str, Callable[[Any, Ground, str], Shaped]] = {
    get_args(module.MODEL.model_fields["kind"].annotation)[0]: module.shape for module in FORM_MODULES
}


def shape_of(form: Form) -> Callable[[Any, Ground, str], Shaped]:
    """The function that lays or cuts forms of this kind."""
    return _SHAPES[form.kind]
