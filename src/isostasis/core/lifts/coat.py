"""A coat: paint, sealer or varnish brushed on. It does not raise the ground."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..catalogue.model import Id, Share
from ..document.scene import Lift
from ..figure import Figure, Term
from ..ground.field import Ground
from ..hardening.drying import CRITICAL_SHARE, open_hours
from ..mixing.parts import wet
from .amount import mixed
from .site import WONT_DRY, Course, Hours, Labels, Layer, LiftPlan, Site, Window, Work, span, true_area
from .wet_film import drying_hours, next_and_full

FILM_MM = 0.10  # a brushed coat where the label gives none
POROUS_MORE = 0.35  # of a film more that the first coat takes on an unsealed bed, craft estimate
DRYBRUSHED = 0.15  # of a film that a drybrush leaves, craft estimate


class Coat(Lift):
    """So many coats of a material or a mix, over a share of the patch, let down with `thin` parts of water to one. What
    is drybrushed just touches what stands out."""

    kind: Literal["coat"] = "coat"
    material: Id | None = None
    mix: Id | None = None
    coats: Annotated[int, Field(ge=1, le=50)] = 1
    cover: Share = 1.0
    thin: Annotated[float, Field(ge=0, le=50)] = 0.0
    how: Literal["brush", "drybrush"] = "brush"

    @model_validator(mode="after")
    def _one_of_both(self) -> Coat:
        if (self.material is None) == (self.mix is None):
            raise ValueError("a coat needs a material or a mix; name one of the two")
        return self


MODEL = Coat


def lay(lift: Coat, site: Site) -> Ground:
    """The ground after the coat: as it was."""
    return site.ground


def work(lift: Coat, site: Site, labels: Labels) -> Work:
    """Amounts from true area and film, hours between coats and to dry."""
    mix, climate = labels.mix_of(lift), site.climate
    label_mm, dry = mix.film_mm or FILM_MM, lift.how == "drybrush"
    film = label_mm * (DRYBRUSHED if dry else 1.0)
    area = true_area(site.ground, site.cover) * lift.cover
    each_ml = area * film / 1000
    source = f"label of {mix.name}" if mix.film_mm else "default for a brushed coat"
    film_term = Term("wet film", film, "mm", source + (f" × {DRYBRUSHED:g}, drybrushed" if dry else ""))
    thirsty = site.patch.id in site.porous and not dry
    more = each_ml * POROUS_MORE if thirsty else 0.0
    needs = (each_ml + more, *(each_ml,) * (lift.coats - 1))
    terms = (
        Term(
            "true area",
            area,
            "mm2",
            "triangulated ground under this lift" + (f", {lift.cover:.0%} of it" if lift.cover < 1 else ""),
        ),
        film_term,
        Term("coats", lift.coats, "", "this scene"),
        *(
            (Term("the porous bed takes of the first", more, "ml", f"{POROUS_MORE:.0%} of a coat more"),)
            if more
            else ()
        ),
    )
    law = "true area × wet film × coats" + (" + what the bed takes" if more else "")
    volume = Figure(sum(needs), "ml", law, terms)
    water = wet(mix, labels.materials).free_water_g_per_ml * film * 1000
    diffusivity = mix.dries.diffusivity_m2_s if mix.dries else 1e-9
    next_h, full_h = next_and_full(site.above, labels, water, film, diffusivity, climate)
    recoat = drying_hours(water, film, diffusivity, climate, CRITICAL_SHARE, "ready for the next coat at")
    workable = span(
        open_hours(water, climate),
        "open until a third of its water has left",
        Term("water to lose", water, "g/m2"),
        film_term,
    )
    reckoned = mixed(
        site,
        labels,
        mix,
        needs,
        (volume.term("in place"),),
        site.bench.cup_ml,
        site.bench.cup_ml,
    )
    thinned = f", let down with {lift.thin:g} of water," if lift.thin else ""
    minutes = 5 + area * site.scene.copies / 100 / 40  # a brush covers 40 cm2 a minute, craft estimate
    courses = tuple(
        Course(
            do=f"{'Drybrush' if dry else 'Brush'} {mix.name.lower()}{thinned} on {site.patch.name}"
            + (f", coat {number} of {lift.coats}" if lift.coats > 1 else ""),
            batches=batches,
            working_min=None if workable.value is None else workable.value * 60,
            hands_on_min=minutes,
            wait_h=next_h.value if number == lift.coats else recoat.value,
        )
        for number, batches in enumerate(reckoned.batches, start=1)
    )
    warnings = () if next_h.value is not None else (WONT_DRY,)
    depth = Figure(film, "mm", "wet film of one coat", (film_term,))
    layers = tuple(Layer(depth, Figure(need, "ml", "true area × wet film", terms[:2])) for need in needs)
    stays = wet(mix, labels.materials).stays
    left = Figure(
        film * lift.coats * stays, "mm", "wet film × coats × what is no water",
        (film_term, Term("coats", lift.coats), Term("stays of a ml", stays, "ml", f"label of {mix.name}")),
    )  # fmt: skip
    plan = LiftPlan(
        patch=site.patch.id,
        kind=lift.kind,
        volume_ml=volume,
        mix_ml=reckoned.mix_ml,
        mass_g=reckoned.mass_g,
        ingredients=reckoned.ingredients,
        layers=layers,
        hours=Hours(workable, next_h, full_h),
        windows=(Window("keep a wet edge", 0.0, workable.value, "the edge still shines"),) if workable.value else (),
        look_for=("raking light shows darker patches where the coat is thin",),
        warnings=warnings,
        left_mm=left,
    )
    return Work(plan, mix, courses, labels.hazards(mix))
