"""Labels as files: out as JSON or TOML, in with a question where one is here already and says otherwise."""

from __future__ import annotations

from flask import Response, flash, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.catalogue import Catalogue, Material
from ...core.document.edit import slug_of
from ...core.fault import fault
from ...exchange.labels_file import MAX_BYTES, Format, read_labels, write_labels
from ...store import labels, scenes
from ..shared.answers import hx_redirect
from ..shared.scenes import database, now
from .fields import Label, told_apart
from .views import blueprint, free_id, known_label

WAYS = (("mine", "keep mine"), ("new", "take the new one"), ("another", "both: the new one under another name"))


def _file(name: str, entries: list[Label]) -> Response:
    form: Format = "toml" if request.args.get("format") == "toml" else "json"
    response = Response(write_labels(entries, form), mimetype=f"application/{form}")
    response.headers["Content-Disposition"] = f'attachment; filename="{name}.{form}"'
    return response


@blueprint.get("/labels/<kind>/<name>/label")
def out(kind: str, name: str) -> Response:
    """One label as a file. Raises Faults."""
    _, _, label = known_label(kind, name)
    return _file(name, [label])


@blueprint.get("/labels/mine")
def mine() -> Response:
    """All labels of one's own as a file."""
    with database().reading() as session:
        known = labels.catalogue(session)
        rows = [row for row in labels.in_force(session) if row.data]
    entries = [labels.entry_of(known, "material" if row.kind == "material" else "mix", row.name) for row in rows]
    return _file("my-labels", [one for one in entries if one is not None])


@blueprint.get("/labels/in")
def ask() -> str:
    """Where labels come in."""
    return render_template("labels/in.html", clashes=[], text="", name="", ways=WAYS, fresh=0, place="labels")


@blueprint.post("/labels/in")
def take_labels() -> BaseResponse | str:
    """Labels from a file: all of them or none. What is here already and says otherwise is asked about first. Raises
    Faults."""
    file = request.files.get("file")
    if file is not None and file.filename:
        name, content = file.filename, file.read(MAX_BYTES + 1)
    else:
        name, content = request.form.get("name", ""), request.form.get("text", "").encode()
    brought = read_labels(name, content)
    with database().reading() as session:
        known = labels.catalogue(session)
    clashes = [one for one in brought if (held := _held(known, one)) is not None and held != one]
    answers = {(_kind_of(one), one.id): request.form.get(f"way-{_kind_of(one)}-{one.id}", "") for one in clashes}
    if any(answer not in dict(WAYS) for answer in answers.values()):
        asked = [(_kind_of(one), one, told_apart(_held(known, one), one)) for one in clashes]
        return render_template(
            "labels/in.html", clashes=asked, text=content.decode("utf-8-sig"), name=name, ways=WAYS,
            fresh=len(brought) - len(clashes), place="labels",
        )  # fmt: skip
    renamed: dict[str, str] = {}  # materials, which mixes are made of
    kept: list[Label] = []
    for label in brought:
        way = answers.get((_kind_of(label), label.id), "new")
        if way == "mine" or _held(known, label) == label:
            continue
        if way == "another":
            name = free_id(known, slug_of(f"{label.id}-new", "tin"))
            if isinstance(label, Material):
                renamed[label.id] = name
            kept.append(label.model_copy(update={"id": name, "name": f"{label.name[:70]}, new"}))
        else:
            kept.append(label)
    kept = [_renamed(one, renamed) for one in kept]
    _refuse_unknown(kept, known)
    with database().writing() as session:
        if kept:
            after = known
            for label in kept:
                after = labels.with_label(after, label)
            scenes.refuse_labels(session, after)
        for label in kept:
            labels.keep(session, label, now())
    flash(f"{len(kept)} labels came in." if len(kept) != 1 else f"{kept[0].name} came in.", "told")
    return hx_redirect(url_for("labels.page"))


def _kind_of(label: Label) -> labels.Kind:
    return "material" if isinstance(label, Material) else "mix"


def _held(known: Catalogue, label: Label) -> Label | None:
    return labels.entry_of(known, _kind_of(label), label.id)


def _renamed(label: Label, names: dict[str, str]) -> Label:
    """A mix whose materials came in under other names is made of those."""
    if isinstance(label, Material) or not any(part.material in names for part in label.ingredients):
        return label
    parts = tuple(
        part.model_copy(update={"material": names.get(part.material, part.material)}) for part in label.ingredients
    )
    return label.model_copy(update={"ingredients": parts})


def _refuse_unknown(brought: list[Label], known: Catalogue) -> None:
    """Refuse a mix of materials that are neither here nor come with it. Raises Faults."""
    there = {*known.materials, *(one.id for one in brought if isinstance(one, Material))}
    for label in brought:
        if not isinstance(label, Material):
            missing = next((part.material for part in label.ingredients if part.material not in there), None)
            if missing is not None:
                raise fault(label.name, f"it is made of “{missing}”, which is not here", "take its label in with it")
