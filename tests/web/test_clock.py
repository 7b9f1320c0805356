"""The Clock: a schedule is asked for and found, work is marked and the rest follows, gates, rooms, calendars."""

import html
import json
import re
from datetime import datetime, timedelta
from itertools import pairwise

import pytest
import vobject
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.solver import SolverJob, Unwanted
from isostasis.store import clock as clocks
from isostasis.store import marks, scenes
from isostasis.web import create_app, serve_from
from tests.support.pages import Reader, document
from tests.support.scenes import DATA
from tests.support.waiting import until


@pytest.fixture
def app(pages, demo_database, clock, solver):
    serve_from(pages, demo_database, clock, "Europe/Berlin", solver)
    return pages


@pytest.fixture
def found(solver, reader, database):
    """Waits for the schedule of a scene after its page was opened; gives the newest forecast's schedule."""

    def look(slug="tarn", address="/s/{}/clock"):
        reader.get(address.format(slug))
        asking = solver.of(f"{database.path}:{slug}")
        until(lambda: asking is None or not asking.solving)
        assert asking is None or asking.wrong is None
        with database.reading() as session:
            return clocks.latest(session, scenes.find(session, slug))

    return look


def starts(row):
    return {one["id"]: datetime.fromisoformat(one["start"]) for one in row.made["steps"]}


def mark(reader, step, what, status=303, slug="tarn", **more):
    return reader.post(f"/s/{slug}/clock/mark", status, step=step, what=what, **more)


def test_the_page_shows_what_the_command_line_gives(reader, found, clock, tmp_path):
    row = found()
    page = " ".join(reader.text("/s/tarn/clock").split())
    assert "no better order exists" in page and "Now, in" in page and "What would buy time" in page
    asked = ["schedule", str(DATA / "tarn-first-kinds.json"), "--start", clock().isoformat(), "--json"]
    done = CliRunner().invoke(main, [*asked, "--hours", "mon-fri 19:00-22:00; sat-sun 10:00-17:00; quiet 22:00-07:00"])
    finish = datetime.fromisoformat(json.loads(done.stdout)["finish"])
    shown = datetime.fromisoformat(row.made["finish"])
    assert (shown.utcoffset(), row.made["status"]) == (timedelta(hours=1), "optimal")
    # Berlin's evenings begin an hour before those of the start's own zone.
    assert abs(shown - finish) <= timedelta(hours=1)
    strata = reader.get("/s/tarn/clock").text
    assert strata.count('class="stratum') == 5 and strata.count("data-step=") == len(row.made["steps"])


def test_work_is_marked_and_the_rest_follows(reader, found, clock, database):
    found()
    clock.pass_by(minutes=1)
    mark(reader, "form-slab", "started")
    clock.pass_by(minutes=25)
    mark(reader, "form-slab", "done")
    for step in ("form-bank", "form-hole", "tarn-skin"):
        mark(reader, step, "done")
    row = found()
    states = {one["id"]: one["state"] for one in row.made["steps"]}
    assert states["form-slab"] == states["tarn-skin"] == "done" and states["tarn-seal-1"] == "planned"
    planned = starts(row)["tarn-seal-1"]
    assert planned >= clock() + timedelta(hours=25)
    clock.pass_by(hours=40)
    mark(reader, "tarn-skin", "not-yet")
    assert starts(found())["tarn-seal-1"] > clock()
    mark(reader, "tarn-skin", "ready")
    early = starts(found())["tarn-seal-1"]
    assert early <= clock() + timedelta(hours=12) and early >= clock()
    with database.reading() as session:
        history = clocks.forecasts(session, scenes.find(session, "tarn"))
        events = marks.events(session, scenes.find(session, "tarn"))
    assert len(history) >= 4 and history[0].cause == "first look" and "not ready yet" in {h.cause[:13] for h in history}
    assert [event.what for event in events][-2:] == ["not-yet", "ready"]
    assert "How the finish moved" not in reader.text("/s/tarn/clock")  # it never did
    reader.post("/s/tarn/clock/hours", hours="sat 10:00-18:00")
    found()
    assert "How the finish moved" in reader.text("/s/tarn/clock")


