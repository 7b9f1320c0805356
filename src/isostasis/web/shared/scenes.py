"""A scene as a page sees it, and the one way in which pages change it."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from flask import current_app, flash, g, has_request_context, request
from flask import session as cookie
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.catalogue import Catalogue
from ...core.document import ResolvedScene, Scene
from ...core.document.edit import new_id, set_fields
from ...core.fault import fault
from ...core.lifts.kinds.pour.pools import PourLift
from ...core.lifts.labels import Labels
from ...core.plan import Plan, plan
from ...core.units import Measures, household, number, show
from ...store import Database, Stale, labels, logbook, moved, scenes, undoing
from ...store.tables import SceneRow
from ..draw.projection import WHOLE, Viewport
from ..labels.fields import told
from . import touches
from .answers import hx_redirect


def database() -> Database:
    """The application's database."""
    found: Database = current_app.extensions["database"]
    return found


def now() -> datetime:
    """The application's clock; of what a device kept and sends later, the moment at which it was pressed."""
    clock: Callable[[], datetime] = current_app.extensions["now"]
    moment = clock()
    return moment - g.pressed_ago if has_request_context() and "pressed_ago" in g else moment


def wall_now() -> datetime:
    """The moment by the clock on the wall."""
    return now().astimezone(current_app.extensions["zone"])


@dataclass(frozen=True)
class OpenScene:
    """A scene at its current revision: as written, resolved, and planned."""

    slug: str
    head: int
    head_id: int
    written: Scene
    scene: ResolvedScene
    catalogue: Catalogue  # every label that can be chosen: those in force and the scene's own
    plan: Plan
    labels: Labels
    measures: Measures
    can_undo: bool
    can_redo: bool
    changed: tuple[tuple[datetime, str], ...] = ()  # labels that say otherwise since its last revision

    @property
    def used(self) -> frozenset[str]:
        """Ids of what was ever worked on, which nothing else is given; looked up when something new is named."""
        with database().reading() as session:
            return logbook.used_ids(session, scenes.find(session, self.slug))

    def new_id(self, stem: str) -> str:
        """An id for something new in this scene: `stem`, or with a number behind it."""
        return new_id(self.written, self.catalogue, stem, self.used)

    def show(self, value: float | None, unit: str) -> str:
        """A value in the reader's measures, as one text."""
        return " ".join(show(value, unit, self.measures)).strip()

    def kitchen(self, value_ml: float) -> str:
        """A volume in kitchen measures."""
        return household(value_ml, self.measures)

    def plainly(self, value: float) -> str:
        """A bare number."""
        return number(value)


def open_scene(slug: str) -> OpenScene:
    """The scene of that slug. Raises NoSuchScene, or Faults for a revision that this version cannot plan."""
    with database().reading() as session:
        row = scenes.find(session, slug)
        resolved = scenes.resolve(session, row.head)
        can_undo, can_redo = undoing.can(session, row, now())
        return OpenScene(
            slug=slug,
            head=row.head.number,
            head_id=row.head.id,
            written=scenes.document(row.head),
            scene=resolved,
            catalogue=labels.catalogue(session).with_own(resolved.materials, resolved.mixes),
            plan=plan(resolved),
            labels=Labels.of(resolved),
            measures=g.measures,
            can_undo=can_undo,
            can_redo=can_redo,
            changed=label_changes(session, resolved, row.head.created_at),
        )


def written_document() -> dict[str, Any] | None:
    """The document of the scene that this request is about, as it was written, whether or not it can be read."""
    slug = (request.view_args or {}).get("slug")
    if slug is None:
        return None
    with suppress(scenes.NoSuchScene), database().reading() as session:
        return scenes.data_of(scenes.find(session, slug).head)
    return None


def label_changes(session: Session, scene: ResolvedScene, since: datetime) -> tuple[tuple[datetime, str], ...]:
    """(moment, sentence) of each label in use that says otherwise since a moment, the newest first."""
    used = [*(one.id for one in scene.materials), *(one.id for one in scene.mixes)]
    return tuple((one.at, told(one)) for one in labels.changes(session, since, used))


def resolved_scene(slug: str) -> ResolvedScene:
    """The scene without its plan and what was built, which a preview does not need. Raises NoSuchScene, Faults."""
    with database().reading() as session:
        return scenes.as_written(session, slug)


