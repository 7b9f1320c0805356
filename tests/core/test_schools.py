"""Schools side by side say what the plan itself would say."""

import pytest

from isostasis.core.alternatives import alternatives
from isostasis.core.catalogue import shipped
from isostasis.core.lifts.kinds.shell import TROWELLED_MM, adopt
from isostasis.core.plan import plan
from isostasis.core.surface import water_looks
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
        assert all(notice.text in school.notes for notice in made.warnings)
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


def water(mix="casting-resin", **fields):
    data = heap()
    data["forms"].append({"id": "pond", "kind": "basin", "outline": square(20, 20, 120, 120), "depth_mm": 3})
    data["patches"].append({"id": "tarn", "name": "Tarn", "area": {"outline": square(20, 20, 120, 120)}, "lifts": [
        {"id": "water", "kind": "pour", "mix": mix, "depth_mm": 2, **fields}]})  # fmt: skip
    data["forms"] = [{"id": "slab", "kind": "sheet", "outline": square(0, 0, 160, 160), "thickness_mm": 20},
                     data["forms"][-1]]  # fmt: skip
    return data


def test_each_way_to_make_a_water_is_the_plan_with_it():
    data = water()
    scene = resolved(data)
    found = alternatives(scene, "water", shipped())
    resins = [name for name, way in found.items() if way.figures.get("peak_c")]
    assert len(resins) >= 4 and {"glue-water-1-1", "clear-gel", "varnish-water", "tissue"} <= found.keys()
    for name in (*resins, "clear-gel"):
        made = plan(resolved(water(name)))
        way, lift = found[name], made.lifts["water"]
        assert way.figures["mix_ml"].number == pytest.approx(lift.mix_ml.number), name
        hands = sum(step.hands_on_min for step in made.steps if step.lift == "water" and step.course) / 60
        assert way.figures["hands_h"].number == pytest.approx(hands), name
        assert way.figures["lifts"].number == len(lift.layers)
    # A rim of 2 mm stands on a wall, however deep it is poured; a coat that dries sinks from its own.
    assert found["casting-resin"].figures["flat_mm"].number == pytest.approx(2.06, abs=0.1)
    assert found["glue-water-1-1"].figures["flat_mm"].number < 1.5


def test_what_the_bed_looks_like_through_a_tinted_water():
    tint = [{"material": "acrylic-ink-teal", "drops_per_100_ml": 4}]
    clear, tinted = (
        alternatives(resolved(water(**fields)), "water", shipped())["casting-resin"] for fields in ({}, {"tint": tint})
    )
    assert clear.look[0] == clear.look[1]
    assert tinted.look[0] == clear.look[0] != tinted.look[1]
    scene = resolved(water(tint=tint))
    assert tinted.look[1] == water_looks(scene, scene.lift("water"), [2.0])[0]


def test_tissue_takes_paper_glue_and_varnish_over_the_pool_alone():
    found = alternatives(resolved(water()), "water", shipped())["tissue"]
    pool = plan(resolved(water())).lifts["water"].pools[0]
    assert f"{pool.volume_ml.number:.3g} ml" in found.remark
    alone = water()
    alone["patches"][-1]["lifts"] = [{"id": "sea", "kind": "waves", "layers": 3}]
    sheets = plan(resolved(alone)).lifts["sea"].mix_ml.number  # over the whole hollow, banks and all
    assert found.figures["mix_ml"].number < 2 * sheets
    days = sum(term.value for term in found.figures["whole_h"].working)
    assert found.figures["whole_h"].number == pytest.approx(days)
