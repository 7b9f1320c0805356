"""The bench: in what state each spot is, what comes first for the hands, what fits into minutes, what a visit takes."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from isostasis.core.bench import Act, BenchScene, after_visit, agenda, fitting, held_up_by, spots, vapours, visit
from isostasis.core.plan import plan
from isostasis.core.schedule import Marks
from isostasis.core.wet import LaidStep, OpenCup
from tests.support.scenes import resolved, scene_data

AT = datetime(2027, 3, 1, 19, tzinfo=UTC)


def scene(data=None, times=None, **marks):
    found = resolved(data or scene_data())
    made = plan(found)
    held = {kind: {} for kind in ("started", "done", "skipped", "not_yet", "ready")} | marks
    return BenchScene("tarn", "Tarn", found, made, Marks(**held), times or {})


def state(one, patch, at=AT):
    return next(spot for spot in spots(one, at) if spot.patch == patch)


def first_of(one, kind):
    return next(step for step in one.plan.steps if step.kind == kind)


def test_a_spot_is_to_do_until_what_comes_before_is_done_then_ready():
    one = scene()
    pour = first_of(one, "pour")
    assert state(one, pour.patch).state == "to do"
    assert held_up_by(one, one.plan.steps[0], AT) == ""
    before = {step.id: AT for step in one.plan.steps if step.id != pour.id}
    over = scene(done=before)
    assert held_up_by(over, pour, AT) == "" and state(over, pour.patch).state == "ready"
    assert all(spot.state in ("done", "ready", "to do") for spot in spots(over, AT))


def test_what_belongs_to_no_spot_is_at_its_scene():
    one = replace(scene(), name="Moor")
    assert [Act(one, first_of(one, kind), "due").where for kind in ("form", "pour")] == ["Moor", "Moor, Tarn"]
    assert [one.beside(spot) for spot in ("Moor", "Tarn")] == ["", "Moor"]


def test_what_was_laid_is_wet_until_its_wait_is_over_and_holds_up_what_follows():
    one = scene()
    skin = first_of(one, "skin")
    laid = (LaidStep(skin.id, skin.lift, skin.title, AT - timedelta(hours=1), 10.0),)
    wet = replace(
        scene(done={step.id: AT for step in one.plan.steps if step.kind in ("form", "glue", "trial-fit", "skin")}),
        laid=laid,
    )
    found = state(wet, skin.patch)
    assert (found.state, found.until, found.step) == ("wet", AT + timedelta(hours=9), skin.id)
    after = next(step for step in wet.open_steps if skin.id in step.after)
    assert held_up_by(wet, after, AT).endswith("to harden")
    assert held_up_by(wet, after, AT + timedelta(hours=9, minutes=1)) == ""
    touched = replace(wet, marks=replace(wet.marks, ready={skin.id: AT}))
    assert state(touched, skin.patch).state != "wet"
    never = replace(wet, laid=(replace(laid[0], wait_h=None),))
    assert state(never, skin.patch).until is None and state(never, skin.patch).state == "wet"


def test_a_gate_blocks_until_it_opens():
    data = scene_data()
    lift = data["patches"][0]["lifts"][0]["id"]
    data["gates"] = [
        {"id": "stone", "name": "Stone is delivered", "not_before": "2027-03-02T12:00:00+00:00", "blocks": [lift]}
    ]
    plain = scene(data)
    done = {step.id: AT for step in plain.plan.steps if step.kind in ("form", "glue", "trial-fit")}
    one = scene(data, done=done)
    found = state(one, data["patches"][0]["id"])
    assert (found.state, found.waits_for) == ("blocked", "Stone is delivered")
    assert state(one, data["patches"][0]["id"], AT + timedelta(days=2)).state == "ready"


def test_an_open_cup_comes_first_then_what_is_under_way_then_what_is_due():
    one = scene()
    first, second = one.open_steps[0], one.open_steps[1]
    times = {first.id: AT - timedelta(minutes=5), second.id: AT + timedelta(hours=1)}
    cup = OpenCup(first_of(one, "pour").lift, AT - timedelta(minutes=10), 40.0)
    busy = replace(scene(times=times), cups=(cup,))
    acts = agenda([busy], AT)
    assert [act.urgency for act in acts] == ["cup", "due", "later"]
    assert acts[0].until == AT + timedelta(minutes=30) and acts[0].spot == one.spot(first_of(one, "pour"))
    begun = replace(busy, marks=replace(busy.marks, started={second.id: AT}))
    assert [act.urgency for act in agenda([begun], AT)] == ["cup", "begun", "due"]
    assert state(busy, first_of(one, "pour").patch).state == "now"
    far = scene(times={first.id: AT + timedelta(days=3), second.id: AT + timedelta(days=2)})
    assert agenda([far], AT) == [] and after_visit([far], AT).step == second
    assert after_visit([scene(times={}), busy], AT) is None


@pytest.mark.parametrize("minutes", [1, 12, 30, 500])
def test_what_fits_can_be_begun_and_is_short_enough(minutes):
    one = scene()
    found = fitting([one], AT, minutes)
    assert all(act.step.hands_on_min <= minutes and not held_up_by(one, act.step, AT) for act in found)
    assert {act.step.id for act in found} == {
        step.id for step in one.open_steps if step.hands_on_min <= minutes and not held_up_by(one, step, AT)
    }


def test_a_visit_lays_out_what_its_steps_take_and_ends_with_the_washing():
    one = scene()
    steps = {step.id: AT for step in one.open_steps}
    done = visit(agenda([scene(times=steps)], AT))
    laid_out = [what for what, _ in done.lay_out]
    assert "Casting resin, two-part" in laid_out and "gloves, glasses, an open window" in laid_out
    assert len(laid_out) == len(set(laid_out))
    assert [within for _, within in done.wash] == sorted(within for _, within in done.wash) and done.wash[0][1] == 15
    assert visit([]).lay_out == ()


def test_vapour_stands_from_when_it_began_until_it_has_cleared_and_holds_off_flames():
    one = scene()
    fumes = replace(first_of(one, "skin"), hazards=frozenset({"alcohol"}))
    flame = replace(next(step for step in one.plan.steps if step.kind == "bubbles"), hazards=frozenset({"flame"}))
    steps = tuple({fumes.id: fumes, flame.id: flame}.get(step.id, step) for step in one.plan.steps)
    lit = replace(one, plan=replace(one.plan, steps=steps), times={flame.id: AT + timedelta(minutes=25)})

    def about(at, **marks):
        return vapours([replace(lit, marks=replace(lit.marks, **marks))], at)

    assert about(AT) == []
    (begun,) = about(AT + timedelta(minutes=5), started={fumes.id: AT})
    assert (begun.step.id, begun.since, begun.clears) == (fumes.id, AT, None)
    assert [(act.step.id, due) for act, due in begun.flames] == [(flame.id, AT + timedelta(minutes=25))]
    done = {"started": {fumes.id: AT}, "done": {fumes.id: AT + timedelta(minutes=10)}}
    (left,) = about(AT + timedelta(minutes=20), **done)
    assert left.clears == AT + timedelta(minutes=40) and left.flames
    assert about(AT + timedelta(minutes=41), **done) == []
