"""A texture: a dry blend strewn to a depth, on a wet key or dry, levelled if wanted; loose until it is fixed."""

from __future__ import annotations

from collections.abc import Callable
from math import ceil
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...catalogue import Mix
from ...catalogue.model import Id
from ...colour.light import Colours
from ...document.scene import Lift
from ...fault import fault
from ...figure import Figure, Term
from ...ground.field import Ground
from ...ground.offset import laid
from ...ground.raster import Array, Mask
from ...ground.surface import slopes
from ...hardening.drying import open_hours
from ...mixing.batches import split
from ...mixing.grains import LOSS_FLAT, LOSS_STEEP, SWEPT, Bed, bed_of, strewing_loss
from ...stages import cached_stage
from ..alternative import Alternative, cost_of_plan, warnings_of
from ..amounts import measured_out
from ..areas import Cover, mean_over, true_area
from ..beds import Drinking, OpenLayer
from ..colours import colour_of
from ..estimate import Course, Hours, Ingredient, Layer, LiftEstimate, LiftPlan, Notice, Strewn, Window, span
from ..hands import CM2_PER_MIN, SETUP_MIN, brushing_minutes, minutes_over
from ..labels import Labels
from ..site import Site
from ..wet_film import ready_hours

School = Literal["dry", "onto-glue", "glue-twice"]
HELD_GRAINS = 1.2  # a wet film holds little more than a grain, craft estimate
KEY_MM = 0.2  # a spread key where the label gives no film
STEEP_DEG = 35.0  # from here on dry grains roll off, craft estimate


class Texture(Lift):
    """N mm of a dry blend over a share of the patch. `school`: dry, to be soaked; onto glue; or on glue and
    soaked too. `straightedge_mm`: drawn level with an edge so long, which fills what lies lower. `into` "soft": pressed
    into the lift beneath while that is soft, which then holds it. `shore_mm`: only so far to either side of the edge
    of the water beneath."""

    kind: Literal["texture"] = "texture"
    levels_itself: ClassVar[bool] = False
    raises_ground: ClassVar[bool] = True
    shares_batches: ClassVar[bool] = True
    dries_as_bed: ClassVar[bool] = False
    wants_dry_bed: ClassVar[bool] = False
    names_material: ClassVar[tuple[str, ...]] = ("key",)
    names_mix: ClassVar[tuple[str, ...]] = ("mix",)
    mix: Id
    depth_mm: Annotated[float, Field(gt=0, le=100)]
    cover: Annotated[float, Field(gt=0, le=1)] = 1.0
    school: School = "dry"
    key: Id = "white-glue"
    straightedge_mm: Annotated[float, Field(gt=0, le=2000)] | None = None
    into: Literal["soft"] | None = None
    shore_mm: Annotated[float, Field(gt=0, le=1000)] | None = None

    @property
    def is_loose(self) -> bool:
        """Whether nothing holds it yet: strewn dry, and not pressed into something soft."""
        return self.school == "dry" and self.into is None


MODEL = Texture


def must_be_dry(mix: Mix, labels: Labels, where: str) -> None:
    """Refuse a blend that holds a liquid, or nothing that can be strewn."""
    wet_ones = [
        labels.materials[part.material].name
        for part in mix.ingredients
        if part.parts > 0 and labels.materials[part.material].family not in ("powder", "grain")
    ]
    if wet_ones:
        raise fault(
            f"{where}.mix",
            f"'{mix.id}' is no dry blend: it holds {wet_ones[0].lower()}",
            "name a texture such as quarry-dust, or lay a paste as a skin",
        )


def retained_depth(lift: Texture, labels: Labels) -> float:
    """mm of the depth that stay: all of it to be soaked, little more than a grain on glue alone."""
    if lift.school != "onto-glue":
        return lift.depth_mm
    return min(lift.depth_mm, HELD_GRAINS * bed_of(labels.mixes[lift.mix], labels.materials).grain_mm)


def _closed(top: Array, patch: Mask, edge_mm: float, cell: float) -> Array:
    """Heights once a straightedge has been drawn over them: what lies lower than it bridges is filled."""
    from scipy.ndimage import grey_closing

    reach = max(int(edge_mm / cell / 2), 1)
    around = np.hypot(*np.indices((2 * reach + 1, 2 * reach + 1)) - reach) <= reach + 1e-9
    low = float(top[patch].min()) if patch.any() else 0.0
    filled = grey_closing(np.where(patch, top, low), footprint=around, mode="nearest")
    return np.asarray(np.maximum(top, filled))


