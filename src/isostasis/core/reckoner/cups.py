"""Sums about what is in a cup or a bowl: parts, ratios gone wrong, stocks, compounds, blends."""

from __future__ import annotations

from ..fault import fault
from ..figure import Figure, Term
from ..mixing.batches import left_behind, to_mix
from ..mixing.consistency import LOOK, WATER, for_purpose
from ..mixing.parts import Amount, amounts, by_mass_error, wet
from ..mixing.repair import repair
from ..mixing.walk import dilution
from .model import Answer, Drawing, Sum, SumField, SumRequest
from .small import on_square, oval, square

FAMILIES = ("resin", "skin", "binder", "wetting", "seal", "texture", "colour")
MIX = SumField("mix", "mix", "choice", "casting-resin", of="mix", families=FAMILIES)
Lines = tuple[tuple[str, Figure], ...]
PURPOSES = (("floor", "a floor that levels itself"), ("general", "general"), ("cliff", "a cliff that holds"))


def _named(asked: SumRequest, part: Amount) -> str:
    return asked.catalogue.materials[part.material].name + (f", {part.part}" if part.part else "")


def _lines(asked: SumRequest, amounts_of: tuple[Amount, ...], formula: str, terms: tuple[Term, ...]) -> Lines:
    """Each part by volume and by mass."""
    return tuple(
        (_named(asked, one), Figure(value, unit, formula, terms))
        for one in amounts_of
        for value, unit in ((one.volume_ml, "ml"), (one.mass_g, "g"))
    )


def _in_cup(asked: SumRequest, made: tuple[Amount, ...]) -> Drawing:
    return cup(tuple((one.part or _named(asked, one), one.volume_ml) for one in made))


def cup(parts: tuple[tuple[str, float], ...]) -> Drawing:
    """A cup with its parts on top of each other, as wide as it is high when it is full."""
    total = sum(ml for _, ml in parts) or 1.0
    side = (total * 1000) ** (1 / 3) * 1.15
    rings, low = [], 0.0
    for number, (_, ml) in enumerate(parts):
        high = low + side * ml / total
        rings.append((f"part-{number % 2}", ((0.0, -low), (side, -low), (side, -high), (0.0, -high))))
        low = high
    sizes = tuple(
        (
            side + 6,
            -sum(ml for _, ml in parts[:number]) * side / total,
            side + 6,
            -sum(ml for _, ml in parts[: number + 1]) * side / total,
            name,
        )
        for number, (name, _) in enumerate(parts)
    )
    return Drawing(tuple(rings), sizes)


def _whole(asked: SumRequest) -> Answer:
    """Parts of a total."""
    mix, need = asked.mix(), asked.number("total")
    loss = asked.times(mix, "cup")
    batch = to_mix(need, loss) if asked.text("waste") == "yes" and mix.family != "texture" else need
    parts = amounts(mix, asked.catalogue.materials, batch)
    lines = _lines(asked, parts, "its part of the batch", (Term("batch", batch, "ml"),))
    terms = (
        Term("wanted", need, "ml"),
        Term("stays in the cup", loss * left_behind(batch) if batch != need else 0.0, "ml", "a share and a film"),
    )
    return Answer(
        "to mix",
        Figure(batch, "ml", "what is wanted and what stays behind", terms),
        lines,
        (),
        asked.hazards(mix),
        _in_cup(asked, parts),
    )


def _from_part(asked: SumRequest) -> Answer:
    """A total from what is there of one part."""
    mix, have, which = asked.mix(), asked.number("have"), int(asked.number("part"))
    if not 1 <= which <= len(mix.ingredients):
        raise fault("part", f"{mix.name} has {len(mix.ingredients)} parts", f"1 to {len(mix.ingredients)}")
    measure = amounts(mix, asked.catalogue.materials, 100.0)
    part = measure[which - 1]
    by_mass = asked.text("by") == "g"
    total = 100 * have / (part.mass_g if by_mass else part.volume_ml)
    parts = amounts(mix, asked.catalogue.materials, total)
    terms = (Term(_named(asked, part), have, "g" if by_mass else "ml", "all there is"),)
    lines = tuple(
        (
            _named(asked, one),
            Figure(one.mass_g if by_mass else one.volume_ml, "g" if by_mass else "ml", "in the label's ratio", terms),
        )
        for one in parts
    )
    return Answer(
        "makes",
        Figure(total, "ml", "as much as that part goes into", terms),
        lines,
        (),
        asked.hazards(mix),
        _in_cup(asked, parts),
    )


