"""Records as lines of cells: out with every record, in with those that are not known yet.

Columns as they go out: key, at (ISO with zone), scene, what, label, quantity, unit, predicted, from, to, mishap. `from`
and `to` are alike where it was measured; one of them is empty where it was only looked at.
"""

from __future__ import annotations

import csv
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import sha256
from io import StringIO

from ..core.fault import Fault, Faults, fault
from ..core.learning.records import QUANTITIES, Record
from .rows import defused, headed

MAX_BYTES, MAX_LINES, MAX_TOLD = 3_000_000, 5000, 12
COLUMNS = ("key", "at", "scene", "what", "label", "quantity", "unit", "predicted", "from", "to", "mishap")
_NEEDED = ("at", "what", "label", "quantity", "predicted")


@dataclass(frozen=True)
class Line:
    """A record as it stands in a table, and which line it is."""

    number: int
    key: str
    at: datetime
    scene: str
    what: str
    label: str
    quantity: str
    predicted: float
    low: float | None
    high: float | None
    mishap: str

    @property
    def same(self) -> tuple[str, str, str, str]:
        """By what it is known again: moment, label, quantity and prediction."""
        return sameness(self.at, self.label, self.quantity, self.predicted)


def sameness(at: datetime, label: str, quantity: str, predicted: float) -> tuple[str, str, str, str]:
    """By what a record is known again, whatever it was read off."""
    return at.astimezone(UTC).isoformat(timespec="seconds"), label, quantity, f"{predicted:.4g}"


def write_records(records: Iterable[Record]) -> str:
    """Records as text, a line each. A text that a table would take for a formula is written so that it stays a text."""
    out = StringIO()
    rows = csv.writer(out)
    rows.writerow(COLUMNS)
    for record in records:
        cells = (
            record.key,
            record.at.isoformat(),
            record.scene,
            record.title,
            record.label,
            record.quantity,
            QUANTITIES[record.quantity][1],
        )
        numbers = (
            f"{record.predicted:.6g}",
            *("" if each is None else f"{each:.6g}" for each in (record.low, record.high)),
        )
        rows.writerow([defused(str(cell)) for cell in (*cells, *numbers, record.mishap)])
    return out.getvalue()


def read_records(data: bytes) -> list[Line]:
    """The records of a table. Raises Faults that name line and column, of the first dozen that are wrong."""
    names, rows, delimiter = headed(data, "table", "records", COLUMNS, _NEEDED, MAX_BYTES, MAX_LINES)
    lines_read: list[Line] = []
    faults: list[Fault] = []
    for number, cells in rows:
        if not any(cell.strip() for cell in cells):
            continue
        try:
            lines_read.append(
                _line(number, dict(zip(names, cells, strict=False)), decimal="," if delimiter != "," else ".")
            )
        except Faults as problems:
            faults += problems.faults
    if faults:
        more = [Fault("table", f"{len(faults) - MAX_TOLD} more are wrong", "mend these first")]
        raise Faults([*faults[:MAX_TOLD], *(more if len(faults) > MAX_TOLD else [])])
    if not lines_read:
        raise fault("table", "there is no record in it", "write a line for each under the heading")
    return lines_read


def _line(number: int, cells: dict[str, str], decimal: str) -> Line:
    given = {name: cell.strip().removeprefix("'") for name, cell in cells.items()}

    def amount(name: str) -> float | None:
        text = given.get(name, "")
        if not text:
            return None
        try:
            return float(text.replace(decimal, "."))
        except ValueError:
            raise fault(f"line {number}, {name}", f"“{text[:20]}” is no number", "write one, such as 13.5") from None

    predicted = amount("predicted")
    if predicted is None:
        raise fault(f"line {number}, predicted", "it is empty", "write what was said before")
    try:
        at = datetime.fromisoformat(given["at"])
    except ValueError:
        at = None
    if at is None or at.tzinfo is None or not 1970 <= at.year <= 2200:
        right = "write it as 2027-03-04T18:30+01:00"
        raise fault(f"line {number}, at", f"“{given['at'][:30]}” is no moment with its zone", right)
    label = given["label"][:64]
    low, high = amount("from"), amount("to")
    texts = given.get("scene", "")[:100], given["what"][:120], given.get("mishap", "")[:500]
    mark = f"{at.isoformat()}|{label}|{given['quantity']}|{predicted}|{low}|{high}|{texts[1]}"
    key = f"csv:{sha256(mark.encode()).hexdigest()[:34]}"
    return Line(number, key, at, texts[0], texts[1], label, given["quantity"], predicted, low, high, texts[2])
