"""A shell: plaster cloth laid wet in layers. It sets in minutes, then dries."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from math import ceil
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ....catalogue import Material, Mix
from ....catalogue.model import Id
from ....colour.light import Colours, linear
from ....document.scene import Lift, WaterC
from ....fault import fault
from ....figure import Figure, Term
from ....ground.field import Ground
from ....ground.offset import laid
from ....ground.raster import Array
from ....hardening.setting import CLOUDED, WORKING_SHARE, mixed_temp, set_minutes
from ....mixing.batches import Batches
from ....mixing.parts import BOUND_WATER
from ....stages import cached_stage
from ...alternative import Alternative
from ...areas import Cover, true_area
from ...beds import SOAKED_MM, Drinking, OpenLayer
from ...estimate import (
    WONT_DRY,
    Act,
    Course,
    Hours,
    Ingredient,
    Layer,
    LiftEstimate,
    LiftPlan,
    Notice,
    Strips,
    Window,
    span,
)
from ...hands import SETUP_MIN, minutes_over
from ...labels import Labels
from ...site import Site
from ...tops import tops
from ...wet_film import ready_hours
from ..skin import Skin, trowelled
from .cloth import CuttingPlan, cutting_plan

LAYER_MM = 1.0
DRY_CLOTH_VOIDS = 0.4
SHORTEST_H = 1 / 60  # a smoothing that takes less is no step of its own
SECONDS_A_STRIP = 20.0  # dip, drain, lay; craft estimate
TUB_DEPTH_MM = 50.0
WASHED_OUT = 0.10  # of the cloth's plaster, left in the tub; craft estimate
CLOUDY_SHARE = 0.08  # plaster in the tub's water by mass: from here on it sets too fast; craft estimate
THIN_BOARD_MM = 4.0
JOINT_MM = 30.0  # to either side of a joint that is shelled where only voids and joints are, craft estimate


class Shell(Lift):
    """So many layers of cloth, over all of the patch or only over voids (crumpled paper) and joints."""

    kind: Literal["shell"] = "shell"
    levels_itself: ClassVar[bool] = False
    raises_ground: ClassVar[bool] = True
    shares_batches: ClassVar[bool] = False
    dries_as_bed: ClassVar[bool] = True
    wants_dry_bed: ClassVar[bool] = False
    names_material: ClassVar[tuple[str, ...]] = ("material",)
    names_mix: ClassVar[tuple[str, ...]] = ()
    material: Id
    layers: Annotated[int, Field(ge=1, le=10)] = 1
    over: Literal["all", "voids"] = "all"
    water_c: WaterC | None = None


MODEL = Shell
_WHERE = {
    "all": "true area of the patch",
    "voids": f"true area over paper, and within {JOINT_MM:g} mm of a joint",
}


@cached_stage
def _laid(ground: Ground, cover: Cover, depth_mm: float, material: str) -> Ground:
    return ground.dressed(laid(ground, cover.mask, depth_mm), material, cover.mask, depth_mm)


def layer_mm(lift: Shell, labels: Labels) -> float:
    """Thickness of one layer of its cloth."""
    return labels.materials[lift.material].thickness_mm or LAYER_MM


def _thickness(lift: Shell, labels: Labels) -> float:
    return lift.layers * layer_mm(lift, labels)


@cached_stage
def _voids(ground: Ground, cover: Cover, x_mm: tuple[float, ...], y_mm: tuple[float, ...], paper: bytes) -> Cover:
    x = (np.arange(ground.shape[1]) + 0.5) * ground.cell_mm
    y = (np.arange(ground.shape[0]) + 0.5) * ground.cell_mm
    wanted = np.frombuffer(paper, dtype=bool).reshape(ground.shape).copy()
    for at in x_mm:
        wanted |= (np.abs(x - at) <= JOINT_MM)[None, :]
    for at in y_mm:
        wanted |= (np.abs(y - at) <= JOINT_MM)[:, None]
    return replace(cover, share=np.where(wanted, cover.share, 0.0))


def covers(lift: Shell, site: Site, labels: Labels) -> Cover:
    """What the shell lies on: the patch, or its part over paper and beside joints."""
    if lift.over == "all":
        return site.cover
    base = site.scene.base
    paper = tops(site.ground, labels) == "paper"
    return _voids(site.ground, site.cover, base.joints_x_mm, base.joints_y_mm, paper.tobytes())


def lay(lift: Shell, site: Site) -> Ground:
    """The ground after the shell."""
    labels = Labels.of(site.scene)
    return _laid(site.ground, covers(lift, site, labels), _thickness(lift, labels), lift.material)


@cached_stage
def cut(
    area_mm2: float, layers: int, roll_mm: tuple[float, float], tub_mm: tuple[float, float], overlap_mm: float
) -> CuttingPlan:
    """The cutting plan, kept."""
    return cutting_plan(area_mm2, layers, roll_mm, tub_mm, overlap_mm)


def plan_of(lift: Shell, site: Site, labels: Labels) -> CuttingPlan:
    """How the cloth of this shell is cut, for one copy. Raises Faults for cloth without a roll, or too small a tub."""
    cloth = labels.materials[lift.material]
    if cloth.roll_mm is None:
        raise fault(
            f"{site.where}.material",
            f"'{cloth.id}' is no cloth on a roll",
            "name plaster-cloth, or a cloth of your own",
        )
    try:
        area = true_area(site.ground, covers(lift, site, labels))
        return cut(area, lift.layers, cloth.roll_mm, site.bench.tub_mm, cloth.overlap_mm)
    except ValueError as problem:
        raise fault("bench.tub_mm", str(problem), "a longer or wider tub, such as 300 x 200 mm") from None


def estimate(lift: Shell, site: Site, labels: Labels) -> LiftEstimate:
    """Strips and rolls from the draped area and the tub, water, hours from setting and drying."""
    cloth, mix, climate = labels.materials[lift.material], labels.mix_of(lift), site.climate
    cuts, cover = plan_of(lift, site, labels), covers(lift, site, labels)
    area = true_area(site.ground, cover)
    thickness = _thickness(lift, labels)
    each = thickness / lift.layers
    terms = (
        Term(_WHERE[lift.over], area, "mm2", "triangulated ground under this lift"),
        Term("layers", lift.layers, "", "this scene"),
        Term("one layer", each, "mm", f"label of {cloth.name}"),
    )
    volume = Figure(area * thickness / 1000, "ml", "true area × layers × thickness of one", terms)
    used = cuts.area_mm2
    cloth_term = Term("cloth in them", used, "mm2", "overlaps, a twentieth spare and offcuts included")
    cut_ml = Figure(
        used * each / 1000, "ml", "cloth in the strips × thickness", (Term("strips", cuts.count), cloth_term)
    )
    grams = used * each / 1000 * cloth.density
    weight = Term("density", cloth.density, "g/ml", f"label of {cloth.name}")
    mass = Figure(grams, "g", "cloth in the strips × thickness × density", (cloth_term, weight))
    water_ml = grams * cloth.takes_water
    takes = Term("a gram takes", cloth.takes_water, "ml", f"label of {cloth.name}")
    water = Figure(water_ml, "ml", "water that the cloth takes up", (mass.term("cloth"), takes))
    per_mm2 = each / 1000 * cloth.density * lift.layers  # g of cloth on a mm2
    to_lose = per_mm2 * 1e6 * max(cloth.takes_water - BOUND_WATER * cloth.hemihydrate, 0.0)
    room = climate.temp_c[0]
    temp = room if lift.water_c is None else mixed_temp(cloth.takes_water, lift.water_c, 1.0, room)
    sets_h = _set_hours(cloth, temp)
    warmth = f"room at {room:g} °C" + (f", water at {lift.water_c:g} °C" if lift.water_c is not None else "")
    workable = span(
        None if sets_h is None else sets_h * WORKING_SHARE,
        "half of the initial set: each strip counts from its own dip",
        Term("set on the label at 20 °C", cloth.sets.set_min if cloth.sets else 0.0, "min", f"label of {cloth.name}"),
        Term("the wet cloth is", temp, "degC", warmth),
        Term("set here", sets_h or 0.0, "h", "× 0.97 per degree above 20"),
    )  # fmt: skip
    diffusivity = mix.dries.diffusivity_m2_s if mix.dries else 6e-9
    next_h, full_h, usable = ready_hours(site.above, labels, to_lose, thickness, diffusivity, climate)
    hours = Hours(workable, next_h, full_h, usable)
    count, rolls = _strip_figures(cuts, area, lift, cloth, site)
    laying = cuts.count * SECONDS_A_STRIP / 60 / lift.layers
    minutes = 2 * SETUP_MIN + site.scene.copies * (laying + minutes_over(area, "cloth", site.bench))
    one_layer = Layer(
        Figure(each, "mm", "as the label says"),
        Figure(volume.number / lift.layers, "ml", "true area × thickness of one", terms),
    )
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=cut_ml,
        mass_g=mass,
        ingredients=(
            Ingredient(cloth.id, None, cut_ml, mass),
            Ingredient("water", None, water, replace(water, unit="g", formula="a millilitre of it weighs a gram")),
        ),
        layers=(one_layer,) * lift.layers,
        hours=hours,
        windows=_windows(site, sets_h),
        look_for=mix.look_for,
        warnings=_warnings(lift, site, cover, labels, next_h, grams),
        strips=Strips(count, rolls, _cost_of_a_square_metre(site, cloth, used, area * lift.layers, lift.layers)),
    )  # fmt: skip
    each_layer = ceil(cuts.count / lift.layers)
    size = f"{each_layer} strip{'s' if each_layer != 1 else ''} of {cuts.length_mm:.0f} × {cuts.width_mm:.0f} mm"
    courses = tuple(
        Course(
            do=f"Lay {cloth.name.lower()} on {site.patch.name}"
            + (f", layer {number} of {lift.layers}" if lift.layers > 1 else "")
            + f": {size}",
            batches=Batches(0, 0.0, 0.0, 0.0),
            working_min=None if sets_h is None else sets_h * 60 * WORKING_SHARE,
            hands_on_min=minutes,
            wait_h=hours.wait_h(site.above is None) if number == lift.layers else sets_h or 0.0,
            acts=_smoothing(site, sets_h, area),
        )
        for number in range(1, lift.layers + 1)
    )
    damp = None if sets_h is None else (sets_h, sets_h + 1.0)
    return LiftEstimate(plan, mix, courses, labels.hazards(mix), soft_h=sets_h, damp_h=damp)


def _smoothing(site: Site, sets_h: float | None, area_mm2: float) -> tuple[Act, ...]:
    """The second smoothing of the strips that were laid last, as they stiffen; none where that is over at once."""
    if sets_h is None or sets_h < 2 * SHORTEST_H:
        return ()
    minutes = min(
        minutes_over(area_mm2 * site.scene.copies, "broad brush", site.bench), sets_h * 60 * (1 - WORKING_SHARE)
    )
    do = f"Smooth the cloth on {site.patch.name} once more as it stiffens, with a wet brush"
    return (Act("smooth", do, "the cloth stiffens", sets_h * WORKING_SHARE, sets_h, minutes),)


def _set_hours(cloth: Material, temp: float) -> float | None:
    if cloth.sets is None:
        return None
    return set_minutes(cloth.sets.set_min, cloth.sets.water_ratio, cloth.sets.water_ratio, temp) / 60


def _strip_figures(cuts: CuttingPlan, area: float, lift: Shell, cloth: Material, site: Site) -> tuple[Figure, Figure]:
    assert cloth.roll_mm is not None
    tub = f"{site.bench.tub_mm[0]:g} × {site.bench.tub_mm[1]:g} mm"
    each = Term(
        "covers, overlaps taken off", cuts.covers_mm2 / max(cuts.count, 1), "mm2", f"overlap {cloth.overlap_mm:g} mm"
    )
    size = Term("strip", f"{cuts.length_mm:.0f} × {cuts.width_mm:.0f} mm", "", f"your tub, {tub}")
    terms = Term("true area", area, "mm2"), Term("layers", lift.layers), size, each
    formula = "layers × true area × 1.05 / what one covers, offcuts used up too"
    count = Figure(cuts.count, "strip" if cuts.count == 1 else "strips", formula, terms)
    roll = f"{cloth.roll_mm[0]:g} × {cloth.roll_mm[1]:g} mm"
    rolls = Figure(
        len(cuts.rolls), "roll" if len(cuts.rolls) == 1 else "rolls", "rolls opened one after the other",
        (Term("roll", roll, "", f"label of {cloth.name}"), Term("cloth in the strips", cuts.area_mm2, "mm2"),
         Term("one roll holds", cloth.roll_mm[0] * cloth.roll_mm[1], "mm2")),
    )  # fmt: skip
    return count, rolls


def _cost_of_a_square_metre(site: Site, cloth: Material, cut_mm2: float, laid_mm2: float, layers: int) -> Figure | None:
    """Money for a covered square metre, all layers; None where the user gave no price."""
    each = site.bench.price_each(cloth.id)
    if each is None or not laid_mm2:
        return None
    share = laid_mm2 / cut_mm2
    return Figure(
        each * 1e6 / share * layers, "money", "price of a square metre of roll / share that covers × layers",
        (Term("a square metre of roll", each * 1e6, "money", "your price"),
         Term("share that covers, overlaps and offcuts taken off", share), Term("layers", layers)),
    )  # fmt: skip


def _windows(site: Site, sets_h: float | None) -> tuple[Window, ...]:
    if sets_h is None:
        return ()
    windows = [
        Window("smooth until the weave closes", 0.0, sets_h * WORKING_SHARE, "no holes and no weave against the light"),
        Window("smooth once more as it stiffens", sets_h * WORKING_SHARE, sets_h, "it stays where it is pushed"),
    ]
    if site.scene.base.joints_x_mm or site.scene.base.joints_y_mm:
        windows.append(Window("pull separators", sets_h, 2 * sets_h, "a finger dents it and takes nothing with it"))
    return tuple(windows)


def _warnings(
    lift: Shell, site: Site, cover: Cover, labels: Labels, next_h: Figure, grams: float
) -> tuple[Notice, ...]:
    notices = []
    own = cover.mask
    under = tops(site.ground, labels)
    if (under == "board")[own].any():
        board = labels.materials[site.scene.base.board]
        if (board.thickness_mm or 9.0) <= THIN_BOARD_MM and not site.scene.base.battens:
            text = (
                f"A board of {board.thickness_mm:g} mm wetted on one face may warp, and a pour finds the low side: "
                "wet both faces, clamp it, or screw battens under it first."
            )
            notices.append(Notice("board-warps", text))
    tub_g = site.bench.tub_mm[0] * site.bench.tub_mm[1] * TUB_DEPTH_MM / 1000
    changes = int(grams * site.scene.copies * WASHED_OUT / (CLOUDY_SHARE * tub_g))
    if changes:
        times = "once" if changes == 1 else f"{changes} times"
        text = f"Change the tub's water {times}: clouded with plaster it sets the cloth in {CLOUDED:g} of the time."
        notices.append(Notice("change-the-tub", text))
    if next_h.value is None:
        notices.append(WONT_DRY)
    return tuple(notices)


def look(lift: Shell, below: Colours, labels: Labels, drop_ml: float) -> Colours:
    """Linear colours once it is dry: plaster."""
    return np.broadcast_to(linear(labels.mix_of(lift).colour), below.shape)


def drinks(lift: Shell, labels: Labels, filled: float) -> Drinking:
    """Its face is as open as dry plaster."""
    return Drinking(OpenLayer(lift.title, SOAKED_MM, DRY_CLOTH_VOIDS))


def edge_mm(lift: Shell, site: Site, labels: Labels) -> float | Array:
    """How high it stands above its neighbours' ground (ny, nx), mm."""
    return np.asarray(covers(lift, site, labels).mask * layer_mm(lift, labels) * lift.layers)


