"""The terms of figures that are read off the ground."""

from __future__ import annotations

from flask import render_template, request

from ...core.fault import fault
from ..shared.scenes import open_scene
from .reports import asked, report_of
from .views import blueprint


@blueprint.get("/s/<slug>/ground/working")
def working(slug: str) -> str:
    """The terms of a figure that is read off the ground, by its path in the report. Raises Faults."""
    opened = open_scene(slug)
    where = request.args.get("path", "")
    try:
        figure = report_of(opened, asked(), where.split(".")[0]).figure(where)
    except KeyError:
        raise fault(where or "path", "the ground has no such figure", "reload the page; it may have changed") from None
    return render_template("shared/_working.html", figure=figure)
