"""Pours as a caster thinks of them: more is higher, warmer is sooner, lifts add up, tint and bed are minded."""

import copy

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.fault import Faults
from isostasis.core.plan import plan
from tests.support.scenes import resolved, scene_data, square

POND = {
    "isostasis": 1,
    "name": "Pond",
    "grid_mm": 4,
    "base": {"width_mm": 300, "depth_mm": 200},
    "forms": [
        {"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 50},
        {"id": "hole", "kind": "basin", "outline": square(50, 40, 250, 160), "depth_mm": 40, "bank_deg": 60},
    ],
    "patches": [
        {"id": "pond", "name": "Pond", "area": {"rest": True}, "lifts": [{"id": "water", "kind": "pour", "mix": "casting-resin"}]}
    ],
}  # fmt: skip


def water(room=21.0, base=None, **lift):
    data = copy.deepcopy(POND)
    data["room"] = {"temp_c": room, "rh": 0.5}
    data["base"] |= base or {}
    data["patches"][0]["lifts"][0] |= lift
    return plan(resolved(data)).lifts["water"]


@given(st.floats(11, 48), st.floats(0.5, 2))
@settings(max_examples=15)
def test_a_higher_level_takes_more(level, more):
    low, high = water(level_mm=level), water(level_mm=min(level + more, 49.9))
    assert high.volume_ml.number > low.volume_ml.number
    assert high.mix_ml.number > low.mix_ml.number
    assert len(high.layers) >= len(low.layers)


@given(st.floats(1, 39))
@settings(max_examples=15)
def test_lifts_add_up_and_pass_the_label(depth):
    made = water(depth_mm=depth)
    assert sum(layer.depth_mm.number for layer in made.layers) == pytest.approx(depth, abs=1e-3)
    assert sum(layer.volume_ml.number for layer in made.layers) == pytest.approx(made.volume_ml.number)
    assert max(layer.depth_mm.number for layer in made.layers) <= 12 + 1e-3
    assert max(layer.peak_c.number for layer in made.layers) <= 60
    volumes = [layer.volume_ml.number for layer in made.layers]
    assert volumes == sorted(volumes)  # banks lean out: each lift is wider than the one below it


@given(st.floats(8, 22))
@settings(max_examples=8)
def test_warmer_is_sooner_and_hotter(temp):
    cold, warm = water(temp, depth_mm=9), water(temp + 3, depth_mm=9)
    for moment in ("workable", "next", "full"):
        assert getattr(warm.hours, moment).number < getattr(cold.hours, moment).number
    assert warm.layers[0].peak_c.number > cold.layers[0].peak_c.number


def test_given_lifts_are_kept_in_their_order():
    made = water(depth_mm=20, lifts=[12, 5, 3])
    assert [layer.depth_mm.number for layer in made.layers] == pytest.approx([12, 5, 3])


def test_tint_is_counted_in_drops():
    made = water(depth_mm=9, tint=[{"material": "acrylic-ink-teal", "drops_per_100_ml": 2}])
    drops = next(part for part in made.ingredients if part.drops)
    assert drops.drops.number == pytest.approx(made.mix_ml.number / 50)
    assert sum(part.volume_ml.number for part in made.ingredients) == pytest.approx(made.mix_ml.number)
    faint = water(volume_ml=10, tint=[{"material": "acrylic-ink-teal", "drops_per_100_ml": 1}])
    assert "tint-too-small" in {notice.code for notice in faint.warnings}


def test_a_cold_room_and_a_frosty_one():
    assert "cold" in {notice.code for notice in water(10, depth_mm=9).warnings}
    frozen = water(-10, depth_mm=9)
    assert frozen.hours.full.number > 500 or "stays-soft" in {notice.code for notice in frozen.warnings}


def test_two_pours_in_a_scene_see_each_other(tarn):
    tarn["patches"][0]["lifts"].append({"id": "top-up", "kind": "pour", "mix": "casting-resin", "level_mm": 26})
    made = plan(resolved(tarn))
    assert made.lifts["top-up"].pools[0].deepest_mm.number == pytest.approx(2)
    assert made.lifts["tarn-water"].hours.next.number < made.lifts["tarn-water"].hours.full.number
    steps = {step.id: step for step in made.steps}
    assert "tarn-water" in steps["top-up"].after


def test_a_pour_reaches_into_other_patches_and_waits_for_their_beds():
    data = scene_data()
    data["patches"][0]["lifts"][2]["level_mm"] = 29
    made = plan(resolved(data))
    touched = {step.id: step for step in made.steps}["tarn-water"].after
    assert "bank-skin" not in touched  # the pool stays inside the tarn's own outline
    data["patches"][0]["area"]["outline"] = square(60, 40, 240, 120)
    data["patches"][0]["lifts"][2]["level_mm"] = 24
    made = plan(resolved(data))
    assert "bank-skin" in {step.id: step for step in made.steps}["tarn-water"].after
    assert "unsealed-bed" in {notice.code for notice in made.lifts["tarn-water"].warnings}


def test_where_a_volume_is_poured_matters():
    with pytest.raises(Faults, match=r"at_mm: 900, 5 is not on the base"):
        water(volume_ml=10, at_mm=[900, 5])
    assert water(volume_ml=10, at_mm=[60, 50]).pools[0].volume_ml.number == pytest.approx(10)
    lost = water(volume_ml=10, at_mm=[2, 2])
    assert lost.pools == ()
    assert lost.lost_ml.number == 10
    assert [notice.text for notice in lost.warnings if notice.code == "lost"] == [
        "All of it runs over the open edge near x 2, y 2: dam it, or pour less."
    ]


def test_a_flooded_board_needs_its_dam():
    with pytest.raises(Faults, match=r"open \w+ edge"):
        water(level_mm=52)
    flooded = water(base={"dammed": "all"}, level_mm=52)
    assert flooded.pools[0].area_mm2.number == pytest.approx(60_000)
    assert flooded.volume_ml.number > 120
    climbs = next(term for term in flooded.mix_ml.working if term.what.startswith("climbs"))
    assert climbs.value == pytest.approx(1.0 * 3.02, rel=0.02)


def test_a_label_whose_depth_is_no_matter_of_heat_says_so():
    data = copy.deepcopy(POND)
    data["patches"][0]["lifts"][0]["depth_mm"] = 1
    thin = shipped().mixes["casting-resin"].model_dump(mode="json", exclude_none=True)
    thin["reacts"]["max_depth_mm"] = 0.5
    layers = plan(resolved({**data, "mixes": [thin]})).lifts["water"].layers
    assert len(layers) == 2
    heat = next(term for term in layers[0].peak_c.working if term.what == "heat of reaction")
    assert heat.value == 450
    assert "no matter of heat" in heat.source


def test_a_skin_that_never_dries_is_split_by_the_bowl_alone():
    data = copy.deepcopy(POND)
    skin = {"id": "skin", "kind": "skin", "mix": "wet", "depth_mm": 30}
    data["patches"][0]["lifts"] = [skin]
    wet = shipped().mixes["paper-plaster"].model_dump(mode="json", exclude_none=True) | {"id": "wet", "sets": None}
    made = plan(resolved({**data, "room": {"temp_c": 21, "rh": 1.0}, "mixes": [wet]}))
    assert made.lifts["skin"].hours.workable.code == "wont-dry"
    assert {batch.working_min for batch in made.batches} == {None}
    assert all(batch.volume_ml.number <= 1500 for batch in made.batches)
