"""Labels in and out: JSON or TOML with lists of `materials` and `mixes`, or one label as the project's own files have
it (a TOML file whose name is the label's id)."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Iterable
from typing import Any, Literal

from pydantic import ValidationError

from ..core.catalogue import Material, Mix
from ..core.document.read import faults_of
from ..core.fault import Fault, Faults, fault

MAX_BYTES = 2_000_000
MAX_LABELS = 2000
Label = Material | Mix
Format = Literal["json", "toml"]
_RIGHT = "write lists named “materials” and “mixes”, or one label of its own"


def write_labels(labels: Iterable[Label], form: Format = "json") -> str:
    """Labels as text: what each says, without what stands by default."""
    data: dict[str, list[Any]] = {"materials": [], "mixes": []}
    for label in labels:
        said = label.model_dump(mode="json", exclude_unset=True, exclude_none=True)
        data["materials" if isinstance(label, Material) else "mixes"].append(said)
    written = {name: entries for name, entries in data.items() if entries}
    if form == "toml":
        import tomli_w

        return tomli_w.dumps(written)
    return json.dumps(written, indent=1, ensure_ascii=False) + "\n"


def read_labels(name: str, content: bytes) -> list[Label]:
    """The labels in a file. Raises Faults that name label and field; `name` is the file's."""
    if len(content) > MAX_BYTES:
        raise fault(name or "labels", f"it is larger than {MAX_BYTES / 1e6:g} MB", "split it")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise fault(name or "labels", "it is no text in UTF-8", "choose a .json or .toml of labels") from None
    data = _parsed(name, text)
    if not {"materials", "mixes"} & set(data):
        data = _alone(name, data)
    unknown = sorted(set(data) - {"materials", "mixes"})
    if unknown:
        raise fault(name or "labels", f"“{unknown[0][:40]}” is no list of labels", _RIGHT)
    labels: list[Label] = []
    faults: list[Fault] = []
    for kind in ("materials", "mixes"):
        entries = data.get(kind, [])
        if not isinstance(entries, list):
            raise fault(kind, "it is no list", _RIGHT)
        if len(entries) > MAX_LABELS:
            raise fault(kind, f"{len(entries):,} are more than {MAX_LABELS:,}", "split the file")
        for place, entry in enumerate(entries):
            try:
                labels.append(_label(kind, entry, f"{kind}[{place}]"))
            except Faults as wrong:
                faults += wrong.faults
    if faults:
        raise Faults(faults)
    if not labels:
        raise fault(name or "labels", "there is no label in it", _RIGHT)
    names = [(type(one), one.id) for one in labels]
    twice = next((one.id for one in labels if names.count((type(one), one.id)) > 1), None)
    if twice is not None:
        raise fault(name or "labels", f"“{twice}” stands in it twice", "leave one out")
    return labels


def _parsed(name: str, text: str) -> dict[str, Any]:
    try:
        data = json.loads(text) if text.lstrip().startswith("{") else None
        data = tomllib.loads(text) if data is None else data
    except json.JSONDecodeError as error:
        told = f"it is no JSON: {error.msg} in line {error.lineno}"
        raise fault(name or "labels", told, "choose a .json or .toml of labels") from None
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise fault(name or "labels", f"it is no TOML: {error}"[:200], "choose a .json or .toml of labels") from None
    if not isinstance(data, dict):
        raise fault(name or "labels", "it is no set of labels", _RIGHT)
    return data


def _alone(name: str, data: dict[str, Any]) -> dict[str, list[Any]]:
    """One label by itself; its id is the name of its file unless it says one."""
    stem = name.rpartition("/")[2].rpartition(".")[0] if "." in name else name
    kind = "mixes" if "ingredients" in data else "materials"
    return {kind: [{"id": stem, **data}]}


def _label(kind: str, entry: Any, where: str) -> Label:
    if not isinstance(entry, dict):
        raise fault(where, "it is no label", "write its fields, such as name and family")
    called = f"{where} ({str(entry.get('name') or entry.get('id') or '')[:40]})"
    model = Material if kind == "materials" else Mix
    try:
        return model.model_validate_json(json.dumps(entry, default=str))
    except ValidationError as error:
        raise faults_of(error, entry, where=called) from None


def labels_schema() -> dict[str, Any]:
    """The JSON Schema of a file of labels."""
    from pydantic import TypeAdapter, create_model

    model: Any = create_model(
        "Labels", __doc__="Labels of materials and mixes.", materials=(list[Material], []), mixes=(list[Mix], [])
    )
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **TypeAdapter(model).json_schema()}
