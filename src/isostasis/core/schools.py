"""Schools side by side: a skin in every other compound, less shell, a texture bound in every other way."""

from __future__ import annotations

from dataclasses import dataclass, replace

from .catalogue import shipped
from .colour.light import hexed, linear, wet_look
from .document.scene import Lift, Scene
from .fault import Faults
from .figure import Figure, Term
from .hardening.setting import dry_strength
from .lifts.fix import Fix
from .lifts.pour import whole_hours
from .lifts.shell import LAYER_MM, Shell
from .lifts.site import Labels, Site
from .lifts.skin import Skin
from .lifts.texture import Texture
from .mixing.consistency import for_purpose
from .mixing.grains import hold_words
from .mixing.parts import BOUND_WATER, water_ratio, wet
from .plan import lift_alone, site_of
from .surface import FOAM, over
from .terrain.carve import cost_of, priced

# What can be trowelled on as the other shell, and how thick; craft estimates.
TROWELLED_MM = {"hard-putty": 2.0, "plaster-2-3": 3.0}
# What holds for every school alike, and so tells none from the others.
ADVICE = {rule.code for rule in shipped().neighbours if rule.advice}
PLASTERED = 0.3  # share of plaster from which its law of strength says something


@dataclass(frozen=True, slots=True)
class School:
    """One way to do the same lift. Cost and strength are None where a price or a law is missing."""

    name: str
    amount: Figure
    next_h: Figure
    full_h: Figure
    weight_g: Figure
    cost: Figure | None
    strength_mpa: Figure | None
    note: str


def with_all(scene: Scene, *families: str) -> Scene:
    """The scene with the labels of every mix of some families embedded, its own winning."""
    known, own = shipped(), Labels.of(scene)
    mixes = {mix.id: mix for mix in known.mixes.values() if mix.family in families} | own.mixes
    named = {part.material for mix in mixes.values() for part in mix.ingredients}
    materials = {name: known.materials[name] for name in named if name in known.materials} | own.materials
    return scene.model_copy(update={"mixes": tuple(mixes.values()), "materials": tuple(materials.values())})


def skins(scene: Scene, lift_id: str) -> dict[str, School]:
    """The skin `lift_id` of a resolved scene in every compound, by the mix's id. Raises KeyError, Faults."""
    whole = with_all(scene, "skin")
    site, labels = site_of(whole, lift_id), Labels.of(whole)
    skin = site.lift
    assert isinstance(skin, Skin)
    found = {}
    for mix in sorted(whole.mixes, key=lambda one: one.name):
        if mix.family == "skin":
            found[mix.id] = _skinned(whole, site, skin.model_copy(update={"mix": mix.id}), labels)
    return found


def _skinned(scene: Scene, site: Site, lift: Skin, labels: Labels) -> School:
    """A skin as it would be trowelled."""
    made, mix = lift_alone(site, lift).plan, labels.mixes[lift.mix]
    mixed = for_purpose(mix, lift.consistency, labels.materials)
    measure = wet(mixed, labels.materials)
    dry = measure.dry_g_per_ml
    weight = Figure(
        made.volume_ml.number * dry, "g", "in place × what stays once its water has left",
        (made.volume_ml.term("in place"), Term("dry, of a millilitre wet", dry, "g", f"label of {mix.name}")),
    )  # fmt: skip
    ratio, strength = water_ratio(mixed, labels.materials), None
    if ratio and measure.plaster_share >= PLASTERED:
        strength = Figure(
            dry_strength(ratio), "MPa", "75 × e to the power −2.75 × water ratio: pure plaster, indicative",
            (Term("water to powder by mass", ratio),),
        )  # fmt: skip
    note = " ".join(notice.text for notice in made.warnings if notice.code not in ADVICE)
    return School(
        mix.name, made.mix_ml, made.hours.next, made.hours.full, weight,
        cost_of(mixed, made.mix_ml.number, labels, scene), strength, note,
    )  # fmt: skip