def _over(asked: SumRequest) -> Answer:
    """What is added to a cup into which too much of one part went."""
    mix = asked.mix()
    if len(mix.ingredients) != 2:
        raise fault(
            "mix", f"{mix.name} has {len(mix.ingredients)} parts, and this sum mends two", "choose one of two parts"
        )
    right = amounts(mix, asked.catalogue.materials, 100.0)
    within = asked.number("first"), asked.number("second")
    if sum(within) <= 0:
        raise fault("in the cup", "nothing is in it", "write what went in, in grams")
    repaired = repair((right[0].mass_g, right[1].mass_g), within)
    names = [_named(asked, one) for one in right]
    short = 0 if repaired.add[0] > repaired.add[1] else 1
    terms = tuple(Term(f"{name} in the cup", grams, "g") for name, grams in zip(names, within, strict=True))
    lead = Figure(repaired.add[short], "g", "so that the ratio holds: nothing comes out again", terms)
    off = (within[1] / within[0]) / (right[1].mass_g / right[0].mass_g) - 1 if within[0] else float("inf")
    others = [("the cup then holds", Figure(repaired.batch, "g", "all of it together", terms))]
    if off != float("inf"):
        others.append((f"{names[1]} is off by", Figure(100 * off, "%", "against the label's ratio by mass", terms)))
    return Answer(
        f"add of {names[short]}",
        lead,
        tuple(others),
        (),
        asked.hazards(mix),
        cup(tuple((one.part or name, grams) for one, name, grams in zip(right, names, within, strict=True))),
    )


def _by_mass(asked: SumRequest) -> Answer:
    """A ratio by volume as one by mass."""
    mix = asked.mix()
    parts = amounts(mix, asked.catalogue.materials, 100.0)
    first = parts[0].mass_g or 1.0
    known = asked.catalogue.materials
    weights = tuple(
        Term(f"a ml of {_named(asked, one)}", known[one.material].density_of(one.part), "g/ml") for one in parts
    )
    lines = tuple(
        (f"{_named(asked, one)}, by {unit}", Figure(value, "", "against 100 of the first", weights))
        for one in parts
        for unit, value in (
            ("mass", 100 * one.mass_g / first),
            ("volume", 100 * one.volume_ml / (parts[0].volume_ml or 1.0)),
        )
    )
    if len(parts) < 2:
        raise fault("mix", f"{mix.name} has one part alone", "choose one of two parts")
    notes = []
    if mix.basis == "volume" and mix.reacts is not None:
        wrong = by_mass_error(mix, known)
        notes.append(
            f"Weighed as if by mass, the hardener would be {abs(wrong):.0%} too {'much' if wrong > 0 else 'little'}."
        )
    return Answer(
        f"{_named(asked, parts[1])} to 100 of the first, by mass",
        Figure(100 * parts[1].mass_g / first, "", "parts by volume × what a ml weighs", weights),
        lines,
        tuple(notes),
        asked.hazards(mix),
        _in_cup(asked, parts),
    )


def _dilution(asked: SumRequest) -> Answer:
    total, wanted, stock = asked.number("total"), asked.number("wanted") / 100, asked.number("stock") / 100
    try:
        of_stock, water = dilution(total, wanted, stock)
    except ValueError as problem:
        raise fault("stock", str(problem), f"a stock of at least {wanted:.0%}, or less of it wanted") from None
    terms = (
        Term("wanted", total, "ml"),
        Term("share wanted", wanted, "fraction"),
        Term("share in the stock", stock, "fraction"),
    )
    return Answer(
        "of the stock",
        Figure(of_stock, "ml", "C1 V1 = C2 V2", terms),
        (("and water", Figure(water, "ml", "the rest", terms)),),
        (),
        frozenset(),
        cup((("stock", of_stock), ("water", water))),
    )


def _compound(asked: SumRequest) -> Answer:
    """Compound, plaster and water for an area."""
    mix = for_purpose(asked.mix(), asked.text("purpose"), asked.catalogue.materials)  # type: ignore[arg-type]
    need = asked.number("area") * asked.number("thick") / 1000
    batch = to_mix(need, asked.times(mix, "cup"))
    parts = amounts(mix, asked.catalogue.materials, batch)
    measure = wet(mix, asked.catalogue.materials)
    terms = (
        Term("area", asked.number("area"), "mm2"),
        Term("thickness", asked.number("thick"), "mm"),
        Term("stays in the bowl", batch - need, "ml", "a share and a film"),
        Term("a litre of it weighs", measure.density * 1000, "g", "wet"),
    )
    lines = _lines(asked, parts, "its part", terms)
    lift = {
        "id": "skin", "kind": "skin", "mix": asked.text("mix"), "depth_mm": asked.number("thick"),
        "consistency": asked.text("purpose"),
    }  # fmt: skip
    look = LOOK.get(asked.text("purpose"), "")  # type: ignore[call-overload]
    return Answer(
        "to mix",
        Figure(batch, "ml", "area × thickness, and what stays behind", terms),
        lines,
        (f"Look: {look}.",) if look else (),
        asked.hazards(mix),
        square(asked, asked.number("area")),
        on_square(asked, asked.number("area"), [lift]),
        (lift,),
    )


