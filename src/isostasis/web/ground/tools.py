"""What is read off the ground, each a page beside the forms: patches, carve or fill, incline, foam, joints, what must
stay flat or clean, the level of the board."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from itertools import pairwise
from math import cos, isfinite, radians, sin
from typing import Any

from flask import g, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.catalogue import shipped
from ...core.document.scene import NearArea, RestArea
from ...core.fault import Faults, fault
from ...core.ground.view import contours
from ...core.lifts.site import line_of, overlaps
from ...core.terrain.incline import Incline, as_forms, solve
from ...core.terrain.joints import profiles
from ...core.terrain.level import levelling
from ...core.terrain.report import Asked, Report, report
from ...standins.spirit_level import CORNERS, SimulatedLevel, mean_of
from ...store import settings
from ...store.scenes import slug_of
from ..draw.frame import path
from ..frame.opened import (
    Document,
    Opened,
    database,
    edit,
    entry,
    measure,
    measured,
    new_id,
    numeral,
    numeral_of,
    open_scene,
)
from .views import blueprint, drawn, no_stage

READINGS = 5


def asked() -> Asked:
    """What the reader chose, from the address. Raises Faults for what is no number."""
    found: dict[str, Any] = {"stage": request.args.get("at", "bare"), "mix": request.args.get("mix", "paper-plaster")}
    if "slope" in request.args:
        found["slope_deg"] = numeral_of(request.args["slope"], "slope")
    if request.args.get("foot", "").strip():
        found["foot_mm"] = measured(request.args["foot"], "length", "foot", g.measures)
    if "x" in request.args and "y" in request.args:
        found["at"] = tuple(numeral_of(request.args[axis], f"place, {axis}") for axis in ("x", "y"))
    return Asked(**found)


def _report(opened: Opened, wanted: Asked, *sections: str) -> Report:
    try:
        return report(opened.scene, opened.plan.built, opened.plan.lifts, wanted, sections)
    except KeyError:
        raise no_stage(wanted.stage) from None


def _page(template: str, tool: str, opened: Opened, stage: str = "bare", **more: Any) -> str:
    """A tool's page: plan and cut at a stage, and its figures."""
    query = {name: request.args[name] for name in ("slope", "mix", "foot", "x", "y", "at") if name in request.args}
    return render_template(
        f"ground/{template}.html",
        opened=opened,
        p=drawn(opened, stage),
        tool=tool,
        place="ground.page",
        query=query,
        **more,
    )


@blueprint.get("/s/<slug>/ground/working")
def working(slug: str) -> str:
    """The terms of a figure that is read off the ground, by its path in the report."""
    opened = open_scene(slug)
    where = request.args.get("path", "")
    try:
        figure = _report(opened, asked(), where.split(".")[0]).figure(where)
    except KeyError:
        raise fault(where or "path", "the ground has no such figure", "reload the page; it may have changed") from None
    return render_template("frame/_working.html", figure=figure)


# Patches


AREA_WORDS = {
    "outline": "an outline",
    "rest": "all the rest",
    "steeper_deg": "steeper than",
    "below_mm": "lower than",
    "above_mm": "higher than",
    "near": "within a distance of",
    "on": "all of a form, castings too",
    "face_mm2": "a face beside the ground, of area",
}


def area_words(area: Any, opened: Opened) -> str:
    """An area as people say it."""
    kind = next(key for key in AREA_WORDS if getattr(area, key, None) is not None)
    if kind in ("outline", "rest"):
        return AREA_WORDS[kind]
    if kind == "steeper_deg":
        return f"steeper than {area.steeper_deg:g}°"
    if kind == "face_mm2":
        return f"a face of {opened.show(area.face_mm2, 'mm2')}"
    things = {one.id: one.title for one in opened.scene.forms}
    if kind == "on":
        return f"all of {things[area.on]}"
    if isinstance(area, NearArea):
        things |= {one.id: one.name for one in (*opened.scene.protect, *opened.scene.flats)}
        return f"within {opened.show(area.within_mm, 'mm')} of {things.get(area.near, 'the edge')}"
    return f"{AREA_WORDS[kind]} {opened.show(getattr(area, kind), 'mm')}"


