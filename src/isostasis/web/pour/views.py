"""The Pour page and its preview, which reckons just the one lift."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import Any

import numpy as np
from flask import Blueprint, jsonify, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.document import ResolvedScene, Scene
from ...core.document.edit import called, find, update
from ...core.fault import Faults, fault
from ...core.figure import Figure, at_path
from ...core.ground.field import tilted
from ...core.lifts.estimate import LiftEstimate, LiftPlan, Window
from ...core.lifts.kinds.pour.fill import pour_fill
from ...core.lifts.kinds.pour.pools import PourLift, brim_of, depth_map, filled, lowest_cell, so_far
from ...core.lifts.kinds.pour.ways import whole_hours
from ...core.lifts.labels import Labels
from ...core.lifts.site import Site
from ...core.plan.preview import lift_alone, site_of, volume_from_bottle
from ..draw.panels import Water, middle_of, row_of, water_of
from ..draw.projection import WHOLE, Viewport, projection_of
from ..ground.views import render_panels
from ..layup.kinds.shapes import tint_choice, tint_data, tints
from ..shared.fields import Field, read, read_one
from ..shared.scenes import (
    OpenScene,
    edit,
    open_scene,
    pour_of,
    poured_of,
    resolved_scene,
    viewport_of,
    written_document,
)
from ..shared.told import sentences

blueprint = Blueprint("pour", __name__)

AXIS_WIDE = 326.0
WAYS = ("level_mm", "depth_mm", "volume_ml")
LEVEL = Field("level", "level", "mm")
POURED = (
    Field("mix", "resin", "choice", start="casting-resin"),
    Field("ink", "tint", "choice", start="acrylic-ink-teal"),
    Field("drops", "drops", "number", optional=True),
    Field("bubbles", "bubbles", "choice", optional=True),
    Field("rest", "minutes in the cup", "number", optional=True),
    Field("waves", "waves", "flag"),
)
SIZES = {"volume_ml": Field("size", "how much", "ml"), "bottle": Field("size", "how much", "ml")}
SIZE = Field("size", "how much", "mm")


@dataclass(frozen=True)
class Bar:
    """One window on the time axis."""

    x: float
    width: float
    y: float
    text: str
    open_end: bool
    text_x: float
    anchor: str


@dataclass(frozen=True)
class TimeAxis:
    """Windows of the last lift on one axis, hours from mixing."""

    bars: tuple[Bar, ...]
    ticks: tuple[tuple[float, str], ...]
    height: float


def time_axis(windows: tuple[Window, ...], full: float | None) -> TimeAxis:
    """The windows drawn; open ends run to the axis's end."""
    ends = [window.to_h for window in windows if window.to_h is not None]
    end = max([*ends, *(window.from_h for window in windows), min(full or 1.0, 96.0), 1.0]) * 1.04
    step = next(one for one in (0.25, 0.5, 1, 2, 3, 6, 12, 24, 48, 96, 240, 1000, 10_000) if end / one <= 6)
    bars = []
    for number, window in enumerate(windows):
        x = window.from_h / end * AXIS_WIDE
        width = max(((window.to_h if window.to_h is not None else end) - window.from_h) / end * AXIS_WIDE, 3.0)
        left = x > AXIS_WIDE * 0.55
        bars.append(
            Bar(
                x,
                width,
                16.0 + number * 27,
                window.what,
                window.to_h is None,
                x + width if left else x,
                "end" if left else "start",
            )
        )
    marks, at = [], 0.0
    while at <= end:
        marks.append((at / end * AXIS_WIDE, f"{at:g} h"))
        at += step
    return TimeAxis(tuple(bars), tuple(marks), 16.0 + len(windows) * 27 + 20)


@dataclass(frozen=True)
class PourPreview:
    """One pour as it would be: its figures, and how it is drawn."""

    lift: PourLift
    site: Site
    plan: LiftPlan
    work: LiftEstimate
    water: Water
    axis: TimeAxis
    lowest_mm: float
    most_mm: float | None
    whole: Figure
    patch_mm2: float
    figures: dict[str, str]  # what a figure's working is asked with, beside its path

    @property
    def hottest(self) -> int:
        """Which layer peaks highest, counted from 0."""
        peaks = [layer.peak_c.number if layer.peak_c else 0.0 for layer in self.plan.layers]
        return peaks.index(max(peaks))

    @property
    def next_words(self) -> str:
        """What the hours to the next lift are hours to."""
        above = self.site.above
        if above is None:
            return "gelled after"
        return "next lift after" if above.levels_itself else "ready to coat after"

    @property
    def ratio(self) -> str:
        """The mix's parts, as people say them."""
        return " : ".join(f"{part.parts:g}" for part in self.work.mix.ingredients)


