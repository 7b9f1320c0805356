"""The two panels of Ground, Lay-up and Pour: plan above, cut below, one x axis."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ...core.document import ResolvedScene, Scene
from ...core.document.scene import Form
from ...core.ground.field import Ground, tilted
from ...core.ground.filling import Pool
from ...core.ground.raster import Array, centres
from ...core.ground.view import contour_step, contours, depth_rings
from ...core.judging.neighbours import Check
from ...core.lifts.areas import Cover
from ...core.lifts.fold import Build
from ...core.lifts.kinds.pour.pools import PourLift, filled, start_of
from ...core.lifts.labels import Labels
from ...core.lifts.site import Site
from ...core.stages import cached_stage
from ...core.surface import shades, water_looks
from ...core.units import Measures, show
from .checks import Mark, marks
from .path import line_d
from .projection import WHOLE, WIDE, HatchOf, Projection, Viewport, board_mm, path, projection_of


@cached_stage
def _contour_lines(ground: Ground, frame: Projection) -> tuple[str, float]:
    step = contour_step(ground.z)
    first = np.ceil(ground.z.min() / step + 0.5) * step
    levels = [float(level) for level in np.arange(first, ground.z.max(), step)]
    # Half a step up, so that no line runs along a level sheet.
    lines = [
        line
        for _, lines in contours(ground.z, ground.cell_mm, [level - step / 2 for level in levels])
        for line in lines
    ]
    return path(lines, frame, close=False), step


# Enough for a phone's larger words: px between a name and the cut line, and px a letter from its middle to the edge.
CLEAR, NAME_PX = 25, 7.5
PLATE = 22  # px from a name to the next beneath it


@dataclass(frozen=True)
class Label:
    """A name on the plan; `crowded`: drawn as large as on a phone, it would cover another."""

    x: float
    y: float
    text: str
    id: str
    crowded: bool = False


@cached_stage
def innermost(cover: Cover, cell_mm: float) -> tuple[float, float]:
    """Where a patch's name stands: its innermost place, x and y in mm."""
    from scipy.ndimage import distance_transform_edt

    inner = distance_transform_edt(np.pad(cover.share >= 0.5, 1))[1:-1, 1:-1]
    ny, nx = inner.shape
    x, y = centres(cover.share.shape, cell_mm)
    # Of the places that are about as far inside, the one nearest the patch's own middle.
    rows, columns = np.nonzero(cover.mask)
    off = np.hypot(np.arange(ny)[:, None] - rows.mean(), np.arange(nx)[None, :] - columns.mean())
    row, column = np.unravel_index(int(np.where(inner >= 0.9 * inner.max(), off, np.inf).argmin()), (ny, nx))
    return float(x[column]), float(y[row])


def labels_of(scene: Scene, built: Build, frame: Projection, cut_y: float) -> list[Label]:
    """Patch names where they fit."""
    out: list[Label] = []
    for patch in scene.patches:
        cover = built.covers[patch.id]
        if not cover.mask.any():
            continue
        x, y = innermost(cover, built.bare.cell_mm)
        middle = frame.y(y)
        if not frame.shows(frame.x(x), middle):
            continue
        if abs(middle - frame.y(cut_y)) < CLEAR:
            middle = frame.y(cut_y) + CLEAR  # of the cut line where it starts
        aside = NAME_PX * len(patch.name)
        place = Label(
            min(max(frame.x(x), frame.left + aside), frame.left + frame.plan_width - aside),
            middle,
            patch.name,
            patch.id,
        )
        while any(abs(place.y - other.y) < PLATE and abs(place.x - other.x) < 110 for other in out):
            place = replace(place, y=place.y + PLATE)
        out.append(place)
    labels: list[Label] = []  # a later patch lies on an earlier one: its name is wanted more
    larger = frame.sheet / WIDE
    for place in reversed(out):
        crowded = any(
            abs(place.y - other.y) < 2 * PLATE * larger
            and abs(place.x - other.x) < (NAME_PX * len(place.text + other.text) + PLATE) * larger
            for other in labels
            if not other.crowded
        )
        labels.append(replace(place, crowded=crowded))
    return labels


@dataclass(frozen=True)
class WaterBand:
    """A pool from some depth down, for the plan."""

    d: str
    band: int


