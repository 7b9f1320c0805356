"""The Lay-up page."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, flash, g, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.catalogue import shipped
from ...core.document.scene import Patch
from ...core.fault import fault
from ...core.figure import Figure
from ...core.lifts.shell import Shell, plan_of
from ...core.lifts.thirst import drinks
from ...core.plan import first_level
from ...core.surface import looks
from ...store import settings
from ...store.scenes import slug_of
from ..draw.core_sample import ROW, core_sample
from ..frame.opened import (
    Document,
    Opened,
    database,
    degrees,
    edit,
    entry,
    go,
    materials_of,
    measure,
    mixes_of,
    new_id,
    numeral,
    numeral_of,
    open_scene,
    poured_of,
    whole_of,
)
from ..ground.views import drawn, stages_of

blueprint = Blueprint("layup", __name__)

FIRST_COATS_MM = 1.0


def coats_of(opened: Opened) -> list[tuple[str, str]]:
    """What can be brushed on: materials, and mixes of binder."""
    return materials_of(opened, "seal", "varnish", "colour", "binder") + [
        (f"mix:{one}", name) for one, name in mixes_of(opened, "binder", "seal", "colour")
    ]


@dataclass(frozen=True)
class Cutting:
    """A cutting plan drawn: rolls as rows of strips, to scale along and across."""

    rolls: list[list[tuple[float, float, float, float]]]
    length_mm: float
    width_mm: float
    more: int


def cuttings(opened: Opened, patch: Patch | None, most: int = 6) -> dict[str, Cutting]:
    """The cutting plan of every shell of a patch, its first rolls."""
    found = {}
    for lift in patch.lifts if patch else ():
        if isinstance(lift, Shell):
            cuts = plan_of(lift, opened.plan.built.stages[lift.id].site, opened.labels)
            length, width = opened.labels.materials[lift.material].roll_mm or (1.0, 1.0)
            rolls = [
                [(strip.begin_mm, strip.lane * cuts.width_mm, strip.length_mm, cuts.width_mm) for strip in roll]
                for roll in cuts.rolls[:most]
            ]
            found[lift.id] = Cutting(rolls, length, width, len(cuts.rolls) - len(rolls))
    return found


def _standards() -> list[str]:
    """Names of the user's own lay-ups."""
    with database().reading() as session:
        return sorted(settings.get(session, "layups", {}))


def _patch(opened: Opened) -> Patch | None:
    wanted = request.args.get("patch")
    for patch in opened.scene.patches:
        if patch.id == wanted:
            return patch
    with_pour = [patch for patch in opened.scene.patches if any(lift.kind == "pour" for lift in patch.lifts)]
    return next(iter([*with_pour, *opened.scene.patches]), None)


@blueprint.get("/s/<slug>/layup")
def page(slug: str) -> str:
    """Plan, cut, and the chosen patch's core."""
    opened = open_scene(slug)
    patch = _patch(opened)
    ids = [lift.id for lift in patch.lifts] if patch else []
    return render_template(
        "layup/page.html",
        opened=opened,
        p=drawn(opened, "finished", checks=True),
        patch=patch,
        core=core_sample(opened.plan, patch.id, ids)
        if patch and opened.plan.built.covers[patch.id].mask.any()
        else None,
        row_height=ROW,
        skins=mixes_of(opened, "skin"),
        cloths=materials_of(opened, "cloth"),
        inks=materials_of(opened, "colour"),
        cuttings=cuttings(opened, patch),
        batches_of=lambda into: [batch for batch in opened.plan.batches if into in [feed.into for feed in batch.feeds]],
        standards=_standards(),
        coats=coats_of(opened),
        textures=mixes_of(opened, "texture"),
        binders=mixes_of(opened, "binder"),
        wettings=mixes_of(opened, "wetting"),
        keys=materials_of(opened, "binder", "colour"),
        looks=looks(opened.scene, patch.id) if patch else {},
        thirst=_thirst(opened, patch) if patch else None,
        thirst_over=_over_words(opened, patch) if patch else "",
        stages=stages_of(opened),
        resins=poured_of(opened),
        basins=[form for form in opened.scene.forms if form.kind == "basin" and not form.off],
        place="layup.page",
    )


