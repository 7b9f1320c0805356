"""The command line as a person types it."""

import json

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.core.document.edit import set_fields
from isostasis.core.plan import plan
from isostasis.core.reading import json_schema
from isostasis.store import Database, scenes
from tests.support.scenes import DATA, resolved, scene_data


@pytest.fixture
def run():
    runner = CliRunner()
    return lambda *words, **more: runner.invoke(main, [str(word) for word in words], **more)


def test_plan_as_json_is_the_plan(run):
    done = run("plan", DATA / "tarn-first-kinds.json", "--json")
    assert done.exit_code == 0
    assert json.loads(done.stdout) == json.loads(json.dumps(plan(resolved(scene_data())).as_json()))


def test_plan_for_people(run):
    done = run("plan", DATA / "tarn-first-kinds.json")
    assert done.exit_code == 0
    for words in ("Tarn water", "casting-resin A", "hottest", "To have at hand", "Nitrile gloves"):
        assert words in done.stdout
    assert " fl oz" in run("plan", DATA / "tarn-first-kinds.json", "--imperial").stdout


def test_plan_reads_standard_input(run):
    assert run("plan", "-", "--json", input=json.dumps(scene_data())).exit_code == 0


def test_unknown_keys_are_refused_by_name_one_line_each(run):
    data = {**scene_data("tarn"), "moods": []}
    done = run("plan", "-", "--json", input=json.dumps(data))
    assert done.exit_code == 2
    assert done.stdout == ""
    assert done.stderr.splitlines() == ["moods: is not a key that is known here; leave it out or correct its spelling"]


def test_bad_files_are_told(run, tmp_path):
    assert run("plan", tmp_path / "none.json").exit_code == 2
    assert "cannot be read: no such file" in run("plan", tmp_path / "none.json").stderr
    broken = tmp_path / "broken.json"
    broken.write_text('{"isostasis": 1,')
    done = run("plan", broken)
    assert (done.exit_code, len(done.stderr.splitlines())) == (2, 1)
    assert "line 1, column" in done.stderr
    high = scene_data()
    high["patches"][0]["lifts"][2]["level_mm"] = 99
    broken.write_text(json.dumps(high))
    assert "stands above the lip" in run("plan", broken).stderr


def test_schema(run):
    assert json.loads(run("schema").stdout) == json_schema()


def test_import_export_and_the_same_figures(run, tmp_path):
    db = tmp_path / "a" / "x.db"
    assert run("import", DATA / "tarn-first-kinds.json", "--db", db).stdout.strip() == "tarn"
    out = run("export", "tarn", "--db", db)
    file = tmp_path / "out.json"
    file.write_text(out.stdout)
    again = json.loads(run("plan", file, "--json").stdout)
    assert again == json.loads(run("plan", DATA / "tarn-first-kinds.json", "--json").stdout)
    assert json.loads(run("export", "tarn", "--db", db, "--as-written").stdout) == scene_data()
    missing = run("export", "pond", "--db", db)
    assert missing.exit_code == 2
    assert "there is no scene 'pond'; there are: tarn" in missing.stderr
    assert "there is no database" in run("export", "pond", "--db", tmp_path / "no.db").stderr


def test_import_takes_all_or_none(run, tmp_path):
    db = tmp_path / "x.db"
    later = tmp_path / "later.json"
    later.write_text(json.dumps({**scene_data("tarn"), "moods": []}))
    done = run("import", DATA / "tarn-first-kinds.json", later, "--db", db)
    assert done.exit_code == 2
    assert "nothing was taken in" in done.stderr
    with Database(db).reading() as session:
        assert scenes.all_scenes(session) == []


def test_demo_builds_once_and_keeps_what_was_done(run, tmp_path):
    db = tmp_path / "demo.db"
    assert "Built" in run("demo", "--db", db, "--only-build").stdout
    with Database(db).writing() as session:
        row = scenes.find(session, "ember-pools")
        fewer = set_fields(scenes.document(row.head), {"copies": 3})
        scenes.save(session, row, 1, fewer, "fewer", row.created_at)
    assert "Built" not in run("demo", "--db", db, "--only-build").stdout
    with Database(db).reading() as session:
        assert scenes.document(scenes.find(session, "ember-pools").head).copies == 3
    assert "Built" in run("demo", "--db", db, "--only-build", "--reset").stdout
    with Database(db).reading() as session:
        assert scenes.document(scenes.find(session, "ember-pools").head).copies == 5


