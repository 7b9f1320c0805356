"""Packs as lines of cells: a heading that names the columns, then a pack a line, in any order of columns.

Commas, semicolons or tabs between cells; with semicolons or tabs a comma is a decimal one, but 1,250, which could be
either, is asked about. Amounts say their unit ("750 ml", "1.2 kg"), or are in what the material is sold by.
"""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterable, Mapping
from io import StringIO
from typing import Any, TypeVar

from ..core.catalogue import Catalogue, Material
from ..core.fault import Fault, Faults, fault
from ..core.stock.model import NewPack
from ..core.stock.reading import parse_amount, parse_day, parse_left, parse_price
from ..core.units import Measures, NotAMeasure
from .rows import defused, headed

T = TypeVar("T")
MAX_BYTES = 2_000_000
MAX_LINES = 5000
MAX_TOLD = 12  # faults at a time
COLUMNS = ("material", "part", "size", "left", "price", "seller", "opened", "best before", "place")
_NEEDED = ("material", "size")


def write_packs(packs: Iterable[Mapping[str, Any]]) -> str:
    """Packs as text, a line each. A text that a table would take for a formula is written so that it stays a text."""
    out = StringIO()
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\n")
    writer.writeheader()
    for pack in packs:
        writer.writerow({name: defused(str(pack.get(name, ""))) for name in COLUMNS})
    return out.getvalue()


def read_packs(data: bytes, known: Catalogue, measures: Measures | None = None) -> list[tuple[int, NewPack]]:
    """(line, pack) of each line. Raises Faults that name line and field, of the first dozen that are wrong."""
    names, rows, _ = headed(data, "list", "packs", COLUMNS, _NEEDED, MAX_BYTES, MAX_LINES)
    packs: list[tuple[int, NewPack]] = []
    faults: list[Fault] = []
    seen: dict[NewPack, int] = {}
    for number, cells in rows:
        if not any(cell.strip() for cell in cells):
            continue
        try:
            pack = _pack(dict(zip(names, cells, strict=False)), len(cells) - len(names), known, measures)
            if pack in seen:
                raise Faults(
                    [Fault("", f"it is the same as line {seen[pack]}", "leave one out, or say where each stands")]
                )
            seen[pack] = number
            packs.append((number, pack))
        except Faults as problems:
            faults += [
                Fault(f"line {number}{', ' if one.where else ''}{one.where}", one.what, one.right)
                for one in problems.faults
            ]
    if faults:
        more = len(faults) - MAX_TOLD
        told = faults[:MAX_TOLD]
        raise Faults(
            [*told, Fault("list", f"{more} more lines or fields are wrong", "mend these first")] if more > 0 else told
        )
    if not packs:
        raise fault("list", "there is no pack in it", "write a line for each under the heading")
    return packs


def _pack(cells: dict[str, str], beyond: int, known: Catalogue, measures: Measures | None) -> NewPack:
    if beyond > 0:
        raise fault(
            "", f"it has {beyond} cells more than the heading", "put quotation marks round text with the delimiter"
        )
    given = {name: cell.strip().removeprefix("'") for name, cell in cells.items()}
    material = _material(given["material"], known)
    part = given.get("part", "").upper() or None
    parts = {one.part for mix in known.mixes.values() for one in mix.ingredients if one.material == material.id}
    if part not in parts | {None}:
        raise fault("part", f"{material.name} has no part “{part}”", "leave it empty, or write A or B of a kit")

    def cell(name: str, parse: Callable[[str], T]) -> T | None:
        if not given.get(name):
            return None
        try:
            return parse(given[name])
        except NotAMeasure as problem:
            raise fault(name, problem.what, problem.right) from None

    size = cell("size", lambda text: parse_amount(text, material, part, measures)) or 0.0
    if size <= 0:
        raise fault("size", "a pack of nothing is no pack", "write what a full one holds")
    left = cell("left", lambda text: parse_left(text, material, size, part, measures))
    if left is not None and left > size * 1.05:
        raise fault("left", f"{given['left']} is more than it holds", "mend it, or the size")
    return NewPack(
        material.id, size, part, left, cell("price", parse_price), _short(given.get("seller", ""), "seller"),
        cell("opened", parse_day), cell("best before", parse_day), _short(given.get("place", ""), "place"),
    )  # fmt: skip


def _material(text: str, known: Catalogue) -> Material:
    """The material of that id or name."""
    by_name = {one.name.lower(): one for one in known.materials.values()}
    material = known.materials.get(text) or by_name.get(text.lower())
    if material is None:
        from difflib import get_close_matches

        close = get_close_matches(text.lower(), [*known.materials, *by_name], n=1)
        right = f"did you mean “{close[0]}”?" if close else "write its name as it stands under Labels"
        raise fault("material", f"there is no “{text[:40]}”", right)
    return material


def _short(text: str, what: str) -> str:
    if len(text) > 60:
        raise fault(what, f"it has {len(text)} letters", "write 60 at most")
    return text
