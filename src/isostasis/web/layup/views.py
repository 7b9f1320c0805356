"""The Lay-up page: the chosen patch's column, its lifts added, changed, moved, copied and kept."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, flash, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.document import Scene
from ...core.document import edit as change
from ...core.document.scene import Lift, Patch
from ...core.fault import fault
from ...core.figure import Figure
from ...core.ground.outlines import grown
from ...core.lifts.drinking import drinks
from ...core.plan.cautions import told_once
from ...core.surface import looks, shades
from ...store import settings
from ..draw.core_sample import ROW, core_sample
from ..ground.views import render_panels, stages_of
from ..shared.answers import hx_redirect
from ..shared.fields import Field, inputs, read, read_one
from ..shared.noting import change_words
from ..shared.scenes import OpenScene, database, edit, open_scene
from .kinds import PAGES, hatch_of, page_of_kind
from .laying import choices, offered

blueprint = Blueprint("layup", __name__)

SHORE_MM = 8.0  # of ground round a basin that its patch takes along
NAME = Field("name", "Name", most=80)


def _patch(opened: OpenScene) -> Patch | None:
    wanted = request.args.get("patch")
    for patch in opened.scene.patches:
        if patch.id == wanted:
            return patch
    with_pour = [patch for patch in opened.scene.patches if any(lift.levels_itself for lift in patch.lifts)]
    return next(iter([*with_pour, *opened.scene.patches]), None)


@blueprint.get("/s/<slug>/layup")
def page(slug: str) -> str:
    """Plan, cut, and the chosen patch's core."""
    opened = open_scene(slug)
    patch = _patch(opened)
    ids = [lift.id for lift in patch.lifts] if patch else []
    p = render_panels(opened, "finished", checks=True)
    return render_template(
        "layup/page.html",
        opened=opened,
        p=p,
        patch=patch,
        core=core_sample(opened.plan, opened.labels, patch.id, ids, hatch_of)
        if patch and opened.plan.built.covers[patch.id].mask.any()
        else None,
        row_height=ROW,
        kinds=[(one, inputs(one.FIELDS, {}, opened)) for one in PAGES],
        shown={lift.id: _shown(lift, opened) for lift in patch.lifts} if patch else {},
        batches_of=lambda into: [batch for batch in opened.plan.batches if into in [feed.into for feed in batch.feeds]],
        cautions_of=lambda lift: [
            one for one in opened.plan.cautions if not _steps_of(opened, lift).isdisjoint(one.steps)
        ],
        looks=looks(opened.scene, patch.id) if patch else {},
        shades={**shades(opened.scene), **{water.lift: water.tints[-1] for water in p.waters if water.tints}},
        thirst=_thirst(opened, patch) if patch else None,
        thirst_over=_over_words(opened, patch) if patch else "",
        stages=stages_of(opened),
        basins=[form for form in opened.scene.forms if form.kind == "basin" and not form.off],
        states=STATES,
        layups=choices(),
        offered=offered(opened),
        place="layup.page",
    )


# What a lift is told to be, once something of the scene was built.
STATES = {"done": "done", "part": "part done", "off": "comes off, then anew", "covered": "cannot be laid"}


def _steps_of(opened: OpenScene, lift: str) -> set[str]:
    """The step in which a lift is begun: cautions are told there."""
    return {step.id for step in opened.plan.steps if step.lift == lift and step.course == 1}


def _shown(lift: Lift, opened: OpenScene) -> dict[str, Any]:
    """What the page shows of one lift beyond what all lifts have."""
    kind, lift_plan = page_of_kind(lift.kind), opened.plan.lifts[lift.id]
    values = kind.values(lift)
    return {
        "page": kind,
        "summary": kind.summary(lift, lift_plan, opened),
        "figures": kind.figures(lift, lift_plan, opened),
        "inputs": inputs(kind.FIELDS, values, opened),
        "open": any(values[one.name] not in (one.start, None, False) for one in kind.FIELDS[3:]),
        "picture": kind.picture(lift, opened),
    }


