"""Looking ahead on real scenes: waits along the room's series, gates and places, several scenes, what buys time."""

from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest

from isostasis.core.catalogue import shipped
from isostasis.core.document.resolve import resolve
from isostasis.core.hours import parse_hours
from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.core.schedule import Marks, ScheduleRequest
from isostasis.core.schedule.forecast import now_in, options, scheduled, steps_of
from isostasis.demo import HOURS as DEMO_HOURS
from isostasis.demo import SCENES
from isostasis.demo import document as demo
from tests.support.checker import check
from tests.support.scenes import scene_data

START = datetime(2027, 3, 1, 12, tzinfo=UTC)
HOURS = parse_hours("mon-fri 19:00-22:00; sat 09:00-17:00")
ASKED = ScheduleRequest(START, HOURS)


def scene(file="tarn", **more):
    return resolve(read({**scene_data(file), **more}), shipped())


def series(*temps):
    return [{"at": (START + timedelta(days=n)).isoformat(), "temp_c": t, "rh": 0.5} for n, t in enumerate(temps)]


def test_the_room_at_the_time_counts():
    steady = scene(room={"temp_c": 21, "rh": 0.5})
    cold = scene(room={"temp_c": 21, "rh": 0.5, "series": series(21, 21, 21, 12, 12)})
    at = steps_of({"tarn": cold})
    early, late = ({one.id: one.wait_h for one in at(START + timedelta(days=day))} for day in (0, 4))
    assert early["tarn-skin"] < late["tarn-skin"]
    assert {one.id: one.wait_h for one in steps_of({"tarn": steady})(START)}["tarn-skin"] <= early["tarn-skin"] + 1e-6
    made = scheduled({"tarn": cold}, ASKED)
    check(at(START), HOURS, START, made, at)
    assert made.finish > scheduled({"tarn": steady}, ASKED).finish


@pytest.mark.parametrize("name", SCENES)
@pytest.mark.parametrize("nights", [None, 13.0])
def test_the_demo_scenes_schedules_hold(name, nights):
    """By the checker that knows nothing of the solver, in a steady room and in one with cold nights."""
    data = demo(name)
    if nights is not None:
        data["room"] = {"temp_c": 20.0, "rh": 0.5, "series": [
            {"at": (START + timedelta(hours=12 * n)).isoformat(), "temp_c": 20.0 if n % 2 else nights, "rh": 0.5}
            for n in range(40)
        ]}  # fmt: skip
    one = resolve(read(data), shipped())
    hours = parse_hours(DEMO_HOURS)
    made = scheduled({name: one}, ScheduleRequest(START, hours))
    assert made.status == "optimal"
    at = steps_of({name: one})
    check(at(START), hours, START, made, at)


def test_a_series_without_zone_and_a_start_before_it():
    room = scene(room={"series": [{"at": "2027-03-01T12:00", "temp_c": 15, "rh": 0.6},
                                  {"at": "2027-03-02T12:00", "temp_c": 25, "rh": 0.4}]}).room  # fmt: skip
    assert [one.temp_c for one in room.since(START - timedelta(days=3)).series] == [15, 15, 25]
    assert [one.temp_c for one in room.since(START + timedelta(hours=30)).series] == [25]


def test_a_gate_holds_up_what_it_blocks_until_its_day():
    gates = [
        {"id": "stone", "name": "Stone is delivered", "not_before": "2027-03-09T12:00+00:00", "blocks": ["bank-soil"]}
    ]
    held = scene(gates=gates)
    steps = {step.id: step for step in plan(held).steps}
    assert steps["gate-stone"].gate == "stone" and "gate-stone" in steps["bank-soil"].after
    made = {one.id: one for one in scheduled({"tarn": held}, ASKED).steps}
    assert made["bank-soil"].start >= "2027-03-09T19:00" and made["gate-stone"].start == "2027-03-09T12:00+00:00"
    done = scene(gates=[{**gates[0], "done": True}])
    assert "gate-stone" not in {step.id for step in plan(done).steps}
    undated = scheduled({"tarn": scene(gates=[{**gates[0], "not_before": None}])}, ASKED)
    assert undated.finish and "has no date: it is taken as there from the start" in undated.why[0]


