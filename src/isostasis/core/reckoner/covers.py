"""Sums about what covers: cloth, beds and their glue, coats, an incline, drying, a price."""

from __future__ import annotations

from typing import Any

from ..catalogue import Mix, Price
from ..fault import fault
from ..figure import Figure, Term
from ..hardening.climate import Climate
from ..hardening.drying import CRITICAL_SHARE, coats_to_reach
from ..lifts.kinds.shell.cloth import cutting_plan
from ..lifts.wet_film import drying_hours
from ..mixing.parts import wet
from ..stock.worth import useful_units
from ..terrain.incline import solve
from .model import Answer, Drawing, Sum, SumField, SumRequest
from .pours import ROOM, made_hazards
from .small import on_square, planned, square

MAX_RISERS = 20
AREA = SumField("area", "area", "mm2", 60_000, 100, 20_000_000)


def _cloth(asked: SumRequest) -> Answer:
    cloth = asked.catalogue.materials[asked.text("cloth")]
    if cloth.roll_mm is None:
        raise fault("cloth", f"{cloth.name} is on no roll", "choose a cloth on a roll")
    layers = int(asked.number("layers"))
    try:
        cuts = cutting_plan(asked.number("area"), layers, cloth.roll_mm, asked.bench.tub_mm, cloth.overlap_mm)
    except ValueError as problem:
        raise fault("my tub", str(problem), "set your dipping tub under my things") from None
    terms = (
        Term("area", asked.number("area"), "mm2"),
        Term("layers", layers, ""),
        Term("overlap", cloth.overlap_mm, "mm", f"label of {cloth.name}"),
    )
    return Answer(
        "strips to cut",
        Figure(cuts.count, "", "strips that your tub takes, overlapping on all sides", terms),
        (
            (
                "each",
                Figure(cuts.length_mm * cuts.width_mm, "mm2", f"{cuts.length_mm:.0f} × {cuts.width_mm:.0f} mm", terms),
            ),
            ("rolls", Figure(len(cuts.rolls), "", "strips of a roll", terms)),
        ),
        (),
        frozenset(cloth.hazards),
        square(asked, asked.number("area")),
        lifts=({"kind": "shell", "material": cloth.id, "layers": layers},),
    )


def _incline(asked: SumRequest) -> Answer:
    bench, grade = asked.bench, asked.number("grade") / 100
    stock = _stock(asked.text("stock")) or bench.risers_mm
    best, *others = solve(asked.number("height"), grade, stock, bench.shims_mm, max(bench.grade_most, grade))
    run = best.run_mm.number
    notes = [best.words(asked.mm).capitalize() + ".", *(f"Or {one.words(asked.mm)}." for one in others[:2])]
    if grade > bench.grade_most:
        notes.append(f"Steeper than your own limit of {bench.grade_most:.1%}.")
    height = asked.number("height")
    drawing = Drawing(
        (("cut", ((0.0, 0.0), (run, 0.0), (run, -height))),),
        ((0.0, 8.0, run, 8.0, asked.mm(run)), (run + 6, 0.0, run + 6, -height, asked.mm(height))),
    )
    return Answer(
        "run that it takes", best.run_mm, (("left over", best.left_over_mm),), tuple(notes), frozenset(), drawing
    )


def _stock(text: str) -> tuple[float, ...]:
    """Heights of risers as they are typed; none for the reader's own. Raises Faults."""
    try:
        thicknesses = tuple(
            sorted({float(one.removesuffix("mm")) for one in text.replace(",", " ").split() if one != "mm"})
        )
    except ValueError:
        thicknesses = (0.0,)
    if len(thicknesses) > MAX_RISERS or not all(0.5 <= one <= 600 for one in thicknesses):
        wanted = "write them in mm, as 10 20 30; none: those of your things"
        raise fault("your risers", f"“{text[:30]}” are no heights", wanted)
    return thicknesses


def _dry(asked: SumRequest) -> Answer:
    mix = asked.text("mix")
    lifts = [{"id": "skin", "kind": "skin", "mix": mix, "depth_mm": asked.number("thick")}]
    data = on_square(asked, 40_000.0, lifts)
    _, plan = planned(data, asked)
    hours = plan.lifts["skin"].hours
    notes = tuple(notice.text for notice in plan.lifts["skin"].warnings)
    return Answer(
        "the next wet layer or a wash may go on",
        hours.next,
        (("sealed or poured on", hours.full), ("it can be worked", hours.workable)),
        notes,
        made_hazards(plan),
        square(asked, 40_000.0),
        data,
        tuple(lifts),
    )


def _bed(asked: SumRequest) -> Answer:
    lifts: list[dict[str, Any]] = [
        {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 2},
        {"id": "bed", "kind": "texture", "mix": asked.text("bed"), "depth_mm": asked.number("thick"), "school": "dry"},
        {"id": "fix", "kind": "fix", "mix": asked.text("glue"), "wetting": asked.text("wetting")},
    ]
    data = on_square(asked, asked.number("area"), lifts)
    _, plan = planned(data, asked)
    fix = plan.lifts["fix"]
    fixing = fix.fixing
    if fixing is None:
        raise fault("glue", "nothing of it goes into this bed", "choose a glue that soaks")
    return Answer(
        "glue to drip in",
        fixing.binder_ml,
        (
            ("wetting before it", fixing.wetting_ml),
            ("passes", fixing.passes),
            ("it reaches", fixing.reach_mm),
            ("bed to strew", plan.lifts["bed"].mix_ml),
            ("dry through", fix.hours.full),
        ),
        tuple(notice.text for notice in fix.warnings),
        made_hazards(plan),
        square(asked, asked.number("area")),
        data,
        tuple(lifts[1:]),
    )


