"""The pencil: a form from what was drawn on the plan."""

from __future__ import annotations

import json

from flask import request, url_for
from werkzeug.wrappers import Response

from ...core.document import edit as change
from ...core.fault import Refusal, fault
from ...core.ground.sketch import Line, boxed, by_place, cornered, freehand, kept_on, middle_of
from ..shared.scenes import OpenScene, edit, open_scene
from .fields import FOLLOW, NOUNS, PATHS, ROAD, ROAD_FLAT_MM, begin, road_width
from .photo import followed
from .views import blueprint, then

WITHIN = 1 / 300  # of the base's longer side: so near the stroke its outline keeps
LEAST_MM = 0.3


def _drawn_line(opened: OpenScene, kind: str) -> Line:
    """The outline or path that was drawn, on the base. Raises Faults."""
    tool, closed, base = request.form.get("tool", ""), kind not in PATHS, opened.scene.base
    try:
        points = json.loads(request.form.get("line", ""))
        if tool in ("ellipse", "rectangle") and closed:
            line = boxed(points, tool)
        elif tool == FOLLOW:
            line = followed(opened.slug, points, closed, "other" in request.form)
        elif tool == "corners":
            line = cornered(points, closed)
        elif tool == "freehand":
            line = freehand(points, closed, max(LEAST_MM, max(base.width_mm, base.depth_mm) * WITHIN))
        else:
            raise Refusal(f"a {kind} is not drawn so", "draw a path freehand or by its points")
    except Refusal as refused:
        raise fault("what was drawn", refused.what, refused.right) from None
    except (ValueError, TypeError, RecursionError):
        raise fault("what was drawn", "it is no list of points", "draw it on the plan") from None
    return kept_on(line, base.width_mm, base.depth_mm)


@blueprint.post("/s/<slug>/forms/draw")
def draw(slug: str) -> Response:
    """A form, or a road to keep flat, where it was drawn, named by kind and place. Raises Faults."""
    opened, kind = open_scene(slug), request.form.get("kind", "")
    if kind not in NOUNS:
        raise fault("kind", f"“{kind[:40]}” is not drawn", f"one of {', '.join(NOUNS)}")
    line, base = _drawn_line(opened, kind), opened.scene.base
    (name,) = by_place(NOUNS[kind], [middle_of(line)], base.width_mm, base.depth_mm)
    name = name.capitalize()
    taken = [one.name for one in opened.scene.flats] if kind == ROAD else [form.title for form in opened.scene.forms]
    if name.casefold() in {one.casefold() for one in taken}:
        name = change.free_name(name, taken)
    if kind == ROAD:
        road = {"id": opened.new_id(change.slug_of(name, kind)), "name": name, "path": line, "flat_mm": ROAD_FLAT_MM,
                "width_mm": road_width(base)}  # fmt: skip
        then_flats = url_for("ground.flats", slug=slug)
        return edit(slug, f"Drew {name}", lambda scene: change.add(scene, "flats", road), then_flats)
    made = begin(kind, base, opened.plan.built.bare, first=False, line=line)
    form_id = opened.new_id(change.slug_of(name, kind))
    data = {"id": form_id, "name": name, **made}
    return edit(slug, f"Drew {name}", lambda scene: change.add(scene, "forms", data), then(slug, form_id))
