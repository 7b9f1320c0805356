"""The one place where a scene document is changed: each function returns a new document.

Entries are addressed by their list and their id. Ids are given out here, over every list of the document and the
catalogue, and are never given to two things.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, Literal, TypeVar

from pydantic import TypeAdapter, ValidationError

from ..catalogue import Catalogue, Entry
from ..fault import fault
from .read import faults_of
from .scene import Lift, Scene

Part = Literal["forms", "patches", "lifts", "protect", "flats", "places", "gates", "mixes", "materials"]
PARTS: tuple[Part, ...] = (
    "forms", "patches", "lifts", "protect", "flats", "places", "gates", "mixes", "materials",
)  # fmt: skip
MAX_ID = 64
_ABSENT = object()
S = TypeVar("S", bound=Scene)


def _entries(scene: Scene, part: Part) -> tuple[Any, ...]:
    if part == "lifts":
        return tuple(lift for patch in scene.patches for lift in patch.lifts)
    found: tuple[Any, ...] = getattr(scene, part)
    return found


def ids(scene: Scene) -> Iterator[str]:
    """Every id of the document."""
    for part in PARTS:
        for entry in _entries(scene, part):
            yield entry.id


def slug_of(name: str, nameless: str) -> str:
    """A name as it stands in ids and addresses; `nameless` where no letter or digit of it can.

    >>> slug_of("North pond, the deep one", "patch")
    'north-pond-the-deep-one'
    """
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:60].strip("-") or nameless


def new_id(scene: Scene, catalogue: Catalogue, stem: str, used: Iterable[str] = ()) -> str:
    """An id that nothing in the document or the catalogue has yet, nor ever had (`used`): `stem`, or with a number
    behind it."""
    taken = {*ids(scene), *catalogue.materials, *catalogue.mixes, *used}
    number = 1
    while True:
        end = "" if number == 1 else f"-{number}"
        name = stem[: MAX_ID - len(end)] + end
        if name not in taken:
            return name
        number += 1


def free_name(name: str, taken: Sequence[str]) -> str:
    """A name like `name` that is not taken: with the first free number behind it."""
    known = {one.casefold() for one in taken}
    return next(tried for number in range(2, 10_000) if (tried := f"{name[:70]} {number}").casefold() not in known)


def refuse_taken(name: str, taken: Sequence[str], what: str) -> None:
    """Refuse a name that one of `taken` has already, with a suggestion. Raises Faults."""
    if name.casefold() in {one.casefold() for one in taken}:
        raise fault("name", f"there is {what} named “{name}” already", f"call it “{free_name(name, taken)}”, or other")


def find(scene: Scene, part: Part, entry_id: str) -> Any:
    """The entry of that id. Raises Faults if it is gone."""
    for entry in _entries(scene, part):
        if entry.id == entry_id:
            return entry
    raise fault(part, f"'{entry_id}' is no longer there", "reload the page; it may have been removed meanwhile")


def _with(scene: S, part: Part, entries: Sequence[Any], patch_id: str | None = None) -> S:
    """The scene with one of its lists changed; lifts are those of one patch."""
    if part != "lifts":
        return scene.model_copy(update={part: tuple(entries)})
    patches = tuple(
        patch.model_copy(update={"lifts": tuple(entries)}) if patch.id == patch_id else patch for patch in scene.patches
    )
    return scene.model_copy(update={"patches": patches})


def _list_of(scene: Scene, part: Part, entry_id: str) -> tuple[list[Any], int, str | None]:
    """The list that holds an entry, its place there, and for lifts the patch. Raises Faults."""
    find(scene, part, entry_id)
    if part == "lifts":
        patch = scene.patch_of(entry_id)
        listed: list[Any] = list(patch.lifts)
        return listed, [one.id for one in listed].index(entry_id), patch.id
    listed = list(_entries(scene, part))
    return listed, [one.id for one in listed].index(entry_id), None


def _where(scene: Scene, part: Part, place: int, patch_id: str | None) -> str:
    if patch_id is None:
        return f"{part}[{place}]"
    return f"patches[{[patch.id for patch in scene.patches].index(patch_id)}].lifts[{place}]"


def _model_of(scene: Scene, part: Part) -> Any:
    """What an entry of a list is read with: its model, or the union of its kinds."""
    if part == "lifts":
        patch: Any = type(scene).model_fields["patches"].annotation.__args__[0]  # type: ignore[union-attr]
        return patch.model_fields["lifts"].annotation.__args__[0]
    return type(scene).model_fields[part].annotation.__args__[0]  # type: ignore[union-attr]


def _made(scene: Scene, part: Part, data: Mapping[str, Any], where: str) -> Entry:
    """An entry of a list from its data. Raises Faults with paths from `where` on."""
    given = {name: value for name, value in data.items() if value is not None}
    try:
        entry: Entry = TypeAdapter(_model_of(scene, part)).validate_python(given)
    except ValidationError as error:
        raise faults_of(error, given, type(scene), where) from None
    return entry


def add(scene: S, part: Part, data: Mapping[str, Any], *, patch: str | None = None, at: int | None = None) -> S:
    """With one more entry, at the end or at a place of its list; a lift needs its `patch`. Raises Faults."""
    entries = list(find(scene, "patches", patch or "").lifts if part == "lifts" else _entries(scene, part))
    place = len(entries) if at is None else at
    entries.insert(place, _made(scene, part, data, _where(scene, part, place, patch)))
    return _with(scene, part, entries, patch)


def update(scene: S, part: Part, entry_id: str, changes: Mapping[str, Any]) -> S:
    """With some fields of an entry changed; None takes a field away, so that its default holds, and what a field has
    already is no change, written or by default. Raises Faults."""
    entries, place, patch = _list_of(scene, part, entry_id)
    before = entries[place]
    data = {**written(before), **{name: one for name, one in changes.items() if getattr(before, name, _ABSENT) != one}}
    entries[place] = _made(scene, part, data, _where(scene, part, place, patch))
    return _with(scene, part, entries, patch)


def replace(scene: S, part: Part, entry_id: str, data: Mapping[str, Any]) -> S:
    """With an entry replaced by another in its place. Raises Faults."""
    entries, place, patch = _list_of(scene, part, entry_id)
    entries[place] = _made(scene, part, data, _where(scene, part, place, patch))
    return _with(scene, part, entries, patch)


def rename(scene: S, part: Part, entry_id: str, name: str) -> S:
    """With another name for an entry; its id stays. Raises Faults for a name that another of its list has."""
    others = [one.name for one in _entries(scene, part) if one.id != entry_id and one.name]
    refuse_taken(name, others, "one")
    return update(scene, part, entry_id, {"name": name})


def move(scene: S, part: Part, entry_id: str, by: int) -> S:
    """With an entry so many places later (negative: earlier) in its list, as far as it goes. Raises Faults."""
    entries, place, patch = _list_of(scene, part, entry_id)
    entries.insert(min(max(place + by, 0), len(entries) - 1), entries.pop(place))
    return _with(scene, part, entries, patch)


def reorder(scene: S, part: Part, order: Sequence[str], *, patch: str | None = None) -> S:
    """With a list in another order; every id of it must be named just once. Raises Faults."""
    entries = list(find(scene, "patches", patch or "").lifts if part == "lifts" else _entries(scene, part))
    if sorted(order) != sorted(one.id for one in entries):
        raise fault(part, "the order does not name each of them once", "reload the page; the list may have changed")
    by_id = {one.id: one for one in entries}
    return _with(scene, part, [by_id[name] for name in order], patch)


def duplicate(scene: S, part: Part, entry_id: str, twin_id: str) -> S:
    """With an entry once more behind itself, under another id; its name says so. Raises Faults."""
    entries, place, patch = _list_of(scene, part, entry_id)
    data = {**written(entries[place]), "id": twin_id}
    if data.get("name"):
        data["name"] = f"{data['name']}, again"[:80]
    return add(scene, part, data, patch=patch, at=place + 1)


def remove(scene: S, part: Part, entry_id: str) -> S:
    """Without an entry, and without what only pointed at it: waits for a lift, the place where something is done, what
    a gate holds up. Raises Faults if it is gone, or something stands on it that cannot go on without it."""
    entries, place, patch = _list_of(scene, part, entry_id)
    gone = {entry_id} | ({lift.id for lift in entries[place].lifts} if part == "patches" else set())
    entries.pop(place)
    return _unreferenced(_with(scene, part, entries, patch), gone)


def _unreferenced(scene: S, gone: set[str]) -> S:
    """Without references to ids that are gone."""

    def cleaned(value: Any) -> Any:
        changes: dict[str, Any] = {}
        if isinstance(value, Lift) and not gone.isdisjoint(value.after):
            changes["after"] = tuple(name for name in value.after if name not in gone)
        if value.place in gone:
            changes["place"] = None
        return value.model_copy(update=changes) if changes else value

    patches = tuple(
        patch.model_copy(update={"lifts": tuple(cleaned(lift) for lift in patch.lifts)})
        if any(cleaned(lift) is not lift for lift in patch.lifts)
        else patch
        for patch in scene.patches
    )
    forms = tuple(cleaned(form) for form in scene.forms)
    gates = tuple(
        gate
        if gone.isdisjoint(gate.blocks)
        else gate.model_copy(update={"blocks": tuple(name for name in gate.blocks if name not in gone)})
        for gate in scene.gates
    )
    changes: dict[str, Any] = {}
    for name, now in (("patches", patches), ("forms", forms), ("gates", tuple(one for one in gates if one.blocks))):
        if now != getattr(scene, name):
            changes[name] = now
    return scene.model_copy(update=changes) if changes else scene


def set_fields(scene: S, changes: Mapping[str, Any]) -> S:
    """With other values for fields of the document itself: name, base, room, copies. Raises Faults."""
    data = {**written(scene), **{name: value for name, value in changes.items() if value is not None}}
    for name, value in changes.items():
        if value is None:
            data.pop(name, None)
    try:
        return type(scene).model_validate(data)
    except ValidationError as error:
        raise faults_of(error, data, type(scene)) from None


def set_base(scene: S, **changes: Any) -> S:
    """With other values for fields of the base. Raises Faults."""
    return set_fields(scene, {"base": {**written(scene.base), **changes}})


def set_room(scene: S, room: Mapping[str, Any], place: str | None = None) -> S:
    """With another room for the bench, or for a place. Raises Faults."""
    return set_fields(scene, {"room": dict(room)}) if place is None else update(scene, "places", place, {"room": room})


def set_place(scene: S, entry_id: str, place: str | None) -> S:
    """With a form or a lift done in another place; None: at the bench. Raises Faults."""
    part: Part = "forms" if any(form.id == entry_id for form in scene.forms) else "lifts"
    return update(scene, part, entry_id, {"place": place})


def copy_lifts(scene: S, lifts: Sequence[Lift], patch: str, catalogue: Catalogue, used: Iterable[str] = ()) -> S:
    """With copies of some lifts on top of a patch's lay-up: ids of their own, waiting for nothing. Raises Faults."""
    for lift in lifts:
        name = new_id(scene, catalogue, f"{patch}-{lift.id.rpartition('-')[2]}", used)
        data = {key: value for key, value in written(lift).items() if key != "after"}
        scene = add(scene, "lifts", {**data, "id": name}, patch=patch)
    return scene


def written(entry: Entry) -> dict[str, Any]:
    """An entry, or a whole document, as JSON data: what was given, and nothing that is a default."""
    data: dict[str, Any] = entry.model_dump(mode="json", exclude_unset=True, exclude_none=True)
    if "kind" in type(entry).model_fields:
        data["kind"] = getattr(entry, "kind")  # noqa: B009 - kinds say it, other entries have none
    return data


def called(scene: Scene, entry_id: str) -> str:
    """What people call an entry: its name, a lift by its spot; its id where it has none, or is gone."""
    for patch in scene.patches:
        for lift in patch.lifts:
            if lift.id == entry_id:
                return patch.spot(lift)
    for part in PARTS:
        for entry in _entries(scene, part):
            if entry.id == entry_id:
                return str(getattr(entry, "title", None) or getattr(entry, "name", None) or entry_id)
    return entry_id


def names_of(scene: Scene, part: Part) -> list[str]:
    """The names in one list."""
    return [one.name for one in _entries(scene, part) if getattr(one, "name", None)]
