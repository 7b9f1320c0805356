"""Marks and what they leave: mended, taken back, told apart; and edits that touch what was built."""

import html
import io
import json

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.core.plan import plan
from isostasis.store import logbook, marks, scenes
from tests.support.pages import document

WATER = ("form-slab", "form-bank", "form-hole", "tarn-skin", "tarn-seal-1", "tarn-seal-2", "tarn-water")
LEVEL = "/s/tarn/pour/tarn-water/level"


def mark(reader, step, what="done", status=303, **more):
    return reader.post("/s/tarn/clock/mark", status, step=step, what=what, **more)


def words(answer):
    return " ".join(html.unescape(answer.text).split())


@pytest.fixture
def planned(database):
    """The plan of the tarn as it is now."""

    def now():
        with database.reading() as session:
            return plan(scenes.resolve(session, scenes.find(session, "tarn").head))

    return now


@pytest.fixture
def poured(reader, planned):
    """All of the tarn done up to its water."""
    mark(reader, list(WATER))
    return planned


def state(database):
    with database.reading() as session:
        return marks.marks(marks.events(session, scenes.find(session, "tarn")))


def test_several_steps_are_marked_together_and_each_leaves_its_record(poured):
    made = poured()
    assert {step.id for step in made.steps if step.built} == set(WATER)
    assert made.lifts["tarn-water"].state == "done"
    assert not any(batch.id.startswith("tarn-water") for batch in made.batches)


def test_nothing_new_is_given_the_id_of_a_step_that_was_done(poured, database):
    with database.reading() as session:
        used = logbook.used_ids(session, scenes.find(session, "tarn"))
    assert {"tarn-seal", "tarn-seal-2", "tarn-water", "slab"} <= used


def test_more_steps_than_can_be_marked_together_are_refused(reader):
    told = mark(reader, [f"step-{number}" for number in range(61)], status=422)
    assert "61 steps are more than 60" in words(told)


def test_a_time_is_mended_and_what_was_laid_stays_as_it_was(reader, planned, clock, database):
    clock.pass_by(days=2)
    mark(reader, "form-slab", at="2026-03-05T10:00")
    mark(reader, "form-bank", at="2026-03-05T20:00")
    first = planned().works
    mark(reader, "form-bank", at="2026-03-06T08:00")
    with database.reading() as session:
        scene = scenes.find(session, "tarn")
        held = [event.at.hour for event in marks.laid(marks.events(session, scene)) if event.step == "form-bank"]
    assert held == [8]
    assert "done since" in words(mark(reader, "form-bank", status=422))
    mark(reader, "form-bank", "undone")  # the mended time
    assert state(database).done["form-bank"].hour == 20
    mark(reader, "form-bank", "undone")
    assert "form-bank" not in state(database).done
    assert first.keys() == planned().works.keys()


def test_a_file_that_moves_the_ground_under_what_lies_there_is_asked_about_too(reader, poured, database):
    def heights():
        grid = reader.get("/s/tarn/ground/files/asc?at=bare").text
        head, rows = grid.splitlines()[:6], grid.splitlines()[6:]
        raised = [" ".join(str(float(one) + 3) for one in row.split()) for row in rows]
        return [(io.BytesIO("\n".join([*head, *raised]).encode()), "raised.asc")]

    told = reader.post("/s/tarn/ground/survey", 409, base=1, file=heights())
    assert "Take off" in words(told) and "Choose the file once more" in words(told)
    assert document(database)[0] == 1
    reader.post("/s/tarn/ground/survey", base=1, file=heights(), anyway="do")
    assert document(database)[1]["forms"][-1]["kind"] == "survey"
    assert poured().off


def test_marks_are_taken_back_and_set_again_in_any_order(reader, database, clock):
    mark(reader, "form-slab", "started")
    clock.pass_by(minutes=30)
    mark(reader, "form-slab")
    mark(reader, "form-slab", "undone")
    assert "form-slab" in state(database).started and "form-slab" not in state(database).done
    mark(reader, "form-slab", at="2026-03-04T19:10")
    assert state(database).done["form-slab"].minute == 10
    mark(reader, "form-slab", "skipped", note="no")
    mark(reader, "form-slab", "undone")
    assert state(database).done["form-slab"].minute == 10