@blueprint.get("/s/<slug>/ground/patches")
def patches(slug: str) -> str:
    """Patches in order, by outline or by rule, and where two claim the same ground."""
    opened = open_scene(slug)
    p = drawn(opened, "bare")
    built = opened.plan.built
    chosen = next((one for one in opened.scene.patches if one.id == request.args.get("patch")), None)

    def region(share: Any) -> str:
        return path([line for _, lines in contours(share, built.bare.cell_mm, [0.5]) for line in lines], p.frame)

    names = {patch.id: patch.name for patch in opened.scene.patches}
    return _page(
        "patches", "patches", opened,
        chosen=chosen,
        regions={patch.id: region(built.covers[patch.id].share) for patch in opened.scene.patches},
        claimed=[region(both) for _, _, both in overlaps(opened.scene, built.bare)],
        overlaps=_report(opened, Asked(), "overlaps").overlaps,
        names=names,
        words={patch.id: area_words(patch.area, opened) for patch in opened.scene.patches},
        has_rest=any(isinstance(patch.area, RestArea) for patch in opened.scene.patches),
        things=[("edge", "the base's edge"), *((one.id, one.title) for one in opened.scene.forms),
                *((one.id, one.name) for one in (*opened.scene.flats, *opened.scene.protect))],
        area_kinds=list(AREA_WORDS.items()),
    )  # fmt: skip


def _area(opened: Opened) -> Document:
    """The area that the form describes. Raises Faults."""
    kind = request.form.get("area", "")
    if kind == "outline":
        around = next((one for one in opened.scene.forms if one.id == request.form.get("near")), None)
        ring = getattr(around, "outline", None)
        if around is None or ring is None:
            raise fault(
                "area", "an outline is taken from a form that has one", "choose a sheet, mound or basin beside it"
            )
        return {"outline": [list(point) for point in ring]}
    if kind == "rest":
        return {"rest": True}
    if kind == "steeper_deg":
        return {"steeper_deg": numeral("size", "steeper than")}
    if kind in ("below_mm", "above_mm"):
        return {kind: round(measure("size", "length", AREA_WORDS[kind], g.measures), 3)}
    if kind == "face_mm2":
        return {"face_mm2": round(measure("size", "area", "area", g.measures), 3)}
    if kind == "near":
        within = round(measure("size", "length", "distance", g.measures), 3)
        return {"near": request.form.get("near", "edge"), "within_mm": within}
    if kind == "on":
        return {"on": request.form.get("near", "")}
    raise fault("area", f"'{kind}' is no kind of area", "choose one of the list")


@blueprint.post("/s/<slug>/ground/patches")
def add_patch(slug: str) -> Response:
    """A patch by outline or by rule. It comes first in the order, so that it takes nothing from those that are there
    until it is moved."""
    opened = open_scene(slug)
    name = request.form.get("name", "").strip()
    if not name:
        raise fault("name", "the patch has no name", "give it one, such as Scree")
    area = _area(opened)
    patch_id = new_id(opened.document, slug_of(name, "patch")[:50])  # its lifts' ids begin with it

    def change(data: Document) -> None:
        data.setdefault("patches", []).insert(0, {"id": patch_id, "name": name, "area": area, "lifts": []})

    return edit(slug, f"Added the patch {name}", change, url_for("ground.patches", slug=slug, patch=patch_id))


@blueprint.post("/s/<slug>/ground/patches/<patch_id>/move")
def move_patch(slug: str, patch_id: str) -> Response:
    """Earlier or later: the later listed owns what both claim."""
    how = request.form.get("how", "")

    def change(data: Document) -> None:
        listed = data["patches"]
        at = listed.index(entry(data, "patches", patch_id))
        to = at + (1 if how == "later" else -1)
        if how in ("later", "earlier") and 0 <= to < len(listed):
            listed[at], listed[to] = listed[to], listed[at]

    return edit(slug, f"{patch_id}: {how}", change, url_for("ground.patches", slug=slug, patch=patch_id))


# Carve or fill


@blueprint.get("/s/<slug>/ground/steps")
def steps(slug: str) -> str:
    """For each flight of steps what filling and what carving takes."""
    opened, wanted = open_scene(slug), asked()
    found = _report(opened, wanted, "flights").flights or {}
    p = drawn(opened, "bare")
    skins = sorted((mix.id, mix.name) for mix in shipped().mixes.values() if mix.family == "skin")
    return _page(
        "steps", "steps", opened, flights=found, asked=wanted, skins=skins,
        outlines={name: path([list(flight.outline)], p.frame) for name, flight in found.items()},
    )  # fmt: skip


