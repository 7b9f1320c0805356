"""What is known of a lift that went wrong, read off its own history; and how to ask for the rest."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from ..built.ratio import off_ratio
from ..catalogue import Mix
from ..document import ResolvedScene
from ..document.built import Built
from ..document.scene import Lift
from ..lifts.labels import Labels
from ..mixing.parts import water_ratio
from ..plan import Plan
from ..units import show


@dataclass(frozen=True, slots=True)
class Fact:
    """Something that speaks for or against causes: what is asked of a person who knows, and what is said where it holds
    or does not."""

    asks: str
    holds: str
    fails: str


FACTS: dict[str, Fact] = {
    "ratio_off": Fact("Could the parts be off, by a drop or a spoon?", "its parts were off", "its parts were right"),
    "unweighed": Fact("Was it measured by eye?", "nobody wrote down what went in", "what went in was written down"),
    "small_batch": Fact(
        "Was the batch under 10 ml?", "so small a cup: a drop is some per cent", "the batch was large enough"
    ),
    "unscraped": Fact(
        "Was it poured from the cup that it was mixed in?",
        "nothing tells of a second cup",
        "it went through a second cup",
    ),
    "unrested": Fact("Was it poured straight after stirring?", "it did not rest in the cup", "it rested in the cup"),
    "tinted_much": Fact("More than three drops of colour in 100 ml?", "much tint", "little tint"),
    "cold": Fact(
        "Was it more than five degrees colder than the tin says, at night too?",
        "colder than the tin wants it",
        "as warm as the tin wants it",
    ),
    "hot_room": Fact("Was the room above 26 °C?", "a hot room", "no hot room"),
    "damp": Fact("Was it damp, over two thirds?", "damp air", "no damp air"),
    "dry_air": Fact("Did a fan or a heater blow on it?", "moving or dry air", "still air"),
    "young": Fact("Is it younger than its hours?", "its hours are not over yet", "its hours are over"),
    "thick": Fact("Thicker than 5 mm in one go?", "thick in one go", "thin enough"),
    "thin_layer": Fact("Only one layer or coat?", "one layer alone", "several layers"),
    "too_deep": Fact(
        "Deeper than the tin lets one lift be?",
        "deeper than its label lets it be",
        "no deeper than its label lets it be",
    ),
    "ran_hot": Fact("Was it hot to the hand?", "over 55 °C by its heat", "it stayed cool by its heat"),
    "wet_mix": Fact("More water than the tin says?", "more water than the label", "no more water than the label"),
    "over_time": Fact(
        "Was it still used when it grew stiff?", "used past its working time", "used within its working time"
    ),
    "large_batch": Fact("One large bowl?", "one large batch", "small batches"),
    "late": Fact("Was it done after the time for it had passed?", "later than its window", "within its window"),
    "early": Fact(
        "Was what lies beneath still damp?",
        "sooner than planned on what lay there",
        "not before what lay there was ready",
    ),
    "unsealed": Fact("Was the bed left unsealed?", "its bed is not sealed", "its bed is sealed"),
    "sealed_bed": Fact("Was its bed sealed, smooth or cured resin?", "its bed was a closed film", "its bed was open"),
    "thirsty_bed": Fact("Was it laid on bare wood or dry plaster?", "its bed drinks", "its bed does not drink"),
    "dammed": Fact("Does it lean on a dam?", "it leans on a dam", "no dam"),
    "joints": Fact("Does a joint or a crack run through it?", "a joint runs there", "no joint"),
    "tilted": Fact("Does the board lean?", "the board leans", "the board is level"),
    "steep": Fact("Is it steeper than 45 degrees there?", "steep ground", "no steep ground"),
    "thin_board": Fact("Is the board thinner than 8 mm?", "a thin board", "a stout board"),
    "much_water": Fact("Was much water laid on it at once?", "much water at once", "little water"),
    "dries": Fact("Is it something that dries?", "it hardens by drying", "it does not harden by drying"),
    "reacts": Fact("Is it a two-part resin?", "a two-part resin", "no resin"),
    "more_lifts": Fact("Did another lift go over it?", "another lift lies over it", "it is the last lift"),
    "no_bubbles": Fact(
        "Did nobody look in the first half hour?",
        "no look at its bubbles is written down",
        "its bubbles were looked at",
    ),
    "no_wetting": Fact("Was it fixed without a wetting pass?", "no wetting pass", "it was wetted first"),
    "deep_bed": Fact("Is the bed deeper than 4 mm?", "a deep bed", "a shallow bed"),
    "neat_glue": Fact("Was the glue used as it comes?", "undiluted glue", "thinned glue"),
    "oil_coat": Fact("Is an oil-based varnish over it?", "an oil-based coat over it", "no oil-based coat"),
    "soil": Fact("Is there soil beneath?", "soil beneath", "no soil"),
    "flame": Fact("Was a flame used on it?", "a flame was used", "no flame"),
    "warm_water": Fact("Was the water warmer than 25 °C?", "warm water", "cool water"),
    "clouded": Fact("Was the bowl or the water used before?", "clouded water", "clean water"),
    "shell_bare": Fact("Is nothing laid over the cloth?", "nothing lies over the cloth", "a skin lies over it"),
    "in_sun": Fact("Does it stand in the sun?", "it stands in the sun", "out of the sun"),
    "old_stock": Fact("Is the sack old, or was it open?", "old stock", "fresh stock"),
    "hand_touched": Fact("Was the bed or the edge handled?", "it was handled", "it was not handled"),
    "dusty": Fact("Was anything sanded near it?", "dusty work near it", "no dusty work"),
    "uncovered": Fact("Did it stand without a cover?", "it stood uncovered", "it was covered"),
}
SMALL_ML, LARGE_ML, COLD_K, HOT_C, DAMP, THICK_MM, DEEP_BED_MM, STOUT_MM = 10.0, 600.0, 5.0, 26.0, 0.65, 5.0, 4.0, 8.0
MUCH_DROPS, MORE_WATER, OFF, EARLY, RAN_HOT_C, WARM_C, STEEP_DEG = 3.0, 0.05, 0.03, 0.9, 55.0, 25.0, 45.0


@dataclass(frozen=True, slots=True)
class Known:
    """A fact of this lift: whether it holds, and how that is known, in words."""

    holds: bool
    said: str


@dataclass(frozen=True, slots=True)
class CupWork:
    """How a batch of it was worked: minutes from its beginning to the empty cup, its working time, and whether it went
    through a second cup and rested, as far as its card was walked (None: it was not)."""

    minutes: float
    working_min: float | None
    volume_ml: float
    second_cup: bool | None = None
    rested: bool | None = None


class Claim(Protocol):
    """Takes down a fact."""

    def __call__(self, code: str, holds: bool, words: str = "") -> None:
        """Its code, whether it holds, and how that is known where the fact's own words say too little."""


