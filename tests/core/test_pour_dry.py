"""Pours that dry: glue water, varnish and gel in coats that lose their height, and mass that balances."""

from math import ceil

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.fault import Faults
from isostasis.core.hardening.climate import Climate
from isostasis.core.hardening.drying import hours_to_share
from isostasis.core.mixing.parts import wet
from isostasis.core.plan import plan
from tests.support.layups import GRAVEL, pond_with, term
from tests.support.scenes import resolved

LABELS = shipped()
POURED = sorted(name for name, mix in LABELS.mixes.items() if mix.pour_mm)


def stays(mix):
    return wet(LABELS.mixes[mix], LABELS.materials).stays


def water(*below, **pour):
    return plan(resolved(pond_with(*below, **pour))).lifts["water"]


def test_what_the_labels_leave_of_a_coat():
    assert stays("glue-water-1-1") == pytest.approx(0.2, abs=0.01)  # about a fifth
    assert 0.5 <= stays("clear-gel") <= 0.6
    assert 0.3 <= stays("varnish-water") <= 0.4
    assert len(POURED) >= 5


def test_coats_until_the_depth_is_reached():
    made = water(mix="glue-water-1-1", depth_mm=1.0)
    coats = ceil(1.0 / (1.5 * stays("glue-water-1-1")))
    assert len(made.layers) == coats == 4
    assert sum(layer.depth_mm.number for layer in made.layers) == pytest.approx(1.0)
    assert sum(layer.volume_ml.number for layer in made.layers) == pytest.approx(made.volume_ml.number)
    assert made.mix_ml.number > made.volume_ml.number / stays("glue-water-1-1")
    film = 1.0 / coats / stays("glue-water-1-1")
    label = wet(LABELS.mixes["glue-water-1-1"], LABELS.materials)
    room = Climate((0,), (21,), (0.5,))
    dry = hours_to_share(label.free_water_g_per_ml * film * 1000, film, 1e-9, room, 0.05)
    assert made.hours.full.number == pytest.approx(dry)
    steps = [
        step for step in plan(resolved(pond_with(mix="glue-water-1-1", depth_mm=1.0))).steps if step.lift == "water"
    ]
    assert [step.id for step in steps] == [f"water-{number}" for number in range(1, coats + 1)]
    assert steps[0].wait_h == pytest.approx(dry) and "mm wet" in steps[0].do
    milky = next(window for window in made.windows if "milky" in window.what)
    assert milky.to_h == pytest.approx(dry)


def test_a_volume_that_dries_leaves_its_solids():
    made = water(mix="varnish-water", volume_ml=60)
    (pool,) = made.pools
    assert pool.volume_ml.number == pytest.approx(60, rel=1e-4)  # as poured
    assert pool.dry_ml.number == pytest.approx(60 * stays("varnish-water"), rel=1e-4)
    assert pool.dry_level_mm.number < pool.level_mm.number
    assert made.volume_ml.number == 60
    assert term(made.volume_ml, "stays of what dries") == pytest.approx(stays("varnish-water"))


def test_a_dry_pour_seals_its_bed_and_is_not_scolded_for_being_drunk():
    made = water(GRAVEL, mix="glue-water-1-1", depth_mm=0.5)
    assert made.drunk_ml.number > 1
    assert "unsealed-bed" not in {notice.code for notice in made.warnings}
    data = pond_with(GRAVEL, mix="glue-water-1-1", depth_mm=0.5)
    data["patches"][0]["lifts"].append({"id": "top", "kind": "pour", "mix": "coating-resin", "depth_mm": 1})
    assert plan(resolved(data)).lifts["top"].drunk_ml.number < 0.2 * made.drunk_ml.number  # a strip of bank


def test_what_cannot_be_poured_to_dry():
    for pour, said in (
        ({"mix": "glue-water-1-1", "depth_mm": 15}, "would take 5[0-9] coats: each leaves 0.3 mm; at most 12"),
        ({"mix": "glue-water-1-1", "depth_mm": 2, "lifts": [0.5, 0.5]}, "they add up to 1 mm, but the pool is 2 mm"),
        ({"mix": "plaster-2-3", "depth_mm": 2}, "neither reacts nor is it poured in coats"),
    ):
        with pytest.raises(Faults, match=said):
            water(**pour)
    thick = water(mix="glue-water-1-1", depth_mm=1, lifts=[1.0])
    assert "too-deep" in {notice.code for notice in thick.warnings}
    damp = pond_with(mix="glue-water-1-1", depth_mm=1)
    damp["room"] = {"temp_c": 15, "rh": 1}
    assert "wont-dry" in {notice.code for notice in plan(resolved(damp)).lifts["water"].warnings}


@given(st.sampled_from(POURED), st.floats(0.2, 6))
@settings(max_examples=30, deadline=None)
def test_solids_in_are_solids_left(mix, depth):
    try:
        made = water(mix=mix, depth_mm=depth)
    except Faults as refused:
        assert "coats" in str(refused)
        return
    measure = wet(LABELS.mixes[mix], LABELS.materials)
    left = term(made.mix_ml, "left in")
    poured = made.mix_ml.number - left - made.drunk_ml.number
    assert poured * measure.stays == pytest.approx(made.volume_ml.number, rel=1e-6)
    assert made.mass_g.number == pytest.approx(made.mix_ml.number * measure.density, rel=1e-6)
    films = [layer.depth_mm.number / measure.stays for layer in made.layers]
    assert max(films) <= LABELS.mixes[mix].pour_mm + 1e-9
