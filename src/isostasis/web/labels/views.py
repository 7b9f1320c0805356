"""The page of all labels, by family; and what the pages of the place share."""

from __future__ import annotations

from typing import get_args

from flask import Blueprint, render_template, request

from ...core.catalogue import Catalogue
from ...core.fault import fault
from ...store import labels
from ..shared.scenes import database
from .fields import FAMILIES, Label

blueprint = Blueprint("labels", __name__)
KINDS: tuple[labels.Kind, ...] = get_args(labels.Kind)


def known_label(kind: str, name: str) -> tuple[Catalogue, labels.Kind, Label]:
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


def free_id(known: Catalogue, stem: str) -> str:
    """An id that no label has: `stem`, or with a number behind it."""
    taken = {*known.materials, *known.mixes}
    return next(
        name for number in range(1, 10_000) if (name := stem if number == 1 else f"{stem}-{number}") not in taken
    )


@blueprint.get("/labels")
def page() -> str:
    """All labels, by family; one's own marked."""
    with database().reading() as session:
        known = labels.catalogue(session)
        own_labels = {(row.kind, row.name) for row in labels.in_force(session) if row.data}
    wanted = request.args.get("find", "").strip().casefold()
    groups: dict[str, list[tuple[str, Label, bool]]] = {}
    entries: list[tuple[str, Label]] = [("mix", one) for one in known.mixes.values()]
    entries += [("material", one) for one in known.materials.values()]
    for kind, label in entries:
        if wanted in f"{label.name} {label.family} {label.id}".casefold():
            groups.setdefault(label.family, []).append((kind, label, (kind, label.id) in own_labels))
    ordered = [
        (words, sorted(groups[name], key=lambda one: one[1].name)) for name, words in FAMILIES.items() if name in groups
    ]
    return render_template("labels/page.html", groups=ordered, find=wanted, own=len(own_labels), place="labels")