def shells(scene: Scene, lift_id: str) -> dict[str, School]:
    """The shell `lift_id` over everything, only over voids (crumpled paper) and joints, trowelled instead of laid, or
    none. Raises KeyError."""
    whole = with_all(scene, "skin")
    site, labels = site_of(whole, lift_id), Labels.of(whole)
    lift = site.lift
    assert isinstance(lift, Shell)
    nothing = Figure(0.0, "h", "nothing to wait for")
    empty = Figure(0.0, "g", "nothing laid")
    free = Figure(0.0, "money", "nothing laid")
    return {
        "all": _laid(site, lift.model_copy(update={"over": "all"}), labels, "cloth over everything",
                     "Knocks and cracks are held all over; the surface is sealed and keyed."),
        "voids": _laid(site, lift.model_copy(update={"over": "voids"}), labels, "cloth over voids and joints only",
                       "Paper and joints are held; elsewhere the compound goes straight on foam, which dents."),
        **{
            f"trowel:{mix}": replace(
                _skinned(whole, site, trowelled(lift, mix), labels),
                note=f"{depth:g} mm trowelled: hard on a small piece, brittle on a large one; over paper it falls in.",
            )
            for mix, depth in TROWELLED_MM.items()
        },
        "none": School("no shell", replace(empty, unit="strips"), nothing, nothing, empty, free, None,
                       "Lightest and quickest over foam; over paper nothing carries the compound: it cracks and falls "
                       "in."),
    }  # fmt: skip


def trowelled(lift: Shell, mix: str) -> Skin:
    """The skin that stands in for a shell of cloth. Raises KeyError for a mix that is no such school."""
    return Skin(id=lift.id, mix=mix, depth_mm=TROWELLED_MM[mix], after=lift.after, water_c=lift.water_c)


def _laid(site: Site, lift: Shell, labels: Labels, name: str, note: str) -> School:
    """A shell of cloth as it would be laid."""
    made, cloth = lift_alone(site, lift).plan, labels.materials[lift.material]
    assert made.strips is not None
    dry = cloth.density * (1 + BOUND_WATER * cloth.hemihydrate)
    weight = Figure(
        made.volume_ml.number * dry, "g", "in place × the weight of cloth and of the water that its plaster binds",
        (made.volume_ml.term("in place"), Term("dry, of a millilitre", dry, "g", "0.186 × its plaster is bound")),
    )  # fmt: skip
    each, used = site.bench.price_each(cloth.id), made.mix_ml.number * 1000 / (cloth.thickness_mm or LAYER_MM)
    cost = None
    if each is not None:
        terms = Term("cloth", used, "mm2"), Term("price of a m2", each * 1e6, "money", "your price")
        cost = Figure(used * each, "money", "cloth cut × your price", terms)
    return School(name, made.strips.count, made.hours.next, made.hours.full, weight, cost, None, note)


@dataclass(frozen=True, slots=True)
class StrewSchool:
    """One way to strew the same blend: what it takes, what stays of it, the key, how large an area at a time."""

    name: str
    amount: Figure
    held_mm: Figure
    key_ml: Figure | None
    at_a_time_mm2: Figure | None
    next_h: Figure
    full_h: Figure
    cost: Figure | None
    note: str


STREWN = {
    "dry": ("dry, then soaked", "Full depth; loose until it is fixed."),
    "onto-glue": ("onto glue, the rest swept up", "Little more than a grain; done in one go."),
    "glue-twice": ("glue below, soaked again above", "Full depth, held from both sides; steep ground too."),
}


def strewings(scene: Scene, lift_id: str) -> dict[str, StrewSchool]:
    """The texture `lift_id` strewn by each school, by the school's name in the document. Raises KeyError."""
    site, labels = site_of(scene, lift_id), Labels.of(scene)
    texture = site.lift
    assert isinstance(texture, Texture)
    found = {}
    for school, (name, note) in STREWN.items():
        made = lift_alone(site, texture.model_copy(update={"school": school})).plan
        assert made.strewn is not None
        key = next((one.volume_ml for one in made.ingredients if one._aside == "key"), None)
        measured = ((one.material, one.volume_ml.number, one.mass_g.number) for one in made.ingredients)
        told = " ".join(notice.text for notice in made.warnings if notice.code not in ADVICE)
        found[school] = StrewSchool(
            name, made.mix_ml, made.strewn.held_mm, key, made.strewn.at_a_time_mm2, made.hours.next, made.hours.full,
            priced(measured, labels, scene), f"{note} {told}".strip(),
        )  # fmt: skip
    return found


@dataclass(frozen=True, slots=True)
class FixSchool:
    """One way to bind the same texture; `look` is what it looks like wet and dry, `note` its warnings."""

    name: str
    passes: Figure
    wetting_ml: Figure
    binder_ml: Figure
    hold: Figure
    hold_words: str
    next_h: Figure
    full_h: Figure
    cost: Figure | None
    wet: str
    dry: str
    note: str


