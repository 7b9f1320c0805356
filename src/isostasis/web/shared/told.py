"""Faults as a page tells them: what a path of the document names, by the name that it has on the page."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from ...core.fault import Fault

_LIST = re.compile(r"(?P<list>forms|patches|mixes|materials|gates|places|protect|flats|joints)\[(?P<at>\d+)\]\.?")
_LIFT = re.compile(r"lifts\[(?P<at>\d+)\]\.?")
_UNIT = re.compile(r"_(mm2?|ml|deg|g|c|h|min|mm_per_m)$")
# What a field of the document is called where its own name says too little.
NAMES = {
    "outline": "its outline", "path": "its line", "mix": "what it is laid of", "material": "what it is made of",
    "bank_deg": "banks", "level_mm": "water level", "rh": "humidity", "temp_c": "temperature", "grid_mm": "grid",
    "crown_mm": "crown",
    "straightedge_mm": "straightedge", "at_mm": "where it begins", "rest_h": "rest in the cup", "grade": "grade",
}  # fmt: skip
ONE_OF = {"forms": "form", "patches": "spot", "mixes": "mix", "materials": "material", "gates": "gate",
          "places": "place", "protect": "place", "flats": "flat", "joints": "joint"}  # fmt: skip


@dataclass(frozen=True)
class Sentence:
    """A fault as it is told, and the words by which its field is known on the page."""

    text: str
    field: str


def sentences(faults: Iterable[Fault], document: dict[str, Any] | None) -> list[Sentence]:
    """Faults in words; a path is told by the names of this document, where there is one."""
    lines = []
    for one in faults:
        where, field = in_words(one.where, document or {})
        lines.append(Sentence(f"{where}: {one.what}; {one.right}" if where else f"{one.what}; {one.right}", field))
    return lines


def in_words(where: str, document: dict[str, Any]) -> tuple[str, str]:
    """A place by its name, and what its field is called: "forms[1].depth_mm" is "Pit, depth".

    >>> in_words("forms[0].depth_mm", {"forms": [{"id": "pit", "name": "Pit"}]})
    ('Pit, depth', 'depth')
    >>> in_words("patches[0].lifts[9].mix", {"patches": [{"id": "lake", "name": "Lake", "lifts": []}]})
    ('Lake, the new lift, what it is laid of', 'what it is laid of')
    >>> in_words("thickness", {})
    ('thickness', 'thickness')
    """
    begun = _LIST.match(where)
    if not begun:
        plain = _field(where) if re.fullmatch(r"[a-z]+(_[a-z0-9]+)+", where) else where
        return plain, plain.split(",")[-1].strip()
    entry, named = _entry(document.get(begun["list"]), int(begun["at"]), ONE_OF[begun["list"]])
    rest = where[begun.end() :]
    parts = [named]
    lift = _LIFT.match(rest)
    if lift:
        _, of_lift = _entry((entry or {}).get("lifts"), int(lift["at"]), "lift")
        parts.append(of_lift)
        rest = rest[lift.end() :]
    field = _field(rest) if rest else ""
    return ", ".join([*parts, field] if field else parts), field


def _entry(entries: Any, at: int, what: str) -> tuple[dict[str, Any] | None, str]:
    """An entry of a list and its name; one that is not in it yet is the new one."""
    if not isinstance(entries, list) or at >= len(entries) or not isinstance(entries[at], dict):
        return None, f"the new {what}"
    entry = entries[at]
    return entry, str(entry.get("name") or str(entry.get("id", what)).replace("-", " ").capitalize())


def _field(path: str) -> str:
    last = re.sub(r"\[\d+\]", "", path).rpartition(".")[2]
    return NAMES.get(last) or _UNIT.sub("", last).replace("_", " ")
