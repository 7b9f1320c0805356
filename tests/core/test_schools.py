"""Schools side by side say what the plan itself would say."""

import pytest

from isostasis.core.alternatives import alternatives
from isostasis.core.catalogue import shipped
from isostasis.core.lifts.kinds.shell import TROWELLED_MM, adopt
from isostasis.core.plan import plan
from tests.support.layups import heap
from tests.support.scenes import resolved, square


def test_each_school_of_a_skin_is_the_plan_with_that_mix():
    data = heap()
    found = alternatives(resolved(data), "skin", shipped())
    assert len(found) >= 8
    for name, school in found.items():
        data["patches"][0]["lifts"][1]["mix"] = name
        made = plan(resolved(data)).lifts["skin"]
        assert school.figures["amount"].number == pytest.approx(made.mix_ml.number), name
        assert school.figures["full_h"].number == pytest.approx(made.hours.full.number), name
        assert school.figures["weight_g"].number < made.mass_g.number
        assert all(notice.text in school.note for notice in made.warnings)
    assert found["paper-plaster"].figures["strength_mpa"].number > 5
    assert found["foam-putty"].figures["strength_mpa"] is None
    assert all(school.figures["cost"] is None for school in found.values())


def test_costs_of_schools_come_with_prices():
    data = heap()
    data["bench"] = {
        "prices": [
            {"material": "foam-putty", "amount": 11, "pack": 1000},
            {"material": "plaster-cloth", "amount": 6, "pack": 600_000},
        ]
    }
    found = alternatives(resolved(data), "skin", shipped())
    assert found["foam-putty"].figures["cost"].number == pytest.approx(
        found["foam-putty"].figures["amount"].number * 11 / 1000
    )
    cloth = alternatives(resolved(data), "cloth", shipped())["all"]
    assert cloth.figures["cost"].number == pytest.approx(
        plan(resolved(data)).lifts["cloth"].mix_ml.number * 1000 * 6 / 600_000
    )


def test_less_shell_takes_less_cloth_and_weighs_less():
    data = heap()
    data["base"]["joints_x_mm"] = [80]
    found = alternatives(resolved(data), "cloth", shipped())
    every, voids, none = found["all"], found["voids"], found["none"]
    assert every.figures["amount"].number == plan(resolved(data)).lifts["cloth"].strips.count.number
    assert every.figures["weight_g"].number > voids.figures["weight_g"].number > none.figures["weight_g"].number == 0
    # The paper's own draped area and 60 mm along the joint.
    paper = plan(resolved({**data, "patches": [
        {"id": "p", "name": "P", "area": {"outline": square(150, 50, 350, 250)}}]})).patches["p"].true_area_mm2.number  # fmt: skip
    data["patches"][0]["lifts"][0]["over"] = "voids"
    made = plan(resolved(data))
    area = next(term.value for term in made.lifts["cloth"].volume_ml.working if "over paper" in term.what)
    assert area == pytest.approx(paper + 60 * 300, rel=0.1)
    assert voids.figures["amount"].number == made.lifts["cloth"].strips.count.number
    # Away from the paper and the joint the skin goes straight on foam: nothing rises there but the skin.
    stage = made.built.stages["cloth"]
    rise = stage.after.z - stage.site.ground.z
    assert rise[2, 60] == 0 and rise[30, 50] == pytest.approx(2, rel=0.5) and rise[30, 16] == pytest.approx(2)
    assert "thirsty-timber" not in {notice.code for notice in made.lifts["cloth"].warnings}


def test_a_shell_can_be_trowelled_instead():
    data = heap()
    found = alternatives(resolved(data), "cloth", shipped())
    for name, depth in TROWELLED_MM.items():
        swapped = heap()
        lift = resolved(data).lift("cloth")
        swapped["patches"][0]["lifts"][0] = adopt(lift, f"trowel:{name}").model_dump(mode="json")
        made = plan(resolved(swapped)).lifts["cloth"]
        school = found[f"trowel:{name}"]
        assert school.figures["amount"].number == pytest.approx(made.mix_ml.number)
        assert school.figures["next_h"].number == pytest.approx(made.hours.next.number)
        assert made.layers[0].depth_mm.number == depth


def test_a_covered_square_metre_costs_more_than_one_of_roll():
    data = heap()
    data["bench"] = {"prices": [{"material": "plaster-cloth", "amount": 6, "pack": 600_000}]}
    strips = plan(resolved(data)).lifts["cloth"].strips
    assert strips.cost_m2.number > 2 * 6 / 0.6  # two layers of it, less overlaps