def viewport_of(slug: str) -> Viewport:
    """Which part of this scene's plan the reader looks at, on every page."""
    kept = cookie.get(f"look:{slug}")
    return Viewport(*(float(one) for one in kept)) if isinstance(kept, list) and len(kept) == 3 else WHOLE


MAX_NUMBER = 2**31  # of a row or a revision: what every database can hold


def _begun(session: Session, row: SceneRow, base: int) -> Scene:
    """The document that a change started from. Raises Faults."""
    try:
        return scenes.document(scenes.revision(session, row, base))
    except scenes.NoSuchScene:
        raise fault("base", f"there is no revision {base}", "reload the page and try again") from None


def edit(
    slug: str,
    note: str | Callable[[Scene], str],
    change: Callable[[Scene], Scene],
    then: str,
    base: int | None = None,
) -> Response:
    """Change the scene's document on top of the revision `base`, that which the form names unless given, and go on to
    `then`. `note` says in the history what was done, by the names of the document that it started from.

    Raises Faults with nothing saved, and TouchesBuilt for what would touch work that is done, until the reader has said
    which way: do it, keep what lies there, or as a copy. A stale base is reported, and the refused document kept.
    """
    base = request.form.get("base", type=int) if base is None else base
    if base is None or not 0 <= base < MAX_NUMBER:
        raise fault("base", "the form does not say which revision it started from", "reload the page and try again")
    with database().reading() as session:  # planned before the lock is taken; inside it, what was found is at hand
        row = scenes.find(session, slug)
        begun = _begun(session, row, base)
        changed = change(begun)
        if changed == begun:
            return hx_redirect(then)  # a form that was opened and sent as it was
        words = note if isinstance(note, str) else note(begun)
        scenes.validate_plannable(session, changed, row)
    with database().writing() as session:
        row = scenes.find(session, slug)
        changed = change(_begun(session, row, base))
        if base == row.head.number:
            if not touches.way():
                touches.refuse_unasked(session, row, changed, now())
            elif touches.way() == "keep":
                changed = touches.kept_as_built(session, row, changed)
            elif touches.way() == "copy":
                row = scenes.copy(session, row, now())
                then, base = then.replace(f"/s/{slug}", f"/s/{row.slug}", 1), row.head.number
                changed = set_fields(changed, {"name": scenes.document(row.head).name})
        saved = scenes.save(session, row, base, changed, words, now())
        head = row.head
    if changed.room != begun.room or changed.places != begun.places:
        move_waits(slug)
    if saved.set_aside:
        flash(str(Stale(base, head, saved)))
    return hx_redirect(then)


def move_waits(slug: str) -> None:
    """Work out anew what is wet on a scene, since the room is known better; before the lock is taken."""
    with database().reading() as session:
        moves = moved.moves(session, scenes.find(session, slug), now())
    if moves:
        with database().writing() as session:
            session.add_all(moves)


def mixes_of(opened: OpenScene, *families: str) -> list[tuple[str, str]]:
    """(id, name) of the mixes that a select offers: those in force and the scene's own."""
    known = opened.catalogue.mixes.values()
    return sorted(((mix.id, mix.name) for mix in known if mix.family in families), key=lambda one: one[1])


def materials_of(opened: OpenScene, *families: str) -> list[tuple[str, str]]:
    """(id, name) of the materials that a select offers."""
    known = opened.catalogue.materials.values()
    return sorted(((one.id, one.name) for one in known if one.family in families), key=lambda one: one[1])


def poured_of(opened: OpenScene) -> list[tuple[str, str]]:
    """What can be poured: two-part resins first, then what dries in coats."""
    dries = [one for one in mixes_of(opened, "binder", "seal") if opened.catalogue.mixes[one[0]].pour_mm]
    return [*mixes_of(opened, "resin"), *dries]


def pour_of(scene: ResolvedScene, lift_id: str) -> PourLift:
    """The scene's pour of that id. Raises Faults."""
    try:
        lift = scene.lift(lift_id)
    except KeyError:
        raise fault("lift", f"'{lift_id}' is no longer there", "reload the page") from None
    if not isinstance(lift, PourLift):
        raise fault("lift", f"'{lift_id}' is no pour of this scene", "choose one on Pour")
    return lift