@blueprint.post("/s/<slug>/ground/steps/<flight_id>/carve")
def carve(slug: str, flight_id: str) -> Response:
    """The answer turned into a form: a bevel round the flight."""
    opened = open_scene(slug)
    slope = numeral("slope", "slope")
    flights = _report(opened, Asked(slope_deg=slope), "flights").flights or {}
    flight = flights.get(flight_id)
    if flight is None:
        raise fault("steps", "this flight is no longer there", "reload the page")
    name = new_id(opened.document, "bevel")
    outline = [list(point) for point in flight.outline]
    made = {"id": name, "kind": "bevel", "name": f"{flight.name}, carved"[:80], "outline": outline, "slope_deg": slope}

    def change(data: Document) -> None:
        forms = data["forms"]
        # After the sheets or survey that make the steps, before what is cut into them.
        under = [place for place, form in enumerate(forms) if form["kind"] in ("sheet", "survey")]
        forms.insert(max((place for place in under if not forms[place].get("after")), default=-1) + 1, made)

    return edit(
        slug, f"Carved {flight.name} to {slope:g} degrees", change, url_for("ground.page", slug=slug, form=name)
    )


# Incline


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

    def corner(up_along: float, up: float) -> str:
        return f"{left + up_along / grade * x_scale:.1f},{base_y - up * z_scale:.1f}"

    wedges = [
        f"M{corner(low, low)}L{corner(high, high)}L{corner(high, low)}Z" for low, high in pairwise(reached)
    ]  # fmt: skip
    last = reached[-2] if len(reached) > 1 else 0.0
    return Side(
        boxes, wedges, f"M{left},{base_y}L{left + wide},{base_y - height * z_scale:.1f}",
        left + last / grade * x_scale, left + wide, base_y - height * z_scale, base_y, z_scale / x_scale,
    )  # fmt: skip


def _incline(opened: Opened, height: str, grade: str) -> tuple[float, float, tuple[Incline, ...]]:
    bench = opened.scene.bench
    assert bench is not None
    rise = measured(height, "length", "height", g.measures)
    slope = numeral_of(grade, "grade") / 100
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
        rise, slope, answers = _incline(opened, height, grade)
        pick = min(max(pick, 0), len(answers) - 1)
        side = side_of(answers[pick], rise, slope) if answers else None
    except Faults as faults:
        problem = str(faults.faults[0])
    return _page(
        "incline", "incline", opened,
        height=height, grade=grade, answers=answers, pick=pick, side=side, problem=problem, bench=opened.scene.bench,
        height_mm=rise, words=lambda answer: answer.words(lambda mm: opened.show(mm, "mm")),
    )  # fmt: skip


@blueprint.get("/s/<slug>/ground/incline/working")
def incline_working(slug: str) -> str:
    """The terms of a figure of one answer."""
    opened = open_scene(slug)
    _, _, answers = _incline(opened, request.args.get("height", ""), request.args.get("grade", ""))
    pick, name = request.args.get("pick", 0, type=int), request.args.get("figure", "")
    if not (0 <= pick < len(answers)) or name not in ("wedge_mm", "cut_mm", "run_mm", "left_over_mm"):
        raise fault("figure", "there is no such figure", "reload the page")
    return render_template("frame/_working.html", figure=getattr(answers[pick], name))


@blueprint.post("/s/<slug>/ground/incline")
def place_incline(slug: str) -> Response:
    """An answer as forms: a sheet for every riser, one ramp over them."""
    opened = open_scene(slug)
    rise, slope, answers = _incline(opened, request.form.get("height", ""), request.form.get("grade", ""))
    pick = request.form.get("pick", 0, type=int)
    if not 0 <= pick < len(answers):
        raise fault("incline", "there is no such answer", "choose one of the list")
    asked_for = (("x", "start, x"), ("y", "start, y"), ("width", "width"))
    x, y, width = (round(measure(name, "length", words, g.measures), 3) for name, words in asked_for)
    towards = radians(numeral("heading", "heading"))
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
    stem = new_id(opened.document, "incline")
    under = float(ground.z[ground.cell_at(x, y)])
    forms = as_forms(answers[pick], rise, slope, (x, y), direction, width, under, stem, "foam-xps")

    def change(data: Document) -> None:
        data.setdefault("forms", []).extend(forms)

    return edit(slug, f"Incline of {rise:g} mm", change, url_for("ground.page", slug=slug, form=stem))


# Foam, joints


@blueprint.get("/s/<slug>/ground/foam")
def foam(slug: str) -> str:
    """Sheets nested on panels."""
    opened = open_scene(slug)
    steps = [step for step in opened.plan.steps if step.form or step.id == "trial-fit"]
    first_told: dict[str, str] = {}
    for step in steps:
        for caution in opened.plan.cautions_of(step.id):
            first_told.setdefault(caution.code, step.id)

    def told_before(step_id: str) -> set[str]:
        """Cautions that an earlier step has told already."""
        return {code for code, at in first_told.items() if at != step_id}

    return _page(
        "foam", "foam", opened, lists=_report(opened, Asked(), "foam").foam or {}, built=steps, told_before=told_before,
        glues=[name for name, one in opened.labels.materials.items() if one.glue_line_h],
    )  # fmt: skip