def with_level(lift: PourLift, level: float, lowest: float) -> PourLift:
    """The lift filled to a level; a depth stays a depth, a volume becomes a level."""
    update: dict[str, Any] = {"volume_ml": None, "at_mm": None, "level_mm": level}
    if lift.depth_mm is not None:
        update = {"depth_mm": max(level - lowest, 0.01)}
    return lift.model_copy(update=update)


def attempt(
    scene: ResolvedScene, lift_id: str, level: float | None, cut_y: float | None, look: Viewport = WHOLE
) -> PourPreview:
    """The pour of a scene, at its own level or another. Raises Faults."""
    lift = pour_of(scene, lift_id)
    site = site_of(scene, lift_id)
    z = tilted(site.ground, scene.base)
    lowest = float(z[lowest_cell(site)])
    query = {"lift": lift_id}
    if level is not None:
        lift, query["level"] = with_level(lift, level, lowest), f"{level}"
    work = lift_alone(site, lift)
    depths = tuple(layer.depth_mm.number for layer in work.plan.layers)
    row = row_of(site.ground, cut_y if cut_y is not None else middle_of(lift, site))
    brim, levels = brim_of(site), [pool.level_mm.number for pool in work.plan.pools or ()]
    return PourPreview(
        lift=lift,
        site=site,
        plan=work.plan,
        work=work,
        water=water_of(lift, site, depths, row, projection_of(scene, look)),
        axis=time_axis(work.plan.windows, work.plan.hours.full.value),
        lowest_mm=lowest,
        most_mm=max(brim.level_mm, *levels) if brim else None,
        whole=whole_hours(work),
        patch_mm2=float(site.cover.share.sum()) * site.ground.cell_area,
        figures=query,
    )


def _chosen(opened: OpenScene) -> PourLift | None:
    pours = [lift for patch in opened.scene.patches for lift in patch.lifts if lift.levels_itself]
    return next((lift for lift in pours if lift.id == request.args.get("lift")), pours[0] if pours else None)


@blueprint.get("/s/<slug>/pour")
def page(slug: str) -> str:
    """The pour in plan and cut, with its figures."""
    opened = open_scene(slug)
    lift = _chosen(opened)
    p = render_panels(opened, "finished")
    return render_template(
        "pour/page.html",
        opened=opened,
        p=p,
        tried=attempt(opened.scene, lift.id, None, p.cut_y, viewport_of(slug)) if lift else None,
        pours=[(patch, one) for patch in opened.scene.patches for one in patch.lifts if one.levels_itself],
        resins=poured_of(opened),
        inks=tints(opened),
        tint=tint_choice(lift.tint if lift else (), "acrylic-ink-teal"),
        place="pour.page",
    )


def _mm(name: str, from_where: str) -> float:
    """A length from the address, in mm. Raises Faults."""
    value = request.args.get(name, type=float)
    if value is None or not isfinite(value):
        raise fault(name, f"the {name} is no number", f"give mm {from_where}")
    return value


def _level() -> float:
    return _mm("level", "above the board's top")


@blueprint.get("/s/<slug>/pour/preview")
def preview(slug: str) -> tuple[str, int]:
    """What another level would be: the figures and the water alone, nothing saved."""
    scene = resolved_scene(slug)
    lift_id = request.args.get("lift", "")
    level = _level()
    cut_y = _mm("cut", "from the south edge") if "cut" in request.args else None
    try:
        tried = attempt(scene, lift_id, level, cut_y, viewport_of(slug))
    except Faults as faults:
        return render_template("pour/_refused.html", sentences=sentences(faults.faults, written_document())), 200
    return render_template("pour/_preview.html", slug=slug, tried=tried), 200


@blueprint.get("/s/<slug>/pour/working")
def working(slug: str) -> str:
    """The terms of a figure of this pour, at its own level or the one tried. Raises Faults."""
    scene = resolved_scene(slug)
    lift_id, path = request.args.get("lift", ""), request.args.get("path", "")
    level = _level() if "level" in request.args else None
    tried = attempt(scene, lift_id, level, None)
    try:
        figure = tried.whole if path == "whole" else at_path(tried.plan, path)
    except KeyError:
        figure = None
    if not isinstance(figure, Figure):
        raise fault(path, "the plan has no such figure", "reload the page; the plan may have changed")
    return render_template("shared/_working.html", figure=figure)