def _slump(asked: SumRequest) -> Answer:
    """What a spoonful's spread says of how much water is in it."""
    mix, spread = asked.mix(), asked.number("spread")
    if mix.slump_mm is None:
        raise fault("mix", f"the label of {mix.name} says nothing of how far a spoonful spreads", "choose a compound")
    times = spread / mix.slump_mm
    purpose = min(WATER, key=lambda one: abs(for_purpose(mix, one, asked.catalogue.materials).slump_mm - spread))  # type: ignore[operator]
    terms = Term("spread", spread, "mm"), Term("on the label", mix.slump_mm, "mm", "general use")
    words = {
        "floor": "thin: it levels itself",
        "general": "as the label has it",
        "cliff": "stiff: it stays on a cliff",
    }[purpose]
    more = (
        "More powder, a spoon at a time."
        if times > 1.7
        else "A little more water, by the spray."
        if times < 0.65
        else ""
    )
    middle = spread / 2
    drawing = Drawing(
        (("skin", tuple((x - 20 - middle, y - 20 - middle) for x, y in oval(spread, spread))),),
        ((-middle, middle + 8, middle, middle + 8, asked.mm(spread)),),
    )
    return Answer(
        f"it is {words}",
        Figure(times, "", "spread / spread on the label", terms),
        (),
        (more,) if more else (),
        asked.hazards(mix),
        drawing,
    )


def _scoops(asked: SumRequest) -> Answer:
    """Scoops of a blend for an amount."""
    mix, need = asked.mix(), asked.number("total")
    parts = amounts(mix, asked.catalogue.materials, need)
    scoop = asked.bench.scoop_ml
    lines = tuple(
        (
            _named(asked, one),
            Figure(
                one.volume_ml / scoop,
                "",
                "ml / your scoop",
                (Term("ml", one.volume_ml, "ml"), Term("scoop", scoop, "ml", "my things")),
            ),
        )
        for one in parts
    )
    count = sum(one.volume_ml for one in parts) / scoop
    return Answer(
        "scoops in all",
        Figure(count, "", "ml / your scoop", (Term("blend", need, "ml"), Term("scoop", scoop, "ml", "my things"))),
        lines,
        (),
        asked.hazards(mix),
        _in_cup(asked, parts),
    )


_TOTAL = SumField("total", "wanted", "ml", 100, 0.5, 50_000)
_COMPOUND = SumField("mix", "compound", "choice", "paper-plaster", of="mix", families=("skin",))
SUMS = (
    Sum(
        "parts",
        "Parts from a total",
        "what goes into the cup",
        (
            _TOTAL,
            MIX,
            SumField("waste", "and what stays in the cup", "choice", "yes", options=(("yes", "yes"), ("no", "no"))),
        ),
        _whole,
    ),
    Sum(
        "whole",
        "A total from what is there",
        "how far one part goes",
        (
            MIX,
            SumField("part", "which part, counted from 1", "whole", 2, 1, 12),
            SumField("have", "so much is left", "number", 50, 0.1, 50_000),
            SumField("by", "in", "choice", "g", options=(("g", "grams"), ("ml", "millilitres"))),
        ),
        _from_part,
    ),
    Sum(
        "over",
        "Too much in the cup",
        "what mends the ratio",
        (
            MIX,
            SumField("first", "first part in the cup", "g", 200, 0, 50_000),
            SumField("second", "second part in the cup", "g", 110, 0, 50_000),
        ),
        _over,
    ),
    Sum("mass", "By volume or by mass", "the same ratio on a scale", (MIX,), _by_mass),
    Sum(
        "stock",
        "A stock let down",
        "how much of it, how much water",
        (
            _TOTAL,
            SumField("wanted", "strength wanted, %", "percent", 30, 0.1, 100),
            SumField("stock", "strength of the stock, %", "percent", 50, 0.1, 100),
        ),
        _dilution,
    ),
    Sum(
        "compound",
        "Compound, plaster and water",
        "for an area",
        (
            SumField("area", "area", "mm2", 60_000, 10, 20_000_000),
            SumField("thick", "thickness", "mm", 4, 0.2, 100),
            _COMPOUND,
            SumField("purpose", "for", "choice", "general", options=PURPOSES),
        ),
        _compound,
    ),
    Sum(
        "slump",
        "A spoonful on a plate",
        "is it stiff enough",
        (
            SumField("spread", "it spreads to", "mm", 60, 5, 400),
            _COMPOUND,
        ),
        _slump,
    ),
    Sum(
        "scoops",
        "Scoops of a blend",
        "counted by your scoop",
        (
            SumField("total", "wanted", "ml", 200, 0.5, 50_000),
            SumField("mix", "blend", "choice", "quarry-dust", of="mix", families=("texture",)),
        ),
        _scoops,
    ),
)