def _wetted(opened: OpenScene, patch: Patch) -> tuple[float, bool]:
    """mm2 of a patch that a pour wets, and whether it has a pour; without one all of it."""
    for lift in patch.lifts:
        pools = opened.plan.lifts[lift.id].pools
        if pools:
            return sum(pool.area_mm2.number for pool in pools), True
    return opened.plan.patches[patch.id].true_area_mm2.number, False


def _thirst(opened: OpenScene, patch: Patch) -> Figure:
    """What the patch's bed drinks of a first pour as its lay-up stands, up to that pour."""
    pour = next((lift for lift in patch.lifts if lift.levels_itself), None)
    below = patch.lifts[: patch.lifts.index(pour)] if pour else patch.lifts
    return drinks(list(below), opened.labels, _wetted(opened, patch)[0])


def _over_words(opened: OpenScene, patch: Patch) -> str:
    area, poured = _wetted(opened, patch)
    return f"{opened.show(area, 'mm2')}, {'what its pour wets' if poured else 'all of it'}"


@blueprint.get("/s/<slug>/layup/working")
def working(slug: str) -> str:
    """The terms of what the page works out beside the plan: a bed's thirst, how a lift will look. Raises Faults."""
    opened = open_scene(slug)
    patch = next((one for one in opened.scene.patches if one.id == request.args.get("patch")), None)
    if patch is None:
        raise fault("patch", "that patch is no longer there", "reload the page")
    if request.args.get("what") == "thirst":
        return render_template("shared/_working.html", figure=_thirst(opened, patch))
    look = looks(opened.scene, patch.id).get(request.args.get("lift", ""))
    figure = {"drying": look.drying, "change": look.change}.get(request.args.get("figure", "")) if look else None
    if figure is None:
        raise fault("figure", "there is no such figure", "reload the page")
    return render_template("shared/_working.html", figure=figure)


def then(slug: str, patch: str) -> str:
    """Where a change of a lay-up leads: back to its patch."""
    return url_for("layup.page", slug=slug, patch=patch)


@blueprint.post("/s/<slug>/patches/<patch_id>/lifts")
def add(slug: str, patch_id: str) -> Response:
    """A lift on top of the lay-up. Raises Faults."""
    kind = request.form.get("kind", "")
    known = [one.KIND for one in PAGES]
    if kind not in known:
        raise fault("kind", f"'{kind}' is no kind of lift that is built", f"choose one of {', '.join(known)}")
    opened, page_of = open_scene(slug), page_of_kind(kind)
    patch = change.find(opened.scene, "patches", patch_id)
    lift = {
        "id": opened.new_id(f"{patch_id}-{page_of.STEM}"),
        "kind": kind,
        **page_of.document(read(page_of.FIELDS, request.form)),
    }
    data = page_of.begin(opened, patch_id, lift)
    return edit(
        slug,
        f"Added a {kind} on {patch.name}",
        lambda scene: change.add(scene, "lifts", data, patch=patch_id),
        then(slug, patch_id),
    )


@blueprint.post("/s/<slug>/lifts/<lift_id>")
def change_lift(slug: str, lift_id: str) -> Response:
    """Exact values of one lift."""

    def changed(scene: Scene) -> Scene:
        lift = change.find(scene, "lifts", lift_id)
        page_of = page_of_kind(lift.kind)
        sent = read(page_of.FIELDS, request.form, page_of.values(lift))
        return change.update(scene, "lifts", lift_id, page_of.document(sent))

    def words(scene: Scene) -> str:
        was, lift = (change.find(one, "lifts", lift_id) for one in (scene, changed(scene)))
        page_of = page_of_kind(lift.kind)
        return change_words(change.called(scene, lift_id), page_of.values(was), page_of.values(lift), page_of.FIELDS)

    return edit(slug, words, changed, then(slug, request.form.get("patch", "")))


