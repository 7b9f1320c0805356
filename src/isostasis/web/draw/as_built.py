"""How what was built is told from what is planned, in lanes, cores and cuts."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ...core.plan import Plan
from .panels import CutShape, Panels
from .path import line_d
from .projection import Projection


def lift_class(plan: Plan, lift_id: str) -> str:
    """How a lift is drawn: as built, light while it is planned, struck through where it must come off; all alike as
    long as nothing of the scene was built."""
    state = plan.lifts[lift_id].state
    return {None: "", "done": "built", "part": "built", "off": "off"}.get(state, "planned")


def off_cut(plan: Plan, row: int, frame: Projection) -> str:
    """The lines along the cut over what must come off; empty where nothing must."""
    bare, parts = plan.built.bare, []
    loose = np.zeros(bare.shape[1], dtype=bool)
    for off in plan.off or ():
        for layer, whole in off.parts:
            loose |= (layer.loose[row] > 0) | (whole & (layer.share[row] > 0))
    edges = np.flatnonzero(np.diff(np.concatenate(([False], loose, [False])).astype(int)))
    for start, end in zip(edges[::2], edges[1::2], strict=True):
        columns = range(start, end)
        points = [((column + 0.5) * bare.cell_mm, float(bare.z[row, column])) for column in columns]
        parts.append(line_d((frame.x(x), frame.z(z) - 3) for x, z in points))
    return "".join(parts)


def as_built(panels: Panels, plan: Plan) -> Panels:
    """The panels with their cut told apart: built in full strength, planned light, what must come off struck."""
    shapes = [
        replace(one, state=lift_class(plan, one.lift)) if one.lift in plan.lifts else one for one in panels.shapes
    ]
    off = off_cut(plan, panels.row, panels.frame)
    return replace(panels, shapes=[*shapes, *([CutShape(off, "off", "must come off")] if off else [])])
