"""Timers: what rings when, until when it can be done; moved by touch; across a change of the clock; put off and heard."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.core.bench import BenchScene
from isostasis.core.hours import parse_hours
from isostasis.core.plan import plan
from isostasis.core.schedule import Marks
from isostasis.core.timers import STALE, WORDS, Note, ahead, ringing, timers
from isostasis.core.wet import LaidStep, OpenCup, UsedBowl
from tests.support.scenes import resolved, scene_data

AT = datetime(2027, 3, 1, 19, tzinfo=UTC)
HOUR, MINUTE = timedelta(hours=1), timedelta(minutes=1)


def bench_scene(done=(), laid=(), cups=(), bowls=(), **marks):
    found = resolved(scene_data())
    held = {"done": dict(done), **marks}
    return BenchScene("tarn", "Tarn", found, plan(found), Marks(**held), {}, tuple(cups), tuple(laid), tuple(bowls))


def poured(at=AT, wait_h=10.0, **marks):
    """The tarn with its first lift of water poured at a moment, and that step."""
    one = bench_scene()
    step = next(step for step in one.plan.steps if step.kind == "pour" and step.course == 1)
    laid = LaidStep(step.id, step.lift, step.title, at, wait_h)
    return bench_scene(done=[(step.id, at)], laid=[laid], **marks), step


def of(found, kind):
    return [one for one in found if one.kind == kind]


def test_an_open_cup_rings_before_it_thickens_and_tells_what_is_lost():
    one = bench_scene(cups=[OpenCup("tarn-water", AT, 40.0, 7)])
    (cup,) = of(timers(one), "cup")
    assert cup.key == "cup:7" and cup.rings == AT + 35 * MINUTE and cup.until == AT + 40 * MINUTE
    assert (cup.state(AT), cup.state(AT + 36 * MINUTE), cup.state(AT + 45 * MINUTE)) == ("runs", "rings", "late")
    assert cup.share(AT) == 0 and cup.share(AT + 35 * MINUTE) == 1
    assert cup.risked_by(AT + 38 * MINUTE).startswith("Then 2 min are left. After that it thickens")
    assert cup.risked_by(AT + 41 * MINUTE).startswith("That is too late")
    assert not of(timers(bench_scene(cups=[OpenCup("tarn-water", AT, None)])), "cup")


def test_a_bowl_is_to_be_washed_before_what_is_left_in_it_sets():
    bowls = [UsedBowl(1, "tarn-water", AT, AT + 6 * MINUTE, "plaster"), UsedBowl(2, "tarn-water", AT, None, "resin"),
             UsedBowl(3, "tarn-water", AT, None, "")]  # fmt: skip
    found = of(timers(bench_scene(bowls=bowls)), "bowl")
    assert {one.key: one.until - AT for one in found} == {"bowl:1": 6 * MINUTE, "bowl:2": 30 * MINUTE}
    assert all(one.state(AT) == "rings" for one in found)


def test_bubbles_ring_at_five_fifteen_and_thirty_minutes_and_not_once_they_are_done():
    one, step = poured()
    rings = [round((look.rings - AT) / MINUTE) for look in of(timers(one), "bubbles")]
    assert rings == [5, 15, 30]
    act = next(look.step for look in of(timers(one), "bubbles"))
    assert act in {each.id for each in one.plan.steps} and act.startswith(step.id)
    over = replace(one, marks=replace(one.marks, done={**one.marks.done, act: AT + 6 * MINUTE}))
    assert not of(timers(over), "bubbles")


def test_what_is_laid_rings_when_it_is_ready_and_touch_moves_it_with_its_windows():
    one, step = poured()
    (ready,) = [each for each in timers(one) if each.key == f"ready:{step.id}"]
    assert ready.rings == AT + 10 * HOUR and ready.until is None
    later = replace(one, marks=replace(one.marks, not_yet={step.id: AT + 12 * HOUR}))
    (moved,) = [each for each in timers(later) if each.key == ready.key]
    times = (moved.rings - AT) / (ready.rings - AT)
    assert times > 1.2
    before = next(each for each in timers(one) if each.kind == "bubbles")
    after = next(each for each in timers(later) if each.key == before.key)
    assert (after.rings - AT) / (before.rings - AT) == pytest.approx(times)


def test_press_in_is_open_at_once_and_rings_its_last_minutes():
    one = bench_scene()
    skin = next(step for step in one.plan.steps if step.kind == "skin")
    laid = LaidStep(skin.id, skin.lift, skin.title, AT, 20.0)
    found = timers(bench_scene(done=[(skin.id, AT)], laid=[laid]))
    (press,) = of(found, "press-in")
    (sets,) = of(found, "set")
    assert AT < press.rings < press.until == sets.rings
    assert press.until - press.rings <= 5 * MINUTE and press.look


@given(st.integers(0, 3 * 24 * 60), st.booleans())
def test_what_rings_and_what_is_to_come_never_overlap(minutes, heard):
    one, step = poured()
    found, at = timers(one), AT + minutes * MINUTE
    notes = {f"ready:{step.id}": Note(None)} if heard else {}
    rung = ringing(found, notes, at)
    coming = ahead(found, notes, at, timedelta(days=9))
    assert not {each.key for each in rung} & {each.key for _, each in coming}
    assert all(moment > at for moment, _ in coming) and all(each.rings <= at for each in rung)
    assert [moment for moment, _ in coming] == sorted(moment for moment, _ in coming)
    assert not heard or f"ready:{step.id}" not in {each.key for each in rung}


def test_what_was_put_off_keeps_still_until_then_and_what_is_long_lost_rings_no_more():
    one = bench_scene(cups=[OpenCup("tarn-water", AT, 40.0, 7)])
    found, at = timers(one), AT + 36 * MINUTE
    assert [each.key for each in ringing(found, {}, at)] == ["cup:7"]
    off = {"cup:7": Note(at + 5 * MINUTE)}
    assert not ringing(found, off, at + 4 * MINUTE)
    assert [pair[0] for pair in ahead(found, off, at, HOUR)] == [at + 5 * MINUTE]
    assert [each.key for each in ringing(found, off, at + 5 * MINUTE)] == ["cup:7"]
    assert not ringing(found, {"cup:7": Note(None)}, at)
    assert not ringing(found, {}, AT + 40 * MINUTE + STALE + MINUTE)


def test_what_loses_nothing_by_waiting_keeps_still_at_night_and_rings_in_the_morning():
    one, step = poured(AT, wait_h=7.0)  # ready at two
    hours = parse_hours("mon-sun 08:00-22:00; quiet 22:00-07:00")
    found, key = timers(one), f"ready:{step.id}"

    def rings(hour):
        return key in {each.key for each in ringing(found, {}, AT + hour * HOUR, hours)}

    assert not rings(8) and rings(12.5)


@pytest.mark.parametrize(("night", "real_h"), [("2027-03-27", 10.0), ("2027-10-30", 10.0)])
def test_a_change_of_the_clock_moves_no_timer(night, real_h):
    zone = ZoneInfo("Europe/Oslo")
    at = datetime.fromisoformat(f"{night}T21:00").replace(tzinfo=zone).astimezone(UTC)
    one, step = poured(at)
    (ready,) = [each for each in timers(one) if each.key == f"ready:{step.id}"]
    assert (ready.rings - at) / HOUR == real_h
    wall = ready.rings.astimezone(zone)
    assert wall.hour == (8 if night.startswith("2027-03") else 6)
    assert key_of(ringing([ready], {}, wall)) == [ready.key] and not ringing([ready], {}, wall - MINUTE)


def key_of(found):
    return [each.key for each in found]


def test_every_kind_says_what_is_lost():
    one, _ = poured()
    assert all(each.word and each.risk for each in timers(one)) and all(len(words) == 2 for words in WORDS.values())