@cached_stage
def _laid(ground: Ground, patch: bytes, depth_mm: float, edge_mm: float | None, mix: str) -> Ground:
    mask = np.frombuffer(patch, dtype=bool).reshape(ground.shape)
    z = laid(ground, mask, depth_mm)
    if edge_mm is not None:
        z = np.where(mask, _closed(z, mask, edge_mm, ground.cell_mm), z)
    return ground.dressed(z, mix, mask, depth_mm)


def lay(lift: Texture, site: Site) -> Ground:
    """The ground after the texture; where it leaves gaps on purpose, raised on the mean."""
    labels = Labels.of(site.scene)
    must_be_dry(labels.mixes[lift.mix], labels, site.where)
    mask = site.cover.mask.tobytes()
    return _laid(site.ground, mask, retained_depth(lift, labels) * lift.cover, lift.straightedge_mm, lift.mix)


def placed_ml(lift: Texture, site: Site, labels: Labels) -> tuple[float, float, float]:
    """(ml in place, mm2 under it, ml of that which fills what a straightedge bridges)."""
    area = true_area(site.ground, site.cover)
    depth = retained_depth(lift, labels)
    level = 0.0
    if lift.straightedge_mm is not None:
        plain = laid(site.ground, site.cover.mask, depth * lift.cover)
        level = float(((lay(lift, site).z - plain) * site.cover.share).sum()) * site.ground.cell_area / 1000
    return area * depth * lift.cover / 1000 + level, area, level


def estimate(lift: Texture, site: Site, labels: Labels) -> LiftEstimate:
    """Amounts from the true area and what falls beside; hours from the key, if there is one."""
    mix, bench = labels.mixes[lift.mix], site.bench
    must_be_dry(mix, labels, site.where)
    bed, depth = bed_of(mix, labels.materials), retained_depth(lift, labels)
    in_place, area, level = placed_ml(lift, site, labels)
    terms = (
        Term("true area of the patch", area, "mm2", "triangulated ground under this lift"),
        Term("depth", depth, "mm", "this scene" if depth == lift.depth_mm else f"{HELD_GRAINS:g} grains stay on glue"),
        *((Term("covers", lift.cover, "", "this scene"),) if lift.cover < 1 else ()),
        *((Term("fills under the straightedge", level, "ml", "cell by cell"),) if level else ()),
    )
    volume = Figure(in_place, "ml", "true area × depth" + (" × cover" if lift.cover < 1 else "")
                    + (" + fill" if level else ""), terms)  # fmt: skip
    slope = np.degrees(np.arctan(slopes(site.ground)))
    face = site.cover.face
    loss = (
        float(strewing_loss(np.array(face.slope_deg)))
        if face
        else mean_over(site.ground, site.cover, strewing_loss(slope))
    )
    strewn_ml = in_place / (1 - loss)
    lost = Term("falls beside", loss, "", f"default: {LOSS_FLAT:.0%} on the flat to {LOSS_STEEP:.0%} on steep ground")
    parts = split(strewn_ml * site.scene.copies, bench.bowl_ml, bench.bowl_ml, wasted=False)
    mixed = measured_out(site.scene, labels, mix, (parts,), (volume.term("in place"),), "", strewn=lost)
    key, open_h, at_a_time = _key(lift, site, labels, area)
    fallen = Figure(strewn_ml - in_place, "ml", "strewn × what falls beside", (mixed.mix_ml.term("strewn"), lost))
    nothing = Term("dry", "nothing to wait for", "", "a dry blend hardens with its binder")
    if key is None:
        workable = Figure(None, "h", "it stays loose until it is fixed", (nothing,), code="no-limit")
        next_h = full_h = usable = Figure(0.0, "h", "it can be wetted and fixed at once", (nothing,))
    else:
        water = _key_water(lift, labels)
        workable = span(open_h, "until a third of the key's water has left", Term("water to lose", water, "g/m2"))
        next_h, full_h, usable = ready_hours(site.above, labels, water, depth, 1e-9, site.climate)
    hours = Hours(workable, next_h, full_h, usable)
    worked = area * lift.cover * site.scene.copies
    minutes = (
        SETUP_MIN
        + minutes_over(worked, "strewing", site.bench)
        + (brushing_minutes(worked, site.bench) if key else 0.0)
    )
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=mixed.mix_ml,
        mass_g=mixed.mass_g,
        ingredients=(*mixed.ingredients, *((key,) if key else ())),
        layers=(Layer(Figure(depth, "mm", "what stays", terms[1:2]), volume),),
        hours=hours,
        windows=(Window("strew into it", 0.0, open_h, "the key still shines", "strew"),) if open_h else (),
        look_for=mix.look_for,
        warnings=_warnings(lift, site, labels, bed, slope),
        strewn=Strewn(
            fallen,
            Figure(fallen.number * SWEPT, "ml", "of what falls beside", (fallen.term("falls beside"),
                   Term("swept up again", SWEPT, "", "craft estimate"))),
            Figure(depth, "mm", "little more than a grain on glue alone; all of it where it is soaked", (
                Term("wanted", lift.depth_mm, "mm"), Term("mean grain", bed.grain_mm, "mm", f"label of {mix.name}"))),
            at_a_time,
        ),
    )  # fmt: skip
    course = Course(
        do=_do(lift, mix, site, worked, at_a_time),
        batches=parts,
        working_min=None,
        hands_on_min=minutes,
        wait_h=hours.wait_h(site.above is None),
    )
    return LiftEstimate(plan, mix, (course,), labels.hazards(mix, (lift.key,) if key else ()))


