"""The bench's page and verbs: now, next, wet, blocked; marks with wet hands; the same on the command line."""

import json

from click.testing import CliRunner

from isostasis.cli import main
from isostasis.store import logbook, marks, scenes
from tests.support.forms import forms_of


def last_mark(database, slug="hollin-delf"):
    with database.reading() as session:
        event = marks.events(session, scenes.find(session, slug))[-1]
        return event.step, event.what, event.note


def test_the_one_thing_to_do_now_with_what_is_wet_and_what_fits(reader):
    page = reader.text("/bench")
    assert "now · Hollin Delf, Pit lake Pour out the cup" in page and "left in this cup" in page
    assert "Nitrile gloves, eye protection" in page
    assert "Upper benches Hollin Delf" in page and "tacky leathery hard" in page
    assert "Ground, skin Kettle Fen" in page and "Wash before it sets" in page
    short = reader.text("/bench?minutes=7")
    assert "Ground, skin Kettle Fen" not in short
    reader.get("/bench?minutes=none", 422)
    assert 'class="spot now"' in reader.source("/bench") and 'class="spot ready"' in reader.source(
        "/bench?scene=ember-pools"
    )


def test_with_nothing_for_the_hands_it_says_what_rings_and_when_the_next_visit_is(reader, clock):
    (form,) = [one for one in forms_of(reader.get("/bench").text) if one.action.endswith("/finish")]
    reader.post(form.action, **form.values)
    clock.pass_by(hours=5)  # past bedtime
    page = reader.text("/bench")
    assert "Nothing for the hands Thu 03:41 Spoil heap: ready Hollin Delf rings" in page
    assert "Thu 19:00 Sump" in page and "the next visit" in page


def test_an_emptied_cup_leads_back_to_the_bench_and_the_next_thing_stands_there(reader, database):
    (form,) = [one for one in forms_of(reader.get("/bench").text) if one.action.endswith("/finish")]
    answer = reader.post(form.action, **form.values)
    assert answer.location == "/bench"
    with database.reading() as session:
        row = logbook.batches(session, scenes.find(session, "hollin-delf"))
        assert any(one.finished_at is not None and one.batch == "lake-water-1-1" for one in row)
    assert "Pour out the cup" not in reader.text("/bench")


def test_touch_tests_keep_their_word(reader, database):
    forms = [one for one in forms_of(reader.get("/bench").text) if one.values.get("note") == ["leathery"]]
    reader.post(forms[0].action, **forms[0].values, what="not-yet")
    assert last_mark(database)[1:] == ("not-yet", "leathery")
    assert reader.client.get("/live/at").text != ""


def test_what_another_device_does_changes_the_mark_that_is_watched(reader):
    before = reader.client.get("/live/at").text
    assert reader.client.get("/live/at").text == before
    (form,) = [one for one in forms_of(reader.get("/bench").text) if one.action.endswith("/finish")]
    reader.post(form.action, **form.values)
    assert reader.client.get("/live/at").text != before


def test_now_and_mark_on_the_command_line(database):
    def run(*words):
        return CliRunner().invoke(main, [*words, "--db", database.name])

    told = json.loads(run("now", "--json").output)
    assert told["spots"]["hollin-delf"]["pit-lake"] == "now" and told["acts"][0]["urgency"] == "cup"
    assert "Pit lake: Pour out the cup, in the cup until" in run("now", "--zone", "Europe/Oslo").output
    assert run("mark", "hollin-delf", "floor-wash", "done", "--at", "2026-03-04T18:30+00:00").exit_code == 0
    assert last_mark(database)[:2] == ("floor-wash", "done")
    assert run("mark", "hollin-delf", "floor-wash", "undone").exit_code == 0
    for words, sentence in (
        (("nix", "floor-wash", "done"), "there is no scene 'nix'"), (("hollin-delf", "nix", "done"), "has no step 'nix'"),
        (("hollin-delf", "floor-dust", "skipped"), "it is not said why"), (("hollin-delf", "floor-dust", "ready"), "not marked as done"),
        (("hollin-delf", "floor-dust", "done", "--at", "2999-01-01T10:00"), "yet to come"),
    ):  # fmt: skip
        answer = run("mark", *words)
        assert answer.exit_code == 2 and sentence in answer.output
