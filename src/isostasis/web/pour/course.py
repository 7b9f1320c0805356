"""The pages that look ahead from Pour: how it goes hour by hour, and in other rooms."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.alternatives import rooms
from ...core.colour.light import linear
from ...core.document.edit import called, update
from ...core.fault import fault
from ...core.figure import Figure, at_path
from ...core.lifts.alternative import Alternative, alike
from ...core.lifts.colours import FOAM
from ...core.lifts.kinds.pour.course import TintChips, curves, dams, flow, tint_chips, waves
from ...core.lifts.kinds.pour.pools import PourLift
from ...core.surface import looks
from ..draw.path import line_d
from ..layup.kinds.shapes import WEIGHED, tint_data, tints
from ..shared.fields import Field, read_one
from ..shared.scenes import OpenScene, edit, materials_of, open_scene, pour_of, resolved_scene
from .views import blueprint

WIDE, HIGH = 640.0, 220.0  # px of a chart's inside
ROOMS_C = (12.0, 15.0, 18.0, 21.0, 24.0, 28.0)
POUR_HEADS = {
    "lifts": "in",
    "peak_c": "hottest",
    "mix_ml": "to mix",
    "next_h": "next lift after",
    "whole_h": "cured through after",
    "cost": "costs",
}
DROPS = Field("drops", "drops", "number", optional=True, low=0, high=200)
AIM_WORDS = (("vanish", "the bed just vanishes"), ("show", "stones still show"))
AT = Field("at", "at a depth of", "mm", optional=True, low=0.1, high=1000)
COUNTS = (0.0, 0.5, 1.0, 2.0, 4.0, 8.0)
GRAMS = (0.0, 0.05, 0.1, 0.2, 0.5, 1.0)


@dataclass(frozen=True)
class Line:
    """One line of a chart: its path, what it is, and its values for the pointer: (x px, text)."""

    d: str
    name: str
    kind: str


@dataclass(frozen=True)
class Chart:
    """A chart over hours: lines, ticks (px, text) on both axes, marks (px, text), what the pointer reads."""

    lines: tuple[Line, ...]
    hours: tuple[tuple[float, str], ...]
    left: tuple[tuple[float, str], ...]
    marks: tuple[tuple[float, str], ...]
    readings: tuple[tuple[float, str], ...]


def _step(end: float) -> float:
    return next(one for one in (0.25, 0.5, 1, 2, 3, 6, 12, 24, 48, 96, 240, 1000, 10_000) if end / one <= 8)


def _path(x: np.ndarray, y: np.ndarray) -> str:
    return line_d(zip(x, y, strict=True))


def heat_chart(opened: OpenScene, lift: PourLift, number: int) -> Chart | None:
    """Core, top face and degree of cure of one lift; None for what dries."""
    lines = curves(lift, opened.plan.built.stages[lift.id].site, opened.labels)
    if not lines:
        return None
    line = lines[min(max(number, 1), len(lines)) - 1]
    end = float(line.hours[-1])
    low, high = min(10.0, float(line.core_c.min())), max(50.0, float(line.core_c.max()) + 5)
    x = line.hours / end * WIDE

    def y(values: np.ndarray) -> np.ndarray:
        return HIGH - (values - low) / (high - low) * HIGH

    show = opened.show
    readings = tuple(
        (float(at), f"{show(float(hour), 'h')}: core {show(float(core), 'degC')}, top {show(float(top), 'degC')}, "
         f"cured {cure:.0%}")
        for at, hour, core, top, cure in zip(x, line.hours, line.core_c, line.top_c, line.cure, strict=True)
    )  # fmt: skip
    marks = [(hour / end * WIDE, word) for hour, word in ((line.gel_h, "gel"), (line.hard_h, "hard")) if hour]
    return Chart(
        (
            Line(_path(x, y(line.core_c)), "core", "middle"),
            Line(_path(x, y(line.top_c)), "top face", "top"),
            Line(_path(x, HIGH - line.cure * HIGH), "degree of cure, 0 to 1 over the height", "cure"),
        ),
        tuple((hour / end * WIDE, f"{hour:g} h") for hour in np.arange(0, end, _step(end))),
        tuple(
            (float(y(np.array(temp))), show(float(temp), "degC"))
            for temp in np.arange(np.ceil(low / 10) * 10, high, 10)
        ),
        tuple(marks),
        readings,
    )


def wave_chart(opened: OpenScene, lift: PourLift) -> Chart | None:
    """Share of a ripple that is kept by the hour at which it is pushed; None for what dries or never gels."""
    wave = waves(lift, opened.plan.built.stages[lift.id].site, opened.labels)
    if not wave:
        return None
    any_hours = next(iter(wave.values()))[0]
    begin, end = float(any_hours[0]), float(any_hours[-1])

    def x(hours: np.ndarray) -> np.ndarray:
        return (hours - begin) / max(end - begin, 1e-9) * WIDE

    step = next(one for one in (1 / 12, 0.25, 0.5, 1, 2, 3, 6, 12) if (end - begin) / one <= 8)
    ticks = np.arange(np.ceil(begin / step) * step, end, step)
    lines = tuple(
        Line(_path(x(hours), HIGH - kept * HIGH), f"{opened.show(ripple, 'mm')} long", f"wave-{number}")
        for number, (ripple, (hours, kept)) in enumerate(wave.items())
    )
    readings = tuple(
        (
            float(x(hour)),
            f"{opened.show(float(hour), 'h')} after mixing: "
            + ", ".join(f"{opened.show(ripple, 'mm')} keeps {kept[place]:.0%}" for ripple, (_, kept) in wave.items()),
        )
        for place, hour in enumerate(any_hours)
    )
    kept = wave[15.0][1]
    tries = float(any_hours[int(np.argmax(kept >= 0.2))])
    half = float(any_hours[int(np.argmax(kept >= 0.5))])
    marks = ((float(x(np.array(tries))), "start trying"), (float(x(np.array(half))), "half is kept"))
    return Chart(
        lines,
        tuple((float(x(hour)), f"{int(hour + 1e-6)} h {round(hour % 1 * 60) % 60:02d}") for hour in ticks),
        tuple((HIGH - share * HIGH, f"{share:.0%}") for share in (0.0, 0.25, 0.5, 0.75, 1.0)),
        marks,
        readings,
    )


def _chips(opened: OpenScene, lift: PourLift) -> TintChips:
    """The tint that is asked for, else the pour's own, over the bed as its lay-up leaves it."""
    patch = opened.scene.patch_of(lift.id)
    below = [one for one in patch.lifts[: patch.lifts.index(lift)] if not one.levels_itself]
    look = looks(opened.scene, patch.id).get(below[-1].id) if below else None
    ink = request.args.get("ink") or (lift.tint[0].material if lift.tint else "acrylic-ink-teal")
    if ink not in dict(materials_of(opened, "colour")):
        raise fault("ink", f"there is no tint '{ink}'", "choose one of the list")
    material = opened.catalogue.materials[ink]
    counts = set(GRAMS if material.weighed else COUNTS) | {
        tint.per_100_ml for tint in lift.tint if tint.material == ink
    }
    drops = read_one(DROPS, request.args)
    if drops is not None:
        counts.add(drops)
    deepest = max((pool.deepest_mm.number for pool in opened.plan.lifts[lift.id].pools or ()), default=1.0)
    bed = linear(look.dry if look else FOAM)
    chosen = drops if drops is not None else next((one.per_100_ml for one in lift.tint if one.material == ink), 1.0)
    aim = request.args.get("aim", "vanish")
    if aim not in dict(AIM_WORDS):
        raise fault("aim", f"“{aim[:20]}” is none", f"one of {', '.join(dict(AIM_WORDS))}")
    at = read_one(AT, request.args)
    ordered = tuple(sorted(one for one in counts | {chosen} if one >= 0))
    return tint_chips(material, opened.labels.mixes[lift.mix], deepest, bed, ordered, chosen, aim, at)