def _do(lift: Texture, mix: Mix, site: Site, worked_mm2: float, at_a_time: Figure | None) -> str:
    what = f"{mix.name.lower()} on {site.patch.name}, {lift.depth_mm:.3g} mm"
    level = f", and draw it level with an edge of {lift.straightedge_mm:g} mm" if lift.straightedge_mm else ""
    if lift.into:
        return f"Press {what} into what is still soft there{level}"
    if at_a_time is None:
        return f"Strew {what}{level}"
    in_one_go = not 0 < at_a_time.number < worked_mm2
    part = "all in one go" if in_one_go else f"{at_a_time.number / 100:.0f} cm² at a time"
    return f"Spread the key and strew {what}, {part}; have the blend, brush and stocking ready{level}"


def _key_water(lift: Texture, labels: Labels) -> float:
    """Water of the key's film, g/m2."""
    glue = labels.materials[lift.key]
    solids = glue.dries.solids if glue.dries and glue.dries.solids is not None else 0.0
    return (glue.film_mm or KEY_MM) * glue.density * (1 - solids) * 1000


def _key(
    lift: Texture, site: Site, labels: Labels, area: float
) -> tuple[Ingredient | None, float | None, Figure | None]:
    """The key that is spread first, the hours for which it stays open, and how large an area to spread at a time."""
    if lift.school == "dry":
        return None, None, None
    glue = labels.materials[lift.key]
    film = glue.film_mm or KEY_MM
    film_term = Term("wet film", film, "mm", f"label of {glue.name}" if glue.film_mm else "default for a spread key")
    spread = area * lift.cover
    volume = Figure(spread * film / 1000, "ml", "area × wet film", (Term("area", spread, "mm2"), film_term))
    density = Term("density", glue.density, "g/ml", f"label of {glue.name}")
    mass = Figure(volume.number * glue.density, "g", "volume × density", (volume.term("volume"), density))
    open_h = open_hours(_key_water(lift, labels), site.climate)
    at_a_time = None
    if open_h is not None:
        strewn = CM2_PER_MIN["strewing"] * 100
        terms = (
            Term("open for", open_h, "h", "until a third of its water has left"),
            Term("strewn in a minute", strewn, "mm2", "default"),
        )
        at_a_time = Figure(open_h * 60 * strewn, "mm2", "what can be strewn while it is open", terms)
    return Ingredient(glue.id, None, volume, mass, aside="key"), open_h, at_a_time


def _warnings(lift: Texture, site: Site, labels: Labels, bed: Bed, slope: Array) -> tuple[Notice, ...]:
    notices = []
    if "snow" in bed.tags and lift.depth_mm > bed.reach_mm + 1e-9:
        layers = ceil(lift.depth_mm / bed.reach_mm - 1e-9)
        text = f"Snow so thick stays loose beneath: {layers} layers of {bed.reach_mm:g} mm at most, each glued."
        notices.append(Notice("snow-loose", text))
    grain_mm = bed.grain_mm
    if lift.school == "onto-glue" and lift.depth_mm > HELD_GRAINS * grain_mm + 1e-9:
        text = f"Glue alone holds about {HELD_GRAINS * grain_mm:.2g} mm of this: strew it dry and soak it for more."
        notices.append(Notice("holds-a-grain", text))
    share = mean_over(site.ground, site.cover, (slope > STEEP_DEG).astype(float))
    if lift.is_loose and share > 0.02 and not site.cover.face:
        text = f"On {share:.0%} of it the ground is steeper than {STEEP_DEG:g}°: brush undiluted glue on first there."
        notices.append(Notice("rolls-off", text))
    if lift.key and lift.school != "dry" and labels.materials[lift.key].family not in ("binder", "colour", "glue"):
        raise fault(
            f"{site.where}.key",
            f"'{lift.key}' is no glue or paint to strew on",
            "name a glue or a paint, such as white-glue",
        )
    return tuple(notices)


