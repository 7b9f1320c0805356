"""The ground in every format that goes out."""

from __future__ import annotations

from collections.abc import Iterator

from ..core.document.scene import Scene
from ..core.lifts.fold import Build
from .asc import write_asc
from .drawing import cut_svg, plan_svg, templates
from .heightmap import write_png
from .spots import write_csv
from .stl import write_stl

FORMATS = {
    "asc": ("ASCII grid", "text/plain"),
    "png": ("16-bit picture", "image/png"),
    "json": ("side file of the picture", "application/json"),
    "csv": ("spot heights", "text/csv"),
    "stl": ("solid", "model/stl"),
    "plan.svg": ("plan, 1:1", "image/svg+xml"),
    "cut.svg": ("cut, 1:1", "image/svg+xml"),
}


def one_file(scene: Scene, built: Build, stage: str, kind: str, cut_mm: float | None = None) -> bytes:
    """The ground at a stage in one of FORMATS. Raises KeyError for a stage or format that is not known."""
    ground = built.at(stage)
    if kind in ("png", "json"):
        picture, side = write_png(ground)
        return picture if kind == "png" else side.encode()
    if kind == "stl":
        board = next(entry.thickness_mm for entry in scene.materials if entry.id == scene.base.board) or 9.0
        return write_stl(ground, scene.base.width_mm, scene.base.depth_mm, board)
    if kind == "plan.svg":
        return plan_svg(scene, built, stage).encode()
    if kind == "cut.svg":
        at = scene.base.depth_mm / 2 if cut_mm is None else cut_mm
        return cut_svg(scene, built, at, stage=stage).encode()
    return {"asc": write_asc, "csv": write_csv}[kind](ground).encode()


def written(scene: Scene, built: Build, stage: str) -> Iterator[tuple[str, bytes]]:
    """(file name, contents) of everything: each format, a cut along each joint, and templates of every form."""
    for kind in FORMATS:
        dot = "" if kind.endswith("svg") else "ground."
        yield f"{dot}{kind}", one_file(scene, built, stage, kind)
    for axis, places in (("x", scene.base.joints_x_mm), ("y", scene.base.joints_y_mm)):
        for at in places:
            yield f"joint-{axis}{at:g}.svg", cut_svg(scene, built, at, axis, stage).encode()
    for form in scene.forms:
        if not form.off:
            yield from ((name, text.encode()) for name, text in templates(scene, form))
