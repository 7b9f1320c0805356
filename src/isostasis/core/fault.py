"""What is wrong with something the user gave us: where, what, and what would be right."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing that is wrong.

    `where` is a path in the document (`patches[0].lifts[2].level_mm`), `what` says what is
    wrong there, `right` what would be right.
    """

    where: str
    what: str
    right: str

    def __str__(self) -> str:
        return f"{self.where}: {self.what}; {self.right}"


class Refusal(ValueError):  # noqa: N818 - it refuses, and is no mistake of the program
    """A value that cannot be taken: what is wrong with it, and what would be right."""

    def __init__(self, what: str, right: str) -> None:
        self.what, self.right = what, right
        super().__init__(f"{what}; {right}")


class Faults(ValueError):  # noqa: N818 - it holds faults, and is raised whole
    """All that is wrong with one document, raised together so that one try shows everything."""

    def __init__(self, faults: Iterable[Fault]) -> None:
        self.faults = tuple(faults)
        super().__init__("\n".join(str(fault) for fault in self.faults))


def fault(where: str, what: str, right: str) -> Faults:
    """One fault, ready to be raised."""
    return Faults([Fault(where, what, right)])
