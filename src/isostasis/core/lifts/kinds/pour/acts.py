"""Short acts round a pour of resin: mixing before a rest, dams on and off, looks at bubbles, scuffing."""

from __future__ import annotations

from math import ceil

from ....fault import fault
from ....ground.filling import Pool
from ....hardening.layer import Cured
from ...estimate import Act
from ...site import Site
from .pools import PourLift

POUR_H = 0.1  # to pour a cup out
LOOKS_MIN = 5.0  # minutes of hands, all looks together and the cover after them; craft estimate
WAVES_MIN = 15.0  # of hands, all trials together; craft estimate
LOOKS_AT_MIN = (5.0, 15.0, 30.0)  # after a pour
TRY_EVERY_H, MAX_TRIES = 0.25, 12  # of waves
# Gel times scatter so far. Source: docs/science.md, resin.
GEL_EARLY, GEL_LATE = 0.85, 1.15
DAM_OFF_H = 24.0  # after hard, at least: not before the next evening


def rest(lift: PourLift, site: Site, name: str, cups: int, workable_h: float) -> Act:
    """The mixing of what then rests in the cup. Raises Faults for a rest that leaves no time to pour."""
    if lift.rest_h >= workable_h - POUR_H:
        raise fault(
            f"{site.where}.rest_h",
            f"after {lift.rest_h * 60:.0f} min in the cup there is no time left to pour: it can be worked "
            f"{workable_h * 60:.0f} min",
            f"at most {max(workable_h - POUR_H, 0) * 60:.0f} min",
        )
    do = f"Mix {name.lower()} for {site.patch.name}, scrape, into a second cup; let it rest {lift.rest_h * 60:.0f} min"
    return Act("mix", do, "rested, and still runs", lift.rest_h, workable_h - POUR_H, 3 + 5.0 * cups)


def bubbles(lift: PourLift, site: Site, course: Cured) -> tuple[Act, ...]:
    """The looks at a pour's bubbles, one presence that leaves room for other clean work, and the cover after them."""
    last_h = min(0.5, 0.5 * course.gel_h) if course.gel_h is not None else 0.5
    if last_h <= 10 / 60:
        return ()
    how = {"breath": "by breath through a straw", "brush": "with a brush tip", "flame": "with a quick pass of flame"}
    do = f"Look at {site.patch.name} at 5, 15 and 30 min, burst bubbles {how[lift.bubbles]}, then cover it from dust"
    hazards = frozenset({"flame"}) if lift.bubbles == "flame" else frozenset()
    looks = tuple(minutes / 60 for minutes in LOOKS_AT_MIN if minutes / 60 <= last_h)
    opens = last_h - LOOKS_MIN / 60
    return (Act("bubbles", do, "bubbles still rise", opens, last_h, LOOKS_MIN, hazards, looks_h=looks),)


def waves(lift: PourLift, site: Site, kept: tuple[float, float] | None, gel_h: float | None) -> tuple[Act, ...]:
    """Trying the waves, from early in the window in which a half of a ripple is kept until the gel comes late."""
    if not lift.waves or kept is None or gel_h is None:
        return ()
    do = (
        f"Start trying the waves in {site.patch.name}, every quarter of an hour until they stay; the kept cup tells "
        "how thick it is"
    )
    opens, closes = kept[0] * GEL_EARLY, gel_h * GEL_LATE
    tries = min(ceil((closes - opens) / TRY_EVERY_H), MAX_TRIES)
    looks = tuple(opens + number * TRY_EVERY_H for number in range(tries))
    return (Act("waves", do, "waves begin to stay", opens, closes, WAVES_MIN, looks_h=looks),)


def dam_off(site: Site, course: Cured) -> tuple[Act, ...]:
    """Dam and tape off and the rim sliced, between hard and twice hard."""
    if course.hard_h is None:
        return ()
    do = f"Take dam and tape off {site.patch.name}, gently, and slice the rim where it climbed"
    until = max(2 * course.hard_h, course.hard_h + DAM_OFF_H)
    return (Act("dam-off", do, "hard, not aged", course.hard_h, until, 10.0, frozenset({"cutting"})),)


def dam_on(site: Site, dams_mm: float) -> Act:
    """The dam before the first lift: N mm of clear sheet or resin tape."""
    do = f"Dam {site.patch.name}: {dams_mm / 1000:.2g} m of clear sheet or resin tape on a smooth, flat edge"
    return Act("dam", do, "", 0.0, None, 5 + dams_mm / 100, tape_mm=dams_mm)


def scuff(site: Site, pools: tuple[Pool, ...]) -> Act:
    """What lets a lift bond on one that is past its window: 10 min and a minute a square decimetre."""
    area = sum(pool.area_mm2 for pool in pools)
    do = f"Scuff the water in {site.patch.name} all over and wipe it clean: its window to bond has passed"
    return Act("scuff", do, "bonds without scuffing", 0.0, None, 10 + area / 10_000, frozenset({"dust"}))
