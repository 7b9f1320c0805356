"""Sums about poured water: how much on a plain shape, how deep at once, how far it runs, how it is tinted."""

from __future__ import annotations

from math import atan2, degrees, isfinite, pi
from typing import Any

from ..catalogue import Mix, Reacts
from ..fault import fault
from ..figure import Figure, Term
from ..hardening.climate import Climate
from ..hardening.cure import faster, isothermal_hours
from ..hardening.flow import bubble_rise, channel_reach, least_cover, mobility, puddle_reach, viscosity
from ..hardening.layer import ANCHOR_BED, RESIN, Pour, heat_from_label, solve
from ..lifts.kinds.pour.heat import TOO_HOT_C
from ..lifts.labels import Labels
from ..mixing.parts import wet
from ..plan import Plan
from .model import Answer, Drawing, Sum, SumField, SumRequest
from .small import MARGIN_MM, Ring, basin, document, oval, planned, rectangle

ROOM = (
    SumField("temp_c", "room, °C", "degC", 20, 5, 40),
    SumField("rh", "damp, %", "percent", 50, 5, 98),
)
RESINS = SumField("mix", "resin", "choice", "casting-resin", of="mix", families=("resin",))
SHAPES = (
    ("rectangle", "rectangle"),
    ("round", "round"),
    ("oval", "oval"),
    ("strip", "strip, long and narrow"),
    ("bowl", "bowl, round and hollow"),
    ("wedge", "wedge on a tilted board"),
)
DEEPEST_MM = 400.0
LEAST_MM2, LONGEST_MM = 25.0, 3000.0  # of a traced outline


def _climate(asked: SumRequest) -> Climate:
    temp, rh = asked.room()
    return Climate((0.0,), (temp,), (rh,))


def _resin(asked: SumRequest) -> tuple[Mix, Reacts]:
    """The resin that was chosen, and how it reacts. Raises Faults."""
    mix = asked.mix()
    if mix.reacts is None:
        raise fault("resin", f"{mix.name} is no two-part resin", "choose one that reacts")
    return mix, mix.reacts


def shape_ml(shape: str, width: float, depth: float, deep: float) -> Figure:
    """What a plain shape holds: area x depth, a bowl as a spherical cap, a wedge as half of its box; lengths in mm."""
    area = width * depth if shape in ("rectangle", "strip", "wedge") else pi * width * depth / 4
    sizes = Term("length", width, "mm"), Term("width", depth, "mm"), Term("deepest", deep, "mm")
    if shape == "bowl":
        radius = width / 2
        return Figure(pi * deep * (3 * radius**2 + deep**2) / 6000, "ml", "π h (3 r² + h²) / 6, a spherical cap", sizes)
    if shape == "wedge":
        return Figure(area * deep / 2000, "ml", "length × width × depth at the deep end / 2", sizes)
    return Figure(area * deep / 1000, "ml", "area × depth", (*sizes, Term("area", area, "mm2")))


def bowl_bank(width: float, deep: float) -> float:
    """The bank, degrees, of a round hollow with a level floor that holds as much as a bowl of the same width and depth.

    >>> round(bowl_bank(80, 12), 1)
    26.2
    """
    radius, want = width / 2, pi * deep * (3 * (width / 2) ** 2 + deep**2) / 6

    def frustum(run: float) -> float:
        floor = radius - run
        return pi * deep * (radius**2 + radius * floor + floor**2) / 3

    low, high = 0.0, radius
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if frustum(middle) > want else (low, middle)
    run = (low + high) / 2
    return float(degrees(atan2(deep, run)))


