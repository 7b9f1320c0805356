"""What to expect of a batch that went off its parts: soft, slow or brittle, how much longer, and how to save it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..catalogue import Material, Mix
from ..document.built import Built, BuiltBatch
from ..hardening.setting import set_minutes

NEAR = 0.03  # off by no more than this nothing is noticed, craft estimate
SLOW_EACH = 2.0  # of a resin: so many per cent longer for each per cent off its ratio, craft estimate
SOFT_FROM = 0.10  # off by more a resin may never harden, craft estimate
DOUBTFUL = 2.0  # times its hours that such a batch is waited for before it is touched


@dataclass(frozen=True, slots=True)
class OffRatio:
    """How far a batch is off (0.1: a tenth too much of its last part, negative: too little), how many times its hours
    it takes, what to expect, and what can be done."""

    code: str
    off: float
    times: float
    expect: str
    save: str


def off_ratio(mix: Mix, materials: Mapping[str, Material], batch: BuiltBatch) -> OffRatio | None:
    """What comes of a batch as it was really mixed; None for one that is near enough, or was not written down."""
    known = {(one.material, one.part): one for one in batch.parts}
    wanted = [(one.material, known.get((one.material, one.part))) for one in mix.ingredients]
    parts = [(name, one.planned_g, one.actual_g) for name, one in wanted if one and one.planned_g]
    if len(parts) < 2 or any(not went for *_, went in parts):
        return None
    if mix.reacts is not None:
        (_, first, went_first), (_, last, went_last) = parts[0], parts[-1]
        assert went_first is not None and went_last is not None
        off = (went_last / went_first) / (last / first) - 1
        return _resin(off)
    wet = [(want, went or 0.0, materials[name].family in ("water", "wetting")) for name, want, went in parts]
    was = _ratio([(want, water) for want, _, water in wet])
    now = _ratio([(went, water) for _, went, water in wet])
    if was is None or now is None or abs(now / was - 1) <= NEAR:
        return None
    return _with_water(mix, was, now)


def _ratio(parts: list[tuple[float, bool]]) -> float | None:
    water = sum(grams for grams, wet in parts if wet)
    rest = sum(grams for grams, wet in parts if not wet)
    return water / rest if water and rest else None


def _resin(off: float) -> OffRatio | None:
    if abs(off) <= NEAR:
        return None
    which = "too much" if off > 0 else "too little"
    difference = f"{abs(off):.0%} {which} of its second part"
    if abs(off) > SOFT_FROM:
        return OffRatio(
            "may-stay-soft", off, DOUBTFUL, f"{difference}: it may stay soft and tacky for good",
            "touch it after twice its hours; if it is tacky still, scrape off what comes away and pour a thin lift, "
            "rightly mixed, over it",
        )  # fmt: skip
    return OffRatio(
        "cures-slow", off, 1 + SLOW_EACH * abs(off), f"{difference}: it cures slowly and stays a little softer",
        "keep it warm, touch it before you go on; a thin lift, rightly mixed, over it seals it",
    )  # fmt: skip


def _with_water(mix: Mix, was: float, now: float) -> OffRatio:
    off = now / was - 1
    more = off > 0
    times = now / was
    if mix.sets is not None:
        label = mix.sets
        times = set_minutes(label.set_min, label.water_ratio, now, 20.0) / set_minutes(
            label.set_min, label.water_ratio, was, 20.0
        )
        times = max(times, now / was) if more else times
    if more:
        return OffRatio(
            "too-wet", off, times, f"{off:.0%} more water: it sets and dries more slowly, softer and chalky",
            "let it dry through; then brush thinned glue into it, which binds chalk",
        )  # fmt: skip
    return OffRatio(
        "too-dry", off, times, f"{-off:.0%} less water: it sets fast, hard but brittle, with cracks at its edges",
        "mist it while it is soft; fill cracks with a thin mix once it is dry",
    )  # fmt: skip


def worst(entry: Built) -> OffRatio | None:
    """What comes of the worst of the batches that went into something; None where all were near enough."""
    if entry.mix is None:
        return None
    materials = {one.id: one for one in entry.materials}
    if any(part.material not in materials for part in entry.mix.ingredients):
        return None
    found = [off for batch in entry.batches if (off := off_ratio(entry.mix, materials, batch)) is not None]
    return max(found, key=lambda one: abs(one.off), default=None)


def slowed(entry: Built, hours: float | None) -> float | None:
    """Hours of something built, for how its batches really went."""
    off = worst(entry)
    return hours if off is None or hours is None else hours * off.times