@blueprint.get("/s/<slug>/pour/so-far")
def poured_so_far(slug: str) -> str:
    """The water once a share of the pour stands: where its first millilitre goes, and how it rises. Raises Faults."""
    scene = resolved_scene(slug)
    share = _mm("share", "from 0 to 1")
    if not 0 < share <= 1:
        raise fault("share", f"{share:g} is no share of a pour", "give more than 0 and at most 1")
    whole = pour_of(scene, request.args.get("lift", ""))
    site = site_of(scene, whole.id)
    lift = so_far(whole, site, share)
    cut_y = _mm("cut", "from the south edge") if "cut" in request.args else middle_of(whole, site)
    fill = filled(lift, site)
    deepest = max((pool.deepest_mm for pool in fill.pools), default=0.0)
    water = water_of(
        lift, site, (max(deepest, 1e-3),), row_of(site.ground, cut_y), projection_of(scene, viewport_of(slug))
    )
    return render_template(
        "pour/_so_far.html",
        water=water,
        share=share,
        ml=sum(pool.volume_ml for pool in fill.pools),
        pools=fill.pools,
        deepest=deepest,
        at=site.ground.point_of(*pour_fill(lift, site, Labels.of(scene)).lowest),
    )


MAX_SOUNDINGS = 40_000


@blueprint.get("/s/<slug>/pour/depths.json")
def depths(slug: str) -> Response:
    """How deep the pour is where it is, thinned to what a pointer needs: tenths of a mm, rows from the south."""
    scene = resolved_scene(slug)
    tried = attempt(scene, request.args.get("lift", ""), None, None)
    deep = depth_map(tried.lift, tried.site)
    rows, columns = (np.flatnonzero(deep.any(axis=axis)) for axis in (1, 0))
    part = deep[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    every = max(1, int(np.ceil((part.size / MAX_SOUNDINGS) ** 0.5)))
    part = part[::every, ::every]
    cell = tried.site.ground.cell_mm
    answer: Response = jsonify(
        west_mm=float(columns[0]) * cell,
        south_mm=float(rows[0]) * cell,
        step_mm=cell * every,
        columns=part.shape[1],
        tenths=(part * 10).round().astype(int).ravel().tolist(),
    )
    return answer


@blueprint.post("/s/<slug>/pour/<lift_id>/level")
def set_level(slug: str, lift_id: str) -> Response:
    """The level where the handle was let go, or as it was written."""
    level = read_one(LEVEL, request.form)
    lowest = attempt(resolved_scene(slug), lift_id, None, None).lowest_mm

    def change(scene: Scene) -> Scene:
        if find(scene, "lifts", lift_id).depth_mm is not None:
            return update(scene, "lifts", lift_id, {"depth_mm": round(level - lowest, 2)})
        return update(scene, "lifts", lift_id, {"volume_ml": None, "at_mm": None, "level_mm": level})

    return edit(
        slug,
        lambda scene: f"{called(scene, lift_id)} to {level:g} mm",
        change,
        url_for("pour.page", slug=slug, lift=lift_id),
    )


@blueprint.post("/s/<slug>/pour/<lift_id>")
def change_pour(slug: str, lift_id: str) -> Response:
    """Resin, tint, and how it is split into lifts."""
    way = request.form.get("way", "")
    lift = pour_of(resolved_scene(slug), lift_id)
    amount = SIZES.get(way, SIZE).read(request.form.get("size", ""), getattr(lift, way, None))
    if way == "bottle":
        tried = attempt(resolved_scene(slug), lift_id, None, None)
        way, amount = "volume_ml", round(volume_from_bottle(tried.site, tried.lift, amount), 1)
    mix, ink, count, bubbles, rest, waves = read(POURED, request.form).values()
    tint = tint_data(ink, count)
    sized: dict[str, Any] = {}
    if way in WAYS:
        sized = {name: amount if name == way else None for name in WAYS}
        if way != "volume_ml":
            sized["at_mm"] = None
    return edit(
        slug,
        lambda scene: f"Changed {called(scene, lift_id)}",
        lambda scene: update(
            scene,
            "lifts",
            lift_id,
            {
                "mix": mix,
                "tint": tint,
                "bubbles": bubbles or "breath",
                "rest_h": (rest or 0) / 60,
                "waves": waves,
                **sized,
            },
        ),
        url_for("pour.page", slug=slug, lift=lift_id),
    )
