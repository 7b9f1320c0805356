"""Plan, cut and cutting templates as SVG in millimetres: printed at 100 % they are true to scale."""

from __future__ import annotations

from collections.abc import Iterable
from math import ceil
from typing import Any
from xml.sax.saxutils import escape

import numpy as np

from ..core.document.scene import Scene
from ..core.ground.field import Ground
from ..core.ground.view import contour_step, contours
from ..core.lifts.areas import line_of
from ..core.lifts.fold import Build

A4 = (210.0, 297.0)
MARGIN, OVERLAP = 12.0, 8.0
STYLE = (
    "<style>path,line,polyline{fill:none;stroke:#1f2a30;stroke-width:.35}.fine{stroke:#8a8270;stroke-width:.15}"
    ".cut{stroke:#a5392b;stroke-width:.3}.dash{stroke-dasharray:3 2}.board{fill:#e4d3b4}.ground{fill:#f0e6cf}"
    "text{font-family:sans-serif;font-size:4px;fill:#1f2a30}</style>"
)
Points = Iterable[tuple[float, float]]


def _sheet(width: float, height: float, body: str) -> str:
    """A drawing of N mm."""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" '
        f'viewBox="0 0 {width:g} {height:g}">{STYLE}{body}</svg>\n'
    )


def _line(points: Points, close: bool = False, kind: str = "") -> str:
    d = "M" + "L".join(f"{x:.2f},{y:.2f}" for x, y in points) + ("Z" if close else "")
    return f'<path{f" class={chr(34)}{kind}{chr(34)}" if kind else ""} d="{d}"/>'


def _bar(x: float, y: float) -> str:
    """100 mm to lay a rule against."""
    ticks = "".join(_line([(x + at, y - 2), (x + at, y)]) for at in range(0, 101, 10))
    return (
        ticks
        + _line([(x, y), (x + 100, y)], kind="ruler")
        + f'<text x="{x + 102:g}" y="{y:g}">100 mm: measure it before cutting</text>'
    )


def _ring_of(form: Any) -> list[list[tuple[float, float]]]:
    """A form's line on the plan: its outline, or the band along its path."""
    from shapely import LineString

    line = line_of(form)
    if line is None:
        return []
    kind, points, width = line
    if kind == "ring":
        return [list(points)]
    strip = LineString(points).buffer(width / 2, cap_style="flat", join_style="round")
    return [list(strip.exterior.coords)[:-1]]


def plan_svg(scene: Scene, built: Build, stage: str = "bare") -> str:
    """The plan, north up: base, contours, forms with their names, joints."""
    ground, (width, depth) = built.at(stage), (scene.base.width_mm, scene.base.depth_mm)
    edge = 10.0

    def on(points: Points) -> list[tuple[float, float]]:
        return [(edge + x, edge + depth - y) for x, y in points]

    parts = [_line(on(scene.base.ring), True)]
    step = contour_step(ground.z)
    first = np.ceil(ground.z.min() / step + 0.5) * step - step / 2
    levels = [float(level) for level in np.arange(first, ground.z.max(), step)]
    for _, lines in contours(ground.z, ground.cell_mm, levels):
        parts += [_line(on(line), kind="fine") for line in lines]
    for form in scene.forms:
        if not form.off:
            for ring in _ring_of(form):
                x, y = on([ring[0]])[0]
                parts += [
                    _line(on(ring), True),
                    f'<text x="{x + 1.5:.1f}" y="{y - 1.5:.1f}">{escape(form.title)}</text>',
                ]
    parts += [_line(on([(at, 0), (at, depth)]), kind="cut dash") for at in scene.base.joints_x_mm]
    parts += [_line(on([(0, at), (width, at)]), kind="cut dash") for at in scene.base.joints_y_mm]
    parts.append(_bar(edge, depth + edge + 8))
    parts.append(f'<text x="{edge}" y="{depth + edge + 15:g}">{escape(scene.name)}, 1:1, contours {step:g} mm</text>')
    return _sheet(width + 2 * edge, depth + 2 * edge + 10, "".join(parts))


def cut_line(ground: Ground, axis: str, at_mm: float) -> list[tuple[float, float]]:
    """Place along the cut and height in mm, cell by cell where it lies on the base. Axis "y": an east-west cut."""
    row, column = ground.cell_at(at_mm, at_mm)
    z, on = (ground.z[row], ground.on_base[row]) if axis == "y" else (ground.z[:, column], ground.on_base[:, column])
    return [((place + 0.5) * ground.cell_mm, float(z[place])) for place in np.flatnonzero(on)]


