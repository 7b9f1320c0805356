"""A scene as a page sees it, and the one way in which pages change it."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from math import isfinite
from typing import Any

from flask import Response, current_app, flash, g, make_response, redirect, request
from flask import session as cookie
from werkzeug.wrappers import Response as BaseResponse

from ...core.catalogue import shipped
from ...core.document import Scene
from ...core.fault import fault
from ...core.lifts.pools import PourLift
from ...core.lifts.site import Labels
from ...core.plan import Plan, plan
from ...core.units import Measures, NotAMeasure, Quantity, parse, show
from ...store import Database, Stale, scenes, settings
from ..draw.frame import WHOLE, Look

Document = dict[str, Any]


def database() -> Database:
    """The application's database."""
    found: Database = current_app.extensions["database"]
    return found


def now() -> datetime:
    """The application's clock."""
    clock: Callable[[], datetime] = current_app.extensions["now"]
    return clock()


@dataclass(frozen=True)
class Opened:
    """A scene at its current revision: as written, resolved, and planned."""

    slug: str
    head: int
    head_id: int
    document: Document
    scene: Scene
    plan: Plan
    labels: Labels
    measures: Measures
    can_undo: bool
    can_redo: bool

    def show(self, value: float | None, unit: str) -> str:
        """A value in the reader's measures, as one text."""
        return " ".join(show(value, unit, self.measures)).strip()


def measures_of(session: Any) -> Measures:
    """The reader's measures."""
    bench = settings.bench(session)
    return Measures(settings.get(session, "system", "metric"), bench.drop_ml, bench.scoop_ml)


def open_scene(slug: str) -> Opened:
    """The scene of that slug. Raises NoSuchScene, or Faults for a revision that this version cannot plan."""
    with database().reading() as session:
        row = scenes.find(session, slug)
        resolved = scenes.resolve(row.head, settings.bench(session))
        return Opened(
            slug=slug,
            head=row.head.number,
            head_id=row.head.id,
            document=scenes.document(row.head),
            scene=resolved,
            plan=plan(resolved),
            labels=Labels.of(resolved),
            measures=measures_of(session),
            can_undo=scenes.can_undo(row),
            can_redo=scenes.next_of(session, row) is not None,
        )


def look_of(slug: str) -> Look:
    """Which part of this scene's plan the reader looks at, on every page."""
    kept = cookie.get(f"look:{slug}")
    return Look(*(float(one) for one in kept)) if isinstance(kept, list) and len(kept) == 3 else WHOLE


def go(url: str) -> BaseResponse:
    """On to a page after a change: its body is swapped in, or, without the script, a redirect."""
    if request.headers.get("HX-Request"):
        response: Response = make_response("", 204)
        response.headers["HX-Location"] = json.dumps({"path": url, "target": "body", "swap": "innerHTML show:none"})
        return response
    return redirect(url, 303)


def edit(slug: str, note: str, change: Callable[[Document], None], then: str) -> BaseResponse:
    """Change the scene's document on top of the revision that the form names (`base`), and go on to `then`.

    Raises Faults with nothing saved. A stale base is told, and the refused document kept.
    """
    base = request.form.get("base", type=int)
    if base is None:
        raise fault("base", "the form does not say which revision it started from", "reload the page and try again")
    with database().writing() as session:
        row = scenes.find(session, slug)
        try:
            data = scenes.document(scenes.revision(session, row, base))
        except scenes.NoSuchScene:
            raise fault("base", f"there is no revision {base}", "reload the page and try again") from None
        change(data)
        saved = scenes.save(session, row, base, data, note, now())
        head = row.head
    if saved.set_aside:
        flash(str(Stale(base, head, saved)))
    return go(then)


def measure(field: str, quantity: Quantity, what: str, measures: Measures) -> float:
    """A measure from the form in core units. Raises Faults with what is wrong with what was typed."""
    return measured(request.form.get(field, ""), quantity, what, measures)


def measured(text: str, quantity: Quantity, what: str, measures: Measures) -> float:
    """What was typed in core units. Raises Faults that name it `what`."""
    try:
        return parse(text, quantity, measures)
    except NotAMeasure as problem:
        wrong, _, right = str(problem).partition("; ")
        raise fault(what, wrong, right) from None


def numeral(field: str, what: str) -> float:
    """A bare number from the form. Raises Faults."""
    return numeral_of(request.form.get(field, ""), what)


def degrees(value: float) -> float:
    """degC of what the reader wrote in their own degrees."""
    return round((value - 32) * 5 / 9, 2) if g.measures.system == "imperial" else value


def numeral_of(text: str, what: str) -> float:
    """A bare number from what was typed. Raises Faults that name it `what`."""
    text = text.strip()
    try:
        value = float(text)
        if not isfinite(value):
            raise ValueError
    except ValueError:
        raise fault(what, f"“{text}” is no number", "write something like 21 or 0.5") from None
    return value


def whole_of(text: str, what: str) -> int:
    """A whole number from what was typed. Raises Faults that name it `what`."""
    value = numeral_of(text, what)
    if value != int(value):
        raise fault(what, f"{value:g} is no whole number", "write 1, 2 or 3")
    return int(value)


def entry(data: Document, kind: str, entry_id: str) -> Document:
    """The form, patch or lift of that id in a document. Raises Faults if it is gone."""
    if kind == "lifts":
        places = [lift for patch in data.get("patches", []) for lift in patch.get("lifts", [])]
    else:
        places = data.get(kind, [])
    for place in places:
        if place.get("id") == entry_id:
            found: Document = place
            return found
    raise fault(kind, f"'{entry_id}' is no longer there", "reload the page; it may have been removed meanwhile")


def new_id(data: Document, stem: str) -> str:
    """An id that nothing in the document has yet: `stem`, or with a number behind it."""
    taken = {one["id"] for one in [*data.get("forms", []), *data.get("patches", [])]}
    taken |= {lift["id"] for patch in data.get("patches", []) for lift in patch.get("lifts", [])}
    number = 1
    while (name := stem if number == 1 else f"{stem}-{number}") in taken:
        number += 1
    return name


def mixes_of(opened: Opened, *families: str) -> list[tuple[str, str]]:
    """(id, name) of the mixes that a select offers: the catalogue's and the scene's own."""
    known = {**shipped().mixes, **{mix.id: mix for mix in opened.scene.mixes}}
    return sorted(((mix.id, mix.name) for mix in known.values() if mix.family in families), key=lambda one: one[1])


def materials_of(opened: Opened, *families: str) -> list[tuple[str, str]]:
    """(id, name) of the materials that a select offers."""
    known = {**shipped().materials, **{one.id: one for one in opened.scene.materials}}
    return sorted(((one.id, one.name) for one in known.values() if one.family in families), key=lambda one: one[1])


def poured_of(opened: Opened) -> list[tuple[str, str]]:
    """What can be poured: two-part resins first, then what dries in coats."""
    known = {**shipped().mixes, **opened.labels.mixes}
    dries = [one for one in mixes_of(opened, "binder", "seal") if known[one[0]].pour_mm]
    return [*mixes_of(opened, "resin"), *dries]


def pour_of(scene: Scene, lift_id: str) -> PourLift:
    """The scene's pour of that id. Raises Faults."""
    try:
        lift = scene.lift(lift_id)
    except KeyError:
        raise fault("lift", f"'{lift_id}' is no longer there", "reload the page") from None
    if not isinstance(lift, PourLift):
        raise fault("lift", f"'{lift_id}' is no pour of this scene", "choose one on Pour")
    return lift