def mess(lift: Shell, mix: Mix) -> str:
    """Plaster."""
    return "plaster"


def traits(lift: Shell, labels: Labels) -> frozenset[str]:
    """It hides what lies beneath."""
    return frozenset({"hides"})


ALTERNATIVE_FAMILIES: tuple[str, ...] = ("skin",)
SOONEST = ""  # the figure by which one alternative is over sooner than another; empty: none is tried for time
# What can be trowelled on instead, and how thick; craft estimates.
TROWELLED_MM = {"hard-putty": 2.0, "plaster-2-3": 3.0}
TROWEL = "trowel:"


def alternatives(
    lift: Shell, site: Site, labels: Labels, beneath: Colours, try_out: Callable[[Lift], LiftEstimate]
) -> dict[str, Alternative]:
    """Cloth over everything, only over voids (crumpled paper) and joints, a compound trowelled instead, or nothing."""

    def laid_as(over: str, name: str, note: str) -> Alternative:
        return _laid_as(lift.model_copy(update={"over": over}), site, labels, try_out, name, note)

    nothing = Figure(0.0, "h", "nothing to wait for")
    none = {
        "amount": Figure(0.0, "strips", "nothing laid"), "next_h": nothing, "full_h": nothing,
        "weight_g": Figure(0.0, "g", "nothing laid"), "cost": Figure(0.0, "money", "nothing laid"),
        "strength_mpa": None,
    }  # fmt: skip
    return {
        "all": laid_as("all", "cloth over everything",
                       "Knocks and cracks are held all over; the surface is sealed and keyed."),
        "voids": laid_as("voids", "cloth over voids and joints only",
                         "Paper and joints are held; elsewhere the compound goes straight on foam, which dents."),
        **{
            f"{TROWEL}{mix}": replace(
                trowelled(_as_skin(lift, mix), site, labels, try_out),
                notes=(
                    f"{depth:g} mm trowelled: hard on a small piece, brittle on a large one; over paper it falls in.",
                ),
            )
            for mix, depth in TROWELLED_MM.items()
        },
        "none": Alternative("no shell", none, ("Lightest and quickest over foam; over paper nothing carries the "
                                               "compound: it cracks and falls in.",)),
    }  # fmt: skip