def test_a_step_is_skipped_with_a_reason_and_taken_back(reader, found):
    found()
    assert "it is not said why" in html.unescape(mark(reader, "tarn-seal-2", "skipped", 422).text)
    mark(reader, "tarn-seal-2", "skipped", note="one coat will do")
    row = found()
    assert {one["id"]: one["state"] for one in row.made["steps"]}["tarn-seal-2"] == "skipped"
    assert "Do it after all" in reader.text("/s/tarn/clock?step=tarn-seal-2")
    mark(reader, "tarn-seal-2", "undone")
    assert {one["id"]: one["state"] for one in found().made["steps"]}["tarn-seal-2"] == "planned"


@pytest.mark.parametrize(("step", "what", "more", "words"), [
    ("nothing", "done", {}, "the plan has no step 'nothing'"),
    ("tarn-skin", "eaten", {}, "“eaten” is no mark"),
    ("tarn-skin", "ready", {}, "is not marked as done"),
    ("tarn-skin", "undone", {}, "has no mark to take back"),
    ("tarn-skin", "done", {"at": "2026-03-05T19:00"}, "is yet to come"),
    ("tarn-skin", "done", {"at": "tomorrow"}, "“tomorrow” is no time"),
])  # fmt: skip
def test_marks_that_make_no_sense_are_told(reader, step, what, more, words):
    assert words in html.unescape(mark(reader, step, what, 422, **more).text)


def test_a_step_is_dropped_elsewhere_or_refused_with_the_reason(reader, found, clock, database):
    before = starts(found())
    later = before["tarn-seal-1"] + timedelta(days=3)
    reader.post("/s/tarn/clock/pin", step="tarn-seal-1", at=later.isoformat())
    row = found()
    after = starts(row)
    assert after["tarn-seal-1"] >= later and after["tarn-water"] > before["tarn-water"]
    with database.reading() as session:
        assert "tarn-seal-1" in clocks.asked_of(session, scenes.find(session, "tarn")).pins
    night = later.replace(hour=3)
    reader.post("/s/tarn/clock/pin", step="tarn-seal-1", at=night.isoformat())
    assert found().id == row.id  # nothing was kept
    assert "lies outside your bench hours" in reader.text("/s/tarn/clock")
    reader.post("/s/tarn/clock/pin", step="tarn-seal-1", at="")
    assert starts(found())["tarn-seal-1"] == before["tarn-seal-1"]
    gone = (clock() - timedelta(days=1)).isoformat()
    assert "is over" in html.unescape(reader.post("/s/tarn/clock/pin", 422, step="tarn-seal-1", at=gone).text)
    assert "has no step" in html.unescape(reader.post("/s/tarn/clock/pin", 422, step="x", at=gone).text)


@pytest.mark.parametrize(("query", "words"), [
    ("days=two", "“two” is no number"),
    ("days=5", "5 is no span that is drawn"),
    ("days=3&from=soon", "“soon” is no time"),
    ("minutes=some", "“some” is no number"),
    ("minutes=0", "0 is outside 1 to 960"),
])  # fmt: skip
def test_an_address_that_makes_no_sense_is_told(reader, found, query, words):
    found()
    assert words in html.unescape(reader.get(f"/s/tarn/clock?{query}", 422).text)


def test_a_step_that_is_gone_is_told(reader, found):
    found()
    assert "The plan has no step “nothing” any more" in reader.text("/s/tarn/clock?step=nothing")


