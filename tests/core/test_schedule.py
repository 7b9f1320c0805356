"""Schedules against a checker written apart from the solver, an exhaustive search, and clocks that are put back."""

from datetime import UTC, datetime, timedelta
from itertools import pairwise, permutations
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.fault import Faults
from isostasis.core.hours import parse_hours
from isostasis.core.plan import Step, StepWindow
from isostasis.core.schedule import schedule

EVENINGS = parse_hours("mon-fri 19:00-22:00; sat 09:00-17:00")
MONDAY = datetime(2027, 3, 1, 12, 0, tzinfo=UTC)


def step(name, minutes, wait_h=0.0, after=(), windows=()):
    return Step(name, f"Do {name}", tuple(after), minutes, wait_h, tuple(windows))


def minutes(text, start):
    return round((datetime.fromisoformat(text) - start).total_seconds() / 60)


def check(steps, hours, start, made):
    """Hours, precedence, waits, windows, one pair of hands: all that must hold, found out by looking."""
    times = {
        one.id: (minutes(one.start, start), minutes(one.end, start), minutes(one.ready, start)) for one in made.steps
    }
    assert set(times) == {one.id for one in steps}
    busy = sorted(times.values())
    assert all(begin >= end for (_, end, _), (begin, _, _) in pairwise(busy))
    open_at = hours.sessions(start, 400)
    for one in steps:
        begin, end, ready = times[one.id]
        assert end - begin >= one.hands_on_min and ready - end >= one.wait_h * 60 - 1e-6
        assert any(first <= begin and end <= last for first, last in open_at), one.id
        assert all(begin >= times[before][2] for before in one.after)
        for window in one.windows:
            late = begin - times[window.of][1]
            assert late >= window.from_h * 60 - 1e-6
            assert window.to_h is None or late <= window.to_h * 60 + 1e-6
    assert minutes(made.finish, start) == max(ready for _, _, ready in times.values())
    return times


def test_waits_run_through_the_night_and_hands_work_in_the_evening():
    steps = [step("skin", 60, 20), step("seal", 30, 2, ["skin"]), step("pour", 40, 12, ["seal"])]
    made = schedule(steps, MONDAY, EVENINGS)
    times = check(steps, EVENINGS, MONDAY, made)
    assert made.status == "optimal"
    # Monday 19:00 to 20:00, ready Tuesday 16:00; sealed 19:00, ready 21:30: 40 min do not fit before ten.
    assert times["skin"][0] == 7 * 60 and times["seal"][0] == 31 * 60
    assert times["pour"][0] == 55 * 60 and made.sessions == 3


def test_a_window_is_kept_and_one_that_cannot_be_is_told():
    pull = step("pull", 5, 0, [], [StepWindow("pull the separator", 0.5, 1.0, "skin")])
    steps = [step("skin", 170, 20), pull]
    made = schedule(steps, MONDAY, EVENINGS)
    times = check(steps, EVENINGS, MONDAY, made)
    assert 30 <= times["pull"][0] - times["skin"][1] <= 60  # only a Saturday is long enough
    short = parse_hours("mon-fri 19:00-22:00")
    refused = schedule(steps, MONDAY, short)
    assert refused.status == "infeasible" and refused.finish is None
    assert "pull the separator must come within 1 h of “Do skin”" in refused.why[0]


def test_what_cannot_be_done_at_all_is_told():
    assert "never dries" in schedule([step("skin", 10, None)], MONDAY, EVENINGS).why[0]
    long = schedule([step("skin", 600)], MONDAY, EVENINGS)
    assert "takes 10 h at a stretch, and your longest session is 8 h" in long.why[0]
    late = schedule([step("skin", 30, 48)], MONDAY, EVENINGS, deadline=MONDAY + timedelta(days=1))
    assert late.status == "infeasible" and "after the deadline" in late.why[0] and late.finish
    assert schedule([step("skin", 30, 48)], MONDAY, EVENINGS, deadline=MONDAY + timedelta(days=9)).why is None


