"""Foam: sheets nested on panels, and the steps that cut and glue them."""

from __future__ import annotations

from ...core.plan.cautions import told_once
from ...core.terrain.report import GroundQuery
from ..shared.scenes import open_scene
from .reports import report_of, tool_page
from .views import blueprint


@blueprint.get("/s/<slug>/ground/foam")
def foam(slug: str) -> str:
    """Sheets nested on panels."""
    opened = open_scene(slug)
    steps = [step for step in opened.plan.steps if step.form or step.kind == "trial-fit"]
    return tool_page(
        "foam",
        "foam",
        opened,
        lists=report_of(opened, GroundQuery(), "foam").foam or {},
        built=steps,
        cautions=told_once((step.id, opened.plan.cautions_of(step.id)) for step in steps),
        glues=[name for name, one in opened.labels.materials.items() if one.glue_line_h],
    )