def facts_of(
    scene: ResolvedScene, plan: Plan, lift_id: str, cups: tuple[CupWork, ...], now: datetime
) -> dict[str, Known]:
    """What a lift's own history says. Raises KeyError for no such lift."""
    lift, patch = scene.lift(lift_id), scene.patch_of(lift_id)
    entries = [one for one in scene.built if one.lift is not None and id_of(one) == lift_id]
    facts: dict[str, Known] = {}

    def claim(code: str, holds: bool, words: str = "") -> None:
        fact = FACTS[code]
        facts[code] = Known(holds, words or (fact.holds if holds else fact.fails))

    labels = Labels.of(scene)
    mix = labels.mix_of(lift)
    reacts, dries = mix.reacts, mix.dries is not None or mix.family in ("binder", "seal", "varnish", "colour", "skin")
    claim("reacts", reacts is not None)
    claim("dries", reacts is None and dries)
    lifts = list(patch.lifts)
    below, above = lifts[: lifts.index(lift)], lifts[lifts.index(lift) + 1 :]
    if lift.levels_itself:
        sealed = any(labels.mix_of(one).seals for one in below)
        claim("unsealed", not sealed)
        claim("more_lifts", any(one.levels_itself for one in above) or len(plan.lifts[lift_id].layers) > 1)
        claim("dammed", bool(scene.base.dammed))
        claim("joints", bool(scene.base.joints_x_mm or scene.base.joints_y_mm))
        claim("flame", getattr(lift, "bubbles", "") == "flame")
    claim("tilted", any(scene.base.tilt_mm_per_m))
    claim("sealed_bed", bool(below) and bool(labels.mix_of(below[-1]).seals or below[-1].levels_itself))
    board = labels.materials[scene.base.board]
    if board.thickness_mm:
        claim("thin_board", board.thickness_mm < STOUT_MM, f"a board of {_mm(board.thickness_mm)}")
    claim("oil_coat", any("oil" in _tags(one, labels) for one in above))
    claim("soil", any("bleeds" in _tags(one, labels) for one in below))
    drops = sum(one.drops_per_100_ml or 0.0 for one in getattr(lift, "tint", ()))
    if hasattr(lift, "tint"):
        claim("tinted_much", drops > MUCH_DROPS, f"{drops:g} drop{'' if drops == 1 else 's'} of tint in 100 ml")
    if lift.kind == "shell":
        claim("shell_bare", not above)
    if getattr(lift, "water_c", None) is not None:
        claim("warm_water", lift.water_c > WARM_C, f"the water was at {lift.water_c:g} °C")
    if hasattr(lift, "clouded"):
        claim("clouded", bool(lift.clouded))
    _of_figures(lift, plan, lift_id, mix, claim)
    if entries:
        _of_built(entries, scene, mix, labels, now, claim)
    for cup in cups[:1]:
        if cup.working_min is not None:
            said = f"{cup.minutes:.0f} min in the cup, {cup.working_min:.0f} were right"
            claim("over_time", cup.minutes > cup.working_min, said)
        small = f"a batch of {' '.join(show(cup.volume_ml, 'ml'))}"
        claim("small_batch", cup.volume_ml < SMALL_ML, small)
        claim("large_batch", cup.volume_ml > LARGE_ML, small)
        if cup.second_cup is not None:
            claim("unscraped", not cup.second_cup)
        if cup.rested is not None:
            claim("unrested", not cup.rested)
    return facts


