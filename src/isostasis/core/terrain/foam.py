"""The foam list: sheets nested on stock panels, so that the number to buy is known before starting."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from typing import Any, ClassVar

import numpy as np

from ..catalogue import Material
from ..document import ResolvedScene
from ..figure import Figure, Term
from ..ground.raster import Array, covered
from ..lifts.areas import line_of
from ..lifts.fold import Build
from ..lifts.labels import Labels
from ..stages import cached_stage

KERF_MM = 3.0  # what a knife or a hot wire wanders and takes
STEP_MM = 5.0  # pieces are moved over the panel in steps of this
PANEL_MM = (1250.0, 600.0)
SLIVER_MM = 60.0
TURNS = (0, 90, 180, 270)


@dataclass(frozen=True, slots=True)
class Placed:
    """One piece on a panel: its outline there in mm from the panel's corner."""

    JSON: ClassVar[tuple[str, ...]] = ("name", "outline")  # what machines read

    name: str
    outline: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Panel:
    """One panel with what is cut from it, and its largest offcut as a ring (none when all is used)."""

    JSON: ClassVar[tuple[str, ...]] = ("pieces", "offcut")  # what machines read

    pieces: tuple[Placed, ...]
    offcut: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class FoamList:
    """All panels of one material: how many, how many the area alone would ask for, what is left over."""

    JSON: ClassVar[tuple[str, ...]] = (
        "material",
        "name",
        "panel_mm",
        "panels",
        "count",
        "bound",
        "used_mm2",
        "offcut_mm2",
        "cost",
        "notes",
    )  # what machines read

    material: str
    name: str
    panel_mm: tuple[float, float]
    panels: tuple[Panel, ...]
    count: Figure
    bound: Figure
    used_mm2: Figure
    offcut_mm2: Figure
    cost: Figure | None
    notes: tuple[str, ...]


def _cut_up(
    polygon: Any, name: str, lines: tuple[tuple[str, float], ...], panel: tuple[float, float]
) -> list[tuple[str, Any]]:
    """A piece along the joints that it crosses, and in parts where it is larger than a panel either way up."""
    from shapely import LineString
    from shapely.ops import split

    parts = [polygon]
    for axis, at in lines:
        west, south, east, north = polygon.bounds
        line = LineString([(at, south - 1), (at, north + 1)] if axis == "x" else [(west - 1, at), (east + 1, at)])
        parts = [piece for part in parts for piece in split(part, line).geoms]
    done: list[Any] = []
    long, short = max(panel) - KERF_MM, min(panel) - KERF_MM
    while parts:
        part = parts.pop()
        west, south, east, north = part.bounds
        width, depth = east - west, north - south
        if min(width, depth) <= short + 1e-6 and max(width, depth) <= long + 1e-6:
            done.append(part)
            continue
        across = width >= depth
        size, most = (width, long) if across else (depth, long)
        if size <= most:
            across, size, most = not across, min(width, depth), short
        count = max(2, ceil(size / most - 1e-9))
        # Whole panels and the rest, unless the rest would be a sliver: then equal parts.
        first = most if size - (count - 1) * most >= SLIVER_MM else size / count
        at = (west if across else south) + first
        line = LineString([(at, south - 1), (at, north + 1)] if across else [(west - 1, at), (east + 1, at)])
        parts += list(split(part, line).geoms)
    done.sort(key=lambda part: part.bounds)
    return [(name if len(done) == 1 else f"{name}, part {number}", part) for number, part in enumerate(done, start=1)]


def _pixels(polygon: Any) -> Array:
    """Cells of STEP_MM that a polygon with half the kerf round it touches at all, from its box's corner."""
    from shapely.affinity import translate

    grown = polygon.buffer(KERF_MM / 2 - 1e-6)
    west, south, east, north = grown.bounds
    shape = ceil((north - south) / STEP_MM - 1e-9), ceil((east - west) / STEP_MM - 1e-9)
    ring = tuple(translate(grown, -west, -south).exterior.coords[:-1])
    return np.asarray(covered(ring, shape, STEP_MM) > 1e-6, dtype=float)


