"""A new tin: from a family in a few fields, or a mix of one's own out of anything."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from flask import flash, render_template, request, url_for
from pydantic import ValidationError
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response as BaseResponse

from ...core.catalogue import Catalogue
from ...core.document.edit import slug_of
from ...core.document.read import faults_of
from ...core.fault import Fault, Faults, fault
from ...core.tins import FAMILIES, Ask, Family, Made, Measure, compose
from ...core.tins.compose import FAMILIES as MIXED
from ...core.tins.compose import MAX_PARTS
from ...store import labels
from ..shared.answers import hx_redirect
from ..shared.fields import Field, inputs, parse_float, read
from ..shared.scenes import database, now
from ..shared.told import sentences
from .fields import FAMILIES as WORDS
from .fields import by_mass, data_of, fields_of
from .views import blueprint, free_id

LINES = 6  # of a mix that is put together
MIXED_WORDS = {
    "skin": "a compound, render or paste", "texture": "a blend to strew", "binder": "a glue or binder",
    "wetting": "a wetting", "seal": "a satin, seal or wash", "colour": "a stock tint or paint",
}  # fmt: skip
NAME = Field("name", "name", most=80)


def _field(ask: Ask) -> Field:
    unit = ask.kind
    return Field(
        ask.name, ask.label, unit, ask.optional, ask.hint, ask.start, ask.options, most=80, says_unit=unit == "mm"
    )  # fmt: skip


def _family(name: str) -> Family:
    family = FAMILIES.get(name)
    if family is None:
        raise fault("family", f"there is no family “{name[:40]}”", f"one of {', '.join(FAMILIES)}")
    return family


def _made(family: Family, sent: Mapping[str, str], known: Catalogue) -> Made:
    """The labels of what was typed. Raises Faults that name fields as they are labelled."""
    asks = {ask.name: ask for ask in family.asks}
    answers: dict[str, Any] = read([_field(ask) for ask in family.asks], sent)
    answers["name"] = " ".join((answers["name"] or "").split())
    if not answers["name"]:
        raise fault("what the tin is called", "it has no name", "write what stands on it")
    try:
        return family.make(answers, known, lambda name: free_id(known, slug_of(name, "tin")))
    except ValidationError as error:  # the label's own model
        places = [next((str(one) for one in reversed(wrong["loc"]) if one in asks), "") for wrong in error.errors()]
        raise _called(faults_of(error, {}).faults, places, asks) from None
    except Faults as faults:
        raise _called(faults.faults, [one.where for one in faults.faults], asks) from None


def _called(faults: Sequence[Fault], places: Sequence[str], asks: Mapping[str, Ask]) -> Faults:
    """Faults by what their fields are called on the page."""
    return Faults(
        Fault(asks[place].label.split(",")[0].lower() if place in asks else "this tin", one.what, one.right)
        for place, one in zip(places, faults, strict=False)
    )


@blueprint.get("/labels/new")
def new() -> str:
    """Families to choose from; then the few fields of one. Raises Faults."""
    name = request.args.get("family", "")
    family = _family(name) if name else None
    with database().reading() as session:
        known = labels.catalogue(session)
    tin, other, wrong = None, "", []
    if family is not None:
        starts = {ask.name: _field(ask).show(ask.start) for ask in family.asks}
        try:
            tin = _made(family, {**starts, **request.args, "name": request.args.get("name") or "This tin"}, known)
            if tin.mix is not None:
                other = by_mass(tin.mix, labels.with_label(known, tin.material))
        except Faults as faults:
            wrong = sentences(faults.faults, None)
    part = "HX-Request" in request.headers and request.headers.get("HX-Target") == "made"
    return render_template(
        f"labels/{'_made' if part else 'new'}.html", families=FAMILIES.values(), family=family, made=tin, other=other,
        fields=inputs([_field(ask) for ask in family.asks], {}) if family else [], sentences=wrong,
        defaults=_defaults(tin, known) if tin else [], place="labels",
    )  # fmt: skip


def _defaults(tin: Made, known: Catalogue) -> list[tuple[str, str]]:
    """(field, value) of what stands in a new tin as the label has it that it starts from."""
    label, like = tin.material, known.materials[tin.made_from[0]]
    pairs: list[tuple[Any, Any]] = [(label, like)]
    if tin.mix is not None and tin.made_from[1] is not None:
        pairs.insert(0, (tin.mix, known.mixes[tin.made_from[1]]))
    defaults: dict[str, str] = {}
    for new_label, old in pairs:
        data, before = data_of(new_label), data_of(old)
        for field in fields_of(new_label, labels.with_label(known, tin.material)):
            value = field.value(data)
            if value == field.value(before) and not field.name.startswith(("name", "basis", "part_")):
                defaults.setdefault(field.field.label, field.field.show(value))
    return list(defaults.items())


@blueprint.post("/labels/new")
def add() -> BaseResponse:
    """A new tin of a family. Raises Faults."""
    family = _family(request.form.get("family", ""))
    with database().reading() as session:
        known = labels.catalogue(session)
    tin = _made(family, request.form, known)
    with database().writing() as session:
        labels.keep(session, tin.material, now(), tin.made_from[0])
        if tin.mix is not None:
            labels.keep(session, tin.mix, now(), tin.made_from[1] or tin.mix.id)
    flash(f"{tin.material.name} is among your labels.", "told")
    kind, entry = ("mix", tin.mix) if tin.mix is not None else ("material", tin.material)
    return hx_redirect(url_for("labels.tin", kind=kind, name=entry.id))


@blueprint.get("/labels/mixed")
def mixed() -> str:
    """A mix of one's own: what it is for, and parts of anything."""
    with database().reading() as session:
        known = labels.catalogue(session)
    return render_template(
        "labels/mixed.html", lines=range(1, LINES + 1), offered=_offered(known),
        families=[(name, MIXED_WORDS[name]) for name in MIXED], place="labels",
    )  # fmt: skip


