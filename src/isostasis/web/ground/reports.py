"""What is read off the ground, as every page beside the forms asks for it and shows it."""

from __future__ import annotations

from typing import Any

from flask import render_template, request

from ...core.terrain.report import GroundQuery, Report, report
from ..shared.fields import Field, read
from ..shared.scenes import OpenScene
from .views import no_stage, render_panels

QUERY = (
    Field("slope", "slope", "deg", start=38.0),
    Field("foot", "foot", "mm", optional=True),
    Field("x", "place, x", "number", optional=True),
    Field("y", "place, y", "number", optional=True),
    Field("at", "stage", start="bare"),
    Field("mix", "compound", "choice", start="paper-plaster"),
)


def asked() -> GroundQuery:
    """What the reader chose, from the address. Raises Faults for what is no number."""
    sent = {name: value for name, value in request.args.items() if value.strip() or name in ("slope", "x", "y")}
    slope, foot, x, y, stage, mix = read(QUERY, sent).values()
    return GroundQuery(stage, slope, mix, foot, None if x is None or y is None else (x, y))


def report_of(opened: OpenScene, wanted: GroundQuery, *sections: str) -> Report:
    """The sections of the report that a page shows. Raises Faults, also for a stage that is not there."""
    try:
        return report(opened.scene, opened.plan.built, opened.plan.lifts, wanted, opened.catalogue, sections)
    except KeyError:
        raise no_stage(wanted.stage) from None


def tool_page(template: str, tool: str, opened: OpenScene, stage: str = "bare", **more: Any) -> str:
    """A tool's page: plan and cut at a stage, and its figures."""
    query = {name: request.args[name] for name in ("slope", "mix", "foot", "x", "y", "at") if name in request.args}
    return render_template(
        f"ground/{template}.html",
        opened=opened,
        p=render_panels(opened, stage),
        tool=tool,
        place="ground.page",
        query=query,
        **more,
    )