HIDES = 0.95  # of the patch covered: what lies under it is seen no more


def covers(lift: Texture, site: Site, labels: Labels) -> Cover:
    """The whole patch; its own `cover` says how much of it shows grains."""
    return site.cover


def look(lift: Texture, below: Colours, labels: Labels, drop_ml: float) -> Colours:
    """Linear colours once it is dry: the blend by its grains, and what shows through on purpose."""
    return np.asarray(lift.cover * colour_of(labels.mix_of(lift), labels) + (1 - lift.cover) * below)


def drinks(lift: Texture, labels: Labels, filled: float) -> Drinking:
    """All of its voids, less what glue has filled of them; liquid goes on to what is beneath."""
    voids = bed_of(labels.mixes[lift.mix], labels.materials).voids * (1 - filled)
    return Drinking(OpenLayer(lift.title, retained_depth(lift, labels) * lift.cover, voids, through=True))


def edge_mm(lift: Texture, site: Site, labels: Labels) -> float:
    """No step where it ends: grains feather out."""
    return 0.0


def mess(lift: Texture, mix: Mix) -> str:
    """Dust."""
    return "dust"


def traits(lift: Texture, labels: Labels) -> frozenset[str]:
    """What rules go by: drawn level, strewn loose, hiding what lies beneath."""
    found = {"levelled"} if lift.straightedge_mm is not None else set()
    found |= {"loose"} if lift.is_loose else set()
    return frozenset(found | ({"hides"} if lift.cover >= HIDES else set()))


ALTERNATIVE_FAMILIES: tuple[str, ...] = ()
SOONEST = ""  # the figure by which one alternative is over sooner than another; empty: none is tried for time
STREWN: dict[str, tuple[str, str]] = {
    "dry": ("dry, then soaked", "Full depth; loose until it is fixed."),
    "onto-glue": ("onto glue, the rest swept up", "Little more than a grain; done in one go."),
    "glue-twice": ("glue below, soaked again above", "Full depth, held from both sides; steep ground too."),
}


def alternatives(
    lift: Texture, site: Site, labels: Labels, beneath: Colours, try_out: Callable[[Lift], LiftEstimate]
) -> dict[str, Alternative]:
    """The same blend strewn by each school, by the school's name in the document."""
    others = {}
    for school, (name, note) in STREWN.items():
        lift_plan = try_out(lift.model_copy(update={"school": school})).plan
        assert lift_plan.strewn is not None
        key = next((one.volume_ml for one in lift_plan.ingredients if one.aside == "key"), None)
        others[school] = Alternative(
            name,
            {
                "amount": lift_plan.mix_ml, "held_mm": lift_plan.strewn.held_mm, "key_ml": key,
                "at_a_time_mm2": lift_plan.strewn.at_a_time_mm2,
                "next_h": lift_plan.hours.next, "full_h": lift_plan.hours.full,
                "cost": cost_of_plan(lift_plan, labels, site.scene),
            },
            (note, *warnings_of(lift_plan, site.scene)),
        )  # fmt: skip
    return others


def chosen(lift: Texture) -> str:
    """The present alternative."""
    return lift.school


def adopt(lift: Texture, name: str) -> Lift | None:
    """The texture strewn by another school."""
    return lift.model_copy(update={"school": name})


def may_replace(lift: Texture, name: str, labels: Labels) -> bool:
    """No alternative is tried for time."""
    return False


def quicker(lift: Texture, made: LiftPlan) -> list[tuple[str, Lift]]:
    """Nothing thinner: its binder is what waits."""
    return []


def as_planned(lift: Texture, made: LiftPlan) -> Lift:
    """It stays as it is in any room."""
    return lift


def extent(lift: Texture) -> float:
    """mm of it."""
    return lift.depth_mm


def with_extent(lift: Texture, amount: float) -> Lift:
    """N mm of it."""
    return lift.model_copy(update={"depth_mm": amount})
