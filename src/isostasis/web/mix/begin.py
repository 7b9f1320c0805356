"""A card is begun: laid out for the walk, or with its parts in already; larger or smaller, or with a leftover in it."""

from __future__ import annotations

from flask import request
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...store import logbook, scenes, shelf, walk
from ...store.planned import PlannedBatch
from ..shared.fields import Field, parse_grams, read_one
from ..shared.scenes import database, now, open_scene
from .extras import blended, scaled
from .views import back_to, blueprint, planned_of

JAR = Field("jar", "leftover blended in", "ml", optional=True, low=0)


def _of_all(planned: PlannedBatch) -> PlannedBatch:
    """The batch by how much there is of one part, if that is said. Raises Faults."""
    key, text = request.form.get("all_of", ""), request.form.get("all", "").strip()
    if not text:
        return planned
    part = next((one for one in planned.ingredients if one.key == key and one.mass_g > 0), None)
    if part is None:
        raise fault("use it all", "it is not said of which part", "choose one of the batch")
    return scaled(planned, parse_grams(text, "use it all", part.mass_g / part.volume_ml) / part.mass_g)


@blueprint.post("/s/<slug>/mix/<key>/start")
def start(slug: str, key: str) -> Response:
    """The card is begun: for the walk (`how` is `walk`), or its parts are in and the working time runs. Raises
    Faults."""
    opened = open_scene(slug)
    planned = planned_of(opened, key)
    if planned is None:
        raise fault("batch", f"the plan has no batch '{key}' any more", "choose one on Mix")
    planned = _of_all(planned)
    jar_ml = read_one(JAR, request.form) or 0.0
    if jar_ml:
        planned = blended(planned, jar_ml)
    room, at = opened.scene.room, now()
    with database().writing() as session:
        scene = scenes.find(session, slug)
        known = {row.id for row in logbook.batches(session, scene)}
        row = logbook.start_batch(session, scene, key, planned, (room.temp_c, room.rh), at)
        if row.id not in known:
            if jar_ml:
                if jar_ml > shelf.in_jars(session, planned.mix):
                    raise fault("leftover", f"there are not {jar_ml:g} ml of it in jars", "count them on the Shelf")
                shelf.from_jar(session, planned.mix, jar_ml, at, row.id)
            if request.form.get("how") == "walk":
                row.walk = [{"point": "lay-out", "at": at.isoformat()}]
            else:
                ins = [f"part:{one.key}" for one in planned.ingredients if one.drops is None]
                row.walk = [{"point": one, "at": at.isoformat()} for one in ("lay-out", *ins, walk.WET)]
    return back_to(slug, key)