def pour_document(
    shape: str, width: float, depth: float, deep: float, lift: dict[str, Any], room: tuple[float, float]
) -> dict[str, Any]:
    """The scene of a pour on a plain shape."""
    if shape == "wedge":
        tilt = 1000 * deep / width
        patch = {"id": "water", "name": "Water", "area": {"rest": True}, "lifts": [lift]}
        inside = width - 2 * MARGIN_MM, depth - 2 * MARGIN_MM  # the board itself, without a margin
        return document("Quick pour", *inside, room, [], [patch], dammed="all", tilt_mm_per_m=[tilt, 0])
    outline = rectangle(width, depth) if shape in ("rectangle", "strip") else oval(width, depth)
    bank = bowl_bank(width, deep) if shape == "bowl" else 89.0
    hollow = basin(outline, deep, bank)
    ring = [list(point) for point in outline]
    patch = {"id": "water", "name": "Water", "area": {"outline": ring}, "lifts": [lift]}
    return document("Quick pour", width, depth, room, [hollow], [patch], deep_mm=deep)


def _sizes(asked: SumRequest) -> tuple[str, float, float, float]:
    shape, width, depth, deep = asked.text("shape"), asked.number("width"), asked.number("depth"), asked.number("deep")
    if shape in ("round", "bowl"):
        depth = width
    if shape == "bowl" and deep > width / 2:
        raise fault(
            "deepest", f"a bowl {width:g} mm across is no deeper than {width / 2:g} mm", "write it shallower, or wider"
        )
    return shape, width, depth, deep


def _drawing(
    asked: SumRequest, shape: str, width: float, depth: float, deep: float, traced: Ring | None = None
) -> Drawing:
    """Plan above, cut below, to the same scale."""
    outline: Ring = rectangle(width, depth) if shape in ("rectangle", "strip", "wedge") else oval(width, depth)
    outline = traced or outline
    top = MARGIN_MM + depth + 30.0
    west, east = MARGIN_MM, MARGIN_MM + width
    if shape == "wedge":
        cut: Ring = ((west, top), (east, top), (west, top + deep))
    elif shape == "bowl":
        radius = (width**2 / 4 + deep**2) / (2 * deep)
        points = [west + width * number / 40 for number in range(41)]
        middle = MARGIN_MM + width / 2
        cut = (
            (west, top),
            *((x, top + max((radius**2 - (x - middle) ** 2) ** 0.5 - (radius - deep), 0.0)) for x in points),
            (east, top),
        )
    else:
        cut = (west, top), (east, top), (east, top + deep), (west, top + deep)
    sizes = (
        (west, MARGIN_MM - 8, east, MARGIN_MM - 8, asked.mm(width)),
        (east + 8, MARGIN_MM, east + 8, MARGIN_MM + depth, asked.mm(depth)),
        (east + 8, top, east + 8, top + deep, asked.mm(deep)),
    )
    return Drawing((("water", outline), ("cut", cut)), sizes)


def _parts(plan: Plan, lift: str, labels: Labels) -> tuple[tuple[str, Figure], ...]:
    return tuple(
        (f"{labels.materials[part.material].name}{f', {part.part}' if part.part else ''}", figure)
        for part in plan.lifts[lift].ingredients
        if not part.aside
        for figure in (part.volume_ml, part.mass_g)
    )


def _pour(asked: SumRequest) -> Answer:
    shape, width, depth, deep = _sizes(asked)
    mix, _ = _resin(asked)
    lift = {"id": "pour", "kind": "pour", "mix": mix.id, "depth_mm": deep}
    data = pour_document(shape, width, depth, deep, lift, asked.room())
    holds = shape_ml(shape, width, depth, deep)
    return _poured(asked, mix, data, holds, deep, _drawing(asked, shape, width, depth, deep))


