"""Rules between lifts, by the catalogue: `neighbours` this on or beside that, `order` this before that, `flats` what
must stay even. `judge` is all of them for a scene."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import ResolvedScene
from ..lifts.estimate import LiftEstimate, Notice
from ..lifts.fold import Build
from ..lifts.labels import Labels
from .flats import flat_notices
from .neighbours import Check, at_site, between, wet_beds
from .order import order_notices


@dataclass(frozen=True, slots=True)
class Judgement:
    """What is to be said of each lift, by its id, and the checks that bite at a place."""

    notices: dict[str, tuple[Notice, ...]]
    checks: tuple[Check, ...]


def judge(scene: ResolvedScene, built: Build, estimates: dict[str, LiftEstimate], labels: Labels) -> Judgement:
    """All rules over a scene. Raises Faults for what is refused."""
    notices: dict[str, list[Notice]] = {}
    checks = [check for stage in built.stages.values() for check in at_site(stage.site.lift, stage.site, labels)]
    checks += between(scene, built, estimates, labels)
    for lift, notice in wet_beds(scene, estimates).items():
        notices.setdefault(lift, []).append(notice)
    for found in (order_notices(scene, labels), flat_notices(scene, built)):
        for lift, more in found.items():
            notices.setdefault(lift, []).extend(more)
    for check in checks:
        notices.setdefault(check.lift, []).append(check.notice)
    return Judgement({lift: tuple(found) for lift, found in notices.items()}, tuple(checks))