def _wetted(opened: Opened, patch: Patch) -> tuple[float, bool]:
    """mm2 of a patch that a pour wets, and whether it has a pour; without one all of it."""
    for lift in patch.lifts:
        pools = opened.plan.lifts[lift.id].pools
        if pools:
            return sum(pool.area_mm2.number for pool in pools), True
    return opened.plan.patches[patch.id].true_area_mm2.number, False


def _thirst(opened: Opened, patch: Patch) -> Figure:
    """What the patch's bed drinks of a first pour as its lay-up stands, up to that pour."""
    pour = next((lift for lift in patch.lifts if lift.levels_itself), None)
    below = patch.lifts[: patch.lifts.index(pour)] if pour else patch.lifts
    return drinks(list(below), opened.labels, _wetted(opened, patch)[0])


def _over_words(opened: Opened, patch: Patch) -> str:
    area, poured = _wetted(opened, patch)
    return f"{opened.show(area, 'mm2')}, {'what its pour wets' if poured else 'all of it'}"


@blueprint.get("/s/<slug>/layup/working")
def working(slug: str) -> str:
    """The terms of what the page works out beside the plan: a bed's thirst, how a lift will look."""
    opened = open_scene(slug)
    patch = next((one for one in opened.scene.patches if one.id == request.args.get("patch")), None)
    if patch is None:
        raise fault("patch", "that patch is no longer there", "reload the page")
    if request.args.get("what") == "thirst":
        return render_template("frame/_working.html", figure=_thirst(opened, patch))
    look = looks(opened.scene, patch.id).get(request.args.get("lift", ""))
    figure = {"drying": look.drying, "change": look.change}.get(request.args.get("figure", "")) if look else None
    if figure is None:
        raise fault("figure", "there is no such figure", "reload the page")
    return render_template("frame/_working.html", figure=figure)


def then(slug: str, patch: str) -> str:
    """Where a change of a lay-up leads: back to its patch."""
    return url_for("layup.page", slug=slug, patch=patch)


def _whole(field: str, otherwise: str = "") -> int:
    return whole_of(request.form.get(field, otherwise), field)


def _shell(data: Document) -> None:
    data["material"] = request.form.get("material", "plaster-cloth")
    data["layers"] = _whole("layers")
    data["over"] = request.form.get("over", "all")
    data.pop("water_c", None)
    if request.form.get("water", "").strip():
        data["water_c"] = degrees(numeral("water", "water"))


def _skin(data: Document) -> None:
    data["mix"] = request.form.get("mix", "")
    data["depth_mm"] = round(measure("depth", "length", "thickness", g.measures), 3)
    data["consistency"] = request.form.get("consistency", "general")
    data["courses"] = _whole("courses", "1")
    data["clouded"] = request.form.get("clouded") == "yes"
    for name in ("fill_steps_deg", "feather_mm", "water_c", "tint"):
        data.pop(name, None)
    if request.form.get("water", "").strip():
        data["water_c"] = degrees(numeral("water", "water"))
    if request.form.get("drops", "").strip():
        drops = numeral("drops", "drops in 100 ml")
        data["tint"] = [{"material": request.form.get("ink", ""), "drops_per_100_ml": drops}] if drops else []
    if request.form.get("feather", "").strip():
        data["feather_mm"] = round(measure("feather", "length", "thins over", g.measures), 3)
    if request.form.get("fill_steps", "").strip():
        data["fill_steps_deg"] = numeral("fill_steps", "slope of filled steps")


def _coat(data: Document) -> None:
    what = request.form.get("material", "")
    data.pop("mix", None)
    data.pop("material", None)
    data.update({"mix": what[4:]} if what.startswith("mix:") else {"material": what})
    data["coats"] = _whole("coats")
    data["thin"] = numeral_of(request.form.get("thin") or "0", "parts of water")
    data["cover"] = _cover()
    data["how"] = request.form.get("how", "brush")


def _cover() -> float:
    return round(numeral_of(request.form.get("cover") or "100", "covers") / 100, 4)