def _traced(asked: SumRequest) -> Answer:
    """A pour inside an outline that was traced, or typed corner by corner."""
    from shapely import Polygon

    mix, deep = _resin(asked)[0], asked.number("deep")
    ring = _corners(asked.text("outline"))
    west, south = min(x for x, _ in ring), min(y for _, y in ring)
    ring = tuple((round(x - west + MARGIN_MM, 2), round(y - south + MARGIN_MM, 2)) for x, y in ring)
    width, depth = (max(point[axis] for point in ring) - MARGIN_MM for axis in (0, 1))
    shape = Polygon(ring)
    if not shape.is_valid or shape.area < LEAST_MM2:
        raise fault("outline", "it crosses itself, or holds nothing", "put its corners in walking order, in mm")
    if max(width, depth) > LONGEST_MM:
        raise fault("outline", f"it is {max(width, depth):.0f} mm long", f"write it in mm, {LONGEST_MM:g} at most")
    lift = {"id": "pour", "kind": "pour", "mix": mix.id, "depth_mm": deep}
    patch = {"id": "water", "name": "Water", "area": {"outline": [list(point) for point in ring]}, "lifts": [lift]}
    data = document("Quick pour", width, depth, asked.room(), [basin(ring, deep)], [patch], deep_mm=deep)
    terms = (Term("area", shape.area, "mm2", f"{len(ring)} corners"), Term("deepest", deep, "mm"))
    holds = Figure(shape.area * deep / 1000, "ml", "area × depth", terms)
    return _poured(asked, mix, data, holds, deep, _drawing(asked, "traced", width, depth, deep, ring))


def _corners(text: str) -> Ring:
    """Corners as they are typed: x,y x,y x,y. Raises Faults."""
    try:
        ring = tuple((float(x), float(y)) for x, y in (part.split(",") for part in text.replace(";", " ").split()))
    except ValueError:
        raise fault("outline", f"“{text[:30]}” is no outline", "write x,y x,y x,y in mm, as 0,0 120,0 80,90") from None
    if len(ring) < 3 or not all(isfinite(one) for point in ring for one in point):
        raise fault("outline", f"it has {len(ring)} corners", "write three at least: x,y x,y x,y in mm")
    return ring


def _poured(asked: SumRequest, mix: Mix, data: dict[str, Any], holds: Figure, deep: float, drawing: Drawing) -> Answer:
    scene, plan = planned(data, asked)
    pour, labels = plan.lifts["pour"], Labels.of(scene)
    hard = pour.hours.usable
    return Answer(
        f"{mix.name} to mix",
        pour.mix_ml,
        (
            ("the shape holds", holds),
            *_parts(plan, "pour", labels),
            (
                "lifts",
                Figure(len(pour.layers), "", "as many as its heat and its label want", (Term("deepest", deep, "mm"),)),
            ),
            ("hottest", max((one.peak_c for one in pour.layers if one.peak_c), key=lambda one: one.number)),
            ("working time of a cup", pour.hours.workable),
            ("hard after the last lift", hard),
        ),
        tuple(notice.text for notice in pour.warnings),
        made_hazards(plan),
        drawing,
        data,
        tuple(data["patches"][0]["lifts"]),
    )


def made_hazards(made: Plan) -> frozenset[str]:
    """The hazards of everything in hand."""
    return frozenset().union(*(step.hazards for step in made.steps if step.lift))


def _deep(asked: SumRequest) -> Answer:
    mix, label = _resin(asked)
    heat = heat_from_label(label, mix.thermal or RESIN)

    def peak(depth: float) -> float:
        pour = Pour(depth, ANCHOR_BED, label, heat.j_g, _climate(asked), mix.thermal or RESIN)
        return solve(pour)[0].peak_c

    low, high = 0.5, max(2 * label.max_depth_mm, 20.0)
    if peak(low) > TOO_HOT_C:
        raise fault(
            "room",
            f"at {asked.number('temp_c'):g} °C even a film passes {TOO_HOT_C:g} °C",
            "cool the room, or choose a slower resin",
        )
    if peak(high) > TOO_HOT_C:
        for _ in range(24):
            middle = (low + high) / 2
            low, high = (middle, high) if peak(middle) <= TOO_HOT_C else (low, middle)
        by_heat = low
    else:
        by_heat = high
    best = min(by_heat, label.max_depth_mm)
    terms = (
        Term("its heat lets", by_heat, "mm", f"peaks at {TOO_HOT_C:g} °C, over 5 mm skin on 25 mm foam on 9 mm board"),
        Term("its label lets", label.max_depth_mm, "mm", f"at {label.temp_c:g} °C"),
        Term("room", asked.number("temp_c"), "degC"),
    )
    return Answer(
        "deepest in one lift",
        Figure(best, "mm", "the lesser of what its heat and its label let", terms),
        (("hottest at that depth", Figure(peak(best), "degC", "heat solved through resin, bed and board", terms)),),
        ("The label wins: it knows more than heat.",) if by_heat > label.max_depth_mm else (),
        asked.hazards(mix),
    )


