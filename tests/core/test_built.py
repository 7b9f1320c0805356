"""What was done is a fact, and the rest is planned from it."""

import json

import pytest

from isostasis.core.built.remains import layable_ml
from isostasis.core.document.built import BuiltBatch, BuiltPart
from isostasis.core.fault import Faults
from isostasis.core.reading import read
from tests.support.casting import Bench
from tests.support.layups import SKIN, board, coat, texture
from tests.support.scenes import square

POND = {"id": "hollow", "kind": "basin", "outline": square(50, 50, 250, 150), "depth_mm": 12, "bank_deg": 60}
SEAL = coat("seal", "acrylic-sealer")
SLAB = {"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 40}


def pour(**fields):
    return {"id": "water", "kind": "pour", "mix": "casting-resin", **fields}


def pond(*lifts, **form):
    data = board(*lifts)
    data["forms"] = [SLAB, {**POND, **form}]
    return data


def test_what_is_done_is_never_planned_again_and_needs_nothing_more():
    bench = Bench(pond(SKIN, SEAL, pour(level_mm=36))).do_all()
    assert bench.open_steps() == []
    made = bench.plan
    assert {lift.state for lift in made.lifts.values()} == {"done"}
    assert made.batches == () and made.buy == () and made.off is None
    assert all(step.built for step in made.steps if step.lift)


def test_a_level_that_is_raised_asks_for_what_is_missing_alone():
    bench = Bench(pond(SEAL, pour(level_mm=36))).do_all()
    stood = bench.built[-1].volume_ml
    bench.lift("water")["level_mm"] = 38
    whole = Bench(bench.data).plan.lifts["water"].volume_ml.number
    made = bench.plan
    left = made.lifts["water"]
    assert left.state == "part"
    assert left.remains_ml.number == pytest.approx(whole - stood, rel=0.01)
    step = bench.open_steps()[0]
    assert (step.id, step.lift, step.course) == ("water-2", "water", 2)
    batch = next(batch for batch in made.batches if batch.id in step.batch)
    assert left.remains_ml.number < batch.volume_ml.number < left.remains_ml.number * 1.3
    assert {need.material for need in made.buy} == {"casting-resin"}
    bench.do_all()
    assert bench.open_steps() == []
    assert bench.works("water").built_ml == pytest.approx(whole, rel=0.01)


def test_a_lift_and_another_lifts_course_never_share_an_id():
    twice, after = {**coat("seal", "acrylic-sealer"), "coats": 2}, coat("seal-2", "matt-varnish")
    bench = Bench(pond(twice, after))
    assert bench.open_steps()[-3].id == "seal-1"
    assert [(step.id, step.lift) for step in bench.open_steps()[-2:]] == [
        ("seal-course-2", "seal"),
        ("seal-2", "seal-2"),
    ]
    bench = Bench(pond(twice)).do_all()
    bench.data["patches"][0]["lifts"].append(after)
    assert [(step.id, step.lift) for step in bench.open_steps()] == [("seal-2-course-1", "seal-2")]


def test_a_second_cut_and_another_forms_first_never_share_an_id():
    bench = Bench(pond(SKIN)).do("form-slab").do("form-hollow")
    bench.data["forms"][1]["depth_mm"] = 20
    bench.data["forms"].append({**POND, "id": "hollow-2", "outline": square(10, 10, 40, 40)})
    made = bench.plan
    ids = [step.id for step in made.steps]
    assert len(ids) == len(set(ids))
    steps = {step.form: step.id for step in bench.open_steps() if step.form}
    assert steps == {"hollow": "form-hollow-3", "hollow-2": "form-hollow-2"}


def test_what_is_glued_stays_glued_whatever_glue_is_named_now():
    bench = Bench(pond(SEAL))
    bench.data["forms"][0]["glue"] = "white-glue"
    bench.do_all()
    bench.data["forms"][0]["glue"] = "contact-glue"
    assert bench.open_steps() == [] and bench.plan.buy == ()


def test_one_lift_made_two_asks_for_nothing_more():
    bench = Bench(pond(SEAL, pour(level_mm=36))).do_all()
    bench.lift("water")["lifts"] = [4, 4]
    bench.lift("water").update(level_mm=None, depth_mm=8)
    assert bench.open_steps() == [] and bench.plan.lifts["water"].state == "done"


def test_the_second_lift_of_two_is_as_it_was_planned():
    bench = Bench(pond(SEAL, pour(depth_mm=10, lifts=[5, 5])))
    before = bench.plan
    bench.do_all("water-1")
    step = bench.open_steps()[0]
    assert step.id == "water-2"
    assert bench.plan.layer(step).volume_ml.number == before.lifts["water"].layers[1].volume_ml.number
    assert step.wait_h == next(one for one in before.steps if one.id == "water-2").wait_h
    assert step.after[-1] == "water-1" and step.windows[-1].of == "water-1"


def test_a_removed_coat_never_marks_the_varnish_that_takes_its_place():
    bench = Bench(board(SKIN, coat("tone", "paint-earth"))).do_all()
    bench.data["patches"][0]["lifts"][1] = coat("gloss", "gloss-varnish")
    made = bench.plan
    assert made.lifts["gloss"].state == "new" and [step.id for step in bench.open_steps()] == ["gloss"]
    assert made.lifts["tone"].state == "done"  # it stays beneath
    assert made.off is None
    bench.do_all()
    assert bench.open_steps() == []


def test_a_skin_made_thicker_lays_what_is_missing():
    bench = Bench(board(SKIN)).do_all()
    bench.lift("skin")["depth_mm"] = 6
    made = bench.plan
    assert made.lifts["skin"].state == "part"
    assert made.lifts["skin"].remains_ml.number == pytest.approx(300 * 200 * 3 / 1000)
    step = bench.open_steps()[0]
    assert step.id == "skin-2" and step.batch
    assert made.works["skin"].estimate.plan.layers[0].depth_mm.number == pytest.approx(3)
    bench.do_all()
    assert bench.open_steps() == []
    bench.lift("skin")["depth_mm"] = 5
    assert "too-much-there" in {one.code for one in bench.plan.lifts["skin"].warnings}
    bench.lift("skin")["depth_mm"] = 9
    assert [step.id for step in bench.open_steps()] == ["skin-3"]


def test_a_deepened_pond_is_cut_anew_and_its_skin_goes():
    data = pond(SKIN)
    data["forms"].append({"id": "hut", "kind": "sheet", "outline": square(5, 5, 40, 40), "thickness_mm": 5})
    bench = Bench(data).do_all()
    skin = bench.built[-1].volume_ml
    bench.data["forms"][1]["depth_mm"] = 20
    made = bench.plan
    off = made.off[0]
    hollow = 200 * 100  # of 300 x 200
    assert 0.9 * hollow < off.area_mm2.number < 1.35 * hollow
    assert "form-hollow-2" in next(step for step in made.steps if step.id == "skin-2").after
    ids = [step.id for step in bench.open_steps()]
    assert set(ids) == {"off-all", "form-hollow-2", "skin-2"}
    steps = {step.id: step for step in made.steps}
    assert "off-all" in steps["form-hollow-2"].after and "off-all" in steps["skin-2"].after
    assert steps["off-all"].hazards == {"dust", "cutting"} and steps["off-all"].hands_on_min > 5
    left = made.lifts["skin"]
    assert left.state == "part"
    whole = Bench(bench.data).plan.lifts["skin"].volume_ml.number
    there = skin - off.volume_ml.number
    assert there + left.remains_ml.number == pytest.approx(whole, rel=0.01)
    bench.do_all()
    assert bench.open_steps() == [] and bench.plan.off is None
    kept = sum((layer.entry.volume_ml or 0) * layer.kept for layer in bench.works("skin").layers)
    assert kept == pytest.approx(whole, rel=0.01)


def test_a_form_that_moved_takes_its_skin_along_both_ways():
    hut = {"id": "hut", "kind": "sheet", "outline": square(20, 20, 80, 80), "thickness_mm": 10}
    data = board(SKIN)
    data["forms"] = [SLAB, hut]
    bench = Bench(data).do_all()
    bench.data["forms"][1]["outline"] = square(180, 20, 240, 80)
    made = bench.plan
    assert made.off[0].area_mm2.number == pytest.approx(2 * 70 * 70, rel=0.2)
    assert made.lifts["skin"].remains_ml.number == pytest.approx(2 * 70 * 70 * 3 / 1000, rel=0.2)
    assert {step.id for step in bench.open_steps()} == {"off-all", "form-hut-2", "skin-2"}


def test_what_is_less_than_hands_can_lay_is_no_work():
    assert [layable_ml(ml) for ml in (500, 30, 2)] == [10, 1, 0.2]
    bench = Bench(board(SKIN)).do_all()
    bench.lift("skin")["depth_mm"] = 3.02
    assert bench.open_steps() == [] and bench.plan.lifts["skin"].state == "done"
    bench.data["patches"][0]["area"] = {"outline": square(0, 0, 299, 200)}
    assert bench.open_steps() == [] and bench.plan.off is None


def test_half_done_leaves_the_other_half():
    bench = Bench(board(coat("tone", "paint-earth", coats=2)))
    whole = bench.plan.lifts["tone"].volume_ml.number
    bench.do("form-slab").do("tone-1").do("tone-2", share=0.5)
    left = bench.plan.lifts["tone"]
    assert left.state == "part"
    assert left.remains_ml.number == pytest.approx(whole / 4, rel=0.02)
    assert [step.id for step in bench.open_steps()] == ["tone-3"]
    bench.do_all()
    assert bench.open_steps() == []


def test_half_of_a_pour_leaves_the_rest_of_it():
    bench = Bench(pond(SEAL, pour(level_mm=36)))
    whole = bench.plan.lifts["water"].volume_ml.number
    bench.do_all("seal").do("water", share=0.5)
    assert bench.plan.lifts["water"].remains_ml.number == pytest.approx(whole / 2, rel=0.02)


def test_what_lies_under_what_was_built_cannot_be_laid():
    bench = Bench(board(SKIN, texture(id="bed", depth_mm=1))).do_all()
    bench.data["patches"][0]["lifts"].insert(1, coat("tone", "paint-earth"))
    made = bench.plan
    assert made.lifts["tone"].state == "covered"
    assert "in-the-way" in {one.code for one in made.lifts["tone"].warnings}
    assert bench.open_steps() == []


def test_a_skin_that_is_planned_no_more_comes_off_and_under_others_it_stays():
    bench = Bench(board(SKIN)).do_all()
    bench.data["patches"][0]["lifts"] = [coat("tone", "paint-earth")]
    made = bench.plan
    assert made.off[0].volume_ml.number == pytest.approx(180)
    assert {step.id for step in bench.open_steps()} == {"off-all", "tone"}
    bench.do_all()
    assert bench.open_steps() == [] and bench.plan.off is None
    under = Bench(board(SKIN, texture(id="bed", depth_mm=1))).do_all()
    under.data["patches"][0]["lifts"].pop(0)
    assert under.plan.off is None and under.open_steps() == []


def test_hours_go_by_the_label_it_was_laid_with():
    bench = Bench(pond(SEAL, pour(level_mm=36, mix="day-resin"))).do_all()
    wait = bench.step("water").wait_h
    bench.lift("water")["mix"] = "deep-resin"
    assert bench.step("water").wait_h == wait
    assert "built-of-other" in {one.code for one in bench.plan.lifts["water"].warnings}
    assert bench.open_steps() == []


def test_a_batch_off_its_ratio_takes_longer():
    def waits(second):
        bench = Bench(pond(SEAL, pour(level_mm=36, mix="day-resin"))).do_all("seal")
        parts = [("A", 100, 100), ("B", 95, second)]
        mixed = BuiltBatch(batch="water-1-1", mix="day-resin", parts=tuple(
            BuiltPart(material="day-resin", part=part, planned_g=planned, actual_g=actual)
            for part, planned, actual in parts))  # fmt: skip
        bench.do("water", actual=mixed)
        return bench.step("water").wait_h

    assert waits(95) == pytest.approx(waits(96))
    assert waits(89) == pytest.approx(waits(95) * (1 + 2 * (1 - 89 / 95)))
    assert waits(60) == pytest.approx(waits(95) * 2)


@pytest.mark.parametrize(("field", "value", "said"), [
    ("ground", "moon", "built[1].ground: there is no ground 'moon' in built_on; one of g1, g2"),
    ("patch", "moor", "built[1].patch: 'moor' is no patch of the ground 'g2'; one of all"),
    ("over", [[10**10, 0.5]], "it runs over more cells than a ground can have"),
    ("to", "2027-03-02T19:00:00", "write it with its zone"),
    ("id", "b1", "'b1' is the id of an earlier record"),
])  # fmt: skip
def test_a_record_that_cannot_be_is_refused_in_a_sentence(field, value, said):
    bench = Bench(board(SKIN)).do_all()
    data = json.loads(bench.scene.model_dump_json(exclude_none=True))
    data["built"][1][field] = value
    with pytest.raises(Faults) as refused:
        read(data)
    assert said in " ".join(str(fault) for fault in refused.value.faults)


def test_a_patch_beside_a_flat_that_is_kept_no_more_lies_where_it_lay():
    data = board()
    data["flats"] = [{"id": "pad", "name": "Pad", "outline": square(100, 80, 160, 120), "flat_mm": 1}]
    data["patches"] = [{"id": "apron", "name": "Apron", "area": {"near": "pad", "within_mm": 20}, "lifts": [SKIN]}]
    bench = Bench(data).do_all()
    area = bench.works("skin").layers[0].area_mm2
    bench.data["flats"] = []
    bench.data["patches"][0]["area"] = {"outline": square(80, 60, 180, 140)}
    assert bench.works("skin").layers[0].area_mm2 == area == pytest.approx(100 * 80, rel=0.08)
