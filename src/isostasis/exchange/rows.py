"""Lines of cells between commas or the like, for every list that is taken in or given out."""

from __future__ import annotations

import csv
from collections.abc import Iterator
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
