"""Records on their page: what came, the factor that it teaches, what that moves; switched off, forgotten, a mishap."""

import csv
import html
import io
import json
from datetime import timedelta

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.core.catalogue import shipped
from isostasis.core.document.resolve import resolve
from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.core.schedule import Schedule
from isostasis.store import clock as store_clock
from isostasis.store import labels, logbook, records, scenes
from isostasis.store.tables import StepEventRow

HOURS = {"label": "paper-plaster", "quantity": "hours"}


def skin_hours(database, slug="kettle-fen"):
    with database.reading() as session:
        scene = scenes.resolve(session, scenes.find(session, slug).head)
    return hours_of(scene)


def hours_of(scene):
    mine = {one.id for patch in scene.patches for one in patch.lifts if getattr(one, "mix", "") == "paper-plaster"}
    return {name: lift.hours.next.value for name, lift in plan(scene).lifts.items() if name in mine}


def taught(database, label="paper-plaster", quantity="hours"):
    with database.reading() as session:
        return next(one for one in records.factors(session) if (one.label, one.quantity) == (label, quantity))


def test_marks_and_batches_teach_and_the_page_tells_it(reader, database):
    one = taught(database)
    assert one.used and [record.title for record in one.records] == ["Floor skin", "Sump skin", "Lake skin"]
    for record in one.records:
        assert record.low < record.high
    page = reader.text("/records")
    assert f"× {one.learnt.mean:.2f}" in page and "in use" in page and "Ready for the next lift?" in page
    assert "the bowl was knocked over" in page and "How much went in" in page
    assert f"eight times in ten between {one.learnt.low:.2f} and {one.learnt.high:.2f}" in page
    assert "Ground skin Kettle Fen" in page  # what it moves
    svg = reader.get("/records").text
    assert svg.count('class="is-ready"') == 4  # three waits, and the key


def test_a_factor_is_switched_off_and_plans_say_what_they_said_before(reader, database):
    mean = taught(database).learnt.mean
    learnt = skin_hours(database)
    reader.post("/records/factor", **HOURS, what="off")
    bare = skin_hours(database)
    assert learnt and all(learnt[name] == pytest.approx(bare[name] * mean) for name in learnt)
    assert "switched off" in reader.text("/records?label=paper-plaster&quantity=hours")
    reader.post("/records/factor", **HOURS, what="on")
    assert skin_hours(database) == learnt
    reader.post("/records/factor", **HOURS, what="forget")
    assert skin_hours(database) == bare
    assert "Forgotten Paper-fibre compound, hours until ready let it count again" in reader.text("/records")
    reader.post("/records/factor", **HOURS, what="remember")
    assert skin_hours(database) == learnt
    assert "nothing is learnt of" in reader.post("/records/factor", 422, label="tea", quantity="hours", what="off").text
    assert "nothing to do with it" in html.unescape(reader.post("/records/factor", 422, **HOURS, what="burn").text)


def test_of_several_looks_the_last_not_yet_and_the_first_ready_count(database):
    one = taught(database).records[0]
    with database.writing() as session:
        event = session.get(StepEventRow, int(one.key.partition(":")[2]))
        for what, hours in (("ready", one.high + 9), ("not-yet", one.low - 2)):
            at = event.at + timedelta(hours=hours)
            session.add(StepEventRow(scene_id=event.scene_id, revision_id=event.revision_id, step=event.step,
                                     lift=event.lift, what=what, planned={}, at=at))  # fmt: skip
    again = next(each for each in taught(database).records if each.key == one.key)
    assert (again.low, again.high) == (one.low, one.high)


def test_a_mishap_teaches_nothing_until_it_is_none(reader, database):
    first = taught(database)
    key = first.records[0].key
    reader.post("/records/mishap", key=key, note="frost", what="mishap")
    again = taught(database)
    assert again.learnt.count == first.learnt.count - 1 and not again.used
    assert "frost" in reader.text("/records")
    reader.post("/records/mishap", key=key, what="none")
    assert taught(database).learnt.mean == first.learnt.mean
    assert "not there any more" in reader.post("/records/mishap", 422, key="batch:999", what="mishap").text
    assert "501 letters" in reader.post("/records/mishap", 422, key=key, note="x" * 501, what="mishap").text


