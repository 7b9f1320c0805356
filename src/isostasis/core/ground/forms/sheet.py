"""A sheet: cut to an outline and glued on; its top is level, gaps beneath it are closed."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ...document.outline import Ring
from ...document.scene import Form
from ...fault import fault
from ..field import Ground, Shaped
from ..raster import covered, edge_length


class Sheet(Form):
    """A flat sheet with an outline."""

    kind: Literal["sheet"] = "sheet"
    outline: Ring
    thickness_mm: Annotated[float, Field(gt=0, le=1000)]


MODEL = Sheet
DEFAULT_MATERIAL = "foam-xps"


def shape(form: Sheet, ground: Ground, where: str) -> Shaped:
    """Lay the sheet: its top stands at the highest ground under its outline + thickness."""
    share = covered(form.outline, ground.shape, ground.cell_mm)
    under = (share > 0) & (share >= 0.5 * ground.inside)
    if not under.any():
        raise fault(f"{where}.outline", "covers no cell of the grid", "make the outline larger or grid_mm smaller")
    top = float(ground.z[under].max()) + form.thickness_mm
    z = np.where(under, top, ground.z)
    volume = float(((top - ground.z) * share)[under | (share > 0)].sum()) * ground.cell_area / 1000
    after = ground.after(z, form.material or DEFAULT_MATERIAL)
    return Shaped(form, volume, float(share.sum()) * ground.cell_area, edge_length(form.outline), after)