def cut_svg(scene: Scene, built: Build, at_mm: float, axis: str = "y", stage: str = "finished") -> str:
    """The cut at true scale in both directions: board, forms, and the ground at a stage."""
    labels = {entry.id: entry for entry in scene.materials}
    board = labels[scene.base.board].thickness_mm or 9.0
    bare, top = cut_line(built.bare, axis, at_mm), cut_line(built.at(stage), axis, at_mm)
    edge, high = 10.0, max(z for _, z in [*bare, *top, (0, 1)])
    long = scene.base.width_mm if axis == "y" else scene.base.depth_mm

    def on(points: Points) -> list[tuple[float, float]]:
        return [(edge + along, edge + high - z) for along, z in points]

    ends = [(0.0, 0.0), (long, 0.0)]
    body = [
        _line(on([(0, 0), (long, 0), (long, -board), (0, -board)]), True, "board"),
        _line(on([ends[0], *bare, ends[1]]), True, "ground"),
        _line(on(top)),
        _bar(edge, high + board + edge + 8),
        f'<text x="{edge}" y="{high + board + edge + 15:g}">{escape(scene.name)}, {axis} {at_mm:g} mm, 1:1</text>',
    ]
    return _sheet(long + 2 * edge, high + board + 2 * edge + 10, "".join(body))


def _cross(x: float, y: float) -> str:
    """A register mark."""
    return _line([(x - 4, y), (x + 4, y)]) + _line([(x, y - 4), (x, y + 4)])


def templates(scene: Scene, form: Any) -> list[tuple[str, str]]:
    """A form as cutting templates on A4: (name, SVG) for each sheet of paper, row by row from the north-west.

    Neighbours overlap by 8 mm; the register marks at their corners lie on each other when the sheets are joined.
    """
    rings = _ring_of(form)
    if not rings:
        return []
    xs, ys = [x for ring in rings for x, _ in ring], [y for ring in rings for _, y in ring]
    west, south, east, north = min(xs), min(ys), max(xs), max(ys)
    sizes = []
    for page in (A4, A4[::-1]):
        wide, high = page[0] - 2 * MARGIN - OVERLAP, page[1] - 2 * MARGIN - 14 - OVERLAP
        sizes.append(
            (max(1, ceil((east - west) / wide - 1e-9)) * max(1, ceil((north - south) / high - 1e-9)), page, wide, high)
        )
    _, page, wide, high = min(sizes, key=lambda size: size[0])
    across, down = max(1, ceil((east - west) / wide - 1e-9)), max(1, ceil((north - south) / high - 1e-9))
    sheets = []
    for row in range(down):
        for column in range(across):
            left, top = west + column * wide, north - row * high

            def on(points: Points, left: float = left, top: float = top) -> list[tuple[float, float]]:
                return [(MARGIN + x - left, MARGIN + top - y) for x, y in points]

            name = f"{form.id}-r{row + 1}-c{column + 1}"
            window = (
                f'<clipPath id="{name}"><rect x="{MARGIN - 4}" y="{MARGIN - 4}" width="{wide + OVERLAP + 8}" '
                f'height="{high + OVERLAP + 8}"/></clipPath>'
            )
            shape = "".join(_line(on(ring), True) for ring in rings)
            shape += "".join(_line(on([(at, south), (at, north)]), kind="cut dash") for at in scene.base.joints_x_mm)
            shape += "".join(_line(on([(west, at), (east, at)]), kind="cut dash") for at in scene.base.joints_y_mm)
            marks = "".join(_cross(MARGIN + x, MARGIN + y) for x in (0, wide) for y in (0, high))
            foot = page[1] - MARGIN + 2
            thick = getattr(form, "thickness_mm", None)
            words = f"{scene.name}: {form.title}" + (f", {thick:g} mm" if thick else "")
            words += f" · row {row + 1} of {down}, column {column + 1} of {across}"
            body = (
                f'{window}<g clip-path="url(#{name})">{shape}</g>{marks}{_bar(MARGIN, foot - 6)}'
                f'<text x="{MARGIN}" y="{foot}">{escape(words)}</text>'
            )
            sheets.append((f"{name}.svg", _sheet(*page, body)))
    return sheets
