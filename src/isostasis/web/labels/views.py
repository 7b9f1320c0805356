"""The pages of Labels: all tins by family, one tin with what its fields move, and keeping it as one's own."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, get_args

from flask import Blueprint, Response, flash, g, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.catalogue import Catalogue, Mix
from ...core.document import ResolvedScene, resolve
from ...core.document.edit import slug_of
from ...core.fault import Fault, Faults, fault
from ...core.plan import plan
from ...core.plan.moves import Move, moves
from ...store import labels, scenes
from ..shared.answers import hx_redirect
from ..shared.fields import Field, read_one
from ..shared.scenes import database, now
from .fields import FAMILIES, Label, TinField, by_mass, data_of, fields_of

blueprint = Blueprint("labels", __name__)
KINDS: tuple[labels.Kind, ...] = get_args(labels.Kind)
MAX_MOVES = 60
NAME = Field("name", "name", most=80)


@dataclass(frozen=True)
class Line:
    """A field of a tin as its page shows it: what the shipped one says, what holds, and whether that is one's own."""

    field: TinField
    shipped: str
    text: str
    own: bool


@dataclass(frozen=True)
class Tin:
    """A label on its page, in force and as shipped."""

    kind: labels.Kind
    id: str
    label: Label
    shipped: Label | None
    lines: tuple[Line, ...]
    own: bool
    made_from: str | None
    versions: int


def _known(kind: str, name: str) -> tuple[Catalogue, labels.Kind, Label]:
    """The catalogue in force and the label of it. Raises Faults."""
    with database().reading() as session:
        known = labels.catalogue(session)
    if kind not in KINDS:
        raise fault("label", f"there are no labels of a “{kind[:40]}”", f"one of {', '.join(KINDS)}")
    wanted: labels.Kind = "material" if kind == "material" else "mix"
    label = labels.entry_of(known, wanted, name)
    if label is None:
        raise fault("label", f"there is no {kind} '{name[:64]}'", "choose one of the list")
    return known, wanted, label


def _tin(kind: str, name: str) -> tuple[Tin, Catalogue]:
    known, wanted, label = _known(kind, name)
    with database().reading() as session:
        rows = labels.versions(session, wanted, name)
    as_shipped = labels.as_shipped(wanted, name)
    before, data = data_of(as_shipped) if as_shipped else {}, data_of(label)
    lines = []
    for one in fields_of(label, known):
        was, value = one.value(before) if before else None, one.value(data)
        lines.append(Line(one, one.field.show(was), one.field.show(value), bool(before) and was != value))
    own = bool(rows) and rows[0].data is not None
    return Tin(
        wanted, name, label, as_shipped, tuple(lines), own, rows[0].made_from if rows else None, len(rows)
    ), known


def _typed(tin: Tin, sent: Mapping[str, str]) -> dict[str, Any]:
    """The label's data with what was typed. Raises Faults that name the field as it is labelled."""
    data, held = tin.label.model_dump(mode="json", exclude_unset=True), data_of(tin.label)
    for line in tin.lines:
        one = line.field
        if one.name in sent:
            value = one.field.read(sent[one.name], one.value(held))
            if value is None and one.value(held) is not None:
                raise fault(one.field.what, "nothing was written", "write what the tin says")
            if value != one.value(held):
                one.put(data, value)
    return data


def _label(tin: Tin, data: dict[str, Any]) -> Label:
    """The label of its data. Raises Faults that name the field as it is labelled."""
    try:
        return labels.read(tin.kind, data)
    except Faults as faults:
        called = {".".join(map(str, one.field.path)): one.field.field.label for one in tin.lines}
        raise Faults(
            Fault(called.get(one.where.replace("[", ".").replace("]", ""), one.where), one.what, one.right)
            for one in faults.faults
        ) from None


@blueprint.get("/labels")
def page() -> str:
    """All labels, by family; one's own marked."""
    with database().reading() as session:
        known = labels.catalogue(session)
        own = {(row.kind, row.name) for row in labels.in_force(session) if row.data}
    wanted = request.args.get("find", "").strip().casefold()
    groups: dict[str, list[tuple[str, Label, bool]]] = {}
    entries: list[tuple[str, Label]] = [("mix", one) for one in known.mixes.values()]
    entries += [("material", one) for one in known.materials.values()]
    for kind, label in entries:
        if wanted in f"{label.name} {label.family} {label.id}".casefold():
            groups.setdefault(label.family, []).append((kind, label, (kind, label.id) in own))
    ordered = [
        (words, sorted(groups[name], key=lambda one: one[1].name)) for name, words in FAMILIES.items() if name in groups
    ]
    return render_template("labels/page.html", groups=ordered, find=wanted, own=len(own), place="labels")


