"""The reckoner's page: a sum, its picture, its answer; what if; and a scene that begins with it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import reduce
from typing import Any

from flask import Blueprint, abort, g, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.catalogue import Catalogue
from ...core.catalogue.model import Caution
from ...core.document.edit import add, new_id
from ...core.fault import Faults, fault
from ...core.figure import Figure
from ...core.plan.cautions import worst_first
from ...core.reading import read as read_scene
from ...core.reckoner import GROUPS, SUMS, Answer, Sum, SumRequest
from ...core.reckoner.ifs import week_later, what_ifs
from ...core.reckoner.model import SumField, Value
from ...core.reckoner.reading import options_of, read
from ...core.units import QUANTITY_OF, typed
from ...store import labels, scenes
from ..layup.kinds import page_of_kind
from ..shared.answers import hx_redirect
from ..shared.scenes import database, edit, now, open_scene
from ..shared.told import sentences
from .drawing import drawn

blueprint = Blueprint("reckoner", __name__)
FIRST = "pour"


@dataclass(frozen=True)
class ShownField:
    """A field as it stands on the page."""

    name: str
    label: str
    text: str
    options: tuple[tuple[str, str], ...]


def _catalogue() -> Catalogue:
    with database().reading() as session:
        return labels.catalogue(session)


def _sum(name: str) -> Sum:
    if name not in SUMS:
        abort(404)
    return SUMS[name]


def _texts(one: Sum) -> dict[str, str]:
    """What was typed into its fields; what stands in the address beside is nothing of its own."""
    return {field.name: request.values[field.name] for field in one.fields if field.name in request.values}


def _written(field: SumField, value: Value) -> str:
    """A value as it could be typed, in the reader's measures."""
    return typed(float(value), field.unit, g.measures) if field.unit in QUANTITY_OF else f"{value}"


def _shown(one: Sum, texts: dict[str, str], known: Catalogue) -> list[ShownField]:
    lines = []
    for field in one.fields:
        text = texts.get(field.name, "").strip() or _written(field, field.start)
        options = tuple(options_of(field, known)) if field.unit == "choice" else ()
        lines.append(ShownField(field.name, field.label, text, options))
    return lines


def _asked(one: Sum, known: Catalogue) -> SumRequest:
    return SumRequest(read(one, _texts(one), known, g.measures), known, g.settings.bench, g.measures)


@blueprint.get("/reckon")
@blueprint.get("/reckon/<name>")
def page(name: str = FIRST) -> str:
    """A sum with its answer. Raises Faults from its fields on the page itself."""
    quick_sum, known = _sum(name), _catalogue()
    answer, wrong, picture = None, [], None
    try:
        answer = quick_sum.compute(_asked(quick_sum, known))
        picture = drawn(answer.drawing)
    except Faults as faults:
        wrong = sentences(faults.faults, None)
    return render_template(
        "reckoner/page.html",
        groups=GROUPS,
        one=quick_sum,
        fields=_shown(quick_sum, _texts(quick_sum), known),
        answer=answer,
        wrong=wrong,
        picture=picture,
        cautions=_cautions(known, answer),
        place="reckoner",
        texts=_texts(quick_sum),
        outlines=_outlines() if quick_sum.name == "traced" else [],
    )


MAX_OUTLINES, CORNERS = 24, 60


def _outlines() -> list[tuple[str, str]]:
    """(words, corners as they are typed) of the hollows of all scenes, as they were traced or drawn."""
    from shapely import Polygon

    outlines = []
    with database().reading() as session:
        for _, document in scenes.legible(session):
            for form in document.forms:
                if form.kind in ("basin", "dips"):
                    ring = Polygon(form.outline)
                    points = ring.exterior.coords[:-1]
                    if len(points) > CORNERS:
                        points = ring.simplify(0.5).exterior.coords[:-1][:CORNERS]
                    outlines.append((f"{document.name}, {form.title}", " ".join(f"{x:.1f},{y:.1f}" for x, y in points)))
    return outlines[:MAX_OUTLINES]