@blueprint.get("/s/<slug>/pour/course")
def course(slug: str) -> str:
    """Heat, cure, waves, reach, bubbles, tint: how a pour goes."""
    opened = open_scene(slug)
    lift = pour_of(opened.scene, request.args.get("lift", ""))
    number = request.args.get("number", 1, type=int)
    return render_template(
        "pour/course.html",
        opened=opened,
        lift=lift,
        patch=opened.scene.patch_of(lift.id),
        heat=heat_chart(opened, lift, number),
        number=number,
        count=len(opened.plan.lifts[lift.id].layers),
        wave=wave_chart(opened, lift),
        flow=flow(lift, opened.plan.built.stages[lift.id].site, opened.labels),
        dam=dams(lift, opened.plan.built.stages[lift.id].site, opened.labels),
        chips=_chips(opened, lift),
        inks=materials_of(opened, "colour"),
        aims=AIM_WORDS,
        wide=WIDE,
        high=HIGH,
        place="pour.page",
    )


@blueprint.get("/s/<slug>/pour/course/working")
def course_working(slug: str) -> str:
    """The terms of a figure of the course: how it flows, or how much tint does what is aimed at. Raises Faults."""
    opened = open_scene(slug)
    lift = pour_of(opened.scene, request.args.get("lift", ""))
    name = request.args.get("figure", "")
    figure: object = None
    if name == "aimed":
        figure = _chips(opened, lift).aimed
    else:
        kind = dams if name.startswith("dam.") else flow
        made: object = kind(lift, opened.plan.built.stages[lift.id].site, opened.labels)
        try:
            figure = at_path(made, name.removeprefix("dam."))
        except KeyError:
            figure = None
    if not isinstance(figure, Figure):
        raise fault("figure", "there is no such figure", "reload the page")
    return render_template("shared/_working.html", figure=figure)