def test_hours_and_a_date_that_cannot_be_kept(reader, found):
    found()
    values = {"hours": "sat 10:00-12:00", "deadline": "2026-03-10T20:00", "buffer_h": "6"}
    reader.post("/s/tarn/clock/hours", **values)
    row = found()
    assert row.made["status"] == "infeasible" and row.made["finish"]
    page = reader.text("/s/tarn/clock")
    assert "after the deadline less 6 h to spare" in page and "after it is wanted" in page
    assert "finished, as it was" in page and "nothing holds now" in page and "no better order" not in page
    assert "is no day with its hours" in html.unescape(reader.post("/s/tarn/clock/hours", 422, hours="often").text)
    assert "outside 0 to 1000" in html.unescape(
        reader.post("/s/tarn/clock/hours", 422, hours="sat 10:00-12:00", buffer_h="-2").text
    )


class Held:
    """A solver whose answer comes when the test gives it."""

    def __init__(self):
        self.job = None

    def ask(self, key, question, on_answer, on_options, about=""):
        self.job = SolverJob(question, on_answer, on_options, about)
        return self.job

    def of(self, key):
        return self.job

    def give(self, made):
        self.job.on_answer(made)
        self.job.made = made


def test_times_that_hold_are_shown_while_better_ones_are_looked_for(found, demo_database, clock):
    made = found().made
    held = Held()
    reader = Reader(create_app(demo_database, clock, "Europe/Berlin", held))
    reader.post("/s/tarn/clock/pin", step="tarn-seal-1", at=starts(found())["tarn-seal-1"].isoformat())
    (follow,) = re.findall(r'hx-get="(/s/tarn/clock/solving[^"]*)"', reader.get("/s/tarn/clock").text)
    assert 'id="solving"' in reader.get(follow).text
    sooner = datetime.fromisoformat(made["finish"]) - timedelta(hours=5)
    held.job.on_answer({**made, "status": "feasible", "bound": sooner.isoformat()})
    assert reader.client.get(follow).location == "/s/tarn/clock"
    page = reader.source("/s/tarn/clock")
    assert "The best found; 5 h" in page and 'id="solving"' in page  # and goes on looking


def test_an_answer_for_a_scene_in_the_bin_is_not_kept(found, demo_database, clock):
    made = found().made
    held = Held()
    reader = Reader(create_app(demo_database, clock, "Europe/Berlin", held))
    reader.post("/s/tarn/clock/pin", step="tarn-seal-1", at=starts(found())["tarn-seal-1"].isoformat())
    reader.post("/s/tarn/bin")
    with pytest.raises(Unwanted, match="in the bin"):
        held.job.on_answer(made)
    reader.post("/bin/tarn/back")
    assert found().made == made


def test_an_answer_that_comes_while_the_page_is_made_is_not_lost(found, demo_database, clock, monkeypatch):
    made = found().made
    held = Held()
    reader = Reader(create_app(demo_database, clock, "Europe/Berlin", held))
    begin = starts(found())["tarn-seal-1"]
    reader.post("/s/tarn/clock/pin", step="tarn-seal-1", at=begin.isoformat())
    read = clocks.latest

    def late(session, row):
        newest = read(session, row)
        if held.job.made is None:
            held.give(made)
        return newest

    monkeypatch.setattr(clocks, "latest", late)
    page = reader.get("/s/tarn/clock").text
    assert 'id="solving"' in page  # it looks again, and finds the answer
    assert "pinned" not in page
    page = reader.get("/s/tarn/clock").text
    assert 'id="solving"' not in page
    assert "pinned" in page