def water_plan(ground: Ground, z: Array, pools: tuple[Pool, ...], frame: Projection) -> list[WaterBand]:
    """Pools on the plan, darker with depth: four bands, their edges the isobaths."""
    deepest = max((pool.deepest_mm for pool in pools), default=0.0)
    depths = tuple(max(deepest * band / 4, 1e-6) for band in range(4))
    by_pool = [depth_rings(z, pool.cells, pool.level_mm, ground.cell_mm, depths) for pool in pools]
    bands = [[ring for rings in by_pool for ring in rings[band]] for band in range(4)]
    return [WaterBand(path(rings, frame), band) for band, rings in enumerate(bands) if rings]


@dataclass(frozen=True)
class CutShape:
    """One area of the cut: its path, what it is (class), and its name."""

    d: str
    kind: str
    title: str
    fill: str = ""
    lift: str = ""
    state: str = ""  # of a lift: built, planned or off


def _area(x: Array, low: Array, high: Array, frame: Projection) -> str:
    """Between two lines of heights; closed at both ends of the base."""
    top, bottom = zip(x, high, strict=True), zip(x[::-1], low[::-1], strict=True)
    return line_d(((frame.x(a), frame.z(b)) for a, b in (*top, *bottom)), close=True)


def _between(x: Array, low: Array, high: Array, frame: Projection) -> str:
    """Between two lines of heights, just where the upper one is higher; empty where it nowhere is."""
    there = np.convolve(high - low > 0.01, (1, 1, 1), mode="same") > 0
    edges = np.flatnonzero(np.diff(np.concatenate(([False], there, [False])).astype(int)))
    runs = [slice(start, end) for start, end in zip(edges[::2], edges[1::2], strict=True)]
    return "".join(_area(x[run], low[run], np.maximum(high, low)[run], frame) for run in runs)


def _ends(ground: Ground, row: int, scene: Scene) -> tuple[Array, slice]:
    """x of the cut's points (cells on the base, the outermost moved out to its edge) and which cells they are."""
    x, _ = centres(ground.shape, ground.cell_mm)
    on = np.nonzero(ground.on_base[row])[0]
    if not len(on):
        on = np.arange(1)
    part = slice(int(on[0]), int(on[-1]) + 1)
    x = x[part].copy()
    half = ground.cell_mm / 2
    x[0], x[-1] = max(x[0] - half, 0), min(x[-1] + half, scene.base.width_mm)
    return x, part


def hatch_of_form(form: Form, labels: Labels) -> str:
    """Which hatch tells what a form is made of."""
    material = labels.materials.get(form.made_of or "")
    family = material.family if material else "foam"
    return "casting" if form.kind == "casting" else family if family in ("paper", "board") else "foam"


def _formed(built: Build, row: int, part: slice, x: Array, frame: Projection, labels: Labels) -> list[CutShape]:
    """Each form that added ground, as much of it as later cuts have left."""
    bare = built.bare.z[row, part]
    shapes, before = [], np.zeros_like(bare)
    for shaped in built.forms:
        if shaped.form.after:
            continue
        after = shaped.ground.z[row, part]
        low, high = np.minimum(before, bare), np.minimum(after, bare)
        d = _between(x, low, high, frame)
        if d:
            shapes.append(CutShape(d, hatch_of_form(shaped.form, labels), shaped.form.title))
        before = after
    return shapes


def cut_shapes(
    scene: ResolvedScene,
    built: Build,
    row: int,
    frame: Projection,
    labels: Labels,
    cut_hatch: HatchOf,
    stages: bool = True,
) -> list[CutShape]:
    """Everything along the cut but liquids: board, foam, and (with `stages`) what was laid on it."""
    x, part = _ends(built.bare, row, scene)
    bare = built.bare.z[row, part]
    board = board_mm(scene)
    zero = np.zeros_like(bare)
    shapes = [
        CutShape(_area(x, zero - board, zero, frame), "board", labels.materials[scene.base.board].name),
        *_formed(built, row, part, x, frame, labels),
    ]
    if not stages:
        return shapes
    for stage in built.stages.values():
        lift = stage.site.lift
        if lift.levels_itself or not cut_hatch(lift.kind):
            continue
        before, after = stage.site.ground.z[row, part], stage.after.z[row, part]
        d = _between(x, before, after, frame)
        if d:
            shapes.append(CutShape(d, cut_hatch(lift.kind), lift.title, shades(scene).get(lift.id, ""), lift.id))
    return shapes