@blueprint.get("/s/<slug>/ground/joints")
def joints(slug: str) -> str:
    """Profiles on both sides of a joint, and its separators."""
    opened = open_scene(slug)
    found = _report(opened, Asked(), "joints").joints or {}
    name = request.args.get("joint", next(iter(found), ""))
    chosen = found.get(name)
    lines = None
    if chosen:
        along, before, behind = profiles(opened.plan.built.bare, chosen.axis, chosen.at_mm)
        finished = profiles(opened.plan.built.finished, chosen.axis, chosen.at_mm)
        length, high = float(along[-1]) + 1, max(float(finished[1].max()), float(before.max()), 1.0) * 1.1
        x_scale, z_scale = 720 / length, min(300 / high, 720 / length * 4)

        def line(z: Any) -> str:
            return "M" + "L".join(
                f"{50 + a * x_scale:.1f},{330 - b * z_scale:.1f}" for a, b in zip(along, z, strict=True)
            )

        lines = {
            "before": line(before), "behind": line(behind), "finished": line(finished[1]),
            "area": line(before) + f"L{50 + along[-1] * x_scale:.1f},330L50,330Z",
            "times": z_scale / x_scale,
            "ticks": [(330 - z * z_scale, z) for z in range(0, int(high), max(10, round(high / 50) * 10))],
            "marks": [(50 + a * x_scale, a) for a in range(0, int(length), max(50, round(length / 6 / 50) * 50))],
        }  # fmt: skip
    return _page("joints", "joints", opened, found=found, chosen=chosen, name=name, lines=lines)


@blueprint.post("/s/<slug>/ground/joints")
def set_joints(slug: str) -> Response:
    """Where the base comes apart: places along x and along y."""

    def change(data: Document) -> None:
        for axis in ("x", "y"):
            pieces = [piece for piece in request.form.get(axis, "").split(";") if piece.strip()]
            places = [round(measured(piece, "length", f"joint along {axis}", g.measures), 3) for piece in pieces]
            data["base"][f"joints_{axis}_mm"] = sorted(places)

    return edit(slug, "Joints moved", change, url_for("ground.joints", slug=slug))


# What must stay flat or clean


@blueprint.get("/s/<slug>/ground/flats")
def flats(slug: str) -> str:
    """Flats after every lift, the wobble of a foot, and the protect list."""
    opened, wanted = open_scene(slug), asked()
    found = _report(opened, wanted, "flats", "protect", "wobble")
    p = drawn(opened, "bare" if wanted.stage == "bare" else "finished")
    places = []
    for thing in (*opened.scene.flats, *opened.scene.protect):
        kind, points, width = line_of(thing) or ("ring", (), 0.0)
        broken = (found.flats or {}).get(thing.id)
        state = "protect" if broken is None else "broken" if broken.broken_at else "holds"
        places.append((thing, path([list(points)], p.frame, close=kind == "ring"), width * p.frame.scale, state))
    lifts = {lift.id: lift.title for patch in opened.scene.patches for lift in patch.lifts}
    return _page(
        "flats", "flats", opened, "bare" if wanted.stage == "bare" else "finished",
        asked=wanted, flats=found.flats or {}, protect=found.protect or {}, wobble=found.wobble, kept=places,
        lifts=lifts,
    )  # fmt: skip


@blueprint.post("/s/<slug>/ground/keep")
def add_place(slug: str) -> Response:
    """A corridor or a footprint to keep flat, or something to protect: a box, or a strip along two points."""
    opened = open_scene(slug)
    kind = request.form.get("list", "flats")
    if kind not in ("flats", "protect"):
        raise fault("list", f"'{kind}' is no such list", "choose what to keep")
    name = request.form.get("name", "").strip()
    if not name:
        raise fault("name", "it has no name", "give it one, such as Roadbed")
    x1, y1, x2, y2 = (round(measure(one, "length", one, g.measures), 3) for one in ("x1", "y1", "x2", "y2"))
    made: Document = {"id": new_id(opened.document, "flat" if kind == "flats" else "protect"), "name": name}
    if request.form.get("width", "").strip():
        made |= {"path": [[x1, y1], [x2, y2]], "width_mm": round(measure("width", "length", "width", g.measures), 3)}
    else:
        west, east, south, north = min(x1, x2), max(x1, x2), min(y1, y2), max(y1, y2)
        made["outline"] = [[west, south], [east, south], [east, north], [west, north]]
    if kind == "flats":
        made["flat_mm"] = round(measure("flat", "length", "how flat", g.measures), 3)
        if request.form.get("height", "").strip():
            made["height_mm"] = round(measure("height", "length", "height", g.measures), 3)

    def change(data: Document) -> None:
        data.setdefault(kind, []).append(made)

    return edit(slug, f"Keeps {name}", change, url_for("ground.flats", slug=slug))


