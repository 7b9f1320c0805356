"""What an edit does to work that lies there already, told before it is done."""

from __future__ import annotations

from dataclasses import dataclass

from ..built.remains import layable_ml
from ..units import show
from .model import Plan

# Notices by which a lift tells that what lies there and what is planned differ.
BUILT_CODES = frozenset({"in-the-way", "too-much-there", "built-of-other"})


@dataclass(frozen=True, slots=True)
class Consequences:
    """What becomes of what was built: sentences, ml of waste more, minutes of hands more, what is to be bought more as
    (material, amount, unit). Empty where the edit touches nothing that was built."""

    texts: tuple[str, ...]
    waste_ml: float = 0.0
    hands_min: float = 0.0
    buy: tuple[tuple[str, float, str], ...] = ()

    def __bool__(self) -> bool:
        return bool(self.texts)


def consequences(before: Plan, after: Plan) -> Consequences:
    """What the plan after an edit makes of what was built that the plan before it did not."""
    texts: list[str] = []
    known = {off.patch: off.volume_ml.number for off in before.off or ()}
    waste = 0.0
    for off in after.off or ():
        more = off.volume_ml.number - known.get(off.patch, 0.0)
        if more > 0.5 or (off.patch not in known and more > 0):
            texts.append(off.do)
            waste += max(more, 0.0)
    for name, work in after.works.items():
        if not work.layers:
            continue
        was = before.works.get(name)
        codes = {notice.code for notice in was.notices} if was else set()
        texts += [one.text.rstrip(".") for one in work.notices if one.code in BUILT_CODES and one.code not in codes]
        left = was.remains_ml if was else 0.0
        more = work.remains_ml - left
        if work.state in ("part", "new") and more > layable_ml(after.lifts[name].volume_ml.number):
            there, wanted = (" ".join(show(ml, "ml")) for ml in (work.built_ml, more))
            texts.append(f"{work.layers[-1].entry.do}: {there} lie there, {wanted} more must be laid")
    texts += [
        f"{work.layers[-1].entry.do}: it stays where it lies, though it is planned no more"
        for name, work in after.works.items()
        if work.layers and name not in before.works
    ]
    undone = [
        step.do
        for step in after.steps
        if step.kind in ("form", "glue") and not step.built and _made_before(before, step.form)
    ]
    texts += [f"{do}: once more, it was made otherwise" for do in undone]
    if not texts:
        return Consequences(())
    needs = {need.material: need.need.number for need in before.buy}
    buy = tuple(
        (need.material, more, need.unit)
        for need in after.buy
        if need.material != "water"
        and (more := need.need.number - needs.get(need.material, 0.0)) > 0.01 * need.need.number
    )
    return Consequences(tuple(dict.fromkeys(texts)), waste, _hands(after) - _hands(before), buy)


def _made_before(before: Plan, form: str | None) -> bool:
    return any(step.built and form in (step.form, *step.forms) for step in before.steps)


def _hands(plan: Plan) -> float:
    return sum(step.hands_on_min for step in plan.steps if not step.built and not step.only_if)