def test_a_place_has_its_own_room_and_hours():
    data = scene_data("tarn")
    next(p for p in data["patches"] if p["id"] == "rest")["lifts"][0]["place"] = "garage"
    cold = {"id": "garage", "name": "Garage", "room": {"temp_c": 8, "rh": 0.7}, "hours": "sat 10:00-16:00"}
    away = scene(**{**data, "places": [cold]})
    here = {step.id: step.wait_h for step in plan(scene()).steps}
    there = {step.id: step for step in plan(away).steps}
    assert there["bank-shell-2"].wait_h > here["bank-shell-2"] and there["bank-shell-2"].place == "garage"
    assert there["tarn-skin"].wait_h == pytest.approx(here["tarn-skin"])
    made = {one.id: one for one in scheduled({"tarn": away}, ASKED).steps}
    assert datetime.fromisoformat(made["bank-shell-2"].start).strftime("%a") == "Sat"


def test_several_scenes_share_one_pair_of_hands():
    both = {"tarn": scene(), "pools": scene("tarn-first-kinds")}
    made = scheduled(both, ASKED)
    busy = sorted((one.start, one.end) for one in made.steps)
    assert all(end <= begin for (_, end), (begin, _) in pairwise(busy))
    assert {one.id.split("/")[0] for one in made.steps} == {"tarn", "pools"}
    check(steps_of(both)(START), HOURS, START, made)
    assert made.finish >= max(scheduled({"one": one}, ASKED).finish for one in both.values())


def test_what_would_buy_time_is_scheduled_not_guessed():
    tarn = {"tarn": scene(room={"temp_c": 15, "rh": 0.6})}
    made = scheduled(tarn, ASKED)
    found = {one.name: one for one in options(tarn, ASKED, made, shipped())}
    warm = scheduled({"tarn": scene(room={"temp_c": 18, "rh": 0.6})}, ASKED)
    assert found["3 °C warmer"].finish == warm.finish
    hours = (datetime.fromisoformat(made.finish) - datetime.fromisoformat(warm.finish)).total_seconds() / 3600
    assert found["3 °C warmer"].gained_h == pytest.approx(hours, abs=0.01)
    assert found["a fan"].gained_h >= 0
    assert any(" instead of " in name for name in found) and any("an hour more on" in name for name in found)
    assert all(one.gained_h is not None or one.note for one in found.values())


def test_what_to_do_now_fits_the_minutes_and_what_is_dry():
    tarn = scene()
    now = datetime(2027, 3, 1, 19, tzinfo=UTC)
    asked = ScheduleRequest(now, HOURS)
    made, steps = scheduled({"tarn": tarn}, asked), plan(tarn).steps
    for minutes in (10, 30, 60, 150):
        found = now_in(steps, made, asked, minutes)
        takes = {step.id: max(1, round(step.hands_on_min)) for step in steps}
        assert all(one.after_min + takes[one.step] <= minutes for one in found)
        assert all(b.after_min >= a.after_min + takes[a.step] for a, b in pairwise(found))
    names = {one.step for one in now_in(steps, made, asked, 150)}
    assert "form-slab" in names and "tarn-seal" not in names  # the skin cannot be dry yet
    marks = Marks(
        done={step.id: now - timedelta(days=40) for step in steps if step.id not in ("tarn-seal-2", "tarn-water")}
    )
    dry = ScheduleRequest(now, HOURS, marks=marks)
    made = scheduled({"tarn": tarn}, dry)
    assert "tarn-seal-2" in {one.step for one in now_in(steps, made, dry, 60)}
