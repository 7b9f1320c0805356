"""One bowl for several spots: nothing is lost on the way, and fewer bowls are left dirty."""

import copy

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.plan import plan
from tests.support.layups import board, coat
from tests.support.scenes import resolved, square


def strips(depths, mixes, bowl=400.0, copies=1):
    """Patches side by side, each with a skin, on a slab."""
    wide = 80
    count = len(depths)
    return {
        "isostasis": 1, "name": "Strips", "grid_mm": 5, "copies": copies, "bench": {"bowl_ml": bowl},
        "base": {"width_mm": wide * count, "depth_mm": 100},
        "forms": [{"id": "slab", "kind": "sheet", "outline": square(0, 0, wide * count, 100), "thickness_mm": 20}],
        "patches": [
            {"id": f"p{number}", "name": f"P{number}", "area": {"outline": square(wide * number, 0, wide * (number + 1), 100)},
             "lifts": [{"id": f"s{number}", "kind": "skin", "mix": mix, "depth_mm": depth}]}
            for number, (depth, mix) in enumerate(zip(depths, mixes, strict=True))
        ],
    }  # fmt: skip


MIXES = st.sampled_from(["paper-plaster", "plaster-2-3", "foam-putty"])


@given(st.lists(st.tuples(st.floats(1, 12), MIXES), min_size=1, max_size=5), st.floats(60, 900), st.integers(1, 4))
@settings(max_examples=30)
def test_what_is_mixed_is_what_every_spot_takes(spots, bowl, copies):
    depths, mixes = zip(*spots, strict=True)
    made = plan(resolved(strips(depths, mixes, bowl, copies)))
    fed = dict.fromkeys(made.lifts, 0.0)
    for batch in made.batches:
        assert batch.volume_ml.number <= bowl + 1e-6
        assert sum(feed.volume_ml.number for feed in batch.feeds) == pytest.approx(batch.volume_ml.number)
        assert len({made.lifts[feed.lift].kind for feed in batch.feeds}) == 1
        for feed in batch.feeds:
            fed[feed.lift] += feed.volume_ml.number
    for lift, plan_of in made.lifts.items():
        assert fed[lift] == pytest.approx(plan_of.mix_ml.number * copies)
        assert plan_of.mix_ml.number > plan_of.volume_ml.number
        assert sum(term.value for term in plan_of.mix_ml.working) == pytest.approx(plan_of.mix_ml.number)
        assert sum(part.mass_g.number for part in plan_of.ingredients) == pytest.approx(plan_of.mass_g.number)
    needs = sum(need.need.number for need in made.buy if need.material in ("water", "foam-putty"))
    assert needs >= 0


def test_spots_with_one_mix_share_their_bowls_in_the_order_of_the_document():
    made = plan(resolved(strips((4, 3, 5), ("paper-plaster", "foam-putty", "paper-plaster"))))
    shared = [batch for batch in made.batches if batch.mix == "paper-plaster"]
    assert [feed.lift for batch in shared for feed in batch.feeds] == ["s0", "s2"]
    assert shared[0].id == "s0-1-1"
    alone = copy.deepcopy(strips((4, 3, 5), ("paper-plaster", "foam-putty", "paper-plaster")))
    alone["patches"][2]["lifts"][0]["consistency"] = "cliff"  # another mix: a bowl of its own
    apart = plan(resolved(alone))
    assert len([batch for batch in apart.batches if batch.mix == "paper-plaster"]) == 2
    assert made.lifts["s0"].mix_ml.number < apart.lifts["s0"].mix_ml.number


def test_lifts_at_other_places_in_their_lay_ups_are_mixed_when_their_turn_comes():
    data = strips((4, 4), ("paper-plaster", "paper-plaster"))
    data["patches"][1]["lifts"].insert(0, {"id": "first", "kind": "coat", "material": "acrylic-sealer"})
    made = plan(resolved(data))
    assert [len(batch.feeds) for batch in made.batches if batch.mix == "paper-plaster"] == [1, 1]


def test_a_pour_keeps_a_cup_of_its_own_and_one_sealer_is_brushed_on_in_one_go(pond):
    pond["patches"].append({"id": "edge", "name": "Edge", "area": {"near": "edge", "within_mm": 20}, "lifts": [
        {"id": "seal", "kind": "coat", "material": "acrylic-sealer"}]})  # fmt: skip
    pond["patches"][0]["lifts"].insert(0, {"id": "bed", "kind": "coat", "material": "acrylic-sealer"})
    made = plan(resolved(pond))
    fed = {tuple(feed.lift for feed in batch.feeds) for batch in made.batches}
    assert ("bed", "seal") in fed
    assert all(len(lifts) == 1 for lifts in fed if "water" in lifts)


def test_resin_of_one_label_and_tint_is_pooled_over_spots():
    hollows = [
        {"id": f"hollow-{number}", "kind": "basin", "outline": square(20 + 90 * number, 40, 90 + 90 * number, 160),
         "depth_mm": 4}
        for number in range(3)
    ]  # fmt: skip
    data = board(forms=hollows)
    data["patches"] += [
        {"id": f"pool-{number}", "name": f"Pool {number}", "area": {"outline": square(15 + 90 * number, 30, 95 + 90 * number, 170)},
         "lifts": [{"id": f"seal-{number}", "kind": "coat", "material": "acrylic-sealer"},
                   {"id": f"water-{number}", "kind": "pour", "mix": mix, "depth_mm": 3}]}
        for number, mix in enumerate(("coating-resin", "coating-resin", "day-resin"))
    ]  # fmt: skip
    made = plan(resolved(data))
    poured = [batch for batch in made.batches if batch.mix.endswith("resin")]
    assert [{feed.lift for feed in batch.feeds} for batch in poured] == [{"water-0", "water-1"}, {"water-2"}]
    both = sum(made.lifts[name].mix_ml.number for name in ("water-0", "water-1"))
    assert poured[0].volume_ml.number == pytest.approx(both)
    assert {step.id: step for step in made.steps}["water-1"].bowl[0][0] == "water-0"


def test_spots_that_get_the_same_colour_are_coloured_in_one_go():
    tone = coat("tone", "paint-teal")
    data = board()
    data["patches"] = [
        {"id": name, "name": name.title(), "area": {"outline": outline}, "lifts": [{**tone, "id": f"{name}-tone"}]}
        for name, outline in (("west", square(0, 0, 150, 200)), ("east", square(150, 0, 300, 200)))
    ]
    made = plan(resolved(data))
    assert [[feed.lift for feed in batch.feeds] for batch in made.batches] == [["west-tone", "east-tone"]]
    second = next(step for step in made.steps if step.id == "east-tone")
    assert second.do.endswith("in one go with West") and second.bowl[0][0] == "west-tone"
