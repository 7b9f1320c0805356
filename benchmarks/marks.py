"""What a benchmark measures against: marks, timing, and how to begin with nothing kept."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np


@dataclass(frozen=True)
class Mark:
    """What was measured, in `unit`, and the most that it may be."""

    name: str
    measured: float
    most: float
    unit: str

    @property
    def ratio(self) -> float:
        """Measured / most: below 1 is within."""
        return self.measured / self.most

    def as_json(self) -> dict[str, Any]:
        """For machines."""
        return {**asdict(self), "ratio": self.ratio}

    def __str__(self) -> str:
        verdict = "within" if self.ratio <= 1 else "OVER"
        return f"{self.name:56} {self.measured:9.3g} {self.unit:3} of {self.most:g}   ratio {self.ratio:.2f}  {verdict}"


def seconds(action: Callable[[], object], times: int, before: Callable[[], object] = lambda: None) -> float:
    """Median seconds of several runs, each after `before`."""
    spans = []
    for _ in range(times):
        before()
        start = time.perf_counter()
        action()
        spans.append(time.perf_counter() - start)
    return float(np.median(spans))


def forget_stages() -> None:
    """Empty every stage of the plan; keep what follows from labels alone: the anchors are worked out anew at once."""
    from isostasis.core.catalogue import shipped
    from isostasis.core.hardening.layer import RESIN, heat_from_label
    from isostasis.core.stages import STAGES

    STAGES.clear()
    for mix in shipped().mixes.values():
        if mix.reacts:
            heat_from_label(mix.reacts, mix.thermal or RESIN)