def test_half_done_leaves_the_other_half_to_be_done(reader, planned):
    mark(reader, list(WATER[:3]))
    whole = planned().lifts["tarn-skin"].volume_ml.number
    assert "how much was done" in words(mark(reader, "tarn-skin", "part", 422))
    assert "outside" in words(mark(reader, "tarn-skin", "part", 422, share="300"))
    mark(reader, "tarn-skin", "part", share="50")
    left = planned().lifts["tarn-skin"]
    assert left.state == "part" and left.remains_ml.number == pytest.approx(whole / 2, rel=0.02)
    step = next(step for step in planned().steps if step.lift == "tarn-skin" and not step.built)
    assert step.id == "tarn-skin-2" and step.batch
    mark(reader, "tarn-skin", "undone")
    assert planned().lifts["tarn-skin"].remains_ml.number == pytest.approx(whole)


def test_an_emptied_cup_marks_its_step_begun_or_not(reader, database, planned):
    mark(reader, list(WATER[:-1]))
    mark(reader, "tarn-water", "started")
    reader.post("/s/tarn/mix/tarn-water-1-1/start")
    with database.reading() as session:
        row = logbook.batches(session, scenes.find(session, "tarn"))[0]
    reader.post(f"/s/tarn/mix/{row.id}/finish", note="")
    assert "tarn-water" in state(database).done
    assert planned().lifts["tarn-water"].state == "done"
    assert planned().works["tarn-water"].layers[0].entry.batches[0].batch == "tarn-water-1-1"


@pytest.mark.parametrize(("step", "what", "more", "said"), [
    ("tarn-skin", "done", {"at": "2026-03-04T17:00"}, "which comes before it"),
    ("form-hole", "done", {"at": "2026-03-04T19:59"}, "is yet to come"),
    ("tarn-skin", "done", {"held": "3"}, "has no mark any more, marked elsewhere"),
    ("gone", "done", {}, "has no step 'gone'"),
    ("form-slab", "done", {"held": "0"}, "is done since"),
])  # fmt: skip
def test_marks_that_cannot_be_are_refused_and_nothing_is_lost(reader, database, step, what, more, said):
    mark(reader, ["form-slab", "form-bank", "form-hole"])
    before = state(database)
    assert said in words(mark(reader, step, what, 422, **more))
    assert state(database) == before


def test_a_mark_after_what_lies_on_it_is_refused(reader, clock, poured):
    clock.pass_by(days=1)
    assert "which lies on it" in words(mark(reader, "tarn-skin", status=422, at="2026-03-05T12:00"))


def test_a_raised_level_is_told_first_and_asks_for_what_is_missing(reader, database, poured):
    stood = poured().lifts["tarn-water"].volume_ml.number
    told = words(reader.post(LEVEL, 409, base=1, level="26 mm"))
    assert "This touches work that is done" in told and "more must be laid" in told and "To buy" in told
    assert document(database)[0] == 1  # nothing is saved
    reader.post(LEVEL, base=1, level="26 mm", anyway="do")
    left = poured().lifts["tarn-water"]
    assert left.remains_ml.number == pytest.approx(left.volume_ml.number - stood, rel=0.01)
    assert "are still to be laid" in reader.text("/s/tarn/clock")
    reader.post("/s/tarn/undo", base=2)
    assert poured().lifts["tarn-water"].state == "done"


