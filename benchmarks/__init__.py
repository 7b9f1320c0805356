"""Speed and size against the project's own marks, each a ratio: below 1 is within.

`marks` is what all share; `figures` the core, `edits` the memory that editing takes, `ground` large grounds, `clock`
the solver, `pages` the browser. Warm means: same process, label anchors kept, plan not kept.
"""

from __future__ import annotations

from . import clock, figures, ground, pages
from .marks import Mark


def run(browser: bool = True) -> list[Mark]:
    """All marks, one after the other."""
    return [*figures.measure(), *ground.measure(), *clock.measure(), *pages.measure(browser)]