def water_cut(ground: Ground, z: Array, pool: Pool, row: int, level: float, frame: Projection) -> str:
    """A pool along the cut, filled to `level` (its own, or a lower lift's), its shores between cells met exactly."""
    wet = pool.cells[row] & (z[row] < level)
    lean = ground.z[row] - z[row]  # drawn on the board, though levelled by the spirit level
    cell, parts = ground.cell_mm, []
    edges = np.flatnonzero(np.diff(np.concatenate(([False], wet, [False])).astype(int)))
    for start, end in zip(edges[::2], edges[1::2], strict=True):
        points = [((column + 0.5) * cell, float(ground.z[row, column])) for column in range(start, end)]
        for side, inner in ((start - 1, start), (end, end - 1)):
            if 0 <= side < len(wet) and ground.on_base[row, side]:
                rise = z[row, side] - z[row, inner]
                share = (level - z[row, inner]) / rise if rise > 0 else 0.0
                shore = ((inner + 0.5 + (side - inner) * min(share, 1.0)) * cell, float(level + lean[inner]))
            else:
                shore = (
                    (inner + 0.5 + 0.5 * (1 if side > inner else -1)) * cell,
                    float(ground.z[row, inner]),
                )
            points = [shore, *points] if side < inner else [*points, shore]
        left, right = points[0][0], points[-1][0]
        surface = [(right, level + float(lean[end - 1])), (left, level + float(lean[start]))]
        parts.append(line_d(((frame.x(a), frame.z(b)) for a, b in points + surface), close=True))
    return "".join(parts)


@dataclass(frozen=True)
class Water:
    """One pour in both panels."""

    lift: str
    plan: list[WaterBand]
    cut: list[tuple[str, int]]  # path, lift counted from the top
    level_mm: float
    lies_east: bool  # in the eastern half of what is shown
    patch: str
    lost: tuple[float, float] | None = None  # where it runs over an open edge
    tints: tuple[str, ...] = ()  # of a tinted one: its colour in each band of the plan, then along the cut


def water_of(lift: PourLift, site: Site, depths: tuple[float, ...], row: int, frame: Projection) -> Water:
    """A pour drawn: its pools on the plan, its lifts along the cut, its level."""
    z = tilted(site.ground, site.scene.base)
    fill = filled(lift, site)
    pools = fill.pools
    deepest = max((pool.deepest_mm for pool in pools), default=0.0)
    cuts: list[tuple[str, int]] = []
    top = 0.0
    for number, depth in enumerate(reversed(depths)):
        d = "".join(water_cut(site.ground, z, pool, row, pool.level_mm - top, frame) for pool in pools)
        if d:
            cuts.append((d, number))
        top += depth
    if pools:
        largest = max(pools, key=lambda pool: pool.volume_ml)
        columns = np.nonzero(largest.cells.any(axis=0))[0]
        level, middle = largest.level_mm, (float(columns[0]) + float(columns[-1]) + 1) / 2 * site.ground.cell_mm
    else:
        start = start_of(lift, site, z)
        level, middle = float(z[start]), site.ground.point_of(*start)[0]
    return Water(
        lift.id,
        water_plan(site.ground, z, pools, frame),
        cuts,
        level,
        frame.x(middle) > frame.left + frame.plan_width / 2,
        site.patch.id,
        (frame.x(fill.lost_at[0]), frame.y(fill.lost_at[1])) if fill.lost_at else None,
        water_looks(site.scene, lift, [deepest * share for share in (0.125, 0.375, 0.625, 0.875, 0.5)]),
    )


def pours(built: Build) -> list[tuple[PourLift, Site]]:
    """Every pour of the scene with the ground it goes on."""
    return [(stage.site.lift, stage.site) for stage in built.stages.values() if isinstance(stage.site.lift, PourLift)]


def all_water(built: Build, depths: dict[str, tuple[float, ...]], row: int, frame: Projection) -> list[Water]:
    """Every pour of the scene."""
    return [water_of(lift, site, depths[lift.id], row, frame) for lift, site in pours(built)]


