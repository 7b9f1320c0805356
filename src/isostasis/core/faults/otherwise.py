"""What a person would do otherwise: read off how each lift of a scene went, by the rules of what goes wrong."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from ..document import ResolvedScene
from ..plan import Plan
from .changes import possible
from .facts import CupWork, facts_of, id_of
from .model import Cause, Symptom, symptoms

# Facts by which work went otherwise than its label and its plan want it; the rest is how the spot is.
TELLING = (
    "ratio_off", "wet_mix", "ran_hot", "too_deep", "over_time", "late", "early", "no_wetting", "unsealed", "clouded",
    "old_stock", "tinted_much",
)  # fmt: skip
MOST = 3  # of one lift: more is a litany


@dataclass(frozen=True, slots=True)
class Lesson:
    """Of which lift, what was seen of it, what comes of that, what to do otherwise, and the change of the plan that
    does it ("" where none can)."""

    lift: str
    title: str
    said: str
    risk: str
    do: str
    change: str


def lessons(
    scene: ResolvedScene, plan: Plan, cups: Mapping[str, tuple[CupWork, ...]], now: datetime
) -> tuple[Lesson, ...]:
    """What each lift that was built teaches, in the order of the lay-ups. Source: core/faults/symptoms.toml."""
    laid = {id_of(one) for one in scene.built if one.lift is not None}
    lessons_of_scene = []
    for patch in scene.patches:
        for lift in patch.lifts:
            if lift.id not in laid:
                continue
            known = facts_of(scene, plan, lift.id, cups.get(lift.id, ()), now)
            told = [code for code in TELLING if code in known and known[code].holds]
            title = patch.spot(lift)
            for code in told[:MOST]:
                rule = _cause(code, lift.kind)
                if rule is not None:
                    symptom, cause = rule
                    change = cause.change if possible([lift], cause.change) else ""
                    lessons_of_scene.append(
                        Lesson(lift.id, title, known[code].said, symptom.title, cause.next[0], change)
                    )
    return tuple(lessons_of_scene)


def _cause(code: str, kind: str) -> tuple[Symptom, Cause] | None:
    """The likeliest cause that this fact speaks for most, of what is seen on this kind of lift."""
    causes = [
        (symptom, cause)
        for symptom in symptoms().values()
        for cause in symptom.causes
        if kind in symptom.kinds and code in cause.strong
    ]
    return max(causes, key=lambda one: (one[1].prior, bool(one[1].change)), default=None)