def _texture(data: Document) -> None:
    data["mix"] = request.form.get("mix", "")
    data["depth_mm"] = round(measure("depth", "length", "depth", g.measures), 3)
    data["cover"] = _cover()
    data["school"] = request.form.get("school", "dry")
    data["key"] = request.form.get("key", "white-glue")
    data.pop("straightedge_mm", None)
    if request.form.get("straightedge", "").strip():
        data["straightedge_mm"] = round(measure("straightedge", "length", "straightedge", g.measures), 3)


def _fix(data: Document) -> None:
    data["mix"] = request.form.get("mix", "")
    data["by"] = request.form.get("by", "drip")
    data.pop("wetting", None)
    if request.form.get("wetting"):
        data["wetting"] = request.form["wetting"]


def _pour(data: Document) -> None:
    data["mix"] = request.form.get("mix", "")


def _waves(data: Document) -> None:
    data["mix"] = request.form.get("mix", "")
    data["layers"] = _whole("layers")


_FIELDS: dict[str, Callable[[Document], None]] = {
    "shell": _shell,
    "skin": _skin,
    "texture": _texture,
    "fix": _fix,
    "coat": _coat,
    "pour": _pour,
    "waves": _waves,
}


@blueprint.post("/s/<slug>/patches/<patch_id>/lifts")
def add(slug: str, patch_id: str) -> Response:
    """A lift on top of the lay-up."""
    kind = request.form.get("kind", "")
    if kind not in _FIELDS:
        raise fault("kind", f"'{kind}' is no kind of lift that is built", f"choose one of {', '.join(_FIELDS)}")
    opened = open_scene(slug)
    patch = next((one for one in opened.scene.patches if one.id == patch_id), None)
    if patch is None:
        raise fault("patch", f"'{patch_id}' is no longer there", "reload the page")
    made: Document = {
        "id": new_id(opened.document, f"{patch_id}-{'water' if kind == 'pour' else kind}"),
        "kind": kind,
    }
    _FIELDS[kind](made)
    if kind == "pour":
        known = {**shipped().mixes, **opened.labels.mixes}.get(made["mix"])
        if known is not None and known.reacts is None:
            made["depth_mm"] = FIRST_COATS_MM  # what dries is built up shallow
        else:
            made["level_mm"] = first_level(opened.scene, patch, made["id"])

    def change(data: Document) -> None:
        entry(data, "patches", patch_id).setdefault("lifts", []).append(made)

    return edit(slug, f"Added a {kind} on {patch.name}", change, then(slug, patch_id))


@blueprint.post("/s/<slug>/lifts/<lift_id>")
def change_lift(slug: str, lift_id: str) -> Response:
    """Exact values of one lift."""
    patch_id = request.form.get("patch", "")

    def change(data: Document) -> None:
        lift = entry(data, "lifts", lift_id)
        _FIELDS[lift["kind"]](lift)

    return edit(slug, f"Changed {lift_id}", change, then(slug, patch_id))


def take_out(data: Document, patch_id: str, lift_id: str) -> None:
    """The lift goes, and no other waits for it any more."""
    entry(data, "patches", patch_id)["lifts"].remove(entry(data, "lifts", lift_id))
    for patch in data["patches"]:
        for lift in patch.get("lifts", []):
            if lift_id in lift.get("after", []):
                lift["after"] = [one for one in lift["after"] if one != lift_id]


@blueprint.post("/s/<slug>/lifts/<lift_id>/move")
def move_lift(slug: str, lift_id: str) -> Response:
    """Up, down or away. What was done on a lift stays in the records."""
    how, patch_id = request.form.get("how", ""), request.form.get("patch", "")

    def change(data: Document) -> None:
        lifts: list[Any] = entry(data, "patches", patch_id)["lifts"]
        place = lifts.index(entry(data, "lifts", lift_id))
        if how == "remove":
            take_out(data, patch_id, lift_id)
        else:
            to = place + (1 if how == "up" else -1)
            if 0 <= to < len(lifts):
                lifts[place], lifts[to] = lifts[to], lifts[place]

    return edit(slug, f"{lift_id}: {how}", change, then(slug, patch_id))


