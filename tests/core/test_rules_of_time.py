"""What a schedule must do by the craft: stacks, bowls, masks, scuffs, short acts, long steps, clocks on the wall."""

import json
from datetime import UTC, datetime, timedelta
from functools import partial
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.core.fault import Faults
from isostasis.core.hours import parse_hours
from isostasis.core.plan import Step, plan
from isostasis.core.schedule import Marks, ScheduleRequest, schedule
from isostasis.core.schedule.forecast import together
from tests.support.checker import check
from tests.support.layups import board, coat, codes, fix, texture
from tests.support.scenes import resolved, square

MONDAY = datetime(2027, 3, 1, 18, 0, tzinfo=UTC)
EVENINGS = parse_hours("mon-fri 19:00-22:00; sat 09:00-17:00")
POND = {"id": "hollow", "kind": "basin", "outline": square(50, 50, 250, 150), "depth_mm": 12, "bank_deg": 60}
SEAL = coat("seal", "acrylic-sealer")


def steps_of(data):
    return {step.id: step for step in plan(resolved(data)).steps}


def made_of(data, hours=EVENINGS, start=MONDAY, **asked):
    steps = list(steps_of(data).values())
    made = schedule(steps, ScheduleRequest(start, hours, **asked))
    return steps, made


def pour(**fields):
    return {"id": "water", "kind": "pour", "mix": "coating-resin", "depth_mm": 10, **fields}


def halves(**second):
    """Two spots side by side, each with a skin of the same compound."""
    skin = {"kind": "skin", "mix": "paper-plaster", "depth_mm": 3}
    data = board()
    data["patches"] = [
        {"id": "west", "name": "West", "area": {"outline": square(0, 0, 150, 200)}, "lifts": [{"id": "a", **skin}]},
        {"id": "east", "name": "East", "area": {"outline": square(150, 0, 300, 200)},
         "lifts": [{"id": "b", **skin, **second}]},
    ]  # fmt: skip
    return data


def test_a_stack_is_cut_and_glued_in_one_go_and_waits_once():
    data = board()
    data["forms"] = [
        {"id": f"sheet-{number}", "kind": "sheet", "outline": square(0, 0, 300 - 20 * number, 200), "thickness_mm": 10,
         "glue": "white-glue"}
        for number in range(4)
    ]  # fmt: skip
    steps = steps_of(data)
    assert set(steps) == {"form-sheet-0", "trial-fit", "glue-sheet-0"}
    assert steps["glue-sheet-0"].wait_h == 24  # a sandwich of foams with a water-based glue: twice the label's
    assert steps["glue-sheet-0"].forms == ("sheet-1", "sheet-2", "sheet-3")
    data["gates"] = [{"id": "foam", "name": "foam comes", "blocks": ["sheet-3"]}]
    assert "gate-foam" in steps_of(data)["form-sheet-0"].after
    data["forms"] = data["forms"][:2]
    data["gates"] = []
    assert steps_of(data)["glue-sheet-0"].wait_h == 12


def test_a_bowl_never_waits_for_what_it_feeds():
    together = plan(resolved(halves()))
    assert {feed.lift for feed in together.batches[0].feeds} == {"a", "b"}
    apart = plan(resolved(halves(after=["a"])))
    assert [[feed.lift for feed in batch.feeds] for batch in apart.batches] == [["a"], ["b"]]
    gated = halves()
    gated["gates"] = [{"id": "parcel", "name": "parcel", "not_before": "2027-03-05T10:00:00+00:00", "blocks": ["a"]}]
    assert [[feed.lift for feed in batch.feeds] for batch in plan(resolved(gated)).batches] == [["a"], ["b"]]


def test_three_spots_share_a_bowl_only_within_the_sum_of_its_time():
    data = halves()
    data["patches"].append({"id": "last", "name": "Last", "area": {"outline": square(0, 0, 60, 60)},
                            "lifts": [{**data["patches"][0]["lifts"][0], "id": "c"}]})  # fmt: skip
    steps = steps_of(data)
    gaps = [minutes for step in steps.values() for _, minutes in step.bowl]
    made = plan(resolved(data))
    batch = made.batches[0]
    laying = batch.volume_ml.number / resolved(data).bench.spread_ml_per_min
    assert len(gaps) == 2
    assert sum(gaps) + 0.9 * laying <= batch.working_min


