"""A coat: paint, sealer or varnish brushed on. It does not raise the ground."""

from __future__ import annotations

from collections.abc import Callable
from math import ceil
from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from ...catalogue import Mix
from ...catalogue.model import Id, Share
from ...colour.light import Colours
from ...document.scene import Lift
from ...fault import Refusal
from ...figure import Figure, Term
from ...ground.field import Ground
from ...hardening.drying import CRITICAL_SHARE, open_hours
from ...mixing.parts import wet
from ..alternative import Alternative
from ..amounts import mixed
from ..areas import Cover, true_area
from ..beds import GLUED_LEAVES, PASSES, Drinking
from ..colours import covered_with, opacity_of
from ..estimate import WONT_DRY, Course, Hours, Layer, LiftEstimate, LiftPlan, Window, span
from ..hands import SETUP_MIN, brushing_minutes, minutes_over
from ..labels import Labels
from ..site import Site
from ..wet_film import drying_hours, ready_hours

# Wet film of a brushed coat, mm, where the label gives none: default, docs/science.md, drying.
FILMS: dict[str, float] = {"thin": 0.04, "normal": 0.08, "thick": 0.15}
POROUS_MORE = 0.35  # of a film more that the first coat takes on an unsealed bed, craft estimate
BLOTTED = 0.5  # of a film that a cloth takes up again, craft estimate
DRYBRUSHED = 0.15  # of a film that a drybrush leaves, craft estimate


class Coat(Lift):
    """So many coats of a material or a mix, over a share of the patch, let down with `thin` parts of water to one, each
    a `film` as thin or thick as it is brushed. What is drybrushed just touches what stands out; what is blotted is
    soaked into a lift of the same day and dabbed off again. `into` "soft": washed on while the lift beneath is still
    damp. `shore_mm`: only so far to either side of the edge of the water beneath."""

    kind: Literal["coat"] = "coat"
    levels_itself: ClassVar[bool] = False
    raises_ground: ClassVar[bool] = False
    shares_batches: ClassVar[bool] = True
    dries_as_bed: ClassVar[bool] = False
    wants_dry_bed: ClassVar[bool] = False
    names_material: ClassVar[tuple[str, ...]] = ("material",)
    names_mix: ClassVar[tuple[str, ...]] = ("mix",)
    material: Id | None = None
    mix: Id | None = None
    coats: Annotated[int, Field(ge=1, le=50)] = 1
    cover: Share = 1.0
    thin: Annotated[float, Field(ge=0, le=50)] = 0.0
    how: Literal["brush", "drybrush", "blot"] = "brush"
    film: Literal["thin", "normal", "thick"] = "normal"
    into: Literal["soft"] | None = None
    shore_mm: Annotated[float, Field(gt=0, le=1000)] | None = None

    @model_validator(mode="after")
    def _one_of_both(self) -> Coat:
        if (self.material is None) == (self.mix is None):
            raise Refusal("a coat needs a material or a mix", "name one of the two")
        return self


MODEL = Coat


def film_mm(lift: Coat, mix: Mix) -> float:
    """Wet film of one coat, mm: the label's own is a normal coat, and a thin or thick one is so much less or more."""
    return (mix.film_mm or FILMS["normal"]) * FILMS[lift.film] / FILMS["normal"]


def lay(lift: Coat, site: Site) -> Ground:
    """The ground after the coat: as it was."""
    return site.ground


