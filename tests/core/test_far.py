"""How far what is left goes: equal to an exhaustive search, each spot whole, alike in thickness, the course beneath first."""

from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.plan import plan
from isostasis.core.stock.far import Spot, how_far, spots_of
from tests.support.scenes import resolved, scene_data

SPOTS = st.lists(
    st.tuples(st.integers(5, 200), st.integers(1, 90), st.sampled_from([0.5, 0.6, 1.0]), st.booleans()),
    min_size=1, max_size=7,
)  # fmt: skip


def spots(drawn):
    made = []
    for number, (need, area, least, on_last) in enumerate(drawn):
        below = f"s{number - 1}" if on_last and number else ""
        made.append(Spot("tarn", f"s{number}", f"Spot {number}", float(need), area * 100.0, least, 4.0, below))
    return made


def best_by_search(all_spots, there):
    """The most ground that any set of spots covers which fits, each with the one beneath it."""
    best = 0.0
    for size in range(len(all_spots) + 1):
        for picked in combinations(all_spots, size):
            names = {one.step for one in picked}
            fits = sum(one.need_ml * one.least for one in picked) <= there + 1e-9
            if fits and all(not one.below or one.below in names for one in picked):
                best = max(best, sum(one.area_mm2 for one in picked))
    return best


@settings(max_examples=60)
@given(SPOTS, st.integers(0, 600))
def test_as_much_ground_as_an_exhaustive_search_finds(drawn, there):
    all_spots = spots(drawn)
    made = how_far(all_spots, float(there))
    names = {one.spot.step for one in made.done}
    assert sum(one.spot.area_mm2 for one in made.done) == pytest.approx(best_by_search(all_spots, there))
    assert all(not one.spot.below or one.spot.below in names for one in made.done)
    used = sum(one.ml for one in made.done)
    assert used <= there + 0.05 and made.left_ml == pytest.approx(max(there - used, 0))
    assert all(one.spot.least - 1e-9 <= one.share <= 1 for one in made.done)
    thin = {round(one.share, 6) for one in made.done if one.share > one.spot.least + 1e-6}
    assert len(thin) <= 1  # alike in all that could be thinner still
    assert len(made.done) + len(made.left_out) == len(all_spots)
    if made.left_ml > 0.1 and made.done:
        assert all(one.share == 1 for one in made.done)  # nothing is left over while anything is thin


def test_nothing_goes_nowhere_and_less_than_nothing_is_refused():
    assert how_far([], 100).done == () and how_far(spots([(50, 5, 1.0, False)]), 10).left_out
    with pytest.raises(ValueError, match="0 ml or more"):
        how_far([], -1)


def test_the_spots_of_a_plan_take_what_its_batches_hold():
    scene = resolved(scene_data())
    made = plan(scene)
    mix = next(batch.mix for batch in made.batches if batch.mix.endswith("resin"))
    found = spots_of(scene, "tarn", made, mix)
    assert sum(one.need_ml for one in found) == pytest.approx(
        sum(batch.volume_ml.number for batch in made.batches if batch.mix == mix)
    )
    assert [one.below for one in found][1:] == [one.step for one in found][:-1]
    assert len(spots_of(scene, "tarn", made, mix, over=[found[0].step])) == len(found) - 1
    everything = how_far(found, sum(one.need_ml for one in found) + 1)
    assert len(everything.done) == len(found) and everything.short_ml == 0 and everything.left_ml == pytest.approx(1)