def test_every_wet_lift_near_a_masked_thing_waits_for_its_mask():
    data = halves(mix="joint-compound", depth_mm=1)
    data["protect"] = [{"id": "track", "name": "Track", "path": [[10, 100], [290, 100]], "width_mm": 16}]
    data["gates"] = [{"id": "parcel", "name": "parcel", "not_before": "2027-03-05T10:00:00+00:00", "blocks": ["a"]}]
    steps, made = made_of(data)
    times = {one.id: one for one in made.steps}
    assert times["mask-track"].end <= min(times["a"].start, times["b"].start)
    assert times["bare-track"].start >= max(times["a"].ready, times["b"].ready)
    check(steps, EVENINGS, MONDAY, made)


def test_a_bond_window_that_passes_brings_a_scuff_and_is_never_impossible():
    data = board(SEAL, pour(), forms=[POND])
    steps, made = made_of(data, parse_hours("sat 09:00-12:00"))
    assert made.finish is not None
    assert "water-1-scuff" in {one.id for one in made.steps}
    assert any("scuff and wipe" in reason for reason in made.why)
    check(steps, parse_hours("sat 09:00-12:00"), MONDAY, made)
    every_day = parse_hours("mon-sun 08:00-22:00")
    steps, quick = made_of(data, every_day)
    assert "water-1-scuff" not in {one.id for one in quick.steps}
    check(steps, every_day, MONDAY, quick)
    done = MONDAY - timedelta(days=9)
    marks = Marks(done=dict.fromkeys(("form-hollow", "form-slab", "seal", "water-1", "water-1-scuff"), done))
    _, again = made_of(data, marks=marks)
    assert "water-1-scuff" not in {one.id for one in again.steps}


def test_a_pour_begins_early_enough_to_see_its_bubbles_out_or_says_who_is_missing():
    data = board(SEAL, pour(depth_mm=5, bubbles="flame"), forms=[POND])
    steps, made = made_of(data)
    times = {one.id: one for one in made.steps}
    assert times["water-bubbles"].start[:10] == times["water"].start[:10]
    assert {step.id: step for step in steps}["water-bubbles"].hazards == {"flame"}
    check(steps, EVENINGS, MONDAY, made)
    _, short = made_of(data, parse_hours("mon-sun 19:00-19:35"))
    assert short.finish is not None
    assert any("nobody will be there" in reason for reason in short.why)


def test_dams_come_off_when_it_is_hard_and_not_aged():
    data = board(SEAL, pour(depth_mm=3))
    data["base"]["dammed"] = "all"
    steps, made = made_of(data)
    known = {step.id: step for step in steps}
    act = known["water-dam-off"]
    assert "water-dam" in known["water"].after
    assert known["water-dam"].do.startswith("Dam All: 1 m of clear sheet")
    hard = plan(resolved(data)).lifts["water"].hours.usable.number
    assert act.windows[0].from_h == hard < act.windows[0].to_h
    check(steps, EVENINGS, MONDAY, made)