def _reach(asked: SumRequest) -> Answer:
    mix, label = _resin(asked)
    depth, temp = asked.number("deep"), asked.number("temp_c")
    density = wet(mix, asked.catalogue.materials).density * 1000
    heat = heat_from_label(label, mix.thermal or RESIN)
    cured = solve(Pour(depth, ANCHOR_BED, label, heat.j_g, _climate(asked), mix.thermal or RESIN))[0]
    if cured.gel_h is None:
        raise fault("room", f"at {temp:g} °C it does not gel", "warm the room")
    mobile = mobility(cured.hours, cured.cure, label)
    length, width = asked.number("length"), asked.number("width")
    ml = length * width * depth / 1000
    far = channel_reach(length * depth, mobile, density)
    terms = (
        Term("poured at one end", ml, "ml"),
        Term("runs for", cured.gel_h, "h", "to its gel"),
        Term("deep", depth, "mm"),
    )
    flows = (
        Term("surface tension", label.surface_tension_n_m * 1000, "mN/m", f"label of {mix.name}"),
        Term("contact angle", label.contact_angle_deg + 10, "deg", "advancing, craft estimate"),
    )
    cover = least_cover(label.surface_tension_n_m, density, label.contact_angle_deg + 10)
    notes = () if far >= length else (f"Pour at {int(length / far) + 1} points: it gels before it is there.",)
    return Answer(
        "it runs before the gel",
        Figure(far, "mm", "1.411 (g q³ / 3 ν)^⅕ t^⅕ along a channel (Huppert, 1982)", terms),
        (
            (
                "a puddle of it spreads to",
                Figure(2 * puddle_reach(ml, mobile, density), "mm", "twice 0.894 (g V³ / 3 ν)^⅛ t^⅛", terms),
            ),
            ("closes over the bed by itself from", Figure(cover, "mm", "2 a sin(θ/2), a the capillary length", flows)),
        ),
        notes,
        asked.hazards(mix),
    )


def _bubbles(asked: SumRequest) -> Answer:
    mix, label = _resin(asked)
    density = wet(mix, asked.catalogue.materials).density * 1000
    warm = faster(label, asked.number("temp_c"))
    mu = float(viscosity(label, 0.0))
    speed = bubble_rise(asked.number("bubble"), mu, density)
    depth = asked.number("deep")
    hours = depth / (speed * 3600) if speed else 0.0
    gel = isothermal_hours(label, asked.number("temp_c"), label.gel)
    terms = Term("rises", speed * 60, "mm", "a minute, while it is fresh"), Term("to rise", depth, "mm")
    notes = []
    if hours > 0.5 * gel:
        notes.append("It thickens before they are up: burst them by breath or warmth, or let the cup rest first.")
    return Answer(
        "bubbles are up after",
        Figure(hours, "h", "ρ g d² / 12 μ (Hadamard, Rybczynski)", terms),
        (
            (
                "it gels after, thin",
                Figure(gel, "h", "the rate law at the room's temperature", (Term("faster by", warm, ""),)),
            ),
        ),
        tuple(notes),
        asked.hazards(mix),
    )


