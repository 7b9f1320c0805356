"""Lines of cells between commas or the like, for every list that is taken in or given out."""

from __future__ import annotations

import csv
from collections.abc import Iterator, Sequence
from io import StringIO

from ..core.fault import fault

FORMULA = ("=", "+", "-", "@", "\t", "\r")  # what a spreadsheet takes a formula to begin with


def rows_of(text: str, delimiter: str, where: str) -> Iterator[tuple[int, list[str]]]:
    """Number, from 1, and cells of each line. Raises Faults that name one that cannot be taken apart."""
    reader = csv.reader(StringIO(text), delimiter=delimiter)
    number = 0
    while True:
        number += 1
        try:
            row = next(reader)
        except StopIteration:
            return
        except csv.Error as error:
            what = f"it cannot be taken apart: {error}"
            raise fault(f"{where}, line {number}", what, "write short plain cells") from None
        yield number, row


def defused(cell: str) -> str:
    """A text for a table: one that a spreadsheet would take for a formula begins with an apostrophe.

    >>> defused("=1+1"), defused("skin")
    ("'=1+1", 'skin')
    """
    return f"'{cell}" if cell[:1] in FORMULA else cell


def headed(
    data: bytes, where: str, things: str, columns: Sequence[str], needed: Sequence[str], max_bytes: int, max_lines: int
) -> tuple[list[str], Iterator[tuple[int, list[str]]], str]:
    """A list whose first line names its columns, in any order: their names, number and cells of each line after it, and
    what stands between cells (comma, semicolon, tab). Raises Faults, of what it is called (`where`, `things`)."""
    right = f"its first line names the columns: {', '.join(columns)}"
    if len(data) > max_bytes:
        raise fault(where, f"it is larger than {max_bytes / 1e6:g} MB", "split it")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise fault(where, "it is no text in UTF-8", "save it as CSV, UTF-8") from None
    lines = text.strip("\r\n").splitlines()
    if len(lines) > max_lines + 1:
        raise fault(where, f"{len(lines) - 1:,} {things} are more than {max_lines:,}", "split it")
    if not lines or not lines[0].strip():
        raise fault(where, "there is nothing in it", right)
    delimiter = max(",;\t", key=lines[0].count)
    rows = rows_of("\n".join(lines), delimiter, where)
    _, heading = next(rows)
    names = [" ".join(cell.strip().lower().replace("_", " ").split()) for cell in heading]
    unknown = [cell.strip()[:40] for cell, name in zip(heading, names, strict=True) if name not in columns]
    missing = [name for name in needed if name not in names]
    if unknown or missing or len(set(names)) < len(names):
        what = f"it has no column “{missing[0]}”" if missing else f"“{unknown[0]}” is no column" if unknown else (
            "a column stands in it twice")  # fmt: skip
        raise fault(f"{where}, line 1", what, right)
    return names, rows, delimiter