def _offered(known: Catalogue) -> list[tuple[str, list[tuple[str, str]]]]:
    """What a mix can be made of: mixes, then materials by family; (words, (id, name))."""
    mixes = sorted(((one.id, one.name) for one in known.mixes.values() if one.reacts is None), key=lambda one: one[1])
    groups = [("Mixes", mixes)]
    for family, words in WORDS.items():
        here = [(one.id, one.name) for one in known.materials.values() if one.family == family and not one.part_density]
        if here and family not in ("foam", "board", "cloth", "tool"):
            groups.append((words, sorted(here, key=lambda one: one[1])))
    return groups


@blueprint.post("/labels/mixed")
def put_together() -> BaseResponse:
    """A mix of one's own, with what it is made of. Raises Faults."""
    with database().reading() as session:
        known = labels.catalogue(session)
    name = " ".join(read([NAME], request.form)["name"].split())
    if not name:
        raise fault("name", "it has none", "write what you call it")
    family, basis = request.form.get("family", ""), request.form.get("basis", "volume")
    if family not in MIXED or basis not in ("volume", "mass"):
        raise fault("what it is", "this is no kind of mix", "choose one of the list")
    measures = []
    for number in range(1, MAX_PARTS + 1):
        label, text = request.form.get(f"label-{number}", ""), request.form.get(f"parts-{number}", "").strip()
        if label and not text:
            raise fault(f"part {number}", "it is not said how many", "write how many parts")
        if label:
            measures.append(Measure(label, parse_float(text, f"part {number}")))
    if len(measures) < 2:
        raise fault("parts", "a mix has two at least", "choose what goes in, and how many parts")
    meant = next(one for one in MIXED if one == family)
    mix, of = compose(
        free_id(known, slug_of(name, "mix")), name, meant, "mass" if basis == "mass" else "volume", measures, known
    )
    with database().writing() as session:
        labels.keep(session, mix, now(), mix.id, _lineage(session, of, known))
    flash(f"{mix.name} is among your labels; how it dries and sets stands by default until you say otherwise.", "told")
    return hx_redirect(url_for("labels.tin", kind="mix", name=mix.id))


def _lineage(session: Session, of: tuple[str, ...], known: Catalogue) -> list[Any]:
    """(kind, id, version) of what a mix is made of, as they now are."""
    kinds: dict[str, labels.Kind] = {one: "mix" if one in known.mixes else "material" for one in of}
    return [[kind, one, labels.version_of(session, kind, one)] for one, kind in kinds.items()]