def test_scenes_share_one_pair_of_hands(reader, found):
    reader.post("/s/tarn/clock/hours", hours="mon-sun 10:00-14:00", deadline="", together=["ember-pools"])
    row = found()
    busy = sorted((one["start"], one["end"]) for one in row.made["steps"] if one["state"] == "planned")
    assert all(end <= begin for (_, end), (begin, _) in pairwise(busy))
    assert {one["id"].split("/")[0] for one in row.made["steps"]} == {"tarn", "ember-pools"}
    page = reader.text("/s/tarn/clock")
    assert "Other scenes" in page and "for 2 scenes together" in page and "all scenes" in page
    late = {"hours": "mon-sun 10:00-14:00", "together": ["ember-pools"], "deadline": "2026-03-06T10:00"}
    reader.post("/s/tarn/clock/hours", **late)
    assert "tarn is ready" in " ".join(found().made["why"])
    assert "after it is wanted" in reader.text("/s/tarn/clock")
    reader.post("/s/tarn/clock/hours", hours="mon-sun 10:00-14:00", deadline="")
    assert {one["id"] for one in found().made["steps"]} & {"tarn-skin"}


def test_a_changed_plan_tells_what_became_of_the_work(reader, found, database):
    found()
    for step in ("form-slab", "form-bank", "form-hole", "tarn-skin", "tarn-seal-1", "tarn-seal-2", "tarn-water"):
        mark(reader, step, "done")
    found()
    reader.post("/s/tarn/pour/tarn-water/level", base=1, level="29 mm", anyway="do")
    page = reader.text("/s/tarn/clock")
    assert "are still to be laid" in page


def test_gates_and_places_from_the_page(reader, found, database):
    add = "/s/tarn/clock/gates/add"
    assert "nothing waits for it" in html.unescape(reader.post(add, 422, base=1, name="Van comes").text)
    reader.post(add, base=1, name="Van comes", not_before="2026-03-14T12:00", blocks="tarn-water")
    gate = document(database)[1]["gates"][0]
    assert gate == {"id": "van-comes", "name": "Van comes", "not_before": "2026-03-14T12:00:00+01:00",
                    "blocks": ["tarn-water"]}  # fmt: skip
    assert starts(found())["tarn-water"] >= datetime.fromisoformat("2026-03-14T12:00:00+01:00")
    assert "Van comes" in reader.text("/s/tarn/clock/gates")
    reader.post("/s/tarn/clock/gates/van-comes", base=2, what="done")
    assert document(database)[1]["gates"][0]["done"] is True
    reader.post("/s/tarn/clock/gates/van-comes", base=3, what="remove")
    assert document(database)[1]["gates"] == []
    place = {"name": "Garage", "temp_c": "9", "rh_percent": "70", "hours": "sat 10:00-16:00"}
    reader.post("/s/tarn/clock/places/add", base=4, **place)
    reader.post("/s/tarn/clock/places/set", base=5, what="tarn-skin", where="garage")
    assert document(database)[1]["patches"][0]["lifts"][0]["place"] == "garage"
    assert starts(found())["tarn-skin"].strftime("%a") == "Sat"
    assert "Garage" in reader.text("/s/tarn/clock/gates")
    reader.post("/s/tarn/clock/places/garage/remove", base=6)
    assert "place" not in document(database)[1]["patches"][0]["lifts"][0]
    wrong = reader.post("/s/tarn/clock/places/add", 422, base=7, **{**place, "hours": "noon"})
    assert "“noon” is no day with its hours" in html.unescape(wrong.text)
    assert "needs both" in html.unescape(
        reader.post("/s/tarn/clock/places/add", 422, base=7, **place, latitude="52").text
    )