def _warmth(asked: SumRequest) -> Answer:
    mix, label = _resin(asked)
    temp = asked.number("temp_c")
    hard = isothermal_hours(label, temp, label.hard)
    terms = (
        Term("on the label", label.hard_h, "h", f"at {label.temp_c:g} °C"),
        Term("faster by", faster(label, temp), "", "Arrhenius"),
    )
    others = tuple(
        (f"at {other:g} °C", Figure(isothermal_hours(label, other, label.hard), "h", "the same law", terms))
        for other in (10, 15, 20, 25, 30)
        if other != temp
    )
    return Answer(
        "hard, in a thin layer", Figure(hard, "h", "the rate law of the label", terms), others, (), asked.hazards(mix)
    )


def _tint(asked: SumRequest) -> Answer:
    (mix, _), depth, area = _resin(asked), asked.number("deep"), asked.number("area")
    per_100 = asked.number("drops")
    side = area**0.5
    lift = {
        "id": "pour",
        "kind": "pour",
        "mix": mix.id,
        "depth_mm": depth,
        "tint": [{"material": asked.text("colour"), "drops_per_100_ml": per_100}],
    }
    data = pour_document("rectangle", side, side, depth, lift, asked.room())
    _, plan = planned(data, asked)
    part = next(one for one in plan.lifts["pour"].ingredients if one.drops is not None)
    assert part.drops is not None
    return Answer(
        "drops for this water",
        part.drops,
        (("in", plan.lifts["pour"].mix_ml),),
        tuple(notice.text for notice in plan.lifts["pour"].warnings),
        made_hazards(plan),
        _drawing(asked, "rectangle", side, side, depth),
        data,
        (lift,),
    )


_DEEP = SumField("deep", "deepest", "mm", 8, 0.2, DEEPEST_MM)
SUMS = (
    Sum(
        "pour",
        "A pour on a plain shape",
        "how much, in how many lifts, hard when",
        (
            SumField("shape", "shape", "choice", "rectangle", options=SHAPES),
            SumField("width", "length, or across", "mm", 200, 5, 3000),
            SumField("depth", "width", "mm", 120, 5, 3000),
            _DEEP,
            RESINS,
            *ROOM,
        ),
        _pour,
        "One hollow of one depth, its walls upright; a bowl as a part of a ball; a wedge where the board leans.",
    ),
    Sum(
        "traced",
        "A pour in a traced outline",
        "any shape, from a photo or corner by corner",
        (
            SumField(
                "outline", "outline, x,y of each corner in mm", "text", "0,20 60,0 130,30 120,90 50,110", most=4000
            ),
            _DEEP,
            RESINS,
            *ROOM,
        ),
        _traced,
        "One depth all over, its walls upright. Outlines are traced over a photo on Ground.",
    ),
    Sum("deep", "How deep in one lift", "before its own heat cracks it", (RESINS, ROOM[0], ROOM[1]), _deep),
    Sum(
        "reach",
        "How far it runs before the gel",
        "along a channel",
        (
            SumField("length", "length of the channel", "mm", 600, 10, 10_000),
            SumField("width", "width", "mm", 40, 2, 2000),
            _DEEP,
            RESINS,
            *ROOM,
        ),
        _reach,
    ),
    Sum(
        "bubbles",
        "Bubbles and rest",
        "when they are up by themselves",
        (
            _DEEP,
            SumField("bubble", "bubble, across", "mm", 0.5, 0.05, 5),
            RESINS,
            ROOM[0],
        ),
        _bubbles,
    ),
    Sum("warmth", "Hard by temperature", "what a warmer room buys", (RESINS, ROOM[0]), _warmth),
    Sum(
        "tint",
        "Tint for a depth",
        "drops for a water of this size",
        (
            SumField("area", "area", "mm2", 24_000, 100, 2_000_000),
            _DEEP,
            SumField("drops", "drops in 100 ml", "number", 2, 0.05, 60),
            SumField("colour", "tint", "choice", "acrylic-ink-teal", of="material", families=("colour",)),
            RESINS,
        ),
        _tint,
    ),
)
