"""New tins: from a family in a few fields, mixes out of anything; the laws that follow from what a tin says."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.document import resolve
from isostasis.core.fault import Faults
from isostasis.core.hardening.climate import Climate, evaporation
from isostasis.core.hardening.drying import diffusivity_of_label, hours_to_share
from isostasis.core.mixing.parts import amounts, wet
from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.core.tins import FAMILIES, Measure, compose
from isostasis.core.tins.compose import FAMILIES as MIXED
from isostasis.demo import document

TINS = shipped()


def answers(family, **said):
    return {ask.name: ask.start for ask in FAMILIES[family].asks} | {"name": "My tin"} | said


def make(family, **said):
    return FAMILIES[family].make(answers(family, **said), TINS, lambda name: "my-tin")


@pytest.mark.parametrize("family", FAMILIES)
def test_a_tin_of_every_family_is_made_of_what_stands_there_first(family):
    made = make(family)
    assert made.material.id == "my-tin" and made.material.name == "My tin"
    assert made.made_from[0] in TINS.materials
    if made.mix is not None:
        assert made.made_from[1] in TINS.mixes
        assert any(part.material == "my-tin" for part in made.mix.ingredients)
        assert wet(made.mix, {**TINS.materials, "my-tin": made.material}).volume_ml > 0


def test_a_resin_says_its_ratio_times_and_depth_and_pours():
    made = make("resin", parts_a=100.0, parts_b=45.0, basis="mass", hard_h=12.0, max_depth_mm=20.0, density_a=1.12)
    assert [part.parts for part in made.mix.ingredients] == [100, 45]
    assert (
        made.mix.reacts.max_depth_mm == 20
        and made.mix.reacts.viscosity_pa_s == TINS.mixes["casting-resin"].reacts.viscosity_pa_s
    )
    assert made.material.density_of("A") == 1.12 and made.material.density_of("B") == 0.98
    data = document("hollin-delf")
    for patch in data["patches"]:
        for lift in patch["lifts"]:
            if lift["id"] == "lake-water":
                lift["mix"] = "my-tin"
    layers = plan(resolve(read(data), TINS.with_own([made.material], [made.mix]))).lifts["lake-water"].layers
    assert len(layers) == 2


def test_a_cloths_own_overlap_takes_more_of_it():
    data = document("hollin-delf")

    def rolls(overlap):
        made = make("cloth", overlap_mm=overlap).material.model_copy(update={"id": "plaster-cloth"})
        return plan(resolve(read(data), TINS.with_own([made], []))).lifts["heap-shell"].strips.count.number

    before = plan(resolve(read(data), TINS)).lifts["heap-shell"].strips.count.number
    assert rolls(20.0) == before < rolls(60.0)


@given(st.floats(0.1, 12), st.floats(1e-10, 1e-8), st.floats(0.1, 0.7))
def test_a_compound_dries_in_the_hours_of_its_tin(depth_mm, diffusivity, water_g_ml):
    water, room = water_g_ml * depth_mm * 1000, Climate((0,), (20,), (0.5,))
    hours = hours_to_share(water, depth_mm, diffusivity, room, 0.05)
    assert diffusivity_of_label(water, depth_mm, hours, evaporation(20, 0.5)) == pytest.approx(diffusivity, rel=1e-3)


def test_a_compound_that_says_when_it_is_dry():
    quick, slow = (make("compound", dry_h=hours, dry_mm=5.0).mix.dries.diffusivity_m2_s for hours in (72.0, 120.0))
    assert slow < quick
    with pytest.raises(Faults, match="the air alone needs about"):
        make("compound", dry_h=2.0, dry_mm=5.0)
    ready = make("compound", form="ready", most_mm=4.0)
    assert ready.mix.most_mm == 4 and [part.material for part in ready.mix.ingredients] == ["my-tin"]


@pytest.mark.parametrize(("family", "said", "where"), [
    ("resin", {"parts_a": 0.0, "parts_b": 0.0}, "parts_a"), ("resin", {"hard_h": 0.0}, "hard_h"),
    ("resin", {"max_depth_mm": -1.0}, "max_depth_mm"), ("cloth", {"overlap_mm": 150.0}, "overlap_mm"),
    ("cloth", {"long_mm": 0.0}, "long_mm"), ("compound", {"water": 0.0}, "water"),
    ("powder", {"density": 2.7}, "particle_density"), ("glue", {"solids": 1.0}, "solids"), ("sealer", {"solids": 0.0}, "solids"),
])  # fmt: skip
def test_an_impossible_tin_is_told_by_its_field(family, said, where):
    with pytest.raises(Faults) as refused:
        make(family, **said)
    assert [one.where for one in refused.value.faults] == [where]


def test_a_resin_hard_before_its_working_time_is_refused():
    with pytest.raises(ValueError, match="hard after 60 min"):
        make("resin", working_min=90.0, hard_h=1.0)


def test_a_powder_that_sets_is_mixed_by_its_ratio():
    made = make("powder", takes="sets", particle_density=2.6, water_ratio=0.5, set_min=15.0)
    assert made.mix.basis == "mass" and made.mix.sets.water_ratio == 0.5
    assert [part.parts for part in made.mix.ingredients] == [1, 0.5]
    assert make("powder").mix.sets is None


@given(st.lists(st.tuples(st.sampled_from(("white-glue", "water", "plaster", "glue-water-1-1", "satin-1-3", "paint-earth")),
                          st.floats(0.1, 9)), min_size=1, max_size=6), st.sampled_from(("volume", "mass")))  # fmt: skip
def test_a_mix_out_of_anything_has_as_much_of_each_as_its_parts_have(parts, basis):
    made, of = compose("mine", "Mine", "binder", basis, [Measure(*one) for one in parts], TINS)
    assert of == tuple(name for name, _ in parts)
    assert sum(one.parts for one in made.ingredients) == pytest.approx(sum(amount for _, amount in parts), rel=1e-4)
    assert len({one.material for one in made.ingredients}) == len(made.ingredients)
    assert amounts(made, TINS.materials, 100)


def test_a_mix_is_taken_apart_and_hardens_as_its_kind_by_default():
    made, of = compose(
        "render", "Render", "skin", "volume", [Measure("home-compound", 3), Measure("play-sand", 1)], TINS
    )
    assert of == ("home-compound", "play-sand")
    assert {part.material for part in made.ingredients} == {"plaster", "paper-pulp", "water", "white-glue", "play-sand"}
    plaster = next(part.parts for part in made.ingredients if part.material == "plaster")
    assert plaster == pytest.approx(3 * 3 / 7.25, rel=1e-4)
    assert made.sets is not None and "3 home-made compound" in made.source
    for family in MIXED:
        assert compose("mine", "Mine", family, "volume", [Measure("water", 1)], TINS)[0].family == family


@pytest.mark.parametrize(("measures", "sentence"), [
    ([Measure("casting-resin", 1)], "hardens by itself"), ([Measure("nothing", 1)], "no label"),
    ([Measure("water", 0)], "parts are none"), ([], "it has 0"), ([Measure("water", 1)] * 13, "it has 13"),
])  # fmt: skip
def test_what_makes_no_mix_is_refused(measures, sentence):
    with pytest.raises(Faults, match=sentence):
        compose("mine", "Mine", "binder", "volume", measures, TINS)
