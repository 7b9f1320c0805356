"""One tin: what it says, what each field moves in a scene, and keeping it as one's own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from flask import flash, g, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.catalogue import Catalogue, Mix
from ...core.document import ResolvedScene, resolve
from ...core.document.edit import slug_of
from ...core.fault import Fault, Faults, fault
from ...core.lifts.estimate import Layer
from ...core.plan import Plan, plan
from ...core.plan.moves import Move, moves
from ...exchange.picture import take_in
from ...store import labels, pictures, scenes, supply, swatches
from ..shared.answers import hx_redirect
from ..shared.fields import Field, read_one
from ..shared.scenes import database, now, wall_now
from ..shared.told import Sentence, sentences
from .fields import Label, TinField, by_mass, data_of, fields_of
from .views import blueprint, free_id, known_label

MAX_MOVES = 60
MAX_FIELDS = 6  # that are tried by themselves
NAME = Field("name", "name", most=80)


@dataclass(frozen=True)
class Line:
    """A field of a tin as its page shows it: what it says by default (as shipped, or the tin that it was copied from),
    what holds, and whether that is one's own."""

    field: TinField
    usual: str
    text: str
    own: bool


@dataclass(frozen=True)
class Tin:
    """A label on its page: in force, as shipped, and what it was copied from."""

    kind: labels.Kind
    id: str
    label: Label
    shipped: Label | None
    like: Label | None
    lines: tuple[Line, ...]
    own: bool
    made_from: str | None
    lineage: tuple[tuple[str, str, int, int], ...]  # kind, id, version then, version now
    versions: int
    photo: str | None

    @property
    def base(self) -> Label:
        """What its moves are counted from: the shipped one where there is one, else what holds."""
        return self.shipped or self.label


def _tin(kind: str, name: str) -> tuple[Tin, Catalogue]:
    known, wanted, label = known_label(kind, name)
    shipped = labels.as_shipped(wanted, name)
    with database().reading() as session:
        rows = labels.versions(session, wanted, name)
        photo = labels.photo_of(session, wanted, name)
        made_of = [(str(one), str(of), int(then)) for one, of, then in (rows[0].made_of or [])] if rows else []
        lineage = tuple((one, of, then, labels.version_of(session, _kind(one), of)) for one, of, then in made_of)
    made_from = rows[0].made_from if rows else None
    like = shipped or (labels.entry_of(known, wanted, made_from) if made_from else None)
    before, data = data_of(like) if like else {}, data_of(label)
    lines = []
    for one in fields_of(label, known):
        was, value = one.value(before) if before else None, one.value(data)
        lines.append(Line(one, one.field.show(was), one.field.show(value), bool(before) and was != value))
    own = bool(rows) and rows[0].data is not None
    shown_tin = Tin(
        wanted, name, label, shipped, like, tuple(lines), own, made_from, lineage, len(rows), photo
    )  # fmt: skip
    return shown_tin, known


def _kind(text: str) -> labels.Kind:
    return "material" if text == "material" else "mix"


def _typed(tin: Tin, sent: Mapping[str, str]) -> dict[str, Any]:
    """The label's data with what was typed. Raises Faults that name the field as it is labelled."""
    data, held = tin.label.model_dump(mode="json", exclude_unset=True), data_of(tin.label)
    for line in tin.lines:
        label_field = line.field
        if label_field.name in sent:
            value = label_field.field.read(sent[label_field.name], label_field.value(held))
            if value is None and label_field.value(held) is not None:
                raise fault(label_field.field.what, "nothing was written", "write what the tin says")
            if value != label_field.value(held):
                label_field.put(data, value)
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


def _scenes_with(kind: labels.Kind, name: str) -> list[tuple[str, ResolvedScene]]:
    """(address, scene) of every scene that uses a label."""
    with_it = []
    with database().reading() as session:
        for row, scene in scenes.legible(session):
            if any(one.id == name for one in (scene.materials if kind == "material" else scene.mixes)):
                with_it.append((row.slug, scene))
    return with_it


