"""The order of a lay-up judged by the catalogue's rules: what works against itself, and why."""

from __future__ import annotations

from dataclasses import dataclass

from ..catalogue import LiftSelector, OrderRule
from ..document import ResolvedScene
from ..document.scene import Lift
from ..lifts.estimate import Notice
from ..lifts.kinds import kind_of
from ..lifts.labels import Labels

TRAITS = ("levelled", "seals", "hides", "loose", "washes", "drybrushed")


@dataclass(frozen=True, slots=True)
class _Facts:
    """What a rule of order asks of a lift."""

    lift: Lift
    family: str
    tags: frozenset[str]
    sheens: frozenset[str]
    traits: frozenset[str]

    @classmethod
    def of(cls, lift: Lift, labels: Labels) -> _Facts:
        mix = labels.mix_of(lift)
        parts = [labels.materials[part.material] for part in mix.ingredients if part.parts > 0]
        return cls(
            lift,
            labels.materials[mix.id].family if mix.id in labels.materials else mix.family,
            frozenset(tag for part in parts for tag in part.tags),
            frozenset(part.sheen for part in parts if part.sheen),
            kind_of(lift).traits(lift, labels) | ({"seals"} if mix.seals else set()),
        )

    def matches(self, selector: LiftSelector) -> bool:
        """Whether a rule means this lift."""
        return (
            (not selector.kinds or self.lift.kind in selector.kinds)
            and (not selector.families or self.family in selector.families)
            and (not selector.tags or not self.tags.isdisjoint(selector.tags))
            and (selector.sheen is None or selector.sheen in self.sheens)
            and all(getattr(selector, name) in (None, name in self.traits) for name in TRAITS)
        )


def order_notices(scene: ResolvedScene, labels: Labels) -> dict[str, list[Notice]]:
    """What is told of which lift, by its id."""
    notices: dict[str, list[Notice]] = {}
    for patch in scene.patches:
        facts = [_Facts.of(lift, labels) for lift in patch.lifts]
        for rule in scene.rules.order:
            for lift, text in violations(rule, facts):
                notices.setdefault(lift.id, []).append(Notice(rule.code, text, rule.reason))
    return notices


def violations(rule: OrderRule, facts: list[_Facts]) -> list[tuple[Lift, str]]:
    """Each lift that a rule finds fault with, and what it says."""
    firsts = [place for place, one in enumerate(facts) if one.matches(rule.first)]
    if rule.needs is not None:
        return [
            (facts[place].lift, rule.text.format(first=facts[place].lift.title))
            for place in firsts
            if not any(later.matches(rule.needs) for later in facts[place + 1 :])
        ]
    assert rule.then is not None
    first: dict[str, tuple[Lift, str]] = {}
    thens = [place for place, one in enumerate(facts) if firsts and one.matches(rule.then)]
    for place in firsts:
        for later in thens:
            if later <= place or (rule.next and later > place + 1):
                continue
            if rule.unless and any(one.matches(rule.unless) for one in facts[place + 1 : later]):
                continue
            if rule.mended and any(one.matches(rule.mended) for one in facts[later + 1 :]):
                continue
            one, other = facts[place].lift, facts[later].lift
            first.setdefault(other.id, (other, rule.text.format(first=one.title, then=other.title)))
    return list(first.values())