@cached_stage
def nest(
    pieces: tuple[tuple[str, tuple[tuple[float, float], ...]], ...], panel_mm: tuple[float, float]
) -> tuple[tuple[Placed, ...], ...]:
    """Pieces (name, ring) on as few panels as a largest-first, lowest-left search finds, in steps of 5 mm and four
    turns. No two pieces overlap and all keep half the kerf from each other. A heuristic: the area bound says how far
    it can be from the best. Raises ValueError for a piece that fits on no panel.
    """
    from scipy.signal import fftconvolve
    from shapely import Polygon
    from shapely.affinity import rotate, translate

    nx, ny = int(panel_mm[0] / STEP_MM), int(panel_mm[1] / STEP_MM)
    taken: list[Array] = []
    placed: list[list[Placed]] = []
    polygons = [(name, Polygon(ring)) for name, ring in pieces]
    turned: dict[Any, list[tuple[Any, Array]]] = {}
    since: dict[Any, int] = {}  # a piece alike found no room on panels before this one, and they have only filled since
    for name, polygon in sorted(polygons, key=lambda one: (-one[1].area, one[0])):
        key = translate(polygon, -polygon.bounds[0], -polygon.bounds[1]).wkt
        if key not in turned:
            turned[key] = []
            for angle in TURNS:
                turn = rotate(polygon, angle, origin=(0, 0))
                turn = translate(turn, KERF_MM / 2 - turn.bounds[0], KERF_MM / 2 - turn.bounds[1])
                pixels = _pixels(turn)
                if pixels.shape[0] <= ny and pixels.shape[1] <= nx:
                    turned[key].append((turn, pixels))
        best: tuple[int, int, int, Any, Array] | None = None
        for number in range(since.get(key, 0), len(taken) + 1):
            for turn, pixels in turned[key]:
                if number < len(taken):
                    if nx * ny - taken[number].sum() < pixels.sum():
                        continue
                    hits = fftconvolve(taken[number], pixels[::-1, ::-1], mode="valid")
                else:
                    hits = np.zeros((ny - pixels.shape[0] + 1, nx - pixels.shape[1] + 1))
                free = np.flatnonzero((hits < 0.5).T)
                if not len(free):
                    continue
                # As far left as it goes, then as low, so that what remains is one long offcut.
                column, row = divmod(int(free[0]), hits.shape[0])
                size = (column + pixels.shape[1], row + pixels.shape[0])
                if best is None or size < (best[1], best[2]):
                    best = (number, *size, turn, pixels)
            if best is not None:
                break
        if best is None:
            raise ValueError(f"{name} fits on no panel of {panel_mm[0]:g} x {panel_mm[1]:g} mm")
        number, right, top, turn, pixels = best
        since[key] = number
        if number == len(taken):
            taken.append(np.zeros((ny, nx)))
            placed.append([])
        rows, columns = pixels.shape
        taken[number][top - rows : top, right - columns : right] += pixels
        at = translate(turn, (right - columns) * STEP_MM, (top - rows) * STEP_MM)
        ring = tuple((round(float(x), 2), round(float(y), 2)) for x, y in list(at.exterior.coords)[:-1])
        placed[number].append(Placed(name, ring))
    return tuple(tuple(one) for one in placed)


def _panel(pieces: tuple[Placed, ...], panel_mm: tuple[float, float]) -> Panel:
    from shapely import Polygon, box, unary_union

    used = unary_union([Polygon(piece.outline).buffer(KERF_MM / 2, join_style="mitre") for piece in pieces])
    left = box(0, 0, *panel_mm).difference(used)
    # Slivers that no piece could come from are no offcuts.
    broad = left.buffer(-15, join_style="mitre").buffer(15, join_style="mitre")
    parts = [part for part in getattr(broad, "geoms", [broad]) if not part.is_empty]
    if not parts:
        return Panel(pieces, ())
    largest = max(parts, key=lambda part: part.area)
    return Panel(pieces, tuple((round(x, 1), round(y, 1)) for x, y in list(largest.exterior.coords)[:-1]))


def _rings(scene: ResolvedScene, form: Any) -> Any:
    """The form's outline as a polygon."""
    from shapely import LineString, Polygon

    line = line_of(form)
    assert line is not None
    kind, points, width = line
    return Polygon(points) if kind == "ring" else LineString(points).buffer(width / 2, cap_style="flat")


