"""Factors learnt from records: against the exact normal posterior, against bounds by hand, and over simulated workshops."""

from datetime import UTC, datetime, timedelta
from math import exp, log

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from benchmarks.learning import learning
from isostasis.core.catalogue import Factor
from isostasis.core.learning.posterior import PRIOR_SIGMA, RECORD_SIGMA, Observed, learn
from isostasis.core.learning.records import FEWEST, Choice, Record, in_use, taught
from isostasis.core.mixing.batches import left_behind
from isostasis.core.plan import plan
from isostasis.core.plan.preview import lift_alone, site_of
from tests.support.layups import SKIN, board, coat
from tests.support.scenes import resolved, scene_data

NOON = datetime(2027, 3, 1, 12, tzinfo=UTC)


def record(number, low, high=None, predicted=100.0, **more):
    values = {"quantity": "volume", "mishap": "", **more}
    high = low if values["quantity"] == "volume" else high
    return Record(f"batch:{number}", "plaster", values["quantity"], predicted, low, high, "tarn", "Skin",
                  NOON + timedelta(days=number), values["mishap"])  # fmt: skip


@given(st.lists(st.floats(0.6, 1.7), min_size=1, max_size=12))
def test_amounts_give_the_exact_posterior(ratios):
    made = learn([Observed.of(one, 1.0) for one in ratios])
    weight = 1 / PRIOR_SIGMA**2 + len(ratios) / RECORD_SIGMA**2
    middle = sum(log(one) for one in ratios) / RECORD_SIGMA**2 / weight
    assert made.mean == pytest.approx(exp(middle + 0.5 / weight), rel=2e-3)
    spread = 1.2816 / weight**0.5
    assert made.low == pytest.approx(exp(middle - spread), rel=6e-3)
    assert made.high == pytest.approx(exp(middle + spread), rel=6e-3)


def test_bounds_move_it_as_far_as_they_reach():
    wide, narrow = (learn([Observed.between(*span, 20.0)] * 5) for span in ((20, 40), (25, 27)))
    assert 1.0 < wide.mean < 2.0 and wide.high / wide.low > narrow.high / narrow.low
    assert narrow.mean == pytest.approx(1.3, abs=0.04)
    later = learn([Observed.between(30, None, 20.0)])
    sooner = learn([Observed.between(None, 10, 20.0)])
    assert sooner.mean < 0.8 and later.mean > 1.2
    assert learn([Observed.between(500, None, 20.0)]).mean > 2  # far out it is still a number
    assert learn([]).mean == pytest.approx(1.0, abs=0.03) and learn([]).count == 0


@given(st.floats(1, 200), st.floats(1, 100), st.floats(1, 100))
def test_a_tighter_bound_below_never_lowers_it(predicted, first, more):
    loose, tight = (learn([Observed.between(low, first + more + 1, predicted)]).mean for low in (first, first + more))
    assert tight >= loose - 1e-6


def test_what_is_no_record_is_refused():
    for low, high, predicted in ((None, None, 10), (5, 3, 10), (1, 2, 0), (None, 0.0, 10)):
        with pytest.raises(ValueError):
            Observed.between(low, high, predicted)
    with pytest.raises(ValueError):
        Observed.of(0, 10)


@pytest.mark.parametrize("kind", ["amounts", "waits"])
def test_ranges_hold_the_truth_eight_times_in_ten_and_errors_fall(kind):
    made = learning(kind, workshops=1000)
    assert 0.75 <= made.covered <= 0.85
    assert made.error < 1 / 3


def test_mishaps_what_is_forgotten_and_what_contradicts_itself_teach_nothing():
    good = [record(number, 120) for number in range(4)]
    (made,) = taught([*good, record(9, 300, mishap="knocked over")])
    assert (made.learnt.count, made.used) == (4, True) and made.learnt.mean == learn([Observed.of(1.2, 1)] * 4).mean
    assert taught([record(1, 200, mishap="spilt")]) == ()
    (made,) = taught(good, {("plaster", "volume"): Choice(since=NOON + timedelta(days=2))})
    assert made.learnt.count == 2 and not made.used
    (made,) = taught(good, {("plaster", "volume"): Choice(off=True)})
    assert not made.used and in_use([made]) == ()
    against = record(1, 30, 20, predicted=25, quantity="hours")
    assert taught([against]) == () and FEWEST == 3


def factor(quantity, mean, label="paper-plaster"):
    return Factor(label=label, quantity=quantity, mean=mean, low=mean * 0.9, high=mean * 1.1, records=7)


def skinned(*factors):
    data = board(SKIN, coat("seal", "acrylic-sealer"))
    return {**data, "factors": [one.model_dump() for one in factors]}