@blueprint.post("/s/<slug>/ground/keep/<place_id>/remove")
def remove_place(slug: str, place_id: str) -> Response:
    """It need not be kept any more."""

    def change(data: Document) -> None:
        for kind in ("flats", "protect"):
            data[kind] = [one for one in data.get(kind, []) if one["id"] != place_id]

    return edit(slug, f"{place_id}: no longer kept", change, url_for("ground.flats", slug=slug))


# Level


def _level_of(slug: str, session: Any) -> SimulatedLevel:
    """The stand-in's board as it stands; a new one leans a little, as boards do."""
    states = settings.get(session, "level", {})
    seed = sum(ord(letter) * (place + 7) for place, letter in enumerate(slug))
    return SimulatedLevel(**states.get(slug, {"east": seed % 13 / 4 - 1.5, "north": seed % 7 / 3 - 1.0, "seed": seed}))


def _keep_level(slug: str, level: SimulatedLevel, session: Any) -> None:
    states = settings.get(session, "level", {})
    settings.put(session, "level", {**states, slug: asdict(level)})


@blueprint.get("/s/<slug>/ground/level")
def level(slug: str) -> str:
    """The spirit level's panel, and what to put under which corner."""
    opened = open_scene(slug)
    with database().reading() as session:
        read = mean_of(_level_of(slug, session), READINGS)
    scale = 46 / 5.0  # px per mm/m: the vial's ring is 5 mm/m
    east, north = (max(min(one, 5.0), -5.0) for one in read)
    return _page(
        "level", "level", opened, read=read, readings=READINGS, levelling=levelling(opened.scene.base), corners=CORNERS,
        bubble=(60 + east * scale, 60 - north * scale), tilt=opened.scene.base.tilt_mm_per_m,
        reading=_report(opened, Asked(), "reading").reading,
    )  # fmt: skip


@blueprint.get("/s/<slug>/ground/level/working")
def level_working(slug: str) -> str:
    """The terms of a shim, or of how far the corners stand apart."""
    made = levelling(open_scene(slug).scene.base)
    name = request.args.get("corner", "")
    figure = made.apart_mm if name == "apart" else made.shims.get(name)
    if figure is None:
        raise fault("corner", f"there is no corner '{name}'", "reload the page")
    return render_template("frame/_working.html", figure=figure)


@blueprint.post("/s/<slug>/ground/level")
def set_level(slug: str) -> Response:
    """Take a reading over into the scene, or write the lean by hand."""
    if request.form.get("how") == "read":
        with database().writing() as session:
            device = _level_of(slug, session)
            east, north = mean_of(device, READINGS)
            _keep_level(slug, device, session)
    else:
        east, north = numeral("east", "lean to the east"), numeral("north", "lean to the north")

    def change(data: Document) -> None:
        data["base"]["tilt_mm_per_m"] = [east, north]

    return edit(slug, f"Board leans {east:g} east, {north:g} north mm/m", change, url_for("ground.level", slug=slug))


@blueprint.post("/s/<slug>/ground/level/shim")
def shim(slug: str) -> Response:
    """Raise a corner of the stand-in's board, and read it again."""
    opened = open_scene(slug)
    corner = next((one for one in CORNERS if one == request.form.get("corner")), None)
    height = measure("height", "length", "shim", g.measures)
    if corner is None or not isfinite(height):
        raise fault("corner", "there is no such corner", "choose one of the four")
    with database().writing() as session:
        device = _level_of(slug, session)
        device.shim(corner, height, opened.scene.base.width_mm, opened.scene.base.depth_mm)
        east, north = mean_of(device, READINGS)
        _keep_level(slug, device, session)

    def change(data: Document) -> None:
        data["base"]["tilt_mm_per_m"] = [east, north]

    return edit(slug, f"Raised the {corner} corner by {height:g} mm", change, url_for("ground.level", slug=slug))
