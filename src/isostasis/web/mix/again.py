"""A batch that was good once more at another size, in the proportions that went in; kept as a mix of one's own."""

from __future__ import annotations

from dataclasses import dataclass

from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.catalogue import Catalogue, Mix
from ...core.document.edit import slug_of
from ...core.fault import fault
from ...store import labels, logbook, scenes
from ...store.tables import BatchRow
from ..labels.views import free_id
from ..shared.answers import hx_redirect
from ..shared.fields import Field, read_one
from ..shared.scenes import database, now, open_scene
from .views import blueprint

SIZE = Field("size", "size", "ml", optional=True, low=0.5, high=50_000)
NAME = Field("name", "name", most=80)


@dataclass(frozen=True)
class Again:
    """One part of the batch once more: its name, what went in then, and what goes in now, in g and ml."""

    name: str
    then_g: float
    now_g: float
    now_ml: float


def _went_in(row: BatchRow) -> list[tuple[str, str | None, float, float]]:
    """(material, part, g, g a ml) of what went in, what was not written down as it was planned."""
    return [
        (
            one.material,
            one.part,
            float(row.actual.get(one.key, one.mass_g)),
            one.mass_g / one.volume_ml if one.volume_ml else 1.0,
        )
        for one in logbook.batch_of(row).ingredients
        if one.mass_g > 0
    ]


def _volume(row: BatchRow) -> float:
    """ml of it, as it really was: by the mass that went in against the mass that was planned."""
    planned = sum(one.mass_g for one in logbook.batch_of(row).ingredients)
    return float(row.planned["volume_ml"]) * sum(grams for _, _, grams, _ in _went_in(row)) / planned


def _scaled(row: BatchRow, size_ml: float, known: Catalogue) -> list[Again]:
    times = size_ml / _volume(row)
    scaled = []
    for material, part, grams, density in _went_in(row):
        name = known.materials[material].name if material in known.materials else material
        scaled.append(Again(name + (f", {part}" if part else ""), grams, grams * times, grams * times / density))
    return scaled


@blueprint.get("/s/<slug>/mix/<int:row_id>/again")
def again(slug: str, row_id: int) -> str:
    """The same batch at a size. Raises Faults."""
    opened = open_scene(slug)
    with database().reading() as session:
        row = logbook.get_batch(session, scenes.find(session, slug), row_id)
    was = _volume(row)
    # What stands there first is written as a person would; what was typed is taken as it is.
    size = read_one(SIZE, request.args) if request.args.get("size") else float(f"{was:.4g}")
    return render_template(
        "mix/again.html", opened=opened, row=row, mix=opened.catalogue.mixes.get(str(row.planned["mix"])), was=was,
        size=size, parts=_scaled(row, float(size), opened.catalogue), shown=SIZE.show(size), place="mix.page",
    )  # fmt: skip


@blueprint.post("/s/<slug>/mix/<int:row_id>/again")
def keep(slug: str, row_id: int) -> Response:
    """Its proportions as a mix of one's own, by mass; all else as the label that it was mixed by. Raises Faults."""
    name = " ".join((read_one(NAME, request.form) or "").split())
    if not name:
        raise fault("name", "it has none", "call it so that you know it again")
    with database().writing() as session:
        row = logbook.get_batch(session, scenes.find(session, slug), row_id)
        known = labels.catalogue(session)
        mix = known.mixes.get(str(row.planned["mix"]))
        if mix is None:
            raise fault("mix", "its label is gone", "begin a mix of your own on Labels")
        own_parts = {(one.material, one.part) for one in mix.ingredients}  # a tint goes with the lift, not with its mix
        parts = [
            {"material": material, "part": part, "parts": round(grams, 3)}
            for material, part, grams, _ in _went_in(row)
            if (material, part) in own_parts
        ]
        if any(one.name.casefold() == name.casefold() for one in known.mixes.values()):
            raise fault("name", f"there is a mix “{name}” already", "call it otherwise")
        scaled_mix = Mix.model_validate(
            {
                **mix.model_dump(mode="json", exclude_unset=True),
                "id": free_id(known, slug_of(name, "mix")),
                "name": name,
                "basis": "mass",
                "ingredients": parts,
                "source": f"as batch {row.id} was mixed",
            }
        )
        labels.keep(session, scaled_mix, now(), made_from=mix.id)
    return hx_redirect(url_for("labels.tin", kind="mix", name=scaled_mix.id))
