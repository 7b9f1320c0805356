"""From text or JSON data to a scene, or to plain sentences about what is wrong with it."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping
from typing import Any, get_args

from pydantic import ValidationError

from ..fault import Fault, Faults, Refusal, fault
from .areas import NearArea, OnArea, RestArea
from .scene import EDGE_MM, MAX_CELLS, Form, Lift, Scene, scene_model

MAX_TOLD = 100  # faults of one document; nobody reads more at once
_RIGHT = {
    "missing": "add it",
    "extra_forbidden": "leave it out or correct its spelling",
    "greater_than": "it must be above {gt}",
    "greater_than_equal": "it must be at least {ge}",
    "less_than": "it must be below {lt}",
    "less_than_equal": "it must be at most {le}",
    "finite_number": "write an ordinary number",
    "string_pattern_mismatch": "write {pattern}",
    "too_short": "give at least {min_length}",
    "too_long": "give at most {max_length}",
    "literal_error": "write {expected}",
    "float_parsing": "write a number",
    "float_type": "write a number",
    "int_parsing": "write a whole number",
    "int_type": "write a whole number",
    "bool_parsing": "write true or false",
    "timezone_aware": "write it with its zone, such as 2027-03-01T19:00+01:00",
}
_WHAT = {
    "missing": "is missing",
    "extra_forbidden": "is not a key that is known here",
    "finite_number": "is not a finite number",
}


def _path(parts: tuple[int | str, ...], data: Any, missing: bool) -> str:
    """A pydantic location as a path in the document: what is no key of the data names a branch of a union."""
    path, value = "", data
    for index, part in enumerate(parts):
        if isinstance(part, int):
            path += f"[{part}]"
            value = value[part] if isinstance(value, list | tuple) and part < len(value) else None
        elif index + 1 < len(parts) and isinstance(value, dict) and parts[index + 1] in value and part in value:
            if not isinstance(value[part], dict):
                continue  # a plain value has nothing inside it: this names a branch of a union by its key
            path, value = f"{path}.{part}" if path else str(part), value[part]
        elif (isinstance(value, dict) and part in value) or (missing and index == len(parts) - 1):
            path += f".{part}" if path else part
            value = value.get(part) if isinstance(value, dict) else None
    return path or "document"


def _sentence(error: Mapping[str, Any], data: Any, kinds: dict[str, list[str]], begin: str) -> Fault:
    """One of pydantic's errors as where, what, and what would be right."""
    kind, context = error["type"], error.get("ctx", {})
    where = _path(error["loc"], data, kind == "missing")
    if begin:
        where = begin if where == "document" else f"{begin}.{where}"
    if kind == "value_error":
        wrong = context["error"]
        return (
            Fault(where, wrong.what, wrong.right)
            if isinstance(wrong, Refusal)
            else Fault(where, str(wrong), "see docs/formats.md")
        )
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        known = ", ".join(kinds["lifts" if ".lifts[" in where else "forms"])
        if where.endswith(("area", "outline")):
            right = (
                'write {"outline": [...]}, {"rest": true}, {"steeper_deg": 40}, {"below_mm": 10}, {"above_mm": 60}, '
            )
            return Fault(
                where,
                "does not say which area it means",
                right + '{"near": "edge", "within_mm": 15}, {"on": "crag"} or {"face_mm2": 9000}',
            )
        tag = context.get("tag")
        what = f"'{tag}' is no kind that is known here" if tag else "is missing"
        return Fault(f"{where}.kind", what, f"write one of {known}")
    shown = json.dumps(error["input"], default=str)
    value = shown if len(shown) <= 40 else shown[:37] + "..."
    what = _WHAT.get(kind, f"{value} does not fit")
    right = _RIGHT.get(kind, error["msg"][:1].lower() + error["msg"][1:])
    plainly = {name: f"{value:g}" if isinstance(value, float) else value for name, value in context.items()}
    return Fault(where, what, right.format(**plainly))