def _scenes_with(kind: labels.Kind, name: str) -> list[tuple[str, ResolvedScene]]:
    """(address, scene) of every scene that uses a label."""
    found = []
    with database().reading() as session:
        for row in scenes.all_scenes(session):
            try:
                scene = scenes.resolve(session, row.head)
            except Faults:
                continue
            if any(one.id == name for one in (scene.materials if kind == "material" else scene.mixes)):
                found.append((row.slug, scene))
    return found


def _moved(slug: str, known: Catalogue, label: Label) -> tuple[Move, ...]:
    """What a label as it would be moves in a scene. Raises Faults."""
    with database().reading() as session:
        row = scenes.find(session, slug)
        before = scenes.resolve(session, row.head)
        after = resolve(scenes.document(row.head), labels.with_label(known, label), g.settings.bench)
    after = after.model_copy(update={"built": before.built, "built_on": before.built_on})
    return moves(before, plan(before), plan(after))


@blueprint.get("/labels/<kind>/<name>")
def tin(kind: str, name: str) -> str:
    """One tin: what it says, and what that moves in a scene; with HX-Request just what it moves. Raises Faults."""
    one, known = _tin(kind, name)
    used = _scenes_with(one.kind, name)
    slug = request.args.get("scene") or (used[0][0] if used else "")
    shown = next((scene for address, scene in used if address == slug), None)
    sentences: list[str] = []
    moved: tuple[Move, ...] = ()
    tried = False
    label: Label = one.label
    try:
        label = _label(one, _typed(one, request.args))
        tried = label != one.label
        if tried and shown is not None:
            moved = _moved(slug, known, label)
    except Faults as faults:
        sentences = [str(each) for each in faults.faults]
    part = "HX-Request" in request.headers and request.headers.get("HX-Target") == "moves"
    return render_template(
        f"labels/{'_moves' if part else 'tin'}.html", tin=one, scenes=used, slug=slug, shown=shown, tried=tried,
        moved=moved[:MAX_MOVES], sentences=sentences, place="labels",
        other=by_mass(label, known) if isinstance(label, Mix) else "", basis=getattr(label, "basis", ""),
    )  # fmt: skip


@blueprint.post("/labels/<kind>/<name>")
def keep(kind: str, name: str) -> BaseResponse:
    """Keep it as one's own: every plan that uses it follows, what is built keeps the tin that it was made from. As
    another tin, with a name of its own; or the shipped one again. Raises Faults."""
    one, known = _tin(kind, name)
    how = request.form.get("how", "keep")
    if how == "shipped":
        return _as_shipped(one, known)
    data = _typed(one, request.form)
    if how == "another":
        title = " ".join((read_one(NAME, request.form) or "").split())
        data["name"] = title if title != one.label.name else f"My {title[:70].lower()}"
        data["id"] = _free_id(known, slug_of(data["name"], "tin"))
    label = _label(one, data)
    if how != "another" and label == one.label:
        return hx_redirect(url_for("labels.tin", kind=kind, name=name))
    with database().writing() as session:
        scenes.refuse_labels(session, labels.with_label(known, label))
        labels.keep(session, label, now(), name)
    flash(f"{label.name} is yours now. What is built keeps the tin that it was made from.", "told")
    return hx_redirect(url_for("labels.tin", kind=kind, name=label.id))


def _as_shipped(one: Tin, known: Catalogue) -> BaseResponse:
    with database().writing() as session:
        if one.shipped is None:
            rest = Catalogue(
                {key: entry for key, entry in known.materials.items() if one.kind != "material" or key != one.id},
                {key: entry for key, entry in known.mixes.items() if one.kind != "mix" or key != one.id},
                known.rules,
            )
            scenes.refuse_labels(session, rest)
        else:
            scenes.refuse_labels(session, labels.with_label(known, one.shipped))
        labels.let_go(session, one.kind, one.id, now())
    if one.shipped is None:
        flash(f"{one.label.name} is gone from your labels.", "told")
        return hx_redirect(url_for("labels.page"))
    flash(f"{one.shipped.name} is as it was shipped.", "told")
    return hx_redirect(url_for("labels.tin", kind=one.kind, name=one.id))


def _free_id(known: Catalogue, stem: str) -> str:
    taken = {*known.materials, *known.mixes}
    return next(
        name for number in range(1, 10_000) if (name := stem if number == 1 else f"{stem}-{number}") not in taken
    )


@blueprint.get("/labels/<kind>/<name>/label.json")
def out(kind: str, name: str) -> Response:
    """The label as a file. Raises Faults."""
    _, _, label = _known(kind, name)
    data = {f"{kind}s" if kind == "material" else "mixes": [label.model_dump(mode="json", exclude_unset=True)]}
    response = Response(json.dumps(data, indent=1, ensure_ascii=False), mimetype="application/json")
    response.headers["Content-Disposition"] = f'attachment; filename="{name}.json"'
    return response
