"""Labels: a tin is made one's own, plans follow, the command line agrees; what cannot be is told by its field."""

import html
import json

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.core.plan import plan
from isostasis.store import labels, scenes
from tests.support.forms import forms_of

TIN = "/labels/mix/casting-resin"
DEEPEST = "reacts_max_depth_mm"


def sent(reader, page=TIN, **changed):
    form = next(one for one in forms_of(reader.get(page).text) if one.action == page)
    return {**form.values, **changed}


def lake(database):
    with database.reading() as session:
        return plan(scenes.resolve(session, scenes.find(session, "hollin-delf").head)).lifts["lake-water"]


def test_what_a_tin_moves_is_told_before_it_is_kept(reader, database):
    assert "Change what your tin says" in reader.text(TIN)
    told = reader.text(f"{TIN}?{DEEPEST}=20+mm&scene=hollin-delf")
    assert "Hollin Delf with this tin" in told and "lifts 3 → 2" in told
    assert "Nothing moves here" in reader.text(f"{TIN}?name=My+resin")
    assert "the same by mass 100 : 42.24" in told
    assert len(lake(database).layers) == 3


def test_a_tin_of_ones_own_is_followed_by_every_plan_and_by_the_command_line(reader, database, tmp_path):
    reader.post(TIN, **sent(reader), how="keep")
    with database.reading() as session:
        assert labels.in_force(session) == []  # kept as it was: nothing is one's own
    reader.post(TIN, **sent(reader, **{DEEPEST: "2 cm"}), how="keep")
    assert len(lake(database).layers) == 2
    page = reader.text(TIN)
    assert "my tin" in page and "12 mm" in page and "20 mm" in reader.source(TIN)
    assert "mine" in reader.text("/labels?find=casting")
    exported = tmp_path / "lake.json"
    exported.write_text(reader.get("/s/hollin-delf/export.json").text, "utf-8")
    ran = CliRunner().invoke(main, ["plan", str(exported), "--json"])
    assert json.loads(ran.output) == reader.get("/s/hollin-delf/plan.json").json
    told = CliRunner().invoke(main, ["label", "casting-resin", "--db", database.name])
    assert json.loads(told.output)["mix"]["reacts"]["max_depth_mm"] == 20
    reader.post(TIN, how="shipped")
    assert len(lake(database).layers) == 3 and "as it was shipped" in reader.text(TIN)
    with database.reading() as session:
        assert [row.version for row in labels.versions(session, "mix", "casting-resin")] == [2, 1]


def test_what_is_built_keeps_the_tin_it_was_made_from(reader, database):
    def skin():
        with database.reading() as session:
            scene = scenes.resolve(session, scenes.find(session, "hollin-delf").head)
        return next(one for one in scene.built if one.lift and one.lift.id == "lake-skin"), plan(scene).lifts[
            "lake-skin"
        ]

    before, _ = skin()
    page = "/labels/mix/paper-plaster"
    reader.post(page, **sent(reader, page, air="0"), how="keep")
    after, planned = skin()
    assert after == before and planned.state == "done"


def test_another_tin_beside_it(reader, database):
    answer = reader.post(TIN, **sent(reader, name="Pond resin", **{DEEPEST: "15 mm"}), how="another")
    assert answer.location == "/labels/mix/pond-resin"
    assert len(lake(database).layers) == 3
    page = reader.text("/labels/mix/pond-resin")
    assert "Begun from Casting resin, 2:1" in page and "No scene uses it yet" in page
    assert "Pond resin" in reader.text("/s/hollin-delf/layup?patch=pit-lake")
    given = reader.get("/labels/mix/pond-resin/label").json
    assert given["mixes"][0]["id"] == "pond-resin" and given["mixes"][0]["reacts"]["max_depth_mm"] == 15
    again = reader.post(TIN, **sent(reader, name="Pond resin"), how="another")
    assert again.location == "/labels/mix/pond-resin-2"
    reader.post("/labels/mix/pond-resin", how="shipped")
    assert "Pond resin is gone" in reader.text("/labels")
    reader.get("/labels/mix/pond-resin", 422)


@pytest.mark.parametrize(("page", "changed", "sentence"), [
    (TIN, {"reacts_working_min": "2000"}, "hard after 1440 min"),
    (TIN, {"reacts_hard_h": "0"}, "hard after"),
    (TIN, {DEEPEST: "12 parsecs"}, "greatest depth of one lift"),
    (TIN, {DEEPEST: "15"}, "“15” has no unit; write 15 mm"),
    (TIN, {DEEPEST: ""}, "write what the tin says"),
    (TIN, {"part_0": "0", "part_1": "0"}, "mixes nothing"),
    (TIN, {"part_0": "-1"}, "parts of casting resin"),
    (TIN, {"basis": "by the spoon"}, "parts are"),
    (TIN, {"colour": "teal"}, "colour"),
    (TIN, {"name": "x" * 90}, "it has 90 letters"),
    (TIN, {"reacts_temp_c": "230"}, "told for a room of"),
    ("/labels/material/play-sand", {"voids": "100"}, "voids between grains"),
    ("/labels/material/play-sand", {"density": "1e300"}, "a millilitre weighs"),
])  # fmt: skip
def test_a_tin_that_cannot_be_is_told_by_its_field(reader, database, page, changed, sentence):
    answer = html.unescape(reader.post(page, 422, **sent(reader, page, **changed), how="keep").text)
    assert sentence in answer.lower(), answer[-1500:]
    with database.reading() as session:
        assert labels.in_force(session) == []


def test_a_tin_that_a_scene_could_not_be_planned_with_is_refused(reader, database):
    page = "/labels/material/play-sand"
    reader.post("/labels/mix/casting-resin", **sent(reader, name="Pond resin"), how="another")
    with database.writing() as session:
        row = scenes.find(session, "tarn")
        row.head.document = row.head.document.replace('"casting-resin"', '"pond-resin"')
    told = html.unescape(reader.post("/labels/mix/pond-resin", 422, how="shipped").text)
    assert "“Tarn” could not be planned any more" in told and "did you mean" in told
    assert "pond-resin" in reader.get("/labels/mix/pond-resin").text and page


def test_what_is_no_label_is_told(reader, database):
    for page in ("/labels/mix/gone", "/labels/tin/casting-resin"):
        reader.get(page, 422)
    assert "No tin is called so" in reader.text("/labels?find=unobtainium")
    told = CliRunner().invoke(main, ["label", "castinX", "--db", database.name])
    assert told.exit_code == 2 and "casting-resin" in told.output


def test_every_label_has_a_page_that_is_sent_as_it_is(reader, database):
    with database.reading() as session:
        known = labels.catalogue(session)
    pages = [f"/labels/mix/{name}" for name in known.mixes] + [f"/labels/material/{name}" for name in known.materials]
    for page in pages[:: max(len(pages) // 30, 1)]:
        reader.post(page, **sent(reader, page), how="keep")
    with database.reading() as session:
        assert labels.in_force(session) == []
