"""Pieces cast in moulds, before they are set into the ground: how much plaster, in how many rounds, how long."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from typing import ClassVar

from ..document import ResolvedScene
from ..fault import fault
from ..figure import Figure, Term
from ..ground.field import Shaped
from ..ground.forms.casting import Casting
from ..hardening.climate import Climate
from ..hardening.drying import READY_SHARE, hours_to_share
from ..hardening.setting import WORKING_SHARE, set_minutes
from ..mixing.batches import Batches, split
from ..mixing.parts import water_ratio, wet
from .amounts import measured_out
from .estimate import Hours, Ingredient, Window, span
from .labels import Labels

DEMOULD_SETS = 2.0  # a piece comes out of its mould at so many times the set; craft estimate
FILL_MIN = 2.0  # hands-on minutes to fill, tap and strike off one mould, craft estimate


@dataclass(frozen=True, slots=True)
class CastPlan:
    """Pieces for one copy of the scene. `rounds`: how often each mould is filled, for all copies. In `hours`, from
    filling the last mould: `next` is when it comes out of the mould, `full` when it is dry through."""

    JSON: ClassVar[tuple[str, ...]] = (
        "pieces",
        "rounds",
        "volume_ml",
        "mix_ml",
        "mass_g",
        "ingredients",
        "thickness_mm",
        "bedding_ml",
        "weight_g",
        "hours",
        "windows",
        "look_for",
    )  # what machines read

    pieces: Figure
    rounds: Figure
    volume_ml: Figure
    mix_ml: Figure
    mass_g: Figure
    ingredients: tuple[Ingredient, ...]
    thickness_mm: Figure
    bedding_ml: Figure
    weight_g: Figure
    hours: Hours
    windows: tuple[Window, ...]
    look_for: tuple[str, ...]
    batches: tuple[Batches, ...] = ()
    minutes: tuple[float, ...] = ()
    hazards: frozenset[str] = frozenset()


def cast(scene: ResolvedScene, shaped: Shaped, labels: Labels) -> CastPlan:
    """Figures of a casting's pieces. Raises Faults for a mix that does not set."""
    form = shaped.form
    assert isinstance(form, Casting)
    mix, climate, bench = labels.mixes[form.mix], Climate.of(scene.room_of(form.place)), scene.bench
    if mix.sets is None:
        raise fault(
            f"forms[{scene.forms.index(form)}].mix", f"'{mix.id}' does not set, so it cannot be cast", "name a plaster"
        )
    all_pieces = form.pieces * scene.copies
    rounds = ceil(all_pieces / form.moulds)
    filled = [min(form.moulds, all_pieces - done * form.moulds) for done in range(rounds)]
    loss = labels.times(mix.id, "cup")
    batches = tuple(split(count * form.mould_ml, bench.bowl_ml, bench.bowl_ml, times=loss) for count in filled)
    mould = Term("a mould holds", form.mould_ml, "ml", "this scene")
    pieces = Figure(form.pieces, "piece" if form.pieces == 1 else "pieces", "as this scene says", (mould,))
    volume = Figure(
        form.pieces * form.mould_ml, "ml", "pieces × what a mould holds", (Term("pieces", form.pieces), mould)
    )
    cups = f"left in {sum(batch.count for batch in batches)} bowls, this copy's part"
    mixed = measured_out(scene, labels, mix, batches, (volume.term("in the moulds"),), cups)
    measure = wet(mix, labels.materials)
    ratio, room = water_ratio(mix, labels.materials) or mix.sets.water_ratio, climate.temp_c[0]
    sets_h = set_minutes(mix.sets.set_min, mix.sets.water_ratio, ratio, room) / 60
    cube = (form.mould_ml * 1000) ** (1 / 3)
    thick = min(volume.number * 1000 / shaped.area_mm2, cube)
    terms = volume.term("in the moulds"), Term("they cover", shaped.area_mm2, "mm2", "this form's outline")
    thickness = Figure(thick, "mm", "volume / the ground that the pieces cover, no more than a cube's side", terms)
    diffusivity = mix.dries.diffusivity_m2_s if mix.dries else 6e-9
    to_lose = measure.free_water_g_per_ml * thick * 1000
    dry_h = hours_to_share(to_lose, thick, diffusivity, climate, READY_SHARE, faces=2)
    set_terms = (
        Term("set on the label at 20 °C", mix.sets.set_min, "min", f"label of {mix.name}"),
        Term("water to powder by mass", ratio, "", f"{mix.sets.water_ratio:g} on the label"),
        Term("room", room, "degC", "0.97 per degree above 20"),
    )
    demould_h = DEMOULD_SETS * sets_h
    return CastPlan(
        pieces=pieces,
        rounds=Figure(
            rounds, "rounds" if rounds > 1 else "round", "pieces of all copies / moulds, rounded up",
            (Term("pieces", all_pieces, "", "all copies"), Term("moulds", form.moulds, "", "this scene")),
        ),
        volume_ml=volume,
        mix_ml=mixed.mix_ml,
        mass_g=mixed.mass_g,
        ingredients=mixed.ingredients,
        thickness_mm=thickness,
        bedding_ml=Figure(
            max(shaped.volume_ml - volume.number, 0.0), "ml", "what stands out of the ground − what the pieces hold",
            (Term("stands out", shaped.volume_ml, "ml"), volume.term("the pieces hold")),
        ),
        weight_g=Figure(
            volume.number * measure.dry_g_per_ml, "g", "in the moulds × what stays once its water has left",
            (volume.term("in the moulds"), Term("dry, of a millilitre wet", measure.dry_g_per_ml, "g")),
        ),
        hours=Hours(
            span(sets_h * WORKING_SHARE, "half of the initial set", *set_terms),
            span(demould_h, f"{DEMOULD_SETS:g} × the set: hard and past its heat", *set_terms),
            span(dry_h, "drying in two periods, from two faces once it is out of the mould",
                 Term("water to lose", to_lose, "g/m2", "free water of the mix × thickness"),
                 thickness.term("thickness")),
            span(demould_h, "out of the mould it can be handled", *set_terms),
        ),
        windows=(
            Window("fill the moulds, tap the bubbles out", 0.0, sets_h * WORKING_SHARE),
            Window("strike the backs level", sets_h * WORKING_SHARE, sets_h),
            Window("turn out of the mould", demould_h, None),
            *((Window("seal or paint the pieces", dry_h, None),) if dry_h is not None else ()),
        ),
        look_for=("turn out a piece and tap its back: loose powder means that it set too thin",),
        batches=batches,
        minutes=tuple(5 + 6 * batch.count + FILL_MIN * count for batch, count in zip(batches, filled, strict=True)),
        hazards=labels.hazards(mix),
    )  # fmt: skip
