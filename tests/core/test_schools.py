"""Schools side by side say what the plan itself would say."""

import pytest
from tests.conftest import resolved, square
from tests.core.test_shell import heap

from isostasis.core.alternatives import TROWELLED_MM, shells, skins, trowelled
from isostasis.core.plan import plan


def test_each_school_of_a_skin_is_the_plan_with_that_mix():
    data = heap()
    found = skins(resolved(data), "skin")
    assert len(found) >= 8
    for name, school in found.items():
        data["patches"][0]["lifts"][1]["mix"] = name
        made = plan(resolved(data)).lifts["skin"]
        assert school.amount.number == pytest.approx(made.mix_ml.number), name
        assert school.full_h.number == pytest.approx(made.hours.full.number), name
        assert school.weight_g.number < made.mass_g.number
        assert all(notice.text in school.note for notice in made.warnings)
    assert found["paper-plaster"].strength_mpa.number > 5
    assert found["foam-putty"].strength_mpa is None
    assert all(school.cost is None for school in found.values())


def test_costs_of_schools_come_with_prices():
    data = heap()
    data["bench"] = {"prices": [{"material": "foam-putty", "amount": 11, "pack": 1000}, {"material": "plaster-cloth", "amount": 6, "pack": 600_000}]}  # fmt: skip
    found = skins(resolved(data), "skin")
    assert found["foam-putty"].cost.number == pytest.approx(found["foam-putty"].amount.number * 11 / 1000)
    cloth = shells(resolved(data), "cloth")["all"]
    assert cloth.cost.number == pytest.approx(plan(resolved(data)).lifts["cloth"].mix_ml.number * 1000 * 6 / 600_000)


def test_less_shell_takes_less_cloth_and_weighs_less():
    data = heap()
    data["base"]["joints_x_mm"] = [80]
    found = shells(resolved(data), "cloth")
    every, voids, none = found["all"], found["voids"], found["none"]
    assert every.amount.number == plan(resolved(data)).lifts["cloth"].strips.count.number
    assert every.weight_g.number > voids.weight_g.number > none.weight_g.number == 0
    # The paper's own draped area and 60 mm along the joint.
    paper = plan(resolved({**data, "patches": [
        {"id": "p", "name": "P", "area": {"outline": square(150, 50, 350, 250)}}]})).patches["p"].true_area_mm2.number  # fmt: skip
    data["patches"][0]["lifts"][0]["over"] = "voids"
    made = plan(resolved(data))
    area = next(term.value for term in made.lifts["cloth"].volume_ml.working if "over paper" in term.what)
    assert area == pytest.approx(paper + 60 * 300, rel=0.1)
    assert voids.amount.number == made.lifts["cloth"].strips.count.number
    # Away from the paper and the joint the skin goes straight on foam: nothing rises there but the skin.
    stage = made.built.stages["cloth"]
    rise = stage.after.z - stage.site.ground.z
    assert rise[2, 60] == 0 and rise[30, 50] == pytest.approx(2, rel=0.5) and rise[30, 16] == pytest.approx(2)
    assert "thirsty-timber" not in {notice.code for notice in made.lifts["cloth"].warnings}


def test_a_shell_can_be_trowelled_instead():
    data = heap()
    found = shells(resolved(data), "cloth")
    for name, depth in TROWELLED_MM.items():
        swapped = heap()
        lift = resolved(data).lift("cloth")
        swapped["patches"][0]["lifts"][0] = trowelled(lift, name).model_dump(mode="json")
        made = plan(resolved(swapped)).lifts["cloth"]
        school = found[f"trowel:{name}"]
        assert school.amount.number == pytest.approx(made.mix_ml.number)
        assert school.next_h.number == pytest.approx(made.hours.next.number)
        assert made.layers[0].depth_mm.number == depth


def test_a_covered_square_metre_costs_more_than_one_of_roll():
    data = heap()
    data["bench"] = {"prices": [{"material": "plaster-cloth", "amount": 6, "pack": 600_000}]}
    strips = plan(resolved(data)).lifts["cloth"].strips
    assert strips.cost_m2.number > 2 * 6 / 0.6  # two layers of it, less overlaps