@dataclass(frozen=True)
class Moved:
    """What a tin as it is typed moves in a scene: figures, hours sooner (negative: later) and the finish then, what
    each field moves by itself, and the layers of the first lift that is laid in others."""

    moves: tuple[Move, ...] = ()
    sooner_h: float | None = None
    finish: datetime | None = None
    was: datetime | None = None
    fields: dict[str, tuple[Move, ...]] = field(default_factory=dict)
    spot: str = ""
    layers: tuple[tuple[float, ...], tuple[float, ...]] = ((), ())


def _scene_with(slug: str, known: Catalogue, label: Label) -> ResolvedScene:
    """A scene as it would be with a label. Raises Faults."""
    with database().reading() as session:
        row = scenes.find(session, slug)
        now_is = scenes.resolve(session, row.head)
        made = resolve(scenes.document(row.head), labels.with_label(known, label), g.settings.bench)
    return made.model_copy(update={"built": now_is.built, "built_on": now_is.built_on})


def _finish(slug: str, scene: ResolvedScene) -> datetime | None:
    """When a scene would be done, by the next-ready rule."""
    with database().reading() as session:
        made = supply.ruled(session, scenes.find(session, slug), scene, wall_now())
    return datetime.fromisoformat(made.finish) if made and made.finish else None


def _moved(slug: str, known: Catalogue, shown_tin: Tin, label: Label) -> Moved:
    """What a label as it would be moves in a scene. Raises Faults."""
    before, after = _scene_with(slug, known, shown_tin.base), _scene_with(slug, known, label)
    plans = plan(before), plan(after)
    moved = moves(before, *plans)
    was, finish = _finish(slug, before), _finish(slug, after)
    sooner = (was - finish).total_seconds() / 3600 if was and finish else None
    fields, base, typed = {}, data_of(shown_tin.base), data_of(label)
    changed = [line.field for line in shown_tin.lines if line.field.value(base) != line.field.value(typed)]
    for each in changed[:MAX_FIELDS] if len(changed) > 1 else ():
        data = shown_tin.base.model_dump(mode="json", exclude_unset=True)
        each.put(data, each.value(typed))
        try:
            alone = _scene_with(slug, known, labels.read(shown_tin.kind, data))
            fields[each.name] = moves(before, plans[0], plan(alone))
        except Faults:  # by itself it makes no tin
            continue
    if len(changed) == 1:
        fields[changed[0].name] = moved
    spot, layers = _layers(before, plans)
    return Moved(moved, sooner, finish, was, fields, spot, layers)


def _layers(scene: ResolvedScene, plans: tuple[Plan, Plan]) -> tuple[str, tuple[tuple[float, ...], tuple[float, ...]]]:
    """The spot and the depths, before and after, of the first lift that is laid in other layers; nothing where none
    is."""

    def depths(layers: tuple[Layer, ...]) -> tuple[float, ...]:
        return tuple(layer.depth_mm.value or 0.0 for layer in layers)

    for patch in scene.patches:
        for lift in patch.lifts:
            made = [one.lifts[lift.id].layers for one in plans if lift.id in one.lifts]
            if len(made) == 2 and len(made[0]) != len(made[1]):
                return patch.spot(lift), (depths(made[0]), depths(made[1]))
    return "", ((), ())


