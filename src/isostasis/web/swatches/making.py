"""From a lane on: laid on a spot of a scene, and its colour matched with what is on the shelf."""

from __future__ import annotations

from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.catalogue import Material
from ...core.colour.light import difference, is_colour, linear
from ...core.fault import Faults, fault
from ...core.swatches.matching import MAX_MATERIALS, Match, matches
from ...store import labels, scenes, shelf, swatches
from ..layup.kinds import page_of_kind
from ..layup.laying import laid
from ..shared.scenes import database, edit, open_scene
from .views import blueprint

MAX_SPOTS = 500
FIRST = "#8a7a60"  # a brown, until one is chosen


@blueprint.get("/swatches/<int:number>/lanes/<int:lane>/spots")
def spots(number: int, lane: int) -> str:
    """The spots of all scenes on which a lane can be laid. Raises Faults."""
    with database().reading() as session:
        trial = swatches.find(session, number)
        choices = [
            (f"{row.slug}/{patch.id}", f"{scene.name}, {patch.name}")
            for row, scene in scenes.legible(session)
            for patch in scene.patches
        ]
    return render_template("swatches/_spots.html", trial=trial, lane=trial.lane(lane), found=choices[:MAX_SPOTS])


@blueprint.post("/swatches/<int:number>/lanes/<int:lane>/lift")
def lift(number: int, lane: int) -> Response:
    """A lane's lifts on top of a spot's lay-up, with what lay under all of the scrap if that is wished. Raises Faults,
    and TouchesBuilt where something is done there."""
    with database().reading() as session:
        trial = swatches.find(session, number)
    chosen = trial.lane(lane)
    wanted = [*(trial.scrap.under if request.form.get("under") == "yes" else []), *chosen.lifts]
    slug, _, patch_id = request.form.get("to", "").partition("/")
    if not wanted:
        raise fault("lane", f"nothing is laid on “{chosen.name}”", "choose another lane")
    opened = open_scene(slug)
    patch = next((one for one in opened.scene.patches if one.id == patch_id), None)
    if patch is None:
        raise fault("to", "that spot is not there any more", "reload the page")
    missing = [one for data in wanted for one in (data.get("mix"), data.get("wetting")) if one
               and one not in opened.catalogue.mixes]  # fmt: skip
    if missing:
        raise fault("lane", f"there is no mix '{missing[0]}' any more", "put it together again on Labels")
    named = [(page_of_kind(str(data["kind"])).STEM, dict(data)) for data in wanted]
    return edit(
        slug,
        f"Made as lane {lane} of “{trial.scrap.title}”"[:200],
        lambda scene: laid(scene, opened, opened.used, patch, named),
        url_for("layup.page", slug=slug, patch=patch_id),
        base=opened.head,
    )


def _at_hand(every: bool) -> list[Material]:
    """What has a colour and is on the shelf, or all of it."""
    with database().reading() as session:
        known = labels.catalogue(session)
        there = {one.row.material for one in shelf.stocked(session) if one.left > 0}
    coloured = [one for one in known.materials.values() if one.family in ("colour", "powder", "grain")]
    return [one for one in coloured if every or one.id in there]


@blueprint.get("/swatches/match")
def match() -> str:
    """A colour out of what is on the shelf."""
    asked = request.args.get("colour", FIRST).strip().lower()
    wanted = asked if is_colour(asked) else FIRST
    every = request.args.get("all") == "yes"
    matched: tuple[Match, ...] = ()
    wrong = "" if wanted == asked else f"“{asked[:12]}” is no colour; choose one."
    hand = _at_hand(every)
    try:
        matched = matches(wanted, hand if len(hand) <= MAX_MATERIALS else _likeliest(hand, wanted))
    except Faults as faults:
        wrong = str(faults)
    with database().reading() as session:
        kept = scenes.named(session)
        lanes = [(one.dry, f"{trial.scrap.title}, {one.name}") for trial in swatches.trials(session)
                 for one in trial.lanes if one.dry]  # fmt: skip
    return render_template(
        "swatches/match.html", wanted=wanted, found=matched, wrong=wrong, every=every, hand=hand, kept=kept,
        lanes=lanes, place="swatches",
    )  # fmt: skip


def _likeliest(materials: list[Material], wanted: str) -> list[Material]:
    """Of too many to try all, those whose own colours lie around the one wanted, paints and powders alike."""
    target = linear(wanted)
    return sorted(materials, key=lambda one: float(difference(linear(one.colour), target)))[:MAX_MATERIALS]