def _as_skin(lift: Shell, mix: str) -> Skin:
    """The skin that stands in for a shell of cloth. Raises KeyError for a mix that is not trowelled so."""
    return Skin(id=lift.id, mix=mix, depth_mm=TROWELLED_MM[mix], after=lift.after, water_c=lift.water_c)


def _laid_as(
    lift: Shell, site: Site, labels: Labels, try_out: Callable[[Lift], LiftEstimate], name: str, note: str
) -> Alternative:
    """A shell of cloth as it would be laid."""
    lift_plan, cloth = try_out(lift).plan, labels.materials[lift.material]
    assert lift_plan.strips is not None
    dry = cloth.density * (1 + BOUND_WATER * cloth.hemihydrate)
    weight = Figure(
        lift_plan.volume_ml.number * dry, "g", "in place × the weight of cloth and of the water that its plaster binds",
        (lift_plan.volume_ml.term("in place"), Term("dry, of a millilitre", dry, "g", "0.186 × its plaster is bound")),
    )  # fmt: skip
    each, used = site.bench.price_each(cloth.id), lift_plan.mix_ml.number * 1000 / (cloth.thickness_mm or LAYER_MM)
    cost = None
    if each is not None:
        terms = Term("cloth", used, "mm2"), Term("price of a m2", each * 1e6, "money", "your price")
        cost = Figure(used * each, "money", "cloth cut × your price", terms)
    figures = {
        "amount": lift_plan.strips.count, "next_h": lift_plan.hours.next, "full_h": lift_plan.hours.full,
        "weight_g": weight, "cost": cost, "strength_mpa": None,
    }  # fmt: skip
    return Alternative(name, figures, (note,))


def chosen(lift: Shell) -> str:
    """The present alternative."""
    return lift.over


def adopt(lift: Shell, name: str) -> Lift | None:
    """The shell over more or less, a skin in its place, or None for no shell at all. Raises KeyError."""
    if name == "none":
        return None
    if name.startswith(TROWEL):
        return _as_skin(lift, name.removeprefix(TROWEL))
    return lift.model_copy(update={"over": name})


def may_replace(lift: Shell, name: str, labels: Labels) -> bool:
    """No alternative is tried for time."""
    return False


def quicker(lift: Shell, made: LiftPlan) -> list[tuple[str, Lift]]:
    """Nothing thinner: fewer layers would not carry."""
    return []


def as_planned(lift: Shell, made: LiftPlan) -> Lift:
    """It stays as it is in any room."""
    return lift


def extent(lift: Shell) -> float:
    """Layers of it."""
    return float(lift.layers)


def with_extent(lift: Shell, amount: float) -> Lift:
    """So many layers, a part of one counted whole."""
    return lift.model_copy(update={"layers": max(1, ceil(amount - 1e-9))})