def test_keeping_what_lies_there_bends_the_plan(reader, database, poured):
    reader.post(LEVEL, base=1, level="26 mm", anyway="keep")
    assert poured().lifts["tarn-water"].state == "done"
    lift = next(one for one in document(database)[1]["patches"][0]["lifts"] if one["id"] == "tarn-water")
    assert lift["level_mm"] == pytest.approx(24)
    page = {"patch": "tarn", "mix": "paper-plaster", "depth": "6"}
    base = document(database)[0]
    told = words(reader.post("/s/tarn/lifts/tarn-skin", 409, base=base, **page))
    assert "cannot go under" in told
    reader.post("/s/tarn/lifts/tarn-skin", base=base, anyway="keep", **page)
    skin = next(one for one in document(database)[1]["patches"][0]["lifts"] if one["id"] == "tarn-skin")
    assert skin["depth_mm"] == 3
    assert not any(lift.state == "part" for lift in poured().lifts.values())


def test_as_a_copy_the_scene_itself_stays(reader, database, poured):
    answer = reader.post(LEVEL, base=1, level="26 mm", anyway="copy")
    assert "tarn-copy" in answer.headers["Location"]
    assert document(database)[0] == 1
    copied = document(database, "tarn-copy")[1]
    assert next(one for one in copied["patches"][0]["lifts"] if one["id"] == "tarn-water")["level_mm"] == 26


def test_an_edit_that_touches_nothing_built_is_not_held_up(reader, database):
    mark(reader, ["form-slab", "form-bank"])
    reader.post(LEVEL, base=1, level="26 mm")
    assert document(database)[0] == 2


def test_page_and_command_line_agree_on_what_remains(reader, poured, tmp_path):
    reader.post(LEVEL, base=1, level="26 mm", anyway="do")
    exported = tmp_path / "tarn.json"
    exported.write_text(reader.get("/s/tarn/export.json").text)
    here = json.loads(reader.get("/s/tarn/plan.json").text)
    there = CliRunner().invoke(main, ["plan", str(exported), "--json"])
    assert json.loads(there.stdout) == here
    assert here["lifts"]["tarn-water"]["state"] == "part"
    asked = ["--start", "2026-03-05T19:00+00:00", "--hours", "mon-sun 09:00-22:00", "--json"]
    times = json.loads(CliRunner().invoke(main, ["schedule", str(exported), *asked]).stdout)
    laid = set(WATER)
    starts = {one["id"]: one["start"] for one in times["steps"]}
    assert all(starts[step] < "2026-03-05" for step in laid)
    assert starts["tarn-water-2"] >= "2026-03-05T19:00"
    db = tmp_path / "other.db"
    assert CliRunner().invoke(main, ["import", str(exported), "--db", str(db)]).exit_code == 0
    again = CliRunner().invoke(main, ["export", "tarn", "--db", str(db)])
    twin = tmp_path / "twin.json"
    twin.write_text(again.stdout)
    assert json.loads(CliRunner().invoke(main, ["plan", str(twin), "--json"]).stdout) == here


def test_an_id_of_what_was_worked_on_is_never_given_again(reader, database, poured):
    reader.post("/s/tarn/lifts/tarn-seal/move", base=1, how="remove", patch="tarn", anyway="do")
    added = {"kind": "coat", "material": "gloss-varnish", "coats": "2", "cover": "100", "thin": "0", "film": "normal",
             "how": "brush"}  # fmt: skip
    reader.post("/s/tarn/patches/tarn/lifts", base=2, anyway="do", **added)
    names = [one["id"] for one in document(database)[1]["patches"][0]["lifts"]]
    assert "tarn-seal" not in names


def test_keeping_what_lies_there_leaves_what_was_still_to_be_laid(reader, database, planned):
    mark(reader, [*WATER[:4], "tarn-seal-1"])
    page = {"patch": "tarn", "mix": "paper-plaster", "depth": "6"}
    reader.post("/s/tarn/lifts/tarn-skin", base=1, anyway="keep", **page)
    lifts = {one["id"]: one for one in document(database)[1]["patches"][0]["lifts"]}
    assert (lifts["tarn-skin"]["depth_mm"], lifts["tarn-seal"]["coats"]) == (3, 2)
    assert planned().lifts["tarn-seal"].state == "part"