def test_the_same_plan_has_the_same_times():
    steps = [step(f"s{number}", 40 + number, number, [f"s{number - 1}"] if number % 3 else []) for number in range(9)]
    assert schedule(steps, MONDAY, EVENINGS) == schedule(steps, MONDAY, EVENINGS)


@st.composite
def plans(draw, most=6, windows=True):
    count = draw(st.integers(1, most))
    steps = []
    for number in range(count):
        names = [f"s{one}" for one in range(number)]
        after = draw(st.lists(st.sampled_from(names), unique=True, max_size=2)) if names else []
        window = ()
        if windows and names and draw(st.booleans()):
            of, least = draw(st.sampled_from(names)), draw(st.integers(0, 5))
            window = (StepWindow("a window", float(least), draw(st.sampled_from([None, least + 30.0])), of),)
        steps.append(step(f"s{number}", draw(st.integers(1, 170)), draw(st.integers(0, 60)), after, window))
    return steps


@given(plans())
@settings(max_examples=25, deadline=None)
def test_every_schedule_holds(steps):
    made = schedule(steps, MONDAY, EVENINGS, effort=3)
    if made.status != "infeasible":
        check(steps, EVENINGS, MONDAY, made)
    else:
        assert made.why


def exhaustive(steps, hours, start):
    """The earliest finish over every order of the hands, each step as early as that order lets it."""
    open_at, best = hours.sessions(start, 60), None
    for order in permutations(steps):
        at, ready, finish = 0, {}, 0
        for one in order:
            if any(before not in ready for before in one.after):
                break
            begin = max([at, *(ready[before] for before in one.after)])
            takes = max(1, int(one.hands_on_min))
            begin = next(max(begin, first) for first, last in open_at if max(begin, first) + takes <= last)
            at = begin + takes
            ready[one.id] = at + int(one.wait_h * 60)
            finish = max(finish, ready[one.id])
        else:
            best = finish if best is None else min(best, finish)
    return best


@given(plans(most=4, windows=False))
@settings(max_examples=20, deadline=None)
def test_small_plans_equal_an_exhaustive_search(steps):
    made = schedule(steps, MONDAY, EVENINGS)
    assert made.status == "optimal"
    assert minutes(made.finish, MONDAY) == exhaustive(steps, EVENINGS, MONDAY)


def test_sessions_stay_at_the_peoples_hour_when_clocks_change():
    zone = ZoneInfo("Europe/Berlin")
    for start, jump in ((datetime(2027, 3, 27, 12, tzinfo=zone), -60), (datetime(2027, 10, 30, 12, tzinfo=zone), 60)):
        first, second = parse_hours("sat-sun 19:00-20:00").sessions(start, 1)
        assert second[0] - first[0] == 24 * 60 + jump
    year_end = parse_hours("thu-sat 23:00-24:00").sessions(datetime(2026, 12, 31, 22, tzinfo=UTC), 2)
    assert year_end == [(60, 120), (60 + 1440, 120 + 1440), (60 + 2880, 120 + 2880)]
    under_way = parse_hours("mon 11:00-13:00").sessions(MONDAY, 0)
    assert under_way == [(0, 60)]
    with pytest.raises(ValueError):
        EVENINGS.sessions(datetime(2027, 3, 1), 3)


@pytest.mark.parametrize(("text", "said"), [
    ("", "there are no bench hours"), ("mon 19-22", "is no day with its hours"), ("mun 19:00-22:00", "is no day"),
    ("mon 22:00-19:00", "does not run from an earlier"), ("mon 19:00-25:00", "does not run from"),
    ("mon 19:00-22:00; mon 21:00-23:00", "two sessions of mon overlap"),
])  # fmt: skip
def test_hours_that_make_no_sense(text, said):
    with pytest.raises(Faults, match=said):
        parse_hours(text)