@blueprint.post("/s/<slug>/lifts/<lift_id>/move")
def move_lift(slug: str, lift_id: str) -> Response:
    """Up, down or away. What was done on a lift stays in the records. Raises Faults."""
    how = request.form.get("how", "")
    if how not in ("up", "down", "remove"):
        raise fault("move", f"“{how}” is no way to move a lift", "up, down or remove")

    def changed(scene: Scene) -> Scene:
        if how == "remove":
            return change.remove(scene, "lifts", lift_id)
        return change.move(scene, "lifts", lift_id, 1 if how == "up" else -1)

    return edit(
        slug,
        lambda scene: f"{change.called(scene, lift_id)}: {how}",
        changed,
        then(slug, request.form.get("patch", "")),
    )


@blueprint.post("/s/<slug>/patches")
def add_patch(slug: str) -> Response:
    """A patch round a basin: its outline and 8 mm of shore, as far as the base goes. Raises Faults."""
    opened = open_scene(slug)
    name = _name("the patch has no name", "give it one, such as Pond")
    around = request.form.get("around")
    basin = next((form for form in opened.scene.forms if form.id == around and form.kind == "basin"), None)
    if basin is None:
        raise fault("around", "there is no such basin", "cut a basin on Ground first")
    patch_id = opened.new_id(change.slug_of(name, "patch")[:50])
    outline = grown(basin.outline, SHORE_MM, opened.scene.base.ring)
    data = {"id": patch_id, "name": name, "area": {"outline": outline}, "lifts": []}
    return edit(slug, f"Added the patch {name}", lambda scene: change.add(scene, "patches", data), then(slug, patch_id))


def _name(what: str, right: str) -> str:
    """The name that was written. Raises Faults for none."""
    name = " ".join((read_one(NAME, request.form) or "").split())
    if not name:
        raise fault("name", what, right)
    return name


@blueprint.post("/s/<slug>/patches/<patch_id>/remove")
def remove_patch(slug: str, patch_id: str) -> Response:
    """A patch goes, with its lay-up; both stay in the history."""
    return edit(
        slug,
        lambda scene: f"Removed the patch {change.called(scene, patch_id)}",
        lambda scene: change.remove(scene, "patches", patch_id),
        url_for("layup.page", slug=slug),
    )


@blueprint.post("/s/<slug>/patches/<patch_id>/copy")
def copy_layup(slug: str, patch_id: str) -> Response:
    """The lay-up of a patch on top of another patch's. Raises Faults."""
    opened = open_scene(slug)
    source = next((one for one in opened.written.patches if one.id == request.form.get("from")), None)
    if source is None or not source.lifts:
        raise fault("lay-up", "there is no such lay-up, or nothing is in it", "choose another")
    copied = [lift for lift in source.lifts if not lift.levels_itself]  # a level belongs to its hollow
    return edit(
        slug,
        lambda scene: f"Copied a lay-up to {change.called(scene, patch_id)}",
        lambda scene: change.copy_lifts(scene, copied, patch_id, opened.catalogue, opened.used),
        then(slug, patch_id),
    )


@blueprint.post("/s/<slug>/patches/<patch_id>/keep")
def keep_layup(slug: str, patch_id: str) -> Response:
    """This lay-up as one of the user's own lay-ups, for every scene. Raises Faults."""
    opened = open_scene(slug)
    name = _name("the lay-up has no name", "give it one, such as Quarry face")[:60]
    lifts = change.find(opened.written, "patches", patch_id).lifts
    if not lifts:
        raise fault("lay-up", "nothing is in it yet", "add a lift first")
    kept = [change.written(lift) for lift in lifts]
    with database().writing() as session:
        settings.change(session, layups={**settings.read(session).layups, name: kept})
    flash(f"{name} is kept among your lay-ups.")
    return hx_redirect(then(slug, patch_id))


@blueprint.get("/s/<slug>/layup/steps")
def steps(slug: str) -> str:
    """All of the work in order, with what each step takes, leaves and wants care with."""
    opened = open_scene(slug)
    seen = {lift: look for patch in opened.scene.patches for lift, look in looks(opened.scene, patch.id).items()}
    cautions = told_once((step.id, opened.plan.cautions_of(step.id)) for step in opened.plan.steps)
    return render_template("layup/steps.html", opened=opened, looks=seen, cautions=cautions, place="layup.page")