def _piece_list(
    scene: ResolvedScene, built: Build, material: Material, panel: tuple[float, float]
) -> tuple[list[tuple[str, Any]], list[str]]:
    joints = tuple(("x", at) for at in scene.base.joints_x_mm) + tuple(("y", at) for at in scene.base.joints_y_mm)
    pieces: list[tuple[str, Any]] = []
    notes: list[str] = []
    divided: list[str] = []
    stock = material.thickness_mm or 25.0
    for number, shaped in enumerate(built.forms):
        form = shaped.form
        if form.made_of != material.id or form.kind not in ("sheet", "ramp"):
            continue
        thick = getattr(form, "thickness_mm", None)
        if thick is None:  # a ramp is as thick as it stands above what it lies on
            before = built.forms[number - 1].ground.z if number else np.zeros(shaped.ground.shape)
            thick = float((shaped.ground.z - before).max())
        layers = max(1, ceil(thick / stock - 1e-9))
        parts = _cut_up(_rings(scene, form), form.title, joints, panel)
        for layer in range(layers):
            pieces += [(f"{name}{f', layer {layer + 1}' if layers > 1 else ''}", part) for name, part in parts]
        if len(parts) > 1:
            divided.append(form.title)
        if abs(layers * stock - thick) > 0.5:
            notes.append(f"{form.title} is {thick:.4g} mm thick: {layers} of {stock:g} mm, planed down.")
    if divided:
        notes.append(f"Cut apart at joints, or because they are larger than a panel: {', '.join(divided)}.")
    if scene.copies > 1:
        pieces = [(f"{name}, copy {copy}", part) for copy in range(1, scene.copies + 1) for name, part in pieces]
    return pieces, notes


@dataclass(frozen=True, slots=True)
class Panels:
    """How many panels of what size the pieces of a material take, and the area of these."""

    count: int
    size_mm: tuple[float, float]
    pieces_mm2: float


def panels_for(scene: ResolvedScene, built: Build) -> dict[str, Panels]:
    """The panels of each material of sheets and ramps, without their drawing."""
    panels = {}
    for name, (_, panel, pieces, _) in _nested(scene, built).items():
        panels[name] = Panels(len(nest(_rings_of(pieces), panel)), panel, sum(part.area for _, part in pieces))
    return panels


def _nested(
    scene: ResolvedScene, built: Build
) -> dict[str, tuple[Material, tuple[float, float], list[tuple[str, Any]], list[str]]]:
    """(label, panel, pieces, notes) of each material of sheets and ramps."""
    labels = Labels.of(scene)
    nested = {}
    for name in dict.fromkeys(one.form.made_of or "" for one in built.forms if one.form.kind in ("sheet", "ramp")):
        material = labels.materials[name]
        panel = material.panel_mm or PANEL_MM
        nested[name] = (material, panel, *_piece_list(scene, built, material, panel))
    return nested


def _rings_of(pieces: list[tuple[str, Any]]) -> tuple[tuple[str, tuple[tuple[float, float], ...]], ...]:
    return tuple(
        (title, tuple((float(x), float(y)) for x, y in list(part.exterior.coords)[:-1])) for title, part in pieces
    )


def foam_lists(scene: ResolvedScene, built: Build) -> dict[str, FoamList]:
    """A list for each material of sheets and ramps; ramps are counted as blocks of their greatest height."""
    lists = {}
    for name, (material, panel, pieces, notes) in _nested(scene, built).items():
        panels = tuple(_panel(one, panel) for one in nest(_rings_of(pieces), panel))
        area, whole = sum(part.area for _, part in pieces), panel[0] * panel[1]
        bound = max(1, ceil(area / whole - 1e-9))
        size = f"{panel[0]:g} × {panel[1]:g} mm"
        each = scene.bench.price_each(name)
        count = Figure(
            len(panels), "panel" if len(panels) == 1 else "panels",
            "pieces nested largest first, four ways round, 3 mm between them",
            (Term("pieces", len(pieces)), Term("panel", size, "", f"label of {material.name}"),
             Term("the area alone would ask for", bound, "panels")),
        )  # fmt: skip
        lists[name] = FoamList(
            name, material.name, panel, panels, count,
            Figure(bound, "panels", "area of all pieces / area of a panel, rounded up",
                   (Term("pieces", area, "mm2"), Term("panel", whole, "mm2"))),
            Figure(area, "mm2", "area of all pieces", (Term("pieces", len(pieces)),)),
            Figure(len(panels) * whole - area, "mm2", "panels − pieces; slivers and kerf are in it",
                   (Term("panels", len(panels) * whole, "mm2"), Term("pieces", area, "mm2"))),
            None if each is None else Figure(
                len(panels) * whole * each, "money", "panels × your price",
                (Term("panels", len(panels)), Term("price of one", whole * each, "money", "your price"))),
            tuple(notes),
        )  # fmt: skip
    return lists