@blueprint.post("/s/<slug>/patches")
def add_patch(slug: str) -> Response:
    """A patch round a basin: its outline and 8 mm of shore, as far as the base goes."""
    from shapely import Polygon

    opened = open_scene(slug)
    name = request.form.get("name", "").strip()
    if not name:
        raise fault("name", "the patch has no name", "give it one, such as Pond")
    basin = next(
        (form for form in opened.scene.forms if form.id == request.form.get("around") and form.kind == "basin"),
        None,
    )
    if basin is None:
        raise fault("around", "there is no such basin", "cut a basin on Ground first")
    grown = (
        Polygon(basin.outline).buffer(8, join_style="mitre").intersection(Polygon(opened.scene.base.ring)).simplify(0.2)
    )
    ring = [[round(x, 1), round(y, 1)] for x, y in list(grown.exterior.coords)[:-1]]
    patch_id = new_id(opened.document, slug_of(name, "patch")[:50])  # its lifts' ids begin with it

    def change(data: Document) -> None:
        data.setdefault("patches", []).append({"id": patch_id, "name": name, "area": {"outline": ring}, "lifts": []})

    return edit(slug, f"Added the patch {name}", change, then(slug, patch_id))


@blueprint.post("/s/<slug>/patches/<patch_id>/remove")
def remove_patch(slug: str, patch_id: str) -> Response:
    """A patch goes, with its lay-up; both stay in the history."""

    def change(data: Document) -> None:
        data["patches"].remove(entry(data, "patches", patch_id))

    return edit(slug, f"Removed the patch {patch_id}", change, url_for("layup.page", slug=slug))


@blueprint.post("/s/<slug>/patches/<patch_id>/copy")
def copy_layup(slug: str, patch_id: str) -> Response:
    """The lay-up of a patch, or one of the user's standard lay-ups, on top of another patch's."""
    opened = open_scene(slug)
    source = request.form.get("from", "")
    if source.startswith("standard:"):
        with database().reading() as session:
            lifts = settings.get(session, "layups", {}).get(source[9:])
    else:
        found = next((one for one in opened.document.get("patches", []) if one["id"] == source), None)
        lifts = found.get("lifts", []) if found else None
    if not lifts:
        raise fault("lay-up", "there is no such lay-up, or nothing is in it", "choose another")
    made: list[Document] = []
    for lift in lifts:
        if lift["kind"] == "pour":
            continue  # a level belongs to its hollow
        data = {**opened.document, "patches": [*opened.document.get("patches", []), {"id": "-", "lifts": made}]}
        stem = lift["id"].rpartition("-")[2]
        made.append(
            {
                **{name: value for name, value in lift.items() if name != "after"},
                "id": new_id(data, f"{patch_id}-{stem}"),
            }
        )

    def change(data: Document) -> None:
        entry(data, "patches", patch_id).setdefault("lifts", []).extend(made)

    return edit(slug, f"Copied a lay-up to {patch_id}", change, then(slug, patch_id))


@blueprint.post("/s/<slug>/patches/<patch_id>/keep")
def keep_layup(slug: str, patch_id: str) -> Response:
    """This lay-up as one of the user's own standard lay-ups, for every scene."""
    opened = open_scene(slug)
    name = request.form.get("name", "").strip()[:60]
    if not name:
        raise fault("name", "the lay-up has no name", "give it one, such as Quarry face")
    lifts = entry(opened.document, "patches", patch_id).get("lifts", [])
    if not lifts:
        raise fault("lay-up", "nothing is in it yet", "add a lift first")
    with database().writing() as session:
        settings.put(session, "layups", {**settings.get(session, "layups", {}), name: lifts})
    flash(f"{name} is kept among your lay-ups.")
    return go(then(slug, patch_id))


@blueprint.get("/s/<slug>/layup/steps")
def steps(slug: str) -> str:
    """All of the work in order, with what each step takes, leaves and wants care with."""
    opened = open_scene(slug)
    seen = {lift: look for patch in opened.scene.patches for lift, look in looks(opened.scene, patch.id).items()}
    return render_template("layup/steps.html", opened=opened, looks=seen, place="layup.page")
