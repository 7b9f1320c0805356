"""Lines of cells between commas or the like, for every list that is taken in."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from io import StringIO

from ..core.fault import fault


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