def _rooms(opened: OpenScene, lift: PourLift) -> dict[str, Alternative]:
    return rooms(opened.scene, lift.id, tuple(sorted({*ROOMS_C, opened.scene.room.temp_c})))


@blueprint.get("/s/<slug>/pour/whatif")
def whatif(slug: str) -> str:
    """The same pour in other rooms, side by side."""
    opened = open_scene(slug)
    lift = pour_of(opened.scene, request.args.get("lift", ""))
    ways = _rooms(opened, lift)
    return render_template(
        "pour/whatif.html",
        opened=opened,
        lift=lift,
        patch=opened.scene.patch_of(lift.id),
        ways=ways,
        alike=alike(ways.values()),
        heads=POUR_HEADS,
        room=f"{opened.scene.room.temp_c:g}",
        place="pour.page",
    )


@blueprint.get("/s/<slug>/pour/whatif/working")
def whatif_working(slug: str) -> str:
    """The terms of a figure of one way. Raises Faults."""
    opened = open_scene(slug)
    school = _rooms(opened, pour_of(opened.scene, request.args.get("lift", ""))).get(request.args.get("way", ""))
    name = request.args.get("figure", "")
    figure = school.figures.get(name) if school and name in POUR_HEADS else None
    if not isinstance(figure, Figure):
        raise fault("figure", "there is no such figure", "reload the page")
    return render_template("shared/_working.html", figure=figure)


@blueprint.post("/s/<slug>/pour/<lift_id>/tint")
def take_tint(slug: str, lift_id: str) -> Response:
    """A pour with so much of one tint. Raises Faults."""
    pour_of(resolved_scene(slug), lift_id)
    ink, count = request.form.get("ink", ""), DROPS.parse(request.form.get("count", ""))
    known = dict(tints(open_scene(slug)))
    choice = ink if ink in known else f"{WEIGHED}{ink}"
    if choice not in known:
        raise fault("ink", f"there is no tint '{ink[:40]}'", "choose one of the list")
    return edit(
        slug,
        lambda scene: f"{called(scene, lift_id)} tinted",
        lambda scene: update(scene, "lifts", lift_id, {"tint": tint_data(choice, count)}),
        url_for("pour.course", slug=slug, lift=lift_id),
    )