def test_the_ground_is_read_off(run, tmp_path):
    scene = DATA / "tarn-first-kinds.json"
    told = run("ground", scene).stdout
    for words in ("true area", "flight-1: Bank", "panels", "a foot of 25 mm stands"):
        assert words in told
    assert json.loads(run("ground", scene, "--json", "--stage", "finished").stdout)["reading"]["highest_mm"] == 55
    assert run("ground", scene, "--stage", "never").exit_code == 2
    assert "there is no compound 'mud'" in run("ground", scene, "--mix", "mud").stderr


def test_inclines_by_command(run):
    assert "risers 25 mm + 6 mm; run 1240 mm" in run("incline", "31 mm").stdout
    assert "steeper than your limit" in run("incline", "31", "--grade", "9").stderr
    assert run("incline", "tall").exit_code == 2


def test_files_go_out_and_heights_come_in(run, tmp_path):
    scene = DATA / "tarn-first-kinds.json"
    done = run("files", scene, "--to", tmp_path / "out", "--stage", "finished")
    assert done.exit_code == 0
    assert (tmp_path / "out" / "ground.stl").stat().st_size > 1000
    assert run("files", scene, "--to", tmp_path / "out", "--stage", "never").exit_code == 2
    for name in ("ground.asc", "ground.png", "ground.csv"):
        taken = run("survey", tmp_path / "out" / name, scene)
        assert taken.exit_code == 0, taken.stderr
        made = json.loads(taken.stdout)["forms"][-1]
        assert (made["id"], made["kind"]) == ("survey", "survey")
    (tmp_path / "bad.asc").write_text("solid hill\n")
    refused = run("survey", tmp_path / "bad.asc", scene)
    assert (refused.exit_code, refused.stdout) == (2, "")
    assert "this is an STL" in refused.stderr
    assert run("survey", tmp_path / "none.asc", scene).exit_code == 2


def test_a_shell_is_told_in_strips_and_rolls(run, tmp_path):
    from isostasis.demo import document

    path = tmp_path / "scene.json"
    path.write_text(json.dumps(document("hollin-delf")))
    told = run("plan", path).stdout
    assert "Heap shell" in told
    assert "strips from 1 roll" in told


HOURS = ("--hours", "mon-fri 19:00-22:00; sat 09:00-17:00")


def test_schedule(run):
    done = run("schedule", DATA / "tarn.json", "--start", "2027-03-01T12:00+01:00", *HOURS, "--json")
    made = json.loads(done.stdout)
    assert list(made) == ["status", "finish", "bound", "sessions", "steps"]
    assert (made["status"], made["finish"]) == ("optimal", made["bound"])
    steps = json.loads(run("plan", DATA / "tarn.json", "--json").stdout)["steps"]
    assert [one["id"] for one in made["steps"]] == [one["id"] for one in steps]
    assert all(one["start"].endswith("+01:00") and one["start"] < one["end"] <= one["ready"] for one in made["steps"])
    told = run("schedule", DATA / "tarn.json", "--start", "2027-03-01T12:00+01:00", *HOURS).stdout
    assert told.startswith(f"finished {made['finish']}") and "Mix and pour casting resin" in told
    late = run(
        "schedule",
        DATA / "tarn.json",
        "--start",
        "2027-03-01T12:00Z",
        *HOURS,
        "--deadline",
        "2027-03-02T12:00Z",
        "--json",
    )
    assert (
        json.loads(late.stdout)["status"] == "infeasible" and "after the deadline" in json.loads(late.stdout)["why"][0]
    )
    for wrong, said in ((("--start", "soon", *HOURS), "“soon” is no time"),
                        (("--start", "2027-03-01T12:00Z", "--hours", "whenever"), "is no day with its hours")):  # fmt: skip
        refused = run("schedule", DATA / "tarn.json", *wrong)
        assert refused.exit_code == 2 and said in refused.stderr


def test_each_command_says_what_it_is_for_in_a_whole_sentence(run):
    said = run("--help").output.partition("Commands:")[2]
    assert "plan" in said and "..." not in said
