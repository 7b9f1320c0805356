"""Foam: sheets nested on panels, and the steps that cut and glue them."""

from __future__ import annotations

from ...core.terrain.report import GroundQuery
from ..shared.scenes import open_scene
from .reports import report_of, tool_page
from .views import blueprint


@blueprint.get("/s/<slug>/ground/foam")
def foam(slug: str) -> str:
    """Sheets nested on panels."""
    opened = open_scene(slug)
    steps = [step for step in opened.plan.steps if step.form or step.kind == "trial-fit"]
    first_told: dict[str, str] = {}
    for step in steps:
        for caution in opened.plan.cautions_of(step.id):
            first_told.setdefault(caution.code, step.id)

    def told_before(step_id: str) -> set[str]:
        """Cautions that an earlier step has told already."""
        return {code for code, at in first_told.items() if at != step_id}

    return tool_page(
        "foam",
        "foam",
        opened,
        lists=report_of(opened, GroundQuery(), "foam").foam or {},
        built=steps,
        told_before=told_before,
        glues=[name for name, one in opened.labels.materials.items() if one.glue_line_h],
    )