def test_the_exported_scene_has_the_same_figures(reader, database):
    exported = reader.get("/s/kettle-fen/export.json").get_json()
    assert {one["label"] for one in exported["factors"]} == {"paper-plaster"}
    assert hours_of(resolve(read(exported), shipped())) == skin_hours(database)


def test_the_same_on_the_command_line(reader, database):
    one = taught(database)
    told = json.loads(CliRunner().invoke(main, ["records", "--json", "--db", database.name]).output)
    hours = next(each for each in told["factors"] if (each["label"], each["quantity"]) == ("paper-plaster", "hours"))
    assert hours["mean"] == one.learnt.mean and hours["used"] and len(told["records"]) == 7
    plain = CliRunner().invoke(main, ["records", "--db", database.name]).output
    assert f"× {one.learnt.mean:.2f}" in plain and "1 of them mishaps" in plain and "too few to go by" in plain


def test_what_went_wrong_on_the_command_line():
    def run(*words):
        return CliRunner().invoke(main, ["wrong", *words])

    assert "tacky         stays tacky or soft" in run().output
    told = json.loads(run("tacky", "cold=yes", "ratio_off=no", "--json").output)
    assert told["causes"][0]["code"] == "cold-cure" and len(told["ask"]) <= 3
    plain = run("sunk", "unsealed=yes").output
    assert plain.startswith("The bed drank it: about") and "To tell them apart" in plain and "? " in plain
    assert run("tea").exit_code == 2 and "no symptom 'tea'" in run("tea").output
    assert run("sunk", "cold").exit_code == 2 and "=yes or =no" in run("sunk", "cold").output


def test_records_as_a_table(reader):
    rows = list(csv.DictReader(io.StringIO(reader.get("/records.csv").text)))
    assert {row["quantity"] for row in rows} >= {"hours", "volume"}
    assert any(row["mishap"].startswith("the bowl was knocked over") for row in rows)
    wait = next(row for row in rows if row["quantity"] == "hours")
    assert float(wait["from"]) < float(wait["to"]) and wait["unit"] == "h"


def test_what_came_is_held_against_what_was_said_without_the_factor(database):
    """A step that was planned with a factor in force teaches what the label was off by, not what is left of that."""
    with database.writing() as session:
        one = next(one for one in records.records(session) if one.quantity == "volume" and not one.mishap)
        number = int(one.key.partition(":")[2])
        row = session.get(records.BatchRow, number)
        row.planned = {**row.planned, "times": 1.25}
    with database.reading() as session:
        again = next(each for each in records.records(session) if each.key == one.key)
        assert again.predicted == pytest.approx(one.predicted / 1.25) and again.low == one.low
        assert labels.catalogue(session) is labels.catalogue(session)


def test_finishes_as_they_were_told_and_minutes_of_hands(reader, database, clock):
    with database.writing() as session:
        row = scenes.find(session, "kettle-fen")
        for number, days in enumerate((9, 7, 8)):
            made = Schedule("feasible", (clock.at + timedelta(days=days)).isoformat(), None, 1, (), None).kept()
            store_clock.add_forecast(session, row, f"q{number}", "", made, clock.at - timedelta(days=3 - number))
        opened = scenes.resolve(session, row.head)
        made = plan(opened)
        step = next(one for one in made.steps if one.lift == "ground-skin" and one.batch)
        for what, ago in (("started", 90), ("done", 60)):
            logbook.add_event(session, row, (opened, made), step, what, clock.at - timedelta(minutes=ago))
    page = reader.get("/records?label=paper-plaster&quantity=hands").text
    assert "Finish of Kettle Fen" in " ".join(page.split()) and page.count('class="dot') >= 6
    assert "Minutes of hands" in page
    with database.reading() as session:
        (hands,) = [one for one in records.records(session) if one.quantity == "hands"]
    assert hands.low == hands.high == 30 and hands.predicted == pytest.approx(step.hands_on_min)
