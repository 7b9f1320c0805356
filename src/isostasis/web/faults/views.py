"""The page of what went wrong: its causes ranked, the test that tells two apart, the rescue, the next time."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from itertools import product

from flask import Blueprint, flash, render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.document import Scene
from ...core.document.edit import new_id
from ...core.fault import fault
from ...core.faults.changes import WORDS, alike, changes, possible
from ...core.faults.facts import FACTS, CupWork, facts_of, id_of, joined
from ...core.faults.finder import MAX_ASKED, Ranked, questions, rank, telling
from ...core.faults.model import Symptom, symptoms
from ...core.plan import plan
from ...store import logbook, records, scenes, walk
from ...store.tables import SceneRow
from ..shared.answers import hx_redirect
from ..shared.scenes import database, edit, now, open_scene

blueprint = Blueprint("faults", __name__)
MAX_SPOTS = 400


@dataclass(frozen=True)
class Spot:
    """A lift that may have gone wrong: its scene's slug and its id, joined; in words; its kind."""

    key: str
    words: str
    kind: str


def _spots(session: Session, symptom: Symptom | None) -> list[Spot]:
    """The lifts of all scenes on which a symptom is seen, those that were begun first."""
    begun: list[Spot] = []
    rest: list[Spot] = []
    for row, scene in scenes.legible(session):
        laid = {id_of(one) for one in scene.built if one.lift is not None}
        for patch in scene.patches:
            for lift in patch.lifts:
                if symptom is None or lift.kind in symptom.kinds:
                    words = f"{scene.name}, {patch.name}: {patch.short(lift)}"
                    (begun if lift.id in laid else rest).append(Spot(f"{row.slug}/{lift.id}", words, lift.kind))
    return [*begun, *rest][:MAX_SPOTS]


def cups_of(session: Session, row: SceneRow, lift_id: str) -> tuple[CupWork, ...]:
    """How the batches of a lift were worked, the newest first."""
    cups = []
    for batch in logbook.batches(session, row):
        planned = logbook.batch_of(batch)
        if planned.lift == lift_id and batch.finished_at is not None:
            passed = walk.passed(batch) if batch.walk else frozenset()
            minutes = (batch.finished_at - batch.started_at).total_seconds() / 60
            cups.append(
                CupWork(
                    minutes, planned.working_min, planned.volume_ml,
                    "second-cup" in passed if passed else None, "rest" in passed if passed else None,
                )
            )  # fmt: skip
    return tuple(cups)


def _symptom() -> Symptom | None:
    code = request.values.get("symptom", "")
    if code and code not in symptoms():
        raise fault("symptom", f"there is no “{code[:40]}”", "choose one of the list")
    return symptoms().get(code)


@blueprint.get("/faults")
def page() -> str:
    """What went wrong, and why. Raises Faults for a symptom or a spot that there is not."""
    symptom = _symptom()
    answers = {code: True for code in request.args.getlist("yes") if code in FACTS}
    answers |= {code: False for code in request.args.getlist("no") if code in FACTS}
    chosen = request.args.get("spot", "")
    ranked: tuple[Ranked, ...] = ()
    asked: tuple[str, ...] = ()
    may: dict[str, str] = {}
    with database().reading() as session:
        spots = _spots(session, symptom)
        spot = next((one for one in spots if one.key == chosen), None)
        if chosen and spot is None and symptom is not None:
            raise fault("spot", "that is not there, or this is not seen on it", "choose one of the list")
        if symptom is not None:
            facts = {}
            if spot is not None:
                slug, _, lift_id = spot.key.partition("/")
                row = scenes.find(session, slug)
                scene = scenes.resolve(session, row.head)
                made = plan(scene)
                facts = facts_of(scene, made, lift_id, cups_of(session, row, lift_id), now())
                like = alike(scene, made, lift_id)
                may = {one.change: WORDS[one.change] for one in symptom.causes if possible(like, one.change)}
            known = joined(facts, answers)
            ranked = rank(symptom, known)
            asked = questions(symptom, known, len(answers))
    return render_template(
        "faults/page.html", symptoms=symptoms(), symptom=symptom, spot=spot,
        where=[("", "no scene, or not in the list"), *((one.key, one.words) for one in spots)], ranked=ranked,
        asked=asked, facts=FACTS, told=answers, test=telling(symptom, ranked) if symptom and ranked else None, may=may,
        most=MAX_ASKED, place="records", yes=[code for code, answer in answers.items() if answer],
        no=[code for code, answer in answers.items() if not answer],
    )  # fmt: skip


@blueprint.post("/s/<slug>/faults/mishap")
def mishap(slug: str) -> Response:
    """What went wrong teaches nothing: all that was recorded of the lift is a mishap. Raises Faults."""
    symptom, lift_id = _symptom(), request.form.get("lift", "")
    with database().writing() as session:
        scenes.find(session, slug)
        note = symptom.title if symptom else "it went wrong"
        count = records.mishaps_of(session, slug, lift_id, note, now())
    flash(f"{count} record{'s' if count != 1 else ''} of it teach{'es' if count == 1 else ''} nothing now.", "done")
    return hx_redirect(url_for("faults.page", symptom=symptom.code if symptom else None, spot=f"{slug}/{lift_id}"))


@blueprint.post("/s/<slug>/faults/change")
def change(slug: str) -> Response:
    """What went wrong is done otherwise on every lift like it that is still to be laid. Raises Faults."""
    opened = open_scene(slug)
    lift_id, codes = request.form.get("lift", ""), request.form.getlist("change")
    try:
        like = alike(opened.written, opened.plan, lift_id)
    except KeyError:
        raise fault("lift", "it is not there any more", "reload the page") from None
    codes = [code for code in codes if code in WORDS and possible(like, code)]
    if not codes or not like:
        raise fault("change", "nothing is chosen that could be changed there", "tick one of the list")

    used = opened.used

    def changed(scene: Scene) -> Scene:
        for code, one in product(codes, like):
            named = partial(new_id, scene, opened.catalogue, used=used)
            scene = changes(scene, scene.lift(one.id), code, named)
        return scene

    words = ", ".join(WORDS[code] for code in codes)
    then = url_for("layup.page", slug=slug, patch=opened.scene.patch_of(lift_id).id)
    return edit(slug, f"After what went wrong: {words}"[:200], changed, then, opened.head)
