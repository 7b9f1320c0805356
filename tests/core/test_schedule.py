"""Schedules against a checker written apart from the solver, an exhaustive search, and clocks that are put back."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise, permutations
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.fault import Faults
from isostasis.core.hours import daylight, parse_hours
from isostasis.core.plan import Step, StepWindow
from isostasis.core.schedule import Marks, ScheduleRequest, build_jobs, factor, greedy_finish
from isostasis.core.schedule import schedule as solved
from isostasis.core.schedule.solve import by_rule
from tests.support.checker import check, minutes

EVENINGS = parse_hours("mon-fri 19:00-22:00; sat 09:00-17:00")
MONDAY = datetime(2027, 3, 1, 12, 0, tzinfo=UTC)


def schedule(steps, start, hours, effort=20.0, **more):
    return solved(steps, ScheduleRequest(start, hours, **more), effort)


def step(name, minutes, wait_h=0.0, after=(), windows=()):
    return Step(name, f"Do {name}", tuple(after), minutes, wait_h, tuple(windows))


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
    assert (long.as_json()["finish"], long.as_json()["bound"], long.as_json()["steps"]) == (None, None, [])
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


@given(plans(), st.lists(st.floats(0.5, 2.0), min_size=7, max_size=7))
@settings(max_examples=15, deadline=None)
def test_waits_go_by_the_session_in_which_a_step_runs(steps, slower):
    """Each weekday has its own weather: a step that runs on it waits so many times as long."""

    def at(moment):
        times = slower[moment.weekday()]
        return [
            replace(
                one,
                wait_h=one.wait_h * times,
                windows=tuple(replace(w, from_h=w.from_h * times, to_h=w.to_h and w.to_h * times) for w in one.windows),
            )
            for one in steps
        ]

    made = solved(at, ScheduleRequest(MONDAY, EVENINGS), effort=3)
    if made.status != "infeasible":
        check(steps, EVENINGS, MONDAY, made, at)
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


def moment(text):
    return datetime.fromisoformat(f"2027-03-{text}:00+00:00")


def starts(made):
    return {one.id: datetime.fromisoformat(one.start) for one in made.steps}


CHAIN = [step("skin", 60, 20), step("seal", 30, 2, ["skin"]), step("pour", 40, 12, ["seal"])]


def test_exceptions_holidays_and_quiet_hours():
    hours = parse_hours(
        "mon-fri 19:00-23:00; closed 2027-03-02 to 2027-03-03; 2027-03-04 08:00-09:00; quiet 22:00-07:00"
    )
    assert hours.sessions(MONDAY, 4) == [(420, 600), (4080, 4140), (6180, 6360)]
    assert hours.is_quiet(moment("02T23:30")) and not hours.is_quiet(moment("02T12:00"))
    assert parse_hours("mon-sun 06:00-08:00; quiet 22:00-07:00").longest_min == 60
    for text, words in (
        ("mon 19:00-22:00; closed 2027-02-30", "there is no day 2027-02-30"),
        ("mon 19:00-22:00; closed 2027-03-09 to 2027-03-02", "is no span of days"),
        ("mon 22:00-23:00; quiet 22:00-07:00", "the quiet hours leave no bench hours"),
        ("2027-03-04 08:00-10:00; 2027-03-04 09:00-11:00", "two sessions of 2027-03-04 overlap"),
    ):
        with pytest.raises(Faults, match=words):
            parse_hours(text)


def test_daylight_is_longer_in_june_and_missing_in_the_polar_night():
    june, december = (daylight(52.5, 13.4, datetime(2027, month, 15, tzinfo=UTC), 0)[0] for month in (6, 12))
    assert 16 * 60 < june[1] - june[0] < 17 * 60 + 10 and 7.4 * 60 < december[1] - december[0] < 8 * 60
    assert daylight(78.2, 15.6, datetime(2027, 12, 15, tzinfo=UTC), 1) == []
    assert daylight(78.2, 15.6, datetime(2027, 6, 15, tzinfo=UTC), 0) == [(0, 1440)]


def test_touch_tests_move_a_wait():
    assert factor(10, None, None) == 1
    assert factor(10, 0.5, None) == pytest.approx(1, abs=1e-6)  # too early to say anything
    assert 1.0 < factor(10, 10, None) < factor(10, 12, None) < factor(10, 20, None)
    assert factor(10, 12, None) > 1.2 and factor(10, 40, None) == pytest.approx(4.2)
    assert factor(10, None, 8) < 0.8 and factor(10, 6, 8) == pytest.approx(0.74, abs=0.03)
    assert factor(10, 30, 8) > 3  # contradicting each other: the longer wait is taken
    assert factor(0, 3, 5) == 1


def test_what_is_done_is_fixed_and_the_rest_is_planned_from_now():
    now = moment("03T12:00")
    marks = Marks(started={"seal": moment("03T11:50")}, done={"skin": moment("02T20:00")})
    made = schedule(CHAIN, now, EVENINGS, marks=marks)
    states = {one.id: one.state for one in made.steps}
    assert states == {"skin": "done", "seal": "begun", "pour": "planned"}
    assert starts(made)["seal"] == moment("03T11:50") and starts(made)["pour"] == moment("03T19:00")
    assert made.hands_min == 40
    wet = Marks(done={"skin": moment("02T20:00"), "seal": moment("03T12:00")}, not_yet={"seal": moment("03T21:00")})
    assert starts(schedule(CHAIN, moment("03T21:00"), EVENINGS, marks=wet))["pour"] >= moment("04T19:00")
    soon = Marks(done={"skin": moment("03T19:00")}, ready={"skin": moment("03T20:00")})
    assert starts(schedule(CHAIN, moment("03T20:00"), EVENINGS, marks=soon))["seal"] == moment("03T20:00")
    skipped = Marks(done={"skin": moment("02T10:00")}, skipped={"seal": moment("03T12:00")})
    assert starts(schedule(CHAIN, now, EVENINGS, marks=skipped))["pour"] == moment("03T19:00")


def test_a_window_that_closed_is_told_and_does_not_stop_the_rest():
    pull = step("pull", 5, 0, [], [StepWindow("pull the separator", 0.5, 1.0, "skin")])
    made = schedule([*CHAIN, pull], moment("03T12:00"), EVENINGS, marks=Marks(done={"skin": moment("02T20:00")}))
    assert made.finish and "its window (“pull the separator”) closed at Tue 02 Mar 21:00" in made.why[0]


def test_a_pin_moves_a_step_into_its_session_and_what_follows_with_it():
    pinned = schedule(CHAIN, MONDAY, EVENINGS, pins={"seal": moment("05T19:30")})
    assert starts(pinned)["seal"] >= moment("05T19:30") and starts(pinned)["seal"].day == 5
    assert starts(pinned)["pour"] >= moment("05T22:00")
    night = schedule(CHAIN, MONDAY, EVENINGS, pins={"seal": moment("05T03:00")})
    assert "Fri 05 Mar 03:00 lies outside your bench hours" in night.why[0]
    late = schedule(CHAIN, MONDAY, EVENINGS, pins={"seal": moment("05T21:45")})
    assert "less is left of that session" in late.why[0]
    over = schedule(CHAIN, MONDAY, EVENINGS, pins={"seal": moment("01T11:30")})
    assert over.steps == schedule(CHAIN, MONDAY, EVENINGS).steps
    early = schedule(CHAIN, MONDAY, EVENINGS, pins={"seal": moment("01T20:30")})
    assert early.status == "infeasible" and "what it waits for is not ready" in early.why[0]


def test_the_smallest_change_that_frees_a_plan_is_told_and_frees_it():
    wave = step("wave", 5, 0, [], [StepWindow("score the waves", 10.0, 11.0, "pour")])
    pour = step("pour", 30, 12)
    evenings = parse_hours("mon-sun 19:00-22:00")
    made = schedule([pour, wave], MONDAY, evenings)
    assert "5 min at the bench between" in made.why[0] and "would free it" in made.why[0]
    morning = parse_hours("mon-sun 19:00-22:00; mon-sun 05:30-08:30")
    check([pour, wave], morning, MONDAY, schedule([pour, wave], MONDAY, morning))


def test_cups_are_taken_until_what_is_in_them_is_hard():
    pours = [replace(step(f"p{number}", 20, 30), takes_cup=True) for number in range(3)]
    assert len({one.day for one in starts(schedule(pours, MONDAY, EVENINGS)).values()}) == 1
    made = schedule(pours, MONDAY, EVENINGS, cups=1)
    ordered = sorted((one.start, one.ready) for one in made.steps)
    assert all(ready <= begin for (_, ready), (begin, _) in pairwise(ordered))
    assert schedule(pours, MONDAY, EVENINGS, cups=2).finish < made.finish


def test_messy_steps_are_grouped_and_set_up_and_cleaned_up_once():
    dusty = [replace(step(f"d{number}", 30), mess="dust") for number in range(2)]
    clean = [step(f"c{number}", 50) for number in range(4)]
    made = schedule([dusty[0], *clean, dusty[1]], MONDAY, EVENINGS, setup_min=10, cleanup_min=15)
    at = starts(made)
    assert at["d0"].day == at["d1"].day  # one clean-up, not two
    for day in {one.day for one in at.values()}:
        todays = sorted((when, name) for name, when in at.items() if when.day == day)
        busy = sum(30 if name[0] == "d" else 50 for _, name in todays)
        assert busy + (25 if any(name[0] == "d" for _, name in todays) else 0) <= 180
    assert not [when for name, when in at.items() if name[0] == "d" and when.hour * 60 + when.minute < 19 * 60 + 10]


def test_one_bowl_serves_spots_that_are_worked_together():
    first, second = step("bank", 30, 20), replace(step("floor", 30, 20), bowl=(("bank", 5.0),))
    other = step("paint", 60)
    at = starts(schedule([first, other, second], MONDAY, EVENINGS))
    assert timedelta(0) <= at["floor"] - at["bank"] - timedelta(minutes=30) <= timedelta(minutes=5)
    held = schedule([first, replace(second, after=("bank",))], MONDAY, EVENINGS)
    assert "mix it a bowl of its own" in held.why[0]


def test_a_place_has_hours_of_its_own():
    spray = replace(step("spray", 30), place="yard")
    lit = {"yard": lambda start, days: [(day * 1440, day * 1440 + 300) for day in range(days)]}  # noon to five
    assert starts(schedule([spray], MONDAY, EVENINGS, places=lit))["spray"] == moment("06T12:00")
    never = schedule([spray], MONDAY, EVENINGS, places={"yard": lambda start, days: []})
    assert "no session leaves that when one can work in “yard”" in never.why[0]


def test_slack_is_how_late_a_step_may_start():
    made = schedule([*CHAIN, step("sign", 20)], MONDAY, EVENINGS)
    slack = {one.id: one.slack_min for one in made.steps}
    assert slack["sign"] > 24 * 60 > max(slack["skin"], slack["pour"])
    for one in made.steps:
        pinned = schedule(
            [*CHAIN, step("sign", 20)], MONDAY, EVENINGS, pins={one.id: datetime.fromisoformat(one.latest)}
        )
        assert pinned.finish == made.finish
    assert {one.id for one in made.steps if one.decides} == {"skin", "seal", "pour"}


@given(plans(windows=False))
@settings(max_examples=15, deadline=None)
def test_the_next_ready_rule_is_never_earlier(steps):
    rule = greedy_finish(steps, ScheduleRequest(MONDAY, EVENINGS))
    assert rule >= datetime.fromisoformat(schedule(steps, MONDAY, EVENINGS).finish)


def test_of_many_steps_times_are_told_before_the_search(monkeypatch):
    many, heard = 40, []  # fewer than in earnest, which takes the solver long
    monkeypatch.setattr("isostasis.core.schedule.MANY", many)
    steps = [step(f"s{n}", 5 + n % 7, n % 40, [f"s{n - 3}"] if n % 4 == 3 else []) for n in range(many)]
    made = solved(steps, ScheduleRequest(MONDAY, EVENINGS), effort=0.02, on_first=heard.append)
    (first,) = heard
    check(steps, EVENINGS, MONDAY, first)
    assert datetime.fromisoformat(first.finish) == greedy_or_sooner(steps) >= datetime.fromisoformat(made.finish)
    for fewer, cups in ((steps[: many - 1], None), (steps, 2)):  # the rule counts no cups
        solved(fewer, ScheduleRequest(MONDAY, EVENINGS, cups=cups), effort=1e-4, on_first=heard.append)
    assert len(heard) == 1


def greedy_or_sooner(steps):
    """When the rule that looks at what waits for each step is ready."""
    found = by_rule(
        build_jobs(lambda _: steps, ScheduleRequest(MONDAY, EVENINGS), 14), ScheduleRequest(MONDAY, EVENINGS)
    )
    return MONDAY + timedelta(minutes=found.finish)


def test_a_chain_of_a_thousand_steps_has_times():
    steps = [step(f"s{n}", 1, 0, [f"s{n - 1}"] if n else []) for n in range(1200)]
    made = solved(steps, ScheduleRequest(MONDAY, EVENINGS), effort=0.02)
    check(steps, EVENINGS, MONDAY, made)
    assert made.finish == "2027-03-06T14:00+00:00"  # five evenings of 180 minutes, then Saturday


def test_a_buffer_counts_against_the_deadline():
    finish = datetime.fromisoformat(schedule(CHAIN, MONDAY, EVENINGS).finish)
    tight = {"deadline": finish + timedelta(hours=5)}
    assert schedule(CHAIN, MONDAY, EVENINGS, **tight).status == "optimal"
    short = schedule(CHAIN, MONDAY, EVENINGS, buffer_h=8, **tight)
    assert short.status == "infeasible" and "3 h after the deadline less 8 h to spare" in short.why[0]
    assert "what decides are the waits in one chain" in short.why[1]


def test_with_too_little_time_the_best_found_and_its_bound_are_told():
    steps = [step(f"s{n}", 35 + n, 7 + 3 * n, [f"s{n - 2}"] if n > 1 and n % 3 else []) for n in range(24)]
    made = schedule(steps, MONDAY, EVENINGS, effort=1e-4)
    check(steps, EVENINGS, MONDAY, made)
    whole = schedule(steps, MONDAY, EVENINGS)
    assert made.bound <= whole.finish <= made.finish
    assert made.status == ("optimal" if made.bound == made.finish else "feasible")
