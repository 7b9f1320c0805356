"""Choices that practice has: smoothing, waves, seals and wiping, blotted colour, the shore, powders, battens, dust."""

from datetime import UTC, datetime

import pytest

from isostasis.core.fault import Faults
from isostasis.core.hours import parse_hours
from isostasis.core.plan import plan
from isostasis.core.schedule import ScheduleRequest, schedule
from isostasis.core.surface import looks
from tests.support.checker import check
from tests.support.layups import SKIN, board, coat, codes, texture
from tests.support.scenes import resolved, square

MONDAY = datetime(2027, 3, 1, 18, 0, tzinfo=UTC)
POND = {"id": "hollow", "kind": "basin", "outline": square(50, 50, 250, 150), "depth_mm": 12, "bank_deg": 60}
ALL_DAY = parse_hours("mon-sun 08:00-22:00")
SHELL = {"id": "cloth", "kind": "shell", "material": "plaster-cloth", "layers": 2}
TRACK = {"id": "track", "name": "Track", "path": [[10, 100], [290, 100]], "width_mm": 16}


def pour(**fields):
    return {"id": "water", "kind": "pour", "mix": "coating-resin", "depth_mm": 5, **fields}


def steps_of(data):
    return {step.id: step for step in plan(resolved(data)).steps}


def times_of(data, hours=ALL_DAY):
    steps = list(steps_of(data).values())
    made = schedule(steps, ScheduleRequest(MONDAY, hours))
    check(steps, hours, MONDAY, made)
    return {one.id: one for one in made.steps}, made


def test_cloth_is_smoothed_once_more_while_it_stiffens():
    steps = steps_of(board(SHELL))
    assert [steps[f"cloth-{number}-smooth"].windows[0].of for number in (1, 2)] == ["cloth-1", "cloth-2"]
    window = steps["cloth-2-smooth"].windows[0]
    assert (round(window.from_h * 60, 1), round(window.to_h * 60, 1)) == (
        2.9,
        5.8,
    )  # half of 6 min at 21 °C, to its set
    times, _ = times_of(board(SHELL))
    assert times["cloth-1"].end <= times["cloth-1-smooth"].start < times["cloth-2"].start


def test_waves_are_tried_from_early_in_their_window_until_a_late_gel():
    steps = steps_of(board(coat("seal", "acrylic-sealer"), pour(waves=True), forms=[POND]))
    waves = steps["water-waves"]
    plain = {one.what: one for one in plan(resolved(board(coat("seal", "acrylic-sealer"), pour(), forms=[POND]))).lifts[
        "water"].windows}["waves of 15 mm keep half"]  # fmt: skip
    assert waves.windows[0].from_h == pytest.approx(0.85 * plain.from_h)
    assert waves.windows[0].to_h == pytest.approx(1.15 * plain.to_h)
    assert "kept cup" in waves.do
    times, _ = times_of(board(coat("seal", "acrylic-sealer"), pour(waves=True), forms=[POND]))
    assert times["water-waves"].start > times["water"].end


def test_a_pour_whose_bubbles_nobody_sees_is_covered_at_once():
    data = board(coat("seal", "acrylic-sealer"), pour(), forms=[POND])
    _, made = times_of_short(data)
    assert any("cover it from dust as soon as it is poured" in reason for reason in made.why)


def times_of_short(data):
    made = schedule(list(steps_of(data).values()), ScheduleRequest(MONDAY, parse_hours("mon-sun 19:00-19:35")))
    return {one.id: one for one in made.steps}, made


def test_a_card_kit_is_sealed_before_wet_work_and_never_bared():
    data = board(SKIN)
    data["protect"] = [{**TRACK, "how": "seal"}]
    made = plan(resolved(data))
    steps = {step.id: step for step in made.steps}
    assert "seal-track" in steps["skin"].after and steps["seal-track"].wait_h > 0
    assert not {"mask-track", "bare-track"} & set(steps)
    bought = {need.material: need.need.number for need in made.buy}
    assert bought["matt-varnish"] == pytest.approx(280 * 16 * 0.1 / 1000)
    data["protect"] = [{**TRACK, "how": "seal", "material": "paint-white"}]
    with pytest.raises(Faults, match="seals nothing"):
        plan(resolved(data))


def test_an_edge_is_wiped_while_each_lift_near_it_is_wet():
    data = board(SKIN)
    data["protect"] = [{**TRACK, "how": "wipe"}]
    steps = steps_of(data)
    window = steps["wipe-track-skin"].windows[0]
    assert (window.of, window.from_h) == ("skin", 0.0) and window.to_h > 0
    times, _ = times_of(data)
    assert times["wipe-track-skin"].start >= times["skin"].end


