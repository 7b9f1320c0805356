"""The order of a lay-up judged by the catalogue's rules: what works against itself, and why."""

from __future__ import annotations

from itertools import combinations

from ..catalogue import OrderRule, Which, shipped
from ..document.scene import Lift, Patch, Scene
from .coat import Coat
from .site import Labels, Notice
from .texture import Texture

WASH = 1.0  # parts of water to one of paint: from here on it is a wash
HIDES = 0.95  # of the patch covered: what lies under it is seen no more


def meant(lift: Lift, which: Which, labels: Labels) -> bool:
    """Whether a rule means this lift."""
    mix = labels.mix_of(lift)
    parts = [labels.materials[part.material] for part in mix.ingredients if part.parts > 0]
    family = labels.materials[mix.id].family if mix.id in labels.materials else mix.family
    facts = {
        "levelled": isinstance(lift, Texture) and lift.straightedge_mm is not None,
        "seals": mix.seals,
        "hides": lift.kind in ("skin", "shell") or (isinstance(lift, Texture) and lift.cover >= HIDES),
        "loose": isinstance(lift, Texture) and lift.school == "dry",
        "washes": isinstance(lift, Coat) and lift.thin >= WASH,
        "drybrushed": isinstance(lift, Coat) and lift.how == "drybrush",
    }
    return (
        (not which.kinds or lift.kind in which.kinds)
        and (not which.families or family in which.families)
        and (not which.tags or any(tag in part.tags for part in parts for tag in which.tags))
        and (which.sheen is None or any(part.sheen == which.sheen for part in parts))
        and all(getattr(which, name) in (None, fact) for name, fact in facts.items())
    )


def judged(scene: Scene, labels: Labels) -> dict[str, list[Notice]]:
    """What is told of which lift, by its id."""
    told: dict[str, list[Notice]] = {}
    for patch in scene.patches:
        for rule in shipped().order:
            for lift, text in _bites(rule, patch, labels):
                told.setdefault(lift.id, []).append(Notice(rule.code, text, rule.reason))
    return told


def _bites(rule: OrderRule, patch: Patch, labels: Labels) -> list[tuple[Lift, str]]:
    """Each lift that a rule finds fault with, and what it says."""
    lifts: list[Lift] = list(patch.lifts)
    if rule.needs is not None:
        return [
            (lift, rule.text.format(first=lift.title))
            for place, lift in enumerate(lifts)
            if meant(lift, rule.first, labels)
            and not any(meant(later, rule.needs, labels) for later in lifts[place + 1 :])
        ]
    assert rule.then is not None
    found: dict[str, tuple[Lift, str]] = {}
    for (place, one), (later, other) in combinations(enumerate(lifts), 2):
        if not meant(one, rule.first, labels) or not meant(other, rule.then, labels):
            continue
        if rule.next and later > place + 1:
            continue
        between = lifts[place + 1 : later]
        if rule.unless and any(meant(lift, rule.unless, labels) for lift in between):
            continue
        found.setdefault(other.id, (other, rule.text.format(first=one.title, then=other.title)))
    return list(found.values())
