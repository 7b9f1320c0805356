"""Quick sums without a scene: each with a few fields, an answer that can be opened, a picture to scale, and where it
can become more, the scene that gives the same figures.

`model` says what a sum is, `reading` takes what was typed, `small` makes the smallest scene that has a sum in it, `ifs`
asks the same a little otherwise; the sums stand by what they are about: `pours`, `cups`, `covers`.
"""

from __future__ import annotations

from . import covers, cups, pours
from .model import Answer, Drawing, Sum, SumField, SumRequest

GROUPS: dict[str, tuple[Sum, ...]] = {"Water": pours.SUMS, "Cup": cups.SUMS, "Ground, time and money": covers.SUMS}
SUMS: dict[str, Sum] = {one.name: one for group in GROUPS.values() for one in group}

__all__ = ["GROUPS", "SUMS", "Answer", "Drawing", "Sum", "SumField", "SumRequest"]
