"""Incline: ways up to an odd height from stock risers, a wedge and shims; and one of them as forms."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise
from math import cos, radians, sin

from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.document import Scene
from ...core.document.edit import add
from ...core.fault import Faults, fault
from ...core.terrain.incline import Incline, as_forms, solve
from ..draw.path import line_d
from ..shared.fields import Field, read
from ..shared.scenes import OpenScene, edit, open_scene
from .reports import tool_page
from .views import blueprint

WANTED = (Field("height", "height", "mm"), Field("grade", "grade", "percent"))
PLACED = (
    Field("x", "start, x", "mm"),
    Field("y", "start, y", "mm"),
    Field("width", "width", "mm"),
    Field("heading", "heading", "deg"),
)


@dataclass(frozen=True)
class Side:
    """An incline drawn from the side, px: riser blocks, the wedges that climb to them, and what stands where."""

    risers: list[tuple[float, float, float, float, float]]
    wedges: list[str]
    ramp: str
    cut_x: float
    run_x: float
    top: float
    base_y: float
    times: float


def side_of(answer: Incline, height: float, grade: float) -> Side:
    """To one scale along, heights drawn taller."""
    run, wide, base_y, left = height / grade, 700.0, 190.0, 50.0
    x_scale, z_scale = wide / run, 130.0 / height
    reached = [0.0]
    boxes = []
    for piece in (*answer.risers_mm, *answer.shims_mm):
        top = reached[-1] + piece
        x = top / grade * x_scale
        size = max(wide + 40 - x, 2.0), piece * z_scale
        boxes.append((left + x, base_y - top * z_scale, *size, piece))
        reached.append(top)
    if answer.wedge_mm.number > 0.05:
        reached.append(height)

    def corner(up_along: float, up: float) -> tuple[float, float]:
        return left + up_along / grade * x_scale, base_y - up * z_scale

    wedges = [
        line_d((corner(low, low), corner(high, high), corner(high, low)), close=True) for low, high in pairwise(reached)
    ]
    last = reached[-2] if len(reached) > 1 else 0.0
    return Side(
        boxes, wedges, line_d(((left, base_y), (left + wide, base_y - height * z_scale))),
        left + last / grade * x_scale, left + wide, base_y - height * z_scale, base_y, z_scale / x_scale,
    )  # fmt: skip


def _incline(opened: OpenScene, sent: Mapping[str, str]) -> tuple[float, float, tuple[Incline, ...]]:
    """Rise in mm, slope, and the answers. Raises Faults."""
    bench = opened.scene.bench
    rise, slope = read(WANTED, sent).values()
    return rise, slope, solve(rise, slope, bench.risers_mm, bench.shims_mm, bench.grade_most)


@blueprint.get("/s/<slug>/ground/incline")
def incline(slug: str) -> str:
    """Ways up to an odd height."""
    opened = open_scene(slug)
    height, grade = request.args.get("height", "31 mm"), request.args.get("grade", "2.5")
    answers: tuple[Incline, ...] = ()
    problem, side, rise, slope = "", None, 0.0, 0.0
    pick = request.args.get("pick", 0, type=int)
    try:
        rise, slope, answers = _incline(opened, {"height": height, "grade": grade})
        pick = min(max(pick, 0), len(answers) - 1)
        side = side_of(answers[pick], rise, slope) if answers else None
    except Faults as faults:
        problem = str(faults.faults[0])
    return tool_page(
        "incline", "incline", opened,
        height=height, grade=grade, answers=answers, pick=pick, side=side, problem=problem, bench=opened.scene.bench,
        height_mm=rise, words=lambda answer: answer.words(lambda mm: opened.show(mm, "mm")),
    )  # fmt: skip


@blueprint.get("/s/<slug>/ground/incline/working")
def incline_working(slug: str) -> str:
    """The terms of a figure of one answer. Raises Faults."""
    opened = open_scene(slug)
    _, _, answers = _incline(opened, request.args)
    pick, name = request.args.get("pick", 0, type=int), request.args.get("figure", "")
    if not (0 <= pick < len(answers)) or name not in ("wedge_mm", "cut_mm", "run_mm", "left_over_mm"):
        raise fault("figure", "there is no such figure", "reload the page")
    return render_template("shared/_working.html", figure=getattr(answers[pick], name))


@blueprint.post("/s/<slug>/ground/incline")
def place_incline(slug: str) -> Response:
    """An answer as forms: a sheet for every riser, one ramp over them. Raises Faults."""
    opened = open_scene(slug)
    rise, slope, answers = _incline(opened, request.form)
    pick = request.form.get("pick", 0, type=int)
    if not 0 <= pick < len(answers):
        raise fault("incline", "there is no such answer", "choose one of the list")
    x, y, width, heading = read(PLACED, request.form).values()
    towards = radians(heading)
    run = answers[pick].run_mm.number
    direction = round(cos(towards), 9), round(sin(towards), 9)
    end_x, end_y = x + direction[0] * run, y + direction[1] * run
    base = opened.scene.base
    if not (0 <= end_x <= base.width_mm and 0 <= end_y <= base.depth_mm):
        raise fault(
            "incline",
            f"it runs {run:.0f} mm and would leave the base at {end_x:.0f}, {end_y:.0f}",
            "start elsewhere, turn it, or take a steeper grade",
        )
    ground = opened.plan.built.bare
    stem = opened.new_id("incline")
    under = float(ground.z[ground.cell_at(x, y)])
    forms = as_forms(answers[pick], rise, slope, (x, y), direction, width, under, stem, "foam-xps")

    def change(scene: Scene) -> Scene:
        for form in forms:
            scene = add(scene, "forms", form)
        return scene

    return edit(slug, f"Incline of {rise:g} mm", change, url_for("ground.page", slug=slug, form=stem))
