"""Schools side by side: what a skin would be in every other compound, and what less shell would mean."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from .catalogue import shipped
from .document.scene import Scene
from .figure import Figure, Term
from .hardening.setting import dry_strength
from .lifts.shell import Shell, cut
from .lifts.shell import tops as tops_of
from .lifts.site import Cover, Labels, Site, true_area
from .lifts.skin import Skin
from .mixing.consistency import for_purpose
from .mixing.parts import BOUND_WATER, water_ratio, wet
from .plan import lift_alone, site_of
from .terrain.carve import cost_of

JOINT_MM = 30.0  # to either side of a joint that is shelled where only voids and joints are, craft estimate
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


def _with_all_skins(scene: Scene) -> Scene:
    """The scene with the labels of every compound embedded, its own winning."""
    known, own = shipped(), Labels.of(scene)
    mixes = {mix.id: mix for mix in known.mixes.values() if mix.family == "skin"} | own.mixes
    named = {part.material for mix in mixes.values() for part in mix.ingredients}
    materials = {name: known.materials[name] for name in named if name in known.materials} | own.materials
    return scene.model_copy(update={"mixes": tuple(mixes.values()), "materials": tuple(materials.values())})


def skins(scene: Scene, lift_id: str) -> dict[str, School]:
    """The skin `lift_id` of a resolved scene in every compound, by the mix's id. Raises KeyError, Faults."""
    whole = _with_all_skins(scene)
    site, labels = site_of(whole, lift_id), Labels.of(whole)
    found = {}
    for mix in sorted(whole.mixes, key=lambda one: one.name):
        if mix.family != "skin":
            continue
        lift = site.lift.model_copy(update={"mix": mix.id})
        assert isinstance(lift, Skin)
        made = lift_alone(site, lift).plan
        mixed = for_purpose(mix, lift.consistency, labels.materials)
        measure = wet(mixed, labels.materials)
        dry = max(measure.density - measure.free_water_g_per_ml, 0.0)
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
        found[mix.id] = School(
            mix.name, made.mix_ml, made.hours.next, made.hours.full, weight,
            cost_of(mixed, made.mix_ml.number, labels, whole), strength,
            " ".join(notice.text for notice in made.warnings),
        )  # fmt: skip
    return found


def shells(scene: Scene, lift_id: str) -> dict[str, School]:
    """The shell `lift_id` over everything, only over voids (crumpled paper) and joints, or none. Raises KeyError."""
    site = site_of(scene, lift_id)
    lift, labels = site.lift, Labels.of(scene)
    assert isinstance(lift, Shell)
    hours = lift_alone(site, lift).plan.hours
    part, whole = true_area(site.ground, _voids(site, labels)), true_area(site.ground, site.cover)
    nothing = Figure(0.0, "h", "nothing to wait for")
    held = "Knocks and cracks are held all over; the surface is sealed and keyed."
    partly = "Paper and joints are held; elsewhere the compound goes straight on foam, which dents."
    bare = "Lightest and quickest over foam; over paper nothing carries the compound: it cracks and falls in."
    return {
        "everything": _shelled(site, lift, labels, "everything", whole, hours.next, hours.full, held),
        "voids": _shelled(site, lift, labels, "only voids and joints", part, hours.next, hours.full, partly),
        "none": _shelled(site, lift, labels, "none", 0.0, nothing, nothing, bare),
    }


def _voids(site: Site, labels: Labels) -> Cover:
    """The part of a patch that lies over paper, or beside a joint."""
    base, ground = site.scene.base, site.ground
    x = (np.arange(ground.shape[1]) + 0.5) * ground.cell_mm
    y = (np.arange(ground.shape[0]) + 0.5) * ground.cell_mm
    near = np.zeros(ground.shape, dtype=bool)
    for at in base.joints_x_mm:
        near |= (np.abs(x - at) <= JOINT_MM)[None, :]
    for at in base.joints_y_mm:
        near |= (np.abs(y - at) <= JOINT_MM)[:, None]
    share = np.where((tops_of(ground, labels) == "paper") | near, site.cover.share, 0.0)
    return replace(site.cover, share=share)


def _shelled(
    site: Site, lift: Shell, labels: Labels, name: str, area: float, next_h: Figure, full_h: Figure, note: str
) -> School:
    """A shell over so many mm2."""
    cloth = labels.materials[lift.material]
    cuts = cut(area, lift.layers, cloth.roll_mm or (1.0, 1.0), site.bench.tub_mm)
    layer = cloth.thickness_mm or 1.0
    grams = area * lift.layers * layer / 1000 * cloth.density
    covered = Term("area", area, "mm2", "triangulated ground")
    each = site.bench.price_each(cloth.id)
    used = cuts.area_mm2
    bound = Term("bound water, of its weight", BOUND_WATER * cloth.hemihydrate, "", "0.186 × its plaster")
    weight = Figure(
        grams * (1 + BOUND_WATER * cloth.hemihydrate), "g", "cloth in place, and the water that its plaster binds",
        (covered, Term("cloth", grams, "g"), bound),
    )  # fmt: skip
    cost = None
    if each is not None:
        terms = Term("cloth", used, "mm2"), Term("price of a m2", each * 1e6, "money", "your price")
        cost = Figure(used * each, "money", "cloth cut × your price", terms)
    unit = "strip" if cuts.count == 1 else "strips"
    count = Figure(cuts.count, unit, "layers × area × 1.05 / what one covers", (covered, Term("layers", lift.layers)))
    return School(name, count, next_h, full_h, weight, cost, None, note)
