"""The order of a lay-up judged by the catalogue's rules: what works against itself, and why."""

from __future__ import annotations

from dataclasses import dataclass

from ..catalogue import OrderRule, Which, shipped
from ..document.scene import Lift, Scene
from .coat import Coat
from .site import Labels, Notice
from .texture import Texture

WASH = 1.0  # parts of water to one of paint: from here on it is a wash
HIDES = 0.95  # of the patch covered: what lies under it is seen no more


@dataclass(frozen=True, slots=True)
class _Facts:
    """What a rule of order asks of a lift."""

    lift: Lift
    family: str
    tags: frozenset[str]
    sheens: frozenset[str]
    holds: dict[str, bool]

    @classmethod
    def of(cls, lift: Lift, labels: Labels) -> _Facts:
        mix = labels.mix_of(lift)
        parts = [labels.materials[part.material] for part in mix.ingredients if part.parts > 0]
        return cls(
            lift,
            labels.materials[mix.id].family if mix.id in labels.materials else mix.family,
            frozenset(tag for part in parts for tag in part.tags),
            frozenset(part.sheen for part in parts if part.sheen),
            {
                "levelled": isinstance(lift, Texture) and lift.straightedge_mm is not None,
                "seals": mix.seals,
                "hides": lift.kind in ("skin", "shell") or (isinstance(lift, Texture) and lift.cover >= HIDES),
                "loose": isinstance(lift, Texture) and lift.school == "dry",
                "washes": isinstance(lift, Coat) and lift.thin >= WASH,
                "drybrushed": isinstance(lift, Coat) and lift.how == "drybrush",
            },
        )

    def meant(self, which: Which) -> bool:
        """Whether a rule means this lift."""
        return (
            (not which.kinds or self.lift.kind in which.kinds)
            and (not which.families or self.family in which.families)
            and (not which.tags or not self.tags.isdisjoint(which.tags))
            and (which.sheen is None or which.sheen in self.sheens)
            and all(getattr(which, name) in (None, fact) for name, fact in self.holds.items())
        )


def judged(scene: Scene, labels: Labels) -> dict[str, list[Notice]]:
    """What is told of which lift, by its id."""
    told: dict[str, list[Notice]] = {}
    for patch in scene.patches:
        facts = [_Facts.of(lift, labels) for lift in patch.lifts]
        for rule in shipped().order:
            for lift, text in _bites(rule, facts):
                told.setdefault(lift.id, []).append(Notice(rule.code, text, rule.reason))
    return told


def _bites(rule: OrderRule, facts: list[_Facts]) -> list[tuple[Lift, str]]:
    """Each lift that a rule finds fault with, and what it says."""
    firsts = [place for place, one in enumerate(facts) if one.meant(rule.first)]
    if rule.needs is not None:
        return [
            (facts[place].lift, rule.text.format(first=facts[place].lift.title))
            for place in firsts
            if not any(later.meant(rule.needs) for later in facts[place + 1 :])
        ]
    assert rule.then is not None
    found: dict[str, tuple[Lift, str]] = {}
    for place in firsts:
        for later in range(place + 1, len(facts)):
            if (rule.next and later > place + 1) or not facts[later].meant(rule.then):
                continue
            if rule.unless and any(one.meant(rule.unless) for one in facts[place + 1 : later]):
                continue
            one, other = facts[place].lift, facts[later].lift
            found.setdefault(other.id, (other, rule.text.format(first=one.title, then=other.title)))
    return list(found.values())
