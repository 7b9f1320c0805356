import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.core.catalogue import Mix, Part, shipped
from isostasis.core.fault import Faults
from isostasis.core.mixing.batches import left_behind, split, to_mix
from isostasis.core.mixing.parts import amounts, by_mass_error, mass_shares, water_ratio, wet
from isostasis.core.mixing.repair import repair

LABELS = shipped()


def test_mass_shares_of_parts_by_volume():
    assert mass_shares((2, 1), (1.16, 0.98)) == (pytest.approx(0.703, abs=0.001), pytest.approx(0.297, abs=0.001))
    with pytest.raises(ValueError, match="not all 0"):
        mass_shares((0, 0), (1, 1))


def test_paper_fibre_compound_frees_440_g_of_water_a_litre():
    mix = LABELS.mixes["paper-plaster"]
    assert wet(mix, LABELS.materials).free_water_g_per_ml * 1000 == pytest.approx(440, abs=0.5)
    assert water_ratio(mix, LABELS.materials) == pytest.approx(mix.sets.water_ratio, abs=0.002)


@given(st.sampled_from(sorted(LABELS.mixes)), st.floats(0.5, 5000))
def test_measured_parts_give_the_volume_and_keep_the_ratio(name, volume):
    mix = LABELS.mixes[name]
    parts = amounts(mix, LABELS.materials, volume)
    measure = wet(mix, LABELS.materials)
    assert sum(part.mass_g for part in parts) == pytest.approx(volume * measure.density)
    first, last = mix.ingredients[0], mix.ingredients[-1]
    assert parts[0].volume_ml / parts[-1].volume_ml == pytest.approx(first.parts / last.parts)


@given(st.floats(1, 2000), st.just(0.0) | st.floats(1e-6, 20))
def test_tint_is_part_of_the_volume(volume, per_100):
    parts = amounts(LABELS.mixes["casting-resin"], LABELS.materials, volume, (("acrylic-ink-blue", per_100),))
    assert sum(part.volume_ml for part in parts) == pytest.approx(volume)
    if per_100:
        assert parts[-1].drops == pytest.approx(per_100 * volume / 100)


def test_weighing_a_ratio_by_volume_ruins_it():
    assert by_mass_error(LABELS.mixes["casting-resin"], LABELS.materials) == pytest.approx(1.16 / 0.98 - 1)


def test_a_mix_by_mass():
    mix = Mix(
        id="m",
        name="m",
        family="skin",
        basis="mass",
        source="test",
        ingredients=(Part(material="plaster", parts=3), Part(material="water", parts=2)),
    )
    powder, water = amounts(mix, LABELS.materials, 100)
    assert powder.mass_g / water.mass_g == pytest.approx(1.5)
    assert powder.mass_g / 2.63 + water.mass_g == pytest.approx(100)


def test_what_stays_in_the_cup():
    assert left_behind(100) == pytest.approx(5 + 3, abs=0.05)
    assert left_behind(2) == pytest.approx(0.1 + 0.22, abs=0.01)
    assert left_behind(0) == 0


@given(st.floats(0.01, 20_000))
def test_enough_leaves_the_cup(need):
    batch = to_mix(need)
    assert batch - left_behind(batch) == pytest.approx(need)


@given(st.floats(0.5, 2000), st.floats(5, 3000), st.floats(5, 3000))
def test_batches_are_equal_fit_and_suffice(need, cup, placeable):
    batches = split(need, cup, placeable)
    assert batches.each_ml <= min(cup, placeable) * (1 + 1e-6)
    assert batches.count * batches.each_ml == pytest.approx(batches.total_ml)
    assert batches.total_ml - batches.left_ml == pytest.approx(need)
    assert batches.count * (batches.each_ml - left_behind(batches.each_ml)) == pytest.approx(need, rel=1e-6)


def test_more_batches_than_anybody_mixes_are_refused():
    with pytest.raises(Faults, match="more than 500 batches of 1 ml; mix in a larger vessel"):
        split(1e9, 1, 400)


def test_no_more_batches_than_needed():
    assert split(100, 400, 400).count == 1
    useful = 400 - left_behind(400)
    assert split(useful, 400, 400).count == 1
    assert split(useful * 1.01, 400, 400).count == 2
    assert split(0, 400, 400).count == 0
    with pytest.raises(ValueError, match="above 0"):
        split(10, 0, 10)


@given(st.tuples(st.floats(0.1, 5), st.floats(0.1, 5)), st.tuples(st.floats(0, 500), st.floats(0.01, 500)))
def test_a_mended_cup_has_the_ratio_and_nothing_is_taken_out(parts, within):
    mended = repair(parts, within)
    assert min(mended.add) >= -1e-9
    total = [amount + more for amount, more in zip(within, mended.add, strict=True)]
    assert total[0] * parts[1] == pytest.approx(total[1] * parts[0])
    assert sum(total) == pytest.approx(mended.batch)


def test_nonsense_in_the_cup_is_refused():
    with pytest.raises(ValueError, match="not all 0"):
        repair((0, 0), (1, 1))
    with pytest.raises(ValueError, match="recipe has none of"):
        repair((1, 0), (1, 1))
