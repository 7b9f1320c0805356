"""Joints: where the base comes apart, the profiles on both sides, and the separators."""

from __future__ import annotations

from typing import Any

from flask import g, request, url_for
from werkzeug.wrappers import Response

from ...core.document.edit import set_base
from ...core.terrain.joints import profiles
from ...core.terrain.report import GroundQuery
from ..draw.path import line_d
from ..shared.fields import parse_measure
from ..shared.scenes import edit, open_scene
from .reports import report_of, tool_page
from .views import blueprint


@blueprint.get("/s/<slug>/ground/joints")
def joints(slug: str) -> str:
    """Profiles on both sides of a joint, and its separators."""
    opened = open_scene(slug)
    by_name = report_of(opened, GroundQuery(), "joints").joints or {}
    name = request.args.get("joint", next(iter(by_name), ""))
    chosen = by_name.get(name)
    lines = None
    if chosen:
        along, before, behind = profiles(opened.plan.built.bare, chosen.axis, chosen.at_mm)
        finished = profiles(opened.plan.built.finished, chosen.axis, chosen.at_mm)
        length, high = float(along[-1]) + 1, max(float(finished[1].max()), float(before.max()), 1.0) * 1.1
        x_scale, z_scale = 720 / length, min(300 / high, 720 / length * 4)

        def line(z: Any) -> str:
            return line_d((50 + a * x_scale, 330 - b * z_scale) for a, b in zip(along, z, strict=True))

        lines = {
            "before": line(before), "behind": line(behind), "finished": line(finished[1]),
            "area": line(before) + f"L{50 + along[-1] * x_scale:.1f},330L50,330Z",
            "times": z_scale / x_scale,
            "ticks": [(330 - z * z_scale, z) for z in range(0, int(high), max(10, round(high / 50) * 10))],
            "marks": [(50 + a * x_scale, a) for a in range(0, int(length), max(50, round(length / 6 / 50) * 50))],
        }  # fmt: skip
    return tool_page("joints", "joints", opened, found=by_name, chosen=chosen, name=name, lines=lines)


@blueprint.post("/s/<slug>/ground/joints")
def set_joints(slug: str) -> Response:
    """Where the base comes apart: places along x and along y."""

    places = {
        f"joints_{axis}_mm": sorted(
            parse_measure(piece, "length", f"joint along {axis}", g.measures)
            for piece in request.form.get(axis, "").split(";")
            if piece.strip()
        )
        for axis in ("x", "y")
    }
    return edit(slug, "Joints moved", lambda scene: set_base(scene, **places), url_for("ground.joints", slug=slug))