def fixes(scene: Scene, lift_id: str) -> dict[str, FixSchool]:
    """The fix `lift_id` with every binder and wetting liquid, by `binder` or `binder+wetting`. Raises KeyError."""
    whole = with_all(scene, "binder", "wetting")
    site, labels = site_of(whole, lift_id), Labels.of(whole)
    fix = site.lift
    assert isinstance(fix, Fix)
    bare = linear(FOAM)
    for below in site.patch.lifts[: site.patch.lifts.index(fix)]:
        bare = over(bare, below, labels)
    wetting = [None, *sorted(mix.id for mix in whole.mixes if mix.family == "wetting")]
    found = {}
    for binder in sorted((mix for mix in whole.mixes if mix.family == "binder"), key=lambda one: one.name):
        for wet_by in wetting:
            lift = fix.model_copy(update={"mix": binder.id, "wetting": wet_by})
            made = lift_alone(site, lift).plan
            assert made.fixing is not None
            dry = over(bare, lift, labels)
            measured = ((one.material, one.volume_ml.number, one.mass_g.number) for one in made.ingredients)
            cost = priced(measured, labels, whole)
            name = binder.name + (f", {labels.mixes[wet_by].name.lower()} first" if wet_by else ", not wetted")
            found[f"{binder.id}+{wet_by}" if wet_by else binder.id] = FixSchool(
                name, made.fixing.passes, made.fixing.wetting_ml, made.fixing.binder_ml, made.fixing.hold,
                hold_words(made.fixing.hold.number), made.hours.next, made.hours.full,
                cost, hexed(wet_look(dry)), hexed(dry),
                " ".join(notice.text for notice in made.warnings if notice.code not in ADVICE),
            )  # fmt: skip
    return found


@dataclass(frozen=True, slots=True)
class PourSchool:
    """One way to pour the same: another resin, or another room. Where it cannot be done, `note` says why."""

    name: str
    lifts: Figure | None
    peak_c: Figure | None
    mix_ml: Figure | None
    next_h: Figure | None
    whole_h: Figure | None
    cost: Figure | None
    note: str


def pours(scene: Scene, lift_id: str) -> dict[str, PourSchool]:
    """The pour `lift_id` of every two-part resin, and of what dries in coats, by the mix's id. Raises KeyError."""
    whole = with_all(scene, "resin", "binder")
    site, labels = site_of(whole, lift_id), Labels.of(whole)
    mixes = [mix for mix in whole.mixes if mix.reacts or mix.pour_mm]
    return {
        mix.id: _poured(site, site.lift.model_copy(update={"mix": mix.id, "lifts": "auto"}), labels, mix.name)
        for mix in sorted(mixes, key=lambda one: (one.reacts is None, one.name))
    }


def rooms(scene: Scene, lift_id: str, temps_c: tuple[float, ...]) -> dict[str, PourSchool]:
    """The pour `lift_id` as it is, in steady rooms of other temperatures, by their degC. Raises KeyError."""
    found = {}
    for temp in temps_c:
        room = scene.room.model_copy(update={"temp_c": temp, "series": ()})
        there = scene.model_copy(update={"room": room})
        site = site_of(there, lift_id)
        found[f"{temp:g}"] = _poured(site, site.lift, Labels.of(there), f"{temp:g} °C")
    return found


def _poured(site: Site, lift: Lift, labels: Labels, name: str) -> PourSchool:
    try:
        work = lift_alone(site, lift)
    except Faults as refused:
        return PourSchool(name, None, None, None, None, None, None, refused.faults[0].what.capitalize() + ".")
    made = work.plan
    peaks = [layer.peak_c for layer in made.layers if layer.peak_c]
    word = "lifts" if peaks else "coats"
    count = Figure(len(made.layers), word if len(made.layers) != 1 else word[:-1], "as few as the label and heat allow",
                   (Term("deepest layer", max(one.depth_mm.number for one in made.layers), "mm"),))  # fmt: skip
    measured = ((one.material, one.volume_ml.number, one.mass_g.number) for one in made.ingredients)
    return PourSchool(
        name, count, max(peaks, key=lambda one: one.number) if peaks else None, made.mix_ml, made.hours.next,
        whole_hours(work), priced(measured, labels, site.scene),
        " ".join(notice.text for notice in made.warnings if notice.code not in ADVICE),
    )  # fmt: skip