@blueprint.get("/labels/<kind>/<name>")
def tin(kind: str, name: str) -> str:
    """One tin: what it says, and what that moves in a scene; with HX-Request just what it moves. Raises Faults."""
    shown_tin, known = _tin(kind, name)
    used = _scenes_with(shown_tin.kind, name)
    slug = request.args.get("scene") or (used[0][0] if used else "")
    shown = next((scene for address, scene in used if address == slug), None)
    wrong: list[Sentence] = []
    moved = Moved()
    differs = False
    label: Label = shown_tin.label
    try:
        label = _label(shown_tin, _typed(shown_tin, request.args))
        differs = label != shown_tin.base
        if differs and shown is not None:
            moved = _moved(slug, known, shown_tin, label)
    except Faults as faults:
        wrong = sentences(faults.faults, None)
    part = "HX-Request" in request.headers and request.headers.get("HX-Target") == "moves"
    return render_template(
        f"labels/{'_moves' if part else 'tin'}.html", tin=shown_tin, scenes=used, slug=slug, shown=shown,
        differs=differs, moved=moved, most=MAX_MOVES, sentences=wrong, part=part, place="labels",
        other=by_mass(label, known) if isinstance(label, Mix) else "", basis=getattr(label, "basis", ""),
        tried=_tried(name) if not part else [],
    )  # fmt: skip


MAX_TRIED = 6


def _tried(name: str) -> list[swatches.Evidence]:
    """What one's own scraps say of a label, the newest first."""
    with database().reading() as session:
        return swatches.evidence(session, name)[:MAX_TRIED]


@blueprint.post("/labels/<kind>/<name>")
def keep(kind: str, name: str) -> BaseResponse:
    """Keep it as one's own: every plan that uses it follows, what is built keeps the tin that it was made from. As
    another tin, with a name of its own; or the shipped one again. Raises Faults."""
    shown_tin, known = _tin(kind, name)
    how = request.form.get("how", "keep")
    if how == "shipped":
        return _as_shipped(shown_tin, known)
    data = _typed(shown_tin, request.form)
    if how == "another":
        title = " ".join((read_one(NAME, request.form) or "").split())
        data["name"] = title if title != shown_tin.label.name else f"My {title[:70].lower()}"
        data["id"] = free_id(known, slug_of(data["name"], "tin"))
    label = _label(shown_tin, data)
    if how != "another" and label == shown_tin.label:
        return hx_redirect(url_for("labels.tin", kind=kind, name=name))
    with database().writing() as session:
        scenes.refuse_labels(session, labels.with_label(known, label))
        labels.keep(session, label, now(), name)
    flash(f"{label.name} is yours now. What is built keeps the tin that it was made from.", "told")
    return hx_redirect(url_for("labels.tin", kind=kind, name=label.id))


def _as_shipped(shown_tin: Tin, known: Catalogue) -> BaseResponse:
    with database().writing() as session:
        if shown_tin.shipped is None:
            rest = Catalogue(
                {
                    key: entry
                    for key, entry in known.materials.items()
                    if shown_tin.kind != "material" or key != shown_tin.id
                },
                {key: entry for key, entry in known.mixes.items() if shown_tin.kind != "mix" or key != shown_tin.id},
                known.rules,
                known.sundries,
                known.factors,
            )
            scenes.refuse_labels(session, rest)
        else:
            scenes.refuse_labels(session, labels.with_label(known, shown_tin.shipped))
        labels.let_go(session, shown_tin.kind, shown_tin.id, now())
    if shown_tin.shipped is None:
        flash(f"{shown_tin.label.name} is gone from your labels.", "told")
        return hx_redirect(url_for("labels.page"))
    flash(f"{shown_tin.shipped.name} is as it was shipped.", "told")
    return hx_redirect(url_for("labels.tin", kind=shown_tin.kind, name=shown_tin.id))


@blueprint.post("/labels/<kind>/<name>/photo")
def take_photo(kind: str, name: str) -> BaseResponse:
    """A photo of the tin, in the place of the one before; without a file there is none. Raises Faults."""
    _, wanted, _ = known_label(kind, name)
    file = request.files.get("photo")
    kept = take_in(file.filename or "", file.read()) if file is not None and file.filename else None
    with database().writing() as session:
        digest = None if kept is None else pictures.keep(session, kept.content, kept.size, now())
        labels.set_photo(session, wanted, name, digest)
    return hx_redirect(url_for("labels.tin", kind=kind, name=name))