def test_the_room_ahead(reader, found, database, clock):
    at = "/s/tarn/clock/room"
    steady = found().made["finish"]
    assert "simulated ones, since none are connected" in reader.text(at)
    reader.post(at, base=1, what="indoors")
    series = document(database)[1]["room"]["series"]
    assert len(series) == 113 and datetime.fromisoformat(series[0]["at"]) == clock()
    assert len({one["temp_c"] for one in series}) > 20
    assert found().made["finish"] != steady
    assert 'class="line middle"' in reader.get(at).text
    clock.pass_by(hours=5)
    reader.post(at, base=2, what="probe")
    after = document(database)[1]["room"]["series"]
    assert (len(after) == 114 and after[2]["at"] == clock().astimezone().isoformat()) or len(after) == 114
    reader.post(
        at, base=3, what="lines", lines="time, temp, humidity\n2026-03-04 19:00, 14, 60\n2026-03-06 19:00, 20, 45"
    )
    assert [one["temp_c"] for one in document(database)[1]["room"]["series"]] == [14, 20]
    found()
    told = re.findall(r'y="34">([^<]+)<', reader.get("/s/tarn/clock").text)
    assert [one.split()[0] for one in told] == ["14", "20"]  # each on the day from which it holds
    assert "line 2" in html.unescape(reader.post(at, 422, base=4, what="lines", lines="a,b,c\nnow, 3, 4").text)
    reader.post(at, base=4, what="steady")
    assert "series" not in document(database)[1]["room"]
    assert "no way to set it" in html.unescape(reader.post(at, 422, base=5, what="pray").text)


def test_calendars_are_read_by_another_library(reader, found, database):
    made = found().made
    file = reader.get("/s/tarn/clock.ics")
    assert file.mimetype == "text/calendar"
    read = vobject.readOne(file.text)
    assert "DTSTART;TZID=Europe/Berlin:" in file.text and "BEGIN:VTIMEZONE" in file.text
    events = {event.uid.value: event for event in read.vevent_list}
    planned = [one for one in made["steps"] if one["state"] == "planned"]
    assert set(events) == {f"tarn.{one['id']}@isostasis" for one in planned}
    for one in planned:
        event = events[f"tarn.{one['id']}@isostasis"]
        assert event.dtstart.value == datetime.fromisoformat(one["start"])
        assert event.dtstart.value.utcoffset() is not None
        assert hasattr(event, "valarm") == (one["window_to"] is not None)
    first = {event.uid.value: int(event.sequence.value) for event in read.vevent_list}
    mark(reader, "form-slab", "done")
    found()
    again = vobject.readOne(reader.get("/s/tarn/clock.ics").text)
    assert all(int(event.sequence.value) > first[event.uid.value] for event in again.vevent_list)
    assert {event.uid.value for event in again.vevent_list} < set(first)
    address = re.search(r"/calendar/([\w-]+)\.ics", reader.get("/s/tarn/clock").text)[0]
    assert vobject.readOne(reader.get(address).text).vevent_list
    reader.post("/s/tarn/clock/address")
    reader.get(address, 404)
    lines = reader.get("/s/tarn/clock.csv").text.splitlines()
    assert lines[0].startswith("scene,id,do,start") and len(lines) == 1 + len(made["steps"])


def test_the_days_sheet_and_the_list_for_the_phone(reader, found):
    first = min(starts(found()).values())
    sheet = reader.text(f"/s/tarn/clock/day?date={first.date()}")
    assert "Cut the sheet Slab" in sheet and "done at" in sheet
    assert "No hands are wanted" in reader.text("/s/tarn/clock/day?date=2026-07-01")
    reader.get("/s/tarn/clock/day?date=soon", 422)
    listed = reader.text("/s/tarn/clock/list")
    assert "Now and next" in listed and "Begin" in listed and "Then" in listed
    mark(reader, "form-slab", "started")
    found()
    assert "begun" in reader.text("/s/tarn/clock/list")


def test_what_buys_time_is_kept_with_the_forecast(solver, reader, found, database):
    row = found()
    until(lambda: solver.of(f"{database.path}:tarn").over)
    with database.reading() as session:
        kept = clocks.latest(session, scenes.find(session, "tarn"))
    assert kept.id == row.id and any(one["name"] == "3 °C warmer" for one in kept.options)
    assert "3 °C warmer" in reader.text("/s/tarn/clock/bought")