def id_of(entry: Built) -> str:
    """The lift of which something was built."""
    return str(entry.lift["id"] if isinstance(entry.lift, dict) else entry.lift.id)


def _mm(value: float) -> str:
    return " ".join(show(value, "mm"))


def _tags(lift: Lift, labels: Labels) -> set[str]:
    parts = [labels.materials[part.material] for part in labels.mix_of(lift).ingredients]
    return {tag for part in parts for tag in part.tags}


def _of_figures(lift: Lift, plan: Plan, lift_id: str, mix: Mix, claim: Claim) -> None:
    """What its planned figures say."""
    lift_plan = plan.lifts[lift_id]
    depths = [layer.depth_mm.number for layer in lift_plan.layers]
    deepest = max(depths, default=0.0)
    reacts = mix.reacts
    if reacts is not None:
        over = deepest - reacts.max_depth_mm
        claim("too_deep", over > 1e-6, f"{_mm(deepest)} deep, its label lets {_mm(reacts.max_depth_mm)}")
        hottest = max((layer.peak_c.number for layer in lift_plan.layers if layer.peak_c), default=0.0)
        claim("ran_hot", hottest > RAN_HOT_C, f"{hottest:.0f} °C at its hottest, by its own heat")
    else:
        claim("too_deep", False, "no resin, so no lift is too deep for its heat")
        claim("ran_hot", False, "it makes no heat to speak of")
    if lift.kind in ("skin", "texture"):
        claim("thick", deepest > THICK_MM, f"{_mm(deepest)} in one go")
        claim("deep_bed", lift.kind == "texture" and deepest > DEEP_BED_MM, f"a bed of {_mm(deepest)}")
    count = getattr(lift, "coats", getattr(lift, "layers", None))
    if isinstance(count, int):
        claim("thin_layer", count == 1)
    if lift.kind == "fix":
        claim("no_wetting", getattr(lift, "wetting", None) is None)


def _of_built(
    entries: list[Built], scene: ResolvedScene, mix: Mix, labels: Labels, now: datetime, claim: Claim
) -> None:
    """What was written down when it was laid."""
    last = max(entries, key=lambda one: one.ended)
    reacts = mix.reacts
    if last.temp_c is not None:
        if reacts is not None:
            said = f"{last.temp_c:g} °C, its label is for {reacts.temp_c:g}"
            claim("cold", last.temp_c < reacts.temp_c - COLD_K, said)
        claim("hot_room", last.temp_c > HOT_C, f"{last.temp_c:g} °C in the room")
    if last.rh is not None:
        claim("damp", last.rh > DAMP, f"{last.rh:.0%} of humidity")
    age = (now - last.ended).total_seconds() / 3600
    if last.usable_h is not None:
        said = f"{age:.0f} h old, hard at {last.usable_h:.0f}"
        claim("young", age < last.usable_h, said)
    offs = []
    written = False
    for batch in last.batches:
        written = written or any(part.actual_g is not None for part in batch.parts)
        off = off_ratio(last.mix, labels.materials, batch) if last.mix is not None else None
        if off is not None:
            offs.append(off.off)
    if last.batches:
        claim("unweighed", not written)
        if written:
            worst = max(offs, key=abs, default=0.0)
            claim("ratio_off", abs(worst) > OFF, f"{abs(worst):.0%} off its parts" if offs else "its parts were right")
            if reacts is None and last.mix is not None and water_ratio(last.mix, labels.materials):
                claim("wet_mix", worst > MORE_WATER, f"{worst:+.0%} of water" if offs else "water as on the label")
    before = [one for one in scene.built if one.patch == last.patch and one.ended < last.ended and one.lift is not None]
    if before:
        under = max(before, key=lambda one: one.ended)
        gap = ((last.begun or last.ended) - under.ended).total_seconds() / 3600
        if under.next_h is not None:
            said = f"{gap:.0f} h after what lies beneath, {under.next_h:.0f} were planned"
            claim("early", gap < EARLY * under.next_h, said)
        closes = [one.to_h for one in under.windows if one.to_h is not None and "bond" in one.what]
        if closes:
            claim("late", gap > max(closes), f"{gap:.0f} h after what lies beneath, it bonds until {max(closes):.0f}")


def words_of(code: str, answer: bool) -> Known:
    """A fact as a person answered it."""
    fact = FACTS[code]
    return Known(answer, fact.holds if answer else fact.fails)


def joined(own: Mapping[str, Known], told: Mapping[str, bool]) -> dict[str, Known]:
    """What the history says, and what a person said besides; the person knows better."""
    return {**own, **{code: words_of(code, answer) for code, answer in told.items() if code in FACTS}}