def test_what_no_session_holds_is_done_in_parts_if_the_craft_allows():
    data = board(coat(coats=1))
    data["copies"] = 80
    _, made = made_of(data, parse_hours("mon-sun 19:00-19:40"))
    parts = [one for one in made.steps if one.step == "coat"]
    assert len(parts) > 1
    assert any(f"in {len(parts)} parts" in reason for reason in made.why)
    assert all(first.end <= second.start for first, second in pairwise(parts))
    skin = board({"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 10})
    _, refused = made_of(skin, parse_hours("mon-sun 19:00-19:10"))
    assert refused.status == "infeasible"


def test_hours_are_on_the_wall_also_across_a_change_of_clocks(tmp_path):
    path = tmp_path / "scene.json"
    path.write_text(json.dumps(halves(after=["a"])))
    ask = ["schedule", str(path), "--start", "2027-03-27T12:00+01:00", "--hours", "sat-mon 19:00-22:00", "--json"]
    told = json.loads(CliRunner().invoke(main, [*ask, "--zone", "Europe/Oslo"]).output)
    starts = [datetime.fromisoformat(one["start"]) for one in told["steps"]]
    assert {start.utcoffset() for start in starts} == {timedelta(hours=1), timedelta(hours=2)}  # 28 March: put forward
    assert all(19 <= start.astimezone(ZoneInfo("Europe/Oslo")).hour < 22 for start in starts)
    odd = CliRunner().invoke(main, [*ask, "--zone", "Nowhere/Here"])
    assert odd.exit_code == 2
    assert "there is no zone" in odd.output


@pytest.mark.parametrize("offset", ["+01:00", ""])
def test_a_start_in_this_machines_zone_goes_by_its_clocks(tmp_path, monkeypatch, offset):
    import tzlocal

    monkeypatch.setattr(tzlocal, "get_localzone_name", lambda: "Europe/Oslo")
    path = tmp_path / "scene.json"
    path.write_text(json.dumps(halves(after=["a"])))
    ask = ["schedule", str(path), "--start", f"2027-03-27T12:00{offset}", "--hours", "sat-mon 19:00-22:00", "--json"]
    told = json.loads(CliRunner().invoke(main, ask).output)
    assert {one["start"][11:13] for one in told["steps"]} <= {"19", "20", "21"}
    assert {one["start"][-6:] for one in told["steps"]} == {"+01:00", "+02:00"}


def test_flame_and_vapour_are_kept_apart_over_all_spots():
    lifts = [SEAL, pour(depth_mm=3, bubbles="flame")]
    dusty = [texture(mix="quarry-dust", depth_mm=1), fix(wetting="alcohol-70")]
    data = board(*lifts, forms=[POND])
    data["patches"].append(
        {"id": "road", "name": "Road", "area": {"outline": square(0, 160, 300, 200)}, "lifts": dusty}
    )
    hours = parse_hours("mon-sun 19:00-20:20")
    steps, made = made_of(data, hours)
    check(steps, hours, MONDAY, made)
    codes = {caution.code: caution.steps for caution in plan(resolved(data)).cautions}
    assert codes["flame-vapour"] == ("water-bubbles",)  # not at every pour: at the flame
    assert "form-slab" in codes["hot-wire-foam"]


def test_hot_work_waits_for_vapour_and_says_so():
    def step(name, hazard, minutes, after=()):
        return Step(name, name, after, minutes, 0.0, kind="coat", hazards=frozenset({hazard}))

    steps = [step("lacquer", "solvent", 10), step("wire", "hot-wire", 10)]
    made = schedule(steps, ScheduleRequest(MONDAY, EVENINGS))
    check(steps, EVENINGS, MONDAY, made)  # the wire first: nothing waits
    steps = [step("lacquer", "solvent", 10), step("wire", "hot-wire", 10, ("lacquer",))]
    made = schedule(steps, ScheduleRequest(MONDAY, EVENINGS))
    check(steps, EVENINGS, MONDAY, made)
    assert any("not before the vapour of “lacquer” has gone" in reason for reason in made.why)


def test_stones_are_pressed_in_while_it_is_soft_and_colour_goes_on_the_damp_face():
    skin = {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 4}
    stones = texture(id="stones", mix="slate-scree", depth_mm=3, cover=0.3, into="soft")
    data = board(skin, stones, coat("tone"))
    steps, made = made_of(data)
    known = {step.id: step for step in steps}
    sets = plan(resolved(data)).lifts["skin"].hours.workable.number * 2
    assert known["stones"].after == ()  # its bed is all that it follows
    assert (known["stones"].windows[0].from_h, known["stones"].windows[0].to_h) == (0, pytest.approx(sets))
    assert set(known["tone"].after) == {"skin", "stones"}
    check(steps, EVENINGS, MONDAY, made)
    assert "unfixed" not in codes(plan(resolved(data)).lifts["stones"])
    washed = board(skin, coat("tone", into="soft"))
    window = steps_of(washed)["tone"].windows[0]
    assert (window.from_h, window.to_h) == (pytest.approx(sets), pytest.approx(sets + 1))
    with pytest.raises(Faults, match="nothing beneath it is ever soft"):
        plan(resolved(board(texture(), texture(id="more", into="soft"))))


def test_a_pour_rests_in_its_cup_as_long_as_that_stays_cool():
    rested = board(SEAL, pour(mix="casting-resin", depth_mm=3, rest_h=0.25), forms=[POND])
    steps, made = made_of(rested)
    known = {step.id: step for step in steps}
    assert "water-mix" in known["water"].after
    window = next(one for one in known["water"].windows if one.of == "water-mix")
    assert window.from_h == 0.25 < window.to_h
    check(steps, EVENINGS, MONDAY, made)
    at_once = plan(resolved(board(SEAL, pour(mix="casting-resin", depth_mm=3), forms=[POND])))
    assert plan(resolved(rested)).lifts["water"].hours.full.number < at_once.lifts["water"].hours.full.number
    hot = board(SEAL, pour(mix="quick-resin", depth_mm=3, rest_h=2), forms=[POND])
    with pytest.raises(Faults, match=r"in a cup would pass 50 °C or begin to gel; rest it [0-9]+ min at most"):
        plan(resolved(hot))


def test_posts_are_no_dam_and_a_kilogram_in_a_cup_is_told():
    stood = board(SEAL, pour(depth_mm=3, stands=[{"area_mm2": 20, "count": 4}]), forms=[POND])
    assert not any(step.kind in ("dam", "dam-off") for step in steps_of(stood).values())
    deep = {**board(SEAL, pour(mix="deep-resin", depth_mm=3), forms=[POND]), "copies": 60, "bench": {"cup_ml": 3000}}
    told = [notice for notice in plan(resolved(deep)).lifts["water"].warnings if notice.code == "heavy-cup"]
    assert "in one cup heats itself fast" in told[0].text


def test_only_resin_rests_in_a_cup():
    with pytest.raises(Faults, match="gains nothing by a rest"):
        plan(resolved(board(SEAL, pour(mix="glue-water-1-1", depth_mm=1, rest_h=0.5), forms=[POND])))


def scenes_by(*, due, hours=EVENINGS, **scenes):
    planned = {name: list(steps_of(data).values()) for name, data in scenes.items()}
    steps = together({name: partial(lambda found, _: found, found) for name, found in planned.items()})
    asked = ScheduleRequest(MONDAY, hours, due=due)
    made = schedule(steps, asked)
    ready = {}
    for one in made.steps:
        ready[one.scene] = max(ready.get(one.scene, one.ready), one.ready)
    return made, {name: datetime.fromisoformat(at) for name, at in ready.items()}


def coats(count, hours="paint-earth"):
    return board(coat(material=hours, coats=count))


def test_a_date_that_cannot_be_held_costs_no_other_its_own():
    quick, slow = coats(1), coats(9)
    _, alone = scenes_by(due={}, quick=quick)
    _, free = scenes_by(due={}, slow=slow)
    dates = {"quick": alone["quick"] + timedelta(minutes=30), "slow": free["slow"] - timedelta(hours=30)}
    made, ready = scenes_by(due=dates, quick=quick, slow=slow)
    assert made.status == "infeasible"
    assert ready["quick"] <= dates["quick"]
    # No later than if it were alone and had the hands to itself after the other's half hour.
    assert ready["slow"] <= free["slow"] + timedelta(days=1)
    assert [reason for reason in made.why if "after the date" in reason] == [
        reason for reason in made.why if reason.startswith("slow")
    ]


def test_a_bowl_is_not_torn_apart_by_another_scene_in_the_same_visit():
    made, _ = scenes_by(due={}, tile=halves(), other=coats(6))
    at = {one.id: one for one in made.steps}
    one, two = (at[f"tile/{name}"] for name in ("a", "b"))
    steps = steps_of(halves())
    minutes = dict(steps["b"].bowl)["a"]
    gap = (datetime.fromisoformat(two.start) - datetime.fromisoformat(one.end)) / timedelta(minutes=1)
    assert two.start[:10] != one.start[:10] or 0 <= gap <= minutes