def ticks(frame: Projection, measures: Measures) -> list[tuple[float, str]]:
    """Heights beside the cut: (y, text)."""
    high = frame.cut_zero - frame.cut_top
    top = high / frame.scale / frame.exaggeration
    unit = 25.4 if measures.system == "imperial" else 1.0
    step = next(
        one
        for one in (0.125, 0.25, 0.5, 1, 2, 5, 10, 20, 25, 50, 100, 200, 500, 1000, 5000)
        if top / (one * unit) <= min(4.5, high / TICK_PX)
    )
    heights = np.arange(0, top, step * unit)
    return [(frame.z(float(height)), show(float(height), "mm", measures)[0]) for height in heights]


TICK_PX = 30  # the least between two ticks' numbers, on a phone too


@dataclass(frozen=True)
class ScaleBar:
    """A true scale bar."""

    x: float
    y: float
    width: float
    text: str


def scale_bar(frame: Projection, measures: Measures) -> ScaleBar:
    """A round length that takes about a sixth of the plan's width."""
    unit = 25.4 if measures.system == "imperial" else 1.0
    wanted = frame.plan_width / frame.scale / 5
    lengths = [one * unit for one in (0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000)]
    length = max((one for one in lengths if one <= wanted), default=lengths[0])
    width = length * frame.scale
    right = frame.left + frame.plan_width - 10
    return ScaleBar(
        right - width, frame.plan_top + frame.plan_height - 14, width, " ".join(show(length, "mm", measures))
    )


@dataclass(frozen=True)
class Panels:
    """All that the template of the two panels needs."""

    frame: Projection
    contour_d: str
    contour_step: float
    names: list[Label]
    shapes: list[CutShape]
    waters: list[Water]
    ticks: list[tuple[float, str]]
    bar: ScaleBar
    cut_y: float
    row: int
    joints: list[float]
    joints_y: list[float]
    edge_d: str
    stage: str
    ground: Ground
    marks: list[Mark]


def row_of(ground: Ground, cut_y: float) -> int:
    """The row of cells that a cut at y runs through."""
    return ground.cell_at(0.0, cut_y)[0]


def middle_of(lift: PourLift, site: Site) -> float:
    """The y in mm that halves a pour's largest pool; where none stands, of where it is poured."""
    pool = max(filled(lift, site).pools, key=lambda one: one.volume_ml, default=None)
    if pool is None:
        return site.ground.point_of(*start_of(lift, site, tilted(site.ground, site.scene.base)))[1]
    rows = np.nonzero(pool.cells.any(axis=1))[0]
    return float((rows[0] + rows[-1] + 1) / 2 * site.ground.cell_mm)


def default_cut(scene: Scene, built: Build) -> float:
    """Where the cut runs at first: through the middle of the first pour, else through the middle."""
    first = pours(built)[:1]
    return middle_of(*first[0]) if first else scene.base.depth_mm / 2


def panels(
    scene: ResolvedScene,
    built: Build,
    depths: dict[str, tuple[float, ...]],
    cut_y: float | None,
    measures: Measures,
    stage: str,
    cut_hatch: HatchOf,
    look: Viewport = WHOLE,
    checks: tuple[Check, ...] = (),
) -> Panels:
    """Plan and cut; `stage` "bare" (or "slope") shows the forms alone, "finished" everything that goes on them. With
    `checks`, where they bite is drawn too."""
    labels = Labels.of(scene)
    frame = projection_of(scene, look)
    cut = default_cut(scene, built) if cut_y is None else min(max(cut_y, 0.0), scene.base.depth_mm)
    row = row_of(built.bare, cut)
    ground = built.finished if stage == "finished" else built.bare
    contour_d, step = _contour_lines(ground, frame)
    return Panels(
        frame=frame,
        contour_d=contour_d,
        contour_step=step,
        names=labels_of(scene, built, frame, cut),
        shapes=cut_shapes(scene, built, row, frame, labels, cut_hatch, stages=stage == "finished"),
        waters=[] if stage != "finished" else all_water(built, depths, row, frame),
        ticks=ticks(frame, measures),
        bar=scale_bar(frame, measures),
        cut_y=cut,
        row=row,
        joints=[frame.x(x) for x in scene.base.joints_x_mm],
        joints_y=[frame.y(y) for y in scene.base.joints_y_mm],
        edge_d=path([list(scene.base.ring)], frame),
        stage=stage,
        ground=ground,
        marks=marks(checks, built, frame, row),
    )