def test_colour_that_is_blotted_soaks_into_a_skin_of_the_same_day():
    blotted = {"id": "tone", "kind": "coat", "material": "paint-earth", "coats": 1, "how": "blot"}
    brushed = {**blotted, "how": "brush"}
    data = board(SKIN, blotted)
    times, _ = times_of(data)
    assert times["tone"].start[:10] == times["skin"].end[:10]
    waited, _ = times_of(board(SKIN, brushed))
    assert waited["tone"].start > times["tone"].start
    one, other = plan(resolved(data)).lifts["tone"], plan(resolved(board(SKIN, brushed))).lifts["tone"]
    assert one.left_mm.number == pytest.approx(other.left_mm.number / 2)
    assert one.volume_ml.number == other.volume_ml.number
    spot = resolved(data).patches[0].id
    assert looks(resolved(data), spot)["tone"].dry != looks(resolved(board(SKIN, brushed)), spot)["tone"].dry
    assert "blot it" in steps_of(data)["tone"].do


def test_a_retouch_keeps_to_the_shore_and_a_later_gloss_makes_it_right():
    retouch = {**texture(id="soil", mix="sifted-soil", depth_mm=1), "school": "onto-glue", "shore_mm": 6}
    gloss = coat("gloss", "gloss-varnish")
    data = board(coat("seal", "acrylic-sealer"), pour(depth_mm=6), retouch, gloss, forms=[POND])
    data["grid_mm"] = 2
    made = plan(resolved(data))
    # The water's edge runs some 580 mm round: 6 mm of water, 3.5 of the bank, twice as much on its face, 2.5 above it.
    thick = made.lifts["soil"].layers[0].depth_mm.number
    assert made.lifts["soil"].volume_ml.number == pytest.approx(580 * 15.4 * thick / 1000, rel=0.1)
    assert "gloss-before-retouch" not in codes(made.lifts["soil"])
    with pytest.raises(Faults, match="no water before it"):
        plan(resolved(board(retouch)))


def test_a_powder_is_weighed_into_the_water_and_never_counted_in_drops():
    tint = [{"material": "shimmer-powder", "g_per_100_ml": 0.5}]
    made = plan(resolved(board(coat("seal", "acrylic-sealer"), pour(tint=tint), forms=[POND]))).lifts["water"]
    powder = next(one for one in made.ingredients if one.material == "shimmer-powder")
    assert powder.drops is None
    assert powder.mass_g.number == pytest.approx(made.mix_ml.number * 0.005)
    with pytest.raises(Faults, match="just one of them"):
        plan(resolved(board(pour(tint=[{"material": "shimmer-powder"}]), forms=[POND])))


def test_battens_answer_a_board_that_warps_and_come_before_all_that_is_wet():
    data = board(SHELL)
    data["forms"] = []
    data["base"]["board"] = "hardboard-3"
    assert "board-warps" in codes(plan(resolved(data)).lifts["cloth"])
    data["base"]["battens"] = 2
    assert "board-warps" not in codes(plan(resolved(data)).lifts["cloth"])
    made = plan(resolved(data))
    steps = {step.id: step for step in made.steps}
    assert "battens" in steps["cloth-1"].after
    assert {need.material: need.need.number for need in made.buy}["batten"] == 2


def test_dust_after_dust_is_told_from_the_second_dusty_step_on():
    data = board(SKIN, texture(id="dust", depth_mm=1))
    made = plan(resolved(data))
    told = {caution.code: caution.steps for caution in made.cautions}
    assert told["powder-dust"][1:] == told["dust-settles"] and "skin" not in told["dust-settles"]


def test_a_cup_that_serves_two_ponds_is_told_where_it_grows_heavy():
    data = board(forms=[])
    data["bench"] = {"cup_ml": 2000, "spread_ml_per_min": 500}
    data["base"]["dammed"] = "all"
    for number, west in enumerate((0, 150)):
        data["forms"].append({**POND, "id": f"pond-{number}", "outline": square(west + 10, 10, west + 140, 190),
                              "depth_mm": 30, "bank_deg": 90})  # fmt: skip
    data["forms"].insert(0, {"id": "foam", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 40})
    data["patches"] = [
        {"id": f"p{number}", "name": f"P{number}", "area": {"outline": square(west, 0, west + 150, 200)},
         "lifts": [{"id": f"water-{number}", "kind": "pour", "mix": "deep-resin", "depth_mm": 25}]}
        for number, west in enumerate((0, 150))
    ]  # fmt: skip
    made = plan(resolved(data))
    assert max(len(batch.feeds) for batch in made.batches) == 2
    assert all(batch.volume_ml.number > 900 for batch in made.batches)
    assert "heavy-cup" in {one.code for one in made.lifts["water-0"].warnings}


def test_a_step_names_the_batches_that_it_is_fed_from():
    made = plan(resolved(board(SKIN, coat("seal", "acrylic-sealer"), pour(), forms=[POND])))
    by_id = {batch.id: batch for batch in made.batches}
    for step in made.steps:
        if step.kind in ("skin", "pour"):
            assert step.batch
        assert all(any(feed.into == step.lift and feed.layer == step.course for feed in by_id[name].feeds)
                   for name in step.batch)  # fmt: skip
    assert {name for step in made.steps for name in step.batch} == set(by_id)
