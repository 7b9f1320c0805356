"""Flats that a lift leaves worse than they may be."""

from __future__ import annotations

from ..document import ResolvedScene
from ..lifts.estimate import Notice
from ..lifts.fold import Build
from ..terrain.keep import check_flats


def flat_notices(scene: ResolvedScene, built: Build) -> dict[str, tuple[Notice, ...]]:
    """For each lift that leaves a flat worse than it may be, what to say about it."""
    notices: dict[str, tuple[Notice, ...]] = {}
    for plan in check_flats(scene, built).values():
        broken = plan.broken_at
        if broken and broken.stage != "bare":
            where = broken.off_mm.working[0].value
            text = (
                f"{plan.name} is off by {broken.off_mm.number:.2g} mm after this (at {where}); "
                f"{broken.off_mm.working[3].value:g} mm are allowed. Leave it bare there, or level it again."
            )
            notices[broken.stage] = (*notices.get(broken.stage, ()), Notice("not-flat", text))
    return notices