def _cautions(known: Catalogue, answer: Answer | None) -> list[Caution]:
    """What to beware of, by what is in hand, the greatest danger first."""
    if answer is None:
        return []
    found = [one for one in known.rules.cautions if one.hazard in answer.hazards and not one.repeated]
    return worst_first(found)[:2]


@dataclass(frozen=True)
class Otherwise:
    """The same sum a little otherwise: in words, its address, and its answer, or why there is none."""

    words: str
    url: str
    figure: Figure | None
    why: str = ""


@blueprint.get("/reckon/<name>/ifs")
def ifs(name: str) -> str:
    """What if it were deeper, half as much, colder."""
    quick_sum, known = _sum(name), _catalogue()
    others = []
    try:
        asked = _asked(quick_sum, known)
    except Faults:
        return ""
    for words, values in what_ifs(quick_sum, asked.values):
        others.append(_otherwise(quick_sum, words, values, asked))
    try:
        later = week_later(asked, quick_sum.compute(asked))
    except Faults:
        later = ""
    if later:
        here: dict[str, Any] = _texts(quick_sum)
        others.append(Otherwise("a week later", url_for("reckoner.page", name=quick_sum.name, **here), None, later))
    return render_template("reckoner/_ifs.html", found=others)


def _otherwise(quick_sum: Sum, words: str, values: dict[str, Value], asked: SumRequest) -> Otherwise:
    texts: dict[str, Any] = {field.name: _written(field, values[field.name]) for field in quick_sum.fields}
    url = url_for("reckoner.page", name=quick_sum.name, **texts)
    try:
        return Otherwise(words, url, quick_sum.compute(replace(asked, values=values)).figure)
    except Faults as faults:
        return Otherwise(words, url, None, faults.faults[0].what)


@blueprint.get("/reckon/<name>/spots")
def spots(name: str) -> str:
    """The spots of all scenes on which its lift could be laid."""
    _sum(name)
    choices = []
    with database().reading() as session:
        for row, document in scenes.legible(session):
            choices += [(f"{row.slug}/{patch.id}", f"{document.name}, {patch.name}") for patch in document.patches]
    return render_template("reckoner/_spots.html", name=name, found=choices[:MAX_SPOTS], texts=_texts(SUMS[name]))


MAX_SPOTS = 500


@blueprint.post("/reckon/<name>/lift")
def lift(name: str) -> Response:
    """The sum's lift on top of a spot's lay-up. Raises Faults, and TouchesBuilt where something is done there."""
    answer = _sum(name).compute(_asked(SUMS[name], _catalogue()))
    slug, _, patch_id = request.form.get("to", "").partition("/")
    if not answer.lifts:
        raise fault("lift", f"“{SUMS[name].title}” is no lift", "choose another sum")
    opened = open_scene(slug)
    if all(patch.id != patch_id for patch in opened.scene.patches):
        raise fault("to", "that spot is not there any more", "reload the page")
    added: list[dict[str, Any]] = []
    for data in answer.lifts:
        stem = f"{patch_id}-{page_of_kind(data['kind']).STEM}"
        named = new_id(opened.written, opened.catalogue, stem, {*opened.used, *(one["id"] for one in added)})
        added.append({**data, "id": named})
    return edit(
        slug,
        f"Laid by a quick sum: {SUMS[name].title}"[:200],
        lambda scene: reduce(lambda one, data: add(one, "lifts", data, patch=patch_id), added, scene),
        url_for("layup.page", slug=slug, patch=patch_id),
        base=opened.head,
    )


@blueprint.post("/reckon/<name>/scene")
def scene(name: str) -> Response:
    """A scene that begins with this sum, and gives the same figures. Raises Faults."""
    quick_sum = _sum(name)
    answer = quick_sum.compute(_asked(quick_sum, _catalogue()))
    if answer.scene is None:
        raise fault("scene", f"“{quick_sum.title}” is about no spot", "start one on Scenes")
    with database().writing() as session:
        row = scenes.create(session, read_scene({**answer.scene, "name": quick_sum.title}), "From a quick sum", now())
        slug = row.slug
    return hx_redirect(url_for("layup.page", slug=slug))