def test_a_factor_moves_what_is_mixed_the_hours_and_the_hands_and_nothing_else():
    bare = plan(resolved(skinned()))
    for quantity in ("volume", "hours", "hands"):
        made = plan(resolved(skinned(factor(quantity, 1.25))))
        was, now = bare.lifts["skin"], made.lifts["skin"]
        assert now.volume_ml.number == was.volume_ml.number  # what stands in place is geometry
        more = now.mix_ml.number / was.mix_ml.number
        assert more == pytest.approx(1.25, abs=0.03) if quantity == "volume" else more == 1.0
        times = 1.25 if quantity == "hours" else 1.0
        assert now.hours.full.number == pytest.approx(was.hours.full.number * times)
        step, old = (next(one for one in each.steps if one.id == "skin") for each in (made, bare))
        hands = step.hands_on_min / old.hands_on_min
        assert hands == pytest.approx(1.25) if quantity == "hands" else hands < 1.3
        assert made.lifts["seal"].mix_ml.number == bare.lifts["seal"].mix_ml.number
    (told,) = [one for one in plan(resolved(skinned(factor("hours", 1.25)))).lifts["skin"].hours.full.working
               if one.what == "your records"]  # fmt: skip
    assert told.source == "× 1.25, 7 of them"


def test_a_dam_comes_off_once_it_is_hard_by_the_records_and_bubbles_are_looked_at_as_ever():
    edge = board({"id": "water", "kind": "pour", "mix": "casting-resin", "depth_mm": 5})
    edge["base"]["dammed"] = "all"
    slow = factor("hours", 1.5, "casting-resin").model_dump()
    bare, made = (plan(resolved({**edge, "factors": one})) for one in ([], [slow]))
    steps = [{one.kind: one.windows for one in each.steps} for each in (bare, made)]
    was, now = (each["dam-off"][0] for each in steps)
    assert (now.from_h, now.to_h) == (pytest.approx(was.from_h * 1.5), pytest.approx(was.to_h * 1.5))
    assert now.from_h == pytest.approx(made.lifts["water"].hours.usable.number)
    assert steps[0]["bubbles"] == steps[1]["bubbles"]


def test_a_preview_goes_by_it_too_and_other_labels_do_not():
    scene = resolved(skinned(factor("hours", 1.5), factor("volume", 1.2), factor("volume", 3.0, "plaster-2-3")))
    alone = lift_alone(site_of(scene, "skin"), scene.lift("skin")).plan
    made = plan(scene).lifts["skin"]
    assert alone.mix_ml.number == made.mix_ml.number and alone.hours.full.number == made.hours.full.number
    assert [one.label for one in scene.factors] == ["paper-plaster"] * 2


def test_a_factor_keeps_its_range_round_its_mean():
    (made,) = taught([record(number, 600) for number in range(5)])
    assert made.factor.low <= made.factor.mean <= made.factor.high and made.factor.mean <= 5
    assert np.isclose(sum(made.learnt.density), 1.0)


def with_factor(scene, label, quantity, mean):
    made = Factor(label=label, quantity=quantity, mean=mean, low=mean * 0.9, high=mean * 1.1, records=5)
    return scene.model_copy(update={"factors": (made,)})


def test_what_stays_in_the_cup_is_as_the_records_have_it():
    scene = resolved(scene_data())
    before, after = plan(scene), plan(with_factor(scene, "casting-resin", "cup", 2.0))
    for was, now in zip(before.batches, after.batches, strict=True):
        if now.mix != "casting-resin":
            assert now == was
            continue
        need = was.volume_ml.number - left_behind(was.volume_ml.number)
        assert now.volume_ml.number == pytest.approx(need + 2 * left_behind(now.volume_ml.number), rel=1e-6)
    lift = next(one for one in after.lifts.values() if one.kind == "pour")
    assert "× 2 as your records have it" in " ".join(term.what for term in lift.mix_ml.working)


def test_what_a_bed_drinks_is_as_the_records_have_it():
    data = scene_data()
    tarn = data["patches"][0]
    tarn["lifts"] = [one for one in tarn["lifts"] if one["kind"] in ("skin", "pour")]  # unsealed
    scene = resolved(data)
    skin = next(one["mix"] for one in tarn["lifts"] if one["kind"] == "skin")
    before, after = plan(scene), plan(with_factor(scene, skin, "bed", 1.5))
    name = next(one["id"] for one in tarn["lifts"] if one["kind"] == "pour")
    was, now = before.lifts[name].drunk_ml, after.lifts[name].drunk_ml
    assert was.number > 0 and now.number == pytest.approx(1.5 * was.number, rel=1e-6)
    assert (now.low, now.high) == pytest.approx((0.9 * now.number, 1.1 * now.number))
    assert after.lifts[name].mix_ml.number > before.lifts[name].mix_ml.number


def test_an_amount_has_the_range_that_records_leave():
    scene = resolved(scene_data())
    made = plan(with_factor(scene, "casting-resin", "volume", 1.2))
    mixed = next(one.mix_ml for one in made.lifts.values() if one.kind == "pour")
    assert (mixed.low, mixed.high) == pytest.approx((0.9 * mixed.number, 1.1 * mixed.number))