def test_a_search_can_be_stopped_and_asked_again(reader, found):
    reader.get("/s/hollin-delf/clock")
    reader.post("/s/hollin-delf/clock/cancel")
    page = reader.text("/s/hollin-delf/clock")
    assert "told to stop looking" in page and "Looking for the earliest" not in page
    assert "Nothing has a time yet" in page and "No times hold" not in page
    reader.post("/s/hollin-delf/clock/ask")
    assert found("hollin-delf").made["status"] == "optimal"


def test_the_wet_line_can_be_touched(reader, database, clock):
    page = reader.source("/s/tarn/clock/list")
    assert "it is ready" in page
    step = re.search(r'name="step" value="(heap-skin|benches-skin)"', page)[1]
    reader.post("/s/hollin-delf/clock/mark", step=step, what="ready", here="/s/tarn/mix")
    line = reader.get("/").text
    assert f'value="{step}"' not in line


def test_the_wet_line_shows_the_next_step_and_what_is_under_way(reader, found, clock):
    first = min(starts(found()).items(), key=lambda one: one[1])
    clock.at = first[1]
    line = reader.source("/")
    assert f'name="step" value="{first[0]}"' in line and 'value="started">begin' in line
    mark(reader, first[0], "started", here="/")
    assert "under way" in reader.get("/").text
    mark(reader, first[0], "done", here="/")
    assert "under way" not in reader.get("/").text


def test_a_time_that_the_clocks_leave_out_is_told(reader):
    told = html.unescape(mark(reader, "form-slab", "done", 422, at="2026-03-29T02:30").text)
    assert "there is no 02:30 on Sun 29 Mar: the clocks go forward over it" in told


def test_a_room_set_by_hand_untouched_keeps_its_series(reader, database):
    reader.post("/s/tarn/clock/room", base=1, what="indoors")
    before = document(database)[1]["room"]
    assert len(before["series"]) > 20
    shown = {"temp_c": f"{before['temp_c']}", "rh_percent": f"{before['rh'] * 100}", "night_c": "", "night_rh": ""}
    reader.post("/s/tarn/room", base=2, air="fan", **shown)
    after = document(database)[1]["room"]
    assert after["series"] == before["series"] and after["air"] == "fan"
    reader.post("/s/tarn/room", base=3, **{**shown, "temp_c": "14"})
    assert "series" not in document(database)[1]["room"]


def test_a_calendar_that_was_fetched_stale_is_planned_anew_by_itself(app, reader, found, clock, solver, database):
    first = found()
    token = re.search(r"/calendar/([^.]+)\.ics", reader.get("/s/tarn/clock").text)[1]
    clock.pass_by(days=3)
    before = solver.of(f"{database.path}:tarn")
    reader.get(f"/calendar/{token}.ics")
    assert solver.of(f"{database.path}:tarn") is before  # fetching alone starts nothing
    app.extensions["keeper"].round()
    asking = solver.of(f"{database.path}:tarn")
    until(lambda: not asking.solving)
    with database.reading() as session:
        assert clocks.latest(session, scenes.find(session, "tarn")).id > first.id
    assert min(starts(found()).values()) >= clock()


def test_a_step_counts_as_missed_however_late_the_answer_came(reader, found, clock, database):
    row = found()
    first = min(starts(row).values())
    with database.writing() as session:
        clocks.latest(session, scenes.find(session, "tarn")).at = first + timedelta(hours=1)  # the solver took its time
    clock.at = first + timedelta(hours=2)
    assert min(starts(found()).values()) >= clock()


def test_nothing_is_left_is_never_said_of_what_is_looked_for_or_cannot_be(reader, found):
    page = reader.client.get("/s/tarn/clock/list").text
    assert 'id="solving"' in page and "Nothing is left" not in page
    reader.post("/s/tarn/clock/hours", hours="sat 10:00-10:05")
    found()
    told = reader.text("/s/tarn/clock/list")
    assert "still to be done, and no times hold" in told and "Nothing is left" not in told
    page = reader.text("/s/tarn/clock")
    assert "No times hold within your bench hours yet" in page and "nothing to schedule" not in page