def estimate(lift: Coat, site: Site, labels: Labels) -> LiftEstimate:
    """Amounts from true area and film, hours between coats and to dry."""
    mix = labels.mix_of(lift)
    film = film_mm(lift, mix) * (DRYBRUSHED if lift.how == "drybrush" else 1.0)
    film_term = _film_term(lift, mix, film)
    area = true_area(site.ground, site.cover) * lift.cover
    volume, needs = _volume(lift, site, area, film, film_term)
    hours, recoat = _hours(lift, site, labels, mix, film, film_term)
    cup_ml = site.bench.cup_ml
    reckoned = mixed(site, labels, mix, needs, (volume.term("in place"),), cup_ml, cup_ml)
    minutes, workable = _minutes(lift, site, area), hours.workable.value
    thinned = f", let down with {lift.thin:g} of water," if lift.thin else ""
    courses = tuple(
        Course(
            do=DOES[lift.how].format(mix.name.lower() + thinned, site.patch.name)
            + (f", coat {number} of {lift.coats}" if lift.coats > 1 else ""),
            batches=batches,
            working_min=None if workable is None else workable * 60,
            hands_on_min=minutes,
            wait_h=hours.wait_h(site.above is None) if number == lift.coats else recoat.value,
        )
        for number, batches in enumerate(reckoned.batches, start=1)
    )
    depth = Figure(film, "mm", "wet film of one coat", (film_term,))
    layers = tuple(Layer(depth, Figure(need, "ml", "true area × wet film", volume.working[:2])) for need in needs)
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=reckoned.mix_ml,
        mass_g=reckoned.mass_g,
        ingredients=reckoned.ingredients,
        layers=layers,
        hours=hours,
        windows=(Window("keep a wet edge", 0.0, workable, "the edge still shines"),) if workable else (),
        look_for=("raking light shows darker patches where the coat is thin",),
        warnings=() if hours.next.value is not None else (WONT_DRY,),
        left_mm=_left(lift, labels, mix, film, film_term),
    )
    damp = None if workable is None else (0.0, workable)
    return LiftEstimate(plan, mix, courses, labels.hazards(mix), soft_h=workable, damp_h=damp)


def _film_term(lift: Coat, mix: Mix, film: float) -> Term:
    """Where the wet film of one coat, mm, comes from."""
    labelled = mix.film_mm and lift.film == "normal"
    source = f"label of {mix.name}" if labelled else f"default for a {lift.film} coat"
    dry = f" × {DRYBRUSHED:g}, drybrushed" if lift.how == "drybrush" else ""
    return Term("wet film", film, "mm", source + dry)


def _volume(lift: Coat, site: Site, area: float, film: float, film_term: Term) -> tuple[Figure, tuple[float, ...]]:
    """What stays in place of all coats, and ml of each: a porous bed takes more of the first."""
    each_ml = area * film / 1000
    more = each_ml * POROUS_MORE if site.patch.id in site.porous and lift.how != "drybrush" else 0.0
    where = "triangulated ground under this lift" + (f", {lift.cover:.0%} of it" if lift.cover < 1 else "")
    taken = Term("the porous bed takes of the first", more, "ml", f"{POROUS_MORE:.0%} of a coat more")
    terms = (
        Term("true area", area, "mm2", where), film_term, Term("coats", lift.coats, "", "this scene"),
        *((taken,) if more else ()),
    )  # fmt: skip
    needs = (each_ml + more, *(each_ml,) * (lift.coats - 1))
    formula = "true area × wet film × coats" + (" + what the bed takes" if more else "")
    return Figure(sum(needs), "ml", formula, terms), needs


def _hours(lift: Coat, site: Site, labels: Labels, mix: Mix, film: float, film_term: Term) -> tuple[Hours, Figure]:
    """Hours of the last coat, and until the next one can follow."""
    brushed = wet(mix, labels.materials).free_water_g_per_ml * film * 1000
    water = brushed * (1 - BLOTTED) if lift.how == "blot" else brushed  # the cloth takes up the rest
    diffusivity = mix.dries.diffusivity_m2_s if mix.dries else 1e-9
    next_h, full_h, usable = ready_hours(site.above, labels, water, film, diffusivity, site.climate)
    recoat = drying_hours(water, film, diffusivity, site.climate, CRITICAL_SHARE, "ready for the next coat at")
    workable = span(
        open_hours(brushed, site.climate), "open until a third of its water has left",
        Term("water to lose", brushed, "g/m2"), film_term,
    )  # fmt: skip
    return Hours(workable, next_h, full_h, usable), recoat


def _minutes(lift: Coat, site: Site, area: float) -> float:
    """Hands on one coat of all copies."""
    worked = area * site.scene.copies
    brushed = (
        minutes_over(worked, "drybrush", site.bench) if lift.how == "drybrush" else brushing_minutes(worked, site.bench)
    )
    return SETUP_MIN + brushed + (minutes_over(worked, "sponge", site.bench) if lift.how == "blot" else 0.0)