def _strict_json(text: str | bytes) -> Any:
    def no_repeats(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        twice = [key for key, count in Counter(key for key, _ in pairs).items() if count > 1]
        if twice:
            raise fault("document", f"the key '{twice[0]}' stands twice in one object", "keep one of them")
        return dict(pairs)

    try:
        return json.loads(text, object_pairs_hook=no_repeats)
    except json.JSONDecodeError as error:
        raise fault(
            f"line {error.lineno}, column {error.colno}",
            f"this is no JSON: {error.msg.lower()}",
            "mend the text there",
        ) from None
    except UnicodeDecodeError:
        raise fault("document", "this is no text in UTF-8", "save it as UTF-8 JSON") from None
    except RecursionError:
        raise fault("document", "its brackets are nested too deep", "a scene is nested a dozen deep at most") from None
    except Faults:
        raise
    except ValueError:  # of Python itself, for a number of thousands of figures
        raise fault("document", "a number in it has thousands of figures", "write it as 1.5e6 or shorter") from None


def read(source: str | bytes | dict[str, Any], forms: tuple[type[Form], ...], lifts: tuple[type[Lift], ...]) -> Scene:
    """The scene in `source` (JSON text, or data already read). Raises Faults with every fault found."""
    data = source if isinstance(source, dict) else _strict_json(source)
    if not isinstance(data, dict):
        raise fault("document", "this is JSON, but not an object", 'a scene is an object: {"isostasis": 1, ...}')
    version = data.get("isostasis")
    if version != 1 or isinstance(version, bool):
        raise fault(
            "isostasis",
            "is missing" if version is None else f"document version {json.dumps(version)} is not known",
            'write "isostasis": 1',
        )
    model = scene_model(forms, lifts)
    try:
        scene = model.model_validate(data)
    except ValidationError as error:
        raise faults_of(error, data, model) from None
    check(scene)
    return scene


def faults_of(error: ValidationError, data: Any, model: type[Scene] | None = None, where: str = "") -> Faults:
    """What pydantic found wrong with `data` (of a scene of that model, or of something without kinds) as plain
    sentences; their paths begin with `where`."""
    kinds: dict[str, list[str]] = {"forms": [], "lifts": []}
    if model is not None:
        patch = get_args(model.model_fields["patches"].annotation)[0]
        kinds = {"forms": _kinds(model.model_fields["forms"]), "lifts": _kinds(patch.model_fields["lifts"])}
    wrong = error.errors(include_url=False)
    sentences = [_sentence(one, data, kinds, where) for one in wrong[:MAX_TOLD]]
    if len(wrong) > MAX_TOLD:
        sentences.append(
            Fault(where or "document", f"{len(wrong) - MAX_TOLD:,} more faults stand in it", "mend these first")
        )
    return Faults(sentences)


def _kinds(field: Any) -> list[str]:
    """The kinds that a list of forms or lifts may hold."""
    kinds: list[str] = []
    waiting = [field.annotation]
    while waiting:
        schema = waiting.pop(0)
        if isinstance(schema, type) and issubclass(schema, Form | Lift):
            kinds.append(get_args(schema.model_fields["kind"].annotation)[0])
        else:
            waiting = [*get_args(schema), *waiting]
    return kinds


def check(scene: Scene) -> None:
    """Refuse what no single field shows: ids used twice, names that lead nowhere. Raises Faults with every fault."""
    faults = list(_inconsistencies(scene))
    if faults:
        raise Faults(faults)


def _unfounded(scene: Scene) -> list[Fault]:
    """Records of what was built that say not on which ground, or on a patch that it did not have."""
    faults: list[Fault] = []
    owned = {ground.id: {one.patch for one in ground.areas} for ground in scene.built_on}
    known: set[str] = set()
    for index, entry in enumerate(scene.built):
        where = f"built[{index}]"
        if entry.id in known:
            faults.append(Fault(f"{where}.id", f"'{entry.id}' is the id of an earlier record", "give it another"))
        known.add(entry.id)
        if entry.ground not in owned:
            right = f"one of {', '.join(sorted(owned))}" if owned else "export it with its `built_on`"
            faults.append(Fault(f"{where}.ground", f"there is no ground '{entry.ground}' in built_on", right))
        elif entry.lift is not None and entry.patch not in owned[entry.ground]:
            faults.append(
                Fault(f"{where}.patch", f"'{entry.patch}' is no patch of the ground '{entry.ground}'",
                      f"one of {', '.join(sorted(owned[entry.ground])) or 'none: it has no areas'}")
            )  # fmt: skip
        if sum(length for length, _ in entry.over) > MAX_CELLS:
            faults.append(Fault(f"{where}.over", "it runs over more cells than a ground can have", "leave it out"))
    return faults


def _inconsistencies(scene: Scene) -> list[Fault]:
    """What no single field shows: ids used twice, names that lead nowhere, outlines beyond the base."""
    from shapely import LineString, Polygon

    faults: list[Fault] = []
    seen: dict[str, str] = {}

    def claim(thing_id: str, where: str) -> None:
        if thing_id in seen:
            faults.append(
                Fault(f"{where}.id", f"'{thing_id}' is already the id of {seen[thing_id]}", "give it another")
            )
        seen.setdefault(thing_id, where)

    for kind in ("forms", "protect", "flats", "places", "gates"):
        for index, one in enumerate(getattr(scene, kind)):
            claim(one.id, f"{kind}[{index}]")
    lift_ids = {lift.id for patch in scene.patches for lift in patch.lifts}
    for index, patch in enumerate(scene.patches):
        claim(patch.id, f"patches[{index}]")
        for place, lift in enumerate(patch.lifts):
            where = f"patches[{index}].lifts[{place}]"
            claim(lift.id, where)
            for name in lift.after:
                if name not in lift_ids or name == lift.id:
                    right = "name another lift of this scene"
                    faults.append(Fault(f"{where}.after", f"'{name}' is no other lift of this scene", right))
    for index, form in enumerate(scene.forms):
        if form.after and form.after not in lift_ids:
            right = "name the lift that must be hard before it"
            faults.append(Fault(f"forms[{index}].after", f"'{form.after}' is no lift of this scene", right))
    faults += _misplaced(scene, lift_ids)
    faults += _unfounded(scene)
    things = {"edge", *(one.id for kind in (scene.forms, scene.protect, scene.flats) for one in kind)}
    for index, patch in enumerate(scene.patches):
        if isinstance(patch.area, NearArea) and patch.area.near not in things:
            right = f"write one of {', '.join(sorted(things))}"
            faults.append(Fault(f"patches[{index}].area.near", f"there is no '{patch.area.near}' to be near to", right))
        if isinstance(patch.area, OnArea):
            lying = {form.id for form in scene.forms if form.line}
            if patch.area.on not in lying:
                right = f"write one of {', '.join(sorted(lying))}" if lying else "add the form first"
                faults.append(
                    Fault(f"patches[{index}].area.on", f"there is no form '{patch.area.on}' to lie on", right)
                )
    rests = [index for index, patch in enumerate(scene.patches) if isinstance(patch.area, RestArea)]
    if len(rests) > 1:
        faults.append(Fault(f"patches[{rests[1]}].area", "a second patch takes the rest", "only one patch can"))
    edge = Polygon(scene.base.ring).buffer(EDGE_MM)
    places = [
        (f"{kind}[{index}]", one)
        for kind in ("forms", "protect", "flats")
        for index, one in enumerate(getattr(scene, kind))
    ] + [(f"patches[{index}].area", patch.area) for index, patch in enumerate(scene.patches)]
    for where, place in places:
        for field, word in (("outline", "outline"), ("path", "path")):
            line = getattr(place, field, None)
            if line and getattr(place, "runs_out", False) and edge.intersects(LineString(line)):
                line = line[not edge.covers(_point(*line[0])) : len(line) - (not edge.covers(_point(*line[-1])))]
                if len(line) < 2:
                    continue
            if line and not edge.covers(Polygon(line) if field == "outline" else LineString(line)):
                x, y = next(((x, y) for x, y in line if not edge.covers(_point(x, y))), line[0])
                right = f"keep every {'corner' if field == 'outline' else 'point'} on the base"
                faults.append(Fault(f"{where}.{field}", f"the {word} leaves the base at {x:g}, {y:g}", right))
    for name, entries in (("mixes", scene.mixes), ("materials", scene.materials)):
        for entry_id, count in Counter(entry.id for entry in entries).items():
            if count > 1:
                faults.append(Fault(name, f"'{entry_id}' stands {count} times", "keep one of them"))
    faults += _circles(scene)
    return faults


def _misplaced(scene: Scene, lift_ids: set[str]) -> list[Fault]:
    """Places that are none, and gates that hold up nothing of this scene."""
    faults: list[Fault] = []
    known = {place.id for place in scene.places}
    working = [(f"forms[{number}]", form) for number, form in enumerate(scene.forms)]
    working += [
        (f"patches[{number}].lifts[{place}]", lift)
        for number, patch in enumerate(scene.patches)
        for place, lift in enumerate(patch.lifts)
    ]
    for where, entry in working:
        if entry.place and entry.place not in known:
            right = f"write one of {', '.join(sorted(known))}" if known else "add it to `places` first"
            faults.append(Fault(f"{where}.place", f"there is no place '{entry.place}'", right))
    blocked = lift_ids | {form.id for form in scene.forms}
    for number, gate in enumerate(scene.gates):
        for name in gate.blocks:
            if name not in blocked:
                right = "name a lift or a form of this scene"
                faults.append(Fault(f"gates[{number}].blocks", f"there is no '{name}' that could wait", right))
    return faults


def _point(x: float, y: float) -> Any:
    from shapely import Point

    return Point(x, y)


def _circles(scene: Scene) -> list[Fault]:
    """A fault if the order of the lifts (in their lay-ups and by `after`) runs in a circle."""
    from graphlib import CycleError, TopologicalSorter

    order: dict[str, set[str]] = {}
    for patch in scene.patches:
        for below, lift in zip((None, *patch.lifts), patch.lifts, strict=False):
            order[lift.id] = {*lift.after, *({below.id} if below else ())}
    try:
        TopologicalSorter(order).prepare()
    except CycleError as error:
        chain = " after ".join(reversed(error.args[1]))
        return [Fault("patches", f"the lifts wait for each other in a circle: {chain}", "take out one `after`")]
    return []