def _coats(asked: SumRequest) -> Answer:
    mix = asked.mix()
    film = mix.film_mm or mix.pour_mm
    solids = wet(mix, asked.catalogue.materials).stays
    if film is None or solids >= 1:
        raise fault("coat", f"{mix.name} builds up by no film that dries", "choose a varnish, a gel or a glue")
    wet_mm = min(asked.number("film"), mix.pour_mm or film) if asked.number("film") else film
    count = coats_to_reach(asked.number("height"), wet_mm, solids)
    terms = (
        Term("height", asked.number("height"), "mm"),
        Term("one coat, wet", wet_mm, "mm", f"label of {mix.name}"),
        Term("stays", solids, "fraction"),
    )
    return Answer(
        "coats",
        Figure(count, "", "height / what a coat leaves", terms),
        (
            ("a coat leaves", Figure(wet_mm * solids, "mm", "wet film × what stays", terms)),
            ("the next coat after", _recoat(asked, mix, wet_mm)),
        ),
        (),
        asked.hazards(mix),
        lifts=({"kind": "pour", "mix": mix.id, "depth_mm": asked.number("height")},) if mix.pour_mm else (),
    )


def _recoat(asked: SumRequest, mix: Mix, wet_mm: float) -> Figure:
    """Hours until the next coat may go on, in this room."""
    temp, rh = asked.room()
    water = wet(mix, asked.catalogue.materials).free_water_g_per_ml * wet_mm * 1000
    through = mix.dries.diffusivity_m2_s if mix.dries else 1e-9
    climate = Climate((0.0,), (temp,), (rh,))
    return drying_hours(water, wet_mm, through, climate, CRITICAL_SHARE, "ready for the next coat at")


def _price(asked: SumRequest) -> Answer:
    material = asked.catalogue.materials[asked.text("material")]
    unit = useful_units(material, asked.catalogue, asked.bench)[0]
    offers = [
        Price(material=material.id, amount=asked.number(f"price_{one}"), pack=asked.number(f"pack_{one}"))
        for one in ("a", "b")
    ]
    costs = [unit.cost(one) for one in offers]
    cheap = 0 if costs[0].number <= costs[1].number else 1
    gap = costs[1 - cheap].number / costs[cheap].number - 1 if costs[cheap].number else 0.0
    words = (
        "They cost the same."
        if gap < 0.005
        else f"The {('first', 'second')[cheap]} is cheaper: the other costs {gap:.0%} more."
    )
    return Answer(
        f"the cheaper, a {unit.unit}",
        costs[cheap],
        ((f"the first, a {unit.unit}", costs[0]), (f"the second, a {unit.unit}", costs[1])),
        (words,),
    )


SUMS = (
    Sum(
        "cloth",
        "Cloth, strips and rolls",
        "for an area",
        (
            AREA,
            SumField("layers", "layers", "whole", 2, 1, 20),
            SumField("cloth", "cloth", "choice", "plaster-cloth", of="material", families=("cloth",)),
        ),
        _cloth,
    ),
    Sum(
        "incline",
        "An incline of your own stock",
        "risers, shims, a wedge",
        (
            SumField("height", "climbs", "mm", 31, 0.5, 600),
            SumField("grade", "grade, %", "number", 2.5, 0.1, 60),
            SumField("stock", "risers that you have, mm; empty: as in my things", "text", ""),
        ),
        _incline,
    ),
    Sum(
        "dry",
        "Dry in this room",
        "when the next layer may go on",
        (
            SumField("mix", "compound", "choice", "paper-plaster", of="mix", families=("skin",)),
            SumField("thick", "thickness", "mm", 5, 0.5, 60),
            *ROOM,
        ),
        _dry,
    ),
    Sum(
        "bed",
        "Glue and wetting for a bed",
        "so that it is held to the bottom",
        (
            AREA,
            SumField("thick", "depth of the bed", "mm", 4, 0.3, 60),
            SumField("bed", "bed", "choice", "ballast", of="mix", families=("texture",)),
            SumField("glue", "glue", "choice", "glue-water-1-1", of="mix", families=("binder",)),
            SumField("wetting", "wetting", "choice", "alcohol-water-1-1", of="mix", families=("wetting",)),
        ),
        _bed,
    ),
    Sum(
        "coats",
        "Coats to a height",
        "of what shrinks as it dries",
        (
            SumField("height", "height", "mm", 2, 0.02, 60),
            SumField("mix", "coat", "choice", "varnish-water", of="mix", families=("binder", "seal")),
            SumField("film", "one coat, wet (0: the label's)", "mm", 0, 0, 20),
            *ROOM,
        ),
        _coats,
    ),
    Sum(
        "price",
        "Two offers",
        "which is cheaper for what it does",
        (
            SumField(
                "material",
                "material",
                "choice",
                "plaster",
                of="material",
                families=("powder", "grain", "binder", "resin", "cloth", "colour", "seal", "paste", "tool", "wetting"),
            ),
            SumField("price_a", "first price", "number", 6, 0.01, 100_000),
            SumField("pack_a", "holds, as it is sold", "number", 1000, 0.01, 1e9),
            SumField("price_b", "second price", "number", 10, 0.01, 100_000),
            SumField("pack_b", "holds, as it is sold", "number", 2500, 0.01, 1e9),
        ),
        _price,
    ),
)
