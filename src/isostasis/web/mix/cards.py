"""The cards of what is still to be mixed, on paper: A6, four to a sheet."""

from __future__ import annotations

from flask import render_template

from ...store import logbook, scenes
from ..shared.scenes import database, open_scene
from .views import blueprint, card_of, names_of, planned_of


@blueprint.get("/s/<slug>/mix/cards")
def cards(slug: str) -> str:
    """Each batch of the plan that was not mixed yet. Raises Faults."""
    opened = open_scene(slug)
    with database().reading() as session:
        mixed = {row.batch for row in logbook.batches(session, scenes.find(session, slug))}
    drawn = []
    for batch in opened.plan.batches:
        planned = None if batch.id in mixed else planned_of(opened, batch.id)
        if planned is not None:
            drawn.append(card_of(opened, planned, batch.id, None))
    return render_template("mix/cards.html", opened=opened, cards=drawn, names=names_of(opened), place="mix.page")
