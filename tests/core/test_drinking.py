"""Pours on beds that drink, and pours in which things stand: what is poured is what stands, is drunk and is lost."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.fault import Faults
from isostasis.core.lifts.kinds.pour.pools import displaced_ml
from isostasis.core.plan import plan
from tests.support.layups import GRAVEL, SEAL, fix, pond_with, term
from tests.support.scenes import resolved


def water(*below, **pour):
    return plan(resolved(pond_with(*below, **pour))).lifts["water"]


def test_an_unsealed_gravel_drinks_what_its_voids_hold():
    made, sealed = water(GRAVEL), water(GRAVEL, fix(), SEAL)
    assert sealed.drunk_ml.number == 0
    wetted = term(plan(resolved(pond_with(GRAVEL))).lifts["water"].drunk_ml, "Pond")
    assert made.drunk_ml.number == wetted > 0
    # 4 mm with 0.42 voids, six tenths of them filled, over the wetted bed and its banks.
    floor = made.pools[0].area_mm2.number
    assert floor * 4 * 0.42 * 0.6 / 1000 <= made.drunk_ml.number <= 1.5 * floor * 4 * 0.42 * 0.6 / 1000
    assert made.volume_ml.number == pytest.approx(made.pools[0].volume_ml.number)
    extra = (
        made.mix_ml.number - term(made.mix_ml, "in place") - term(made.mix_ml, "shrinks") - term(made.mix_ml, "climbs")
    )
    assert extra > made.drunk_ml.number
    assert term(made.mix_ml, "drunk by the bed") == made.drunk_ml.number
    assert "unsealed-bed" in {notice.code for notice in made.warnings}


def test_of_a_given_volume_the_bed_takes_its_part():
    for volume in (20, 60, 150):
        made, sealed = water(GRAVEL, volume_ml=volume), water(GRAVEL, fix(), SEAL, volume_ml=volume)
        stands = sum(pool.volume_ml.number for pool in made.pools)
        assert stands + made.drunk_ml.number + made.lost_ml.number == pytest.approx(volume, rel=1e-3)
        assert sealed.pools[0].level_mm.number > made.pools[0].level_mm.number
        assert made.volume_ml.number == volume


def test_each_lift_is_drunk_of_what_it_newly_wets():
    def mixed(*below):
        made = plan(resolved(pond_with(*below, depth_mm=8, lifts=[4, 4])))
        fed = [(one.feeds[0], one.volume_ml.number) for one in made.batches]
        by_lift = [sum(ml for feed, ml in fed if (feed.lift, feed.layer) == ("water", layer)) for layer in (1, 2)]
        return by_lift, made.lifts["water"].drunk_ml.number

    (first, second), drunk = mixed(GRAVEL)
    (plain, same), none = mixed(GRAVEL, fix(), SEAL)
    assert none == 0
    assert first - plain + second - same == pytest.approx(drunk * 1.05, rel=0.1)
    assert 0 < second - same < 0.3 * (first - plain)  # the floor is the first lift's, a strip of bank the second's


def test_a_later_pour_is_drunk_only_where_its_bed_is_still_open():
    def drunk(*pours):
        data = pond_with(GRAVEL, depth_mm=8)
        data["patches"][0]["lifts"][1:] = [{**data["patches"][0]["lifts"][1], **pour} for pour in pours]
        made = plan(resolved(data))
        return [made.lifts[pour["id"]].drunk_ml.number for pour in pours]

    (whole,) = drunk({"id": "water"})
    first, second = drunk({"id": "water", "depth_mm": 4}, {"id": "top", "depth_mm": 4})
    assert 0 < second < first
    assert first + second == pytest.approx(whole, rel=0.05)


def test_what_stands_in_it_takes_its_place_and_draws_it_up():
    bare, stood = water(depth_mm=8), water(depth_mm=8, stands=[{"area_mm2": 50, "count": 12}])
    pool = bare.pools[0]
    displaced = 600 * pool.volume_ml.number / pool.area_mm2.number
    assert stood.volume_ml.number == pytest.approx(bare.volume_ml.number - displaced)
    assert term(stood.mix_ml, "climbs") > term(bare.mix_ml, "climbs")
    poured = water(volume_ml=100, stands=[{"area_mm2": 50, "count": 12}])
    assert poured.pools[0].level_mm.number > water(volume_ml=100).pools[0].level_mm.number
    lift = resolved(pond_with(volume_ml=100, stands=[{"area_mm2": 50, "count": 12}])).lift("water")
    built = plan(resolved(pond_with(volume_ml=100))).built.stages["water"]
    assert displaced_ml(lift, ()) == 0
    assert built.site.lift.stands == ()


@given(st.integers(0, 10_000), st.floats(5, 400), st.floats(1, 10), st.booleans())
@settings(max_examples=25, deadline=None)
def test_on_any_ground_what_is_poured_stands_is_drunk_or_is_lost(seed, volume, depth, dammed):
    rng = np.random.default_rng(seed)
    points = [[float(x), float(y), float(z)] for x, y, z in zip(
        rng.uniform(0, 300, 25), rng.uniform(0, 200, 25), rng.uniform(5, 40, 25), strict=True)]  # fmt: skip
    corners = [[0.0, 0.0, 30.0], [300.0, 0.0, 30.0], [300.0, 200.0, 30.0], [0.0, 200.0, 30.0]]
    data = pond_with({**GRAVEL, "depth_mm": depth}, volume_ml=volume)
    data["forms"] = [{"id": "hills", "kind": "survey", "points": [*points, *corners]}]
    data["base"]["dammed"] = "all" if dammed else []
    try:
        made = plan(resolved(data)).lifts["water"]
    except Faults as refused:
        assert "none of it stays" in str(refused)
        return
    stands = sum(pool.volume_ml.number for pool in made.pools)
    assert stands + made.drunk_ml.number + made.lost_ml.number == pytest.approx(volume, rel=1e-3)


def test_a_gloss_on_a_pour_is_not_drunk_by_the_bed_beneath():
    gloss = {"id": "gloss", "kind": "coat", "material": "gloss-varnish"}
    data = pond_with(GRAVEL, depth_mm=8)
    data["patches"][0]["lifts"].append(gloss)
    made = plan(resolved(data)).lifts["gloss"]
    assert term(made.volume_ml, "the porous bed") is None