def _left(lift: Coat, labels: Labels, mix: Mix, film: float, film_term: Term) -> Figure:
    """The film of all coats once their water has left."""
    blotted = lift.how == "blot"
    stays = wet(mix, labels.materials).stays * (1 - BLOTTED if blotted else 1.0)
    label = f"label of {mix.name}{', blotted' if blotted else ''}"
    return Figure(
        film * lift.coats * stays, "mm", "wet film × coats × what is no water",
        (film_term, Term("coats", lift.coats), Term("stays of a ml", stays, "ml", label)),
    )  # fmt: skip


DOES = {
    "brush": "Brush {0} on {1}",
    "drybrush": "Drybrush {0} on {1}",
    "blot": "Soak {1} with {0} and blot it with a cloth before it dries",
}
NEAT_STAYS = 0.35  # of a ml of glue that is not let down, at least
HIDES = {"drybrush": 0.35, "blot": 0.5}  # of what a full coat hides, craft estimate
WASH = 1.0  # parts of water to one of paint: from here on it is a wash
FILM_COVER = 0.5  # of the patch: over more of it a coat makes one film


def covers(lift: Coat, site: Site, labels: Labels) -> Cover:
    """The whole patch; its own `cover` says how much of it is hidden."""
    return site.cover


def look(lift: Coat, below: Colours, labels: Labels, drop_ml: float) -> Colours:
    """Linear colours once it is dry: what lies beneath shows as far as the coats do not hide it."""
    mix = labels.mix_of(lift)
    each = 1 - (1 - min(opacity_of(mix, labels), 0.999)) ** (1 / (1 + lift.thin))
    each *= HIDES.get(lift.how, 1.0)
    return covered_with(below, float((1 - (1 - each) ** lift.coats) * lift.cover), mix, labels)


def drinks(lift: Coat, labels: Labels, filled: float) -> Drinking:
    """What does not seal lets liquid pass; two neat coats of glue seal in part."""
    mix = labels.mix_of(lift)
    glue = mix.family == "binder" or any(labels.materials[one.material].family == "binder" for one in mix.ingredients)
    neat = glue and not lift.thin and wet(mix, labels.materials).stays >= NEAT_STAYS
    return Drinking(fills=1 - GLUED_LEAVES) if neat and lift.coats >= 2 else PASSES


def edge_mm(lift: Coat, site: Site, labels: Labels) -> float:
    """No step where it ends."""
    return 0.0


def mess(lift: Coat, mix: Mix) -> str:
    """Clean work."""
    return ""


def traits(lift: Coat, labels: Labels) -> frozenset[str]:
    """What rules go by: a wash, a drybrushed coat, a film over most of the patch."""
    found = {"washes"} if lift.thin >= WASH else set()
    found |= {"drybrushed"} if lift.how == "drybrush" else set()
    return frozenset(found | ({"film"} if lift.cover > FILM_COVER else set()))


ALTERNATIVE_FAMILIES: tuple[str, ...] = ()
SOONEST = ""  # the figure by which one alternative is over sooner than another; empty: none is tried for time


def alternatives(
    lift: Coat, site: Site, labels: Labels, beneath: Colours, try_out: Callable[[Lift], LiftEstimate]
) -> dict[str, Alternative]:
    """None are compared: which paint it is, is a matter of its colour."""
    return {}


def chosen(lift: Coat) -> str:
    """No alternative is the present one."""
    return ""


def adopt(lift: Coat, name: str) -> Lift | None:
    """There is nothing to swap it for. Raises KeyError."""
    raise KeyError(name)


def may_replace(lift: Coat, name: str, labels: Labels) -> bool:
    """No alternative is tried for time."""
    return False


def quicker(lift: Coat, made: LiftPlan) -> list[tuple[str, Lift]]:
    """Nothing thinner than a coat."""
    return []


def as_planned(lift: Coat, made: LiftPlan) -> Lift:
    """It stays as it is in any room."""
    return lift


def extent(lift: Coat) -> float:
    """Coats of it."""
    return float(lift.coats)


def with_extent(lift: Coat, amount: float) -> Lift:
    """So many coats, a part of one counted whole."""
    return lift.model_copy(update={"coats": max(1, ceil(amount - 1e-9))})
