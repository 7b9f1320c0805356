"""New tins from a family, mixes out of anything, labels in and out as files, a tin's photo; what a scene says of it."""

import html
import io
import json

import pytest

from isostasis.core.plan import plan
from isostasis.core.tins import FAMILIES
from isostasis.store import labels, scenes
from tests.support.forms import forms_of
from tests.support.photos import as_file, fen_photo


def sent(reader, page, action, **changed):
    form = next(one for one in forms_of(reader.get(page).text) if one.action == action)
    return {**form.values, **changed}


def known(database):
    with database.reading() as session:
        return labels.catalogue(session)


@pytest.mark.parametrize("family", FAMILIES)
def test_a_new_tin_of_each_family_is_kept_with_what_stands_there_first(reader, database, family):
    page = f"/labels/new?family={family}"
    assert "By default, until you say otherwise" in reader.text(page)
    answer = reader.post("/labels/new", **sent(reader, page, "/labels/new", name="My tin"))
    assert answer.location.startswith("/labels/m") and answer.location.endswith("/my-tin")
    told = reader.text(answer.location)
    assert "my tin" in told and "Begun from" in told and "by default" in told
    assert known(database).materials["my-tin"].name == "My tin"


def test_a_resin_in_few_fields_pours(reader, database):
    page = "/labels/new?family=resin"
    told = reader.text(
        page + "&name=Bog+resin&parts_a=100&parts_b=40&basis=mass&max_depth_mm=25+mm&hard_h=18&working_min=30&temp_c=23"
    )
    assert "Bog resin" in told and "the same by volume 100 : 47.35" in told
    reader.post("/labels/new", **sent(reader, page, "/labels/new", name="Bog resin", max_depth_mm="25 mm"))
    mix = known(database).mixes["bog-resin"]
    assert mix.reacts.max_depth_mm == 25 and mix.reacts.working_min == 40
    assert "Bog resin" in reader.text("/s/hollin-delf/layup?patch=pit-lake")
    again = reader.post("/labels/new", **sent(reader, page, "/labels/new", name="Bog resin"))
    assert again.location == "/labels/mix/bog-resin-2"


@pytest.mark.parametrize(("family", "changed", "words"), [
    ("resin", {"name": ""}, "it has no name"), ("resin", {"parts_a": "0", "parts_b": "0"}, "parts of a: parts of nothing"),
    ("resin", {"working_min": "2000"}, "hard after 1440 min"), ("resin", {"max_depth_mm": "12"}, "“12” has no unit"),
    ("resin", {"max_depth_mm": "deep"}, "greatest depth of one lift: “deep” is no length"),
    ("resin", {"hard_h": "0"}, "hard after: 0 is not above 0"), ("resin", {"temp_c": "400"}, "told for a room of"),
    ("paint", {"colour": "teal"}, "colour"), ("compound", {"dry_h": "1"}, "the air alone needs about"),
    ("powder", {"density": "3"}, "air lies between grains"), ("cloth", {"overlap_mm": "150 mm"}, "more than half"),
    ("glue", {"solids": "100"}, "is not between 0 and 100"),
])  # fmt: skip
def test_an_impossible_tin_is_told_and_not_kept(reader, database, family, changed, words):
    page = f"/labels/new?family={family}"
    values = sent(reader, page, "/labels/new", **{"name": "My tin", **changed})
    answer = html.unescape(reader.post("/labels/new", 422 if words else 303, **values).text)
    assert words in answer.lower()
    assert ("my-tin" in known(database).materials) is (not words)


def test_a_mix_out_of_anything_has_its_lineage_and_says_when_a_part_says_otherwise(reader, database):
    reader.post("/labels/mixed", name="Bank render", family="skin", basis="volume",
                **{"label-1": "home-compound", "parts-1": "3", "label-2": "play-sand", "parts-2": "1"})  # fmt: skip
    page = "/labels/mix/bank-render"
    assert "Made of home-compound , play-sand" in reader.text(page)
    assert "says otherwise since" not in reader.text(page)
    other = "/labels/mix/home-compound"
    reader.post(other, **sent(reader, other, other, sets_set_min="30"), how="keep")
    assert "says otherwise since: put it together anew" in reader.text(page)
    for wrong, words in (
        ({"name": ""}, "it has none"), ({"parts-2": ""}, "it is not said how many"), ({"label-2": ""}, "a mix has two at least"),
        ({"label-2": "casting-resin"}, "hardens by itself"), ({"family": "resin"}, "no kind of mix"), ({"parts-1": "0"}, "parts are none"),
    ):  # fmt: skip
        values = {
            "name": "X",
            "family": "skin",
            "basis": "volume",
            "label-1": "plaster",
            "parts-1": "3",
            "label-2": "water",
            "parts-2": "2",
        }
        assert words in reader.post("/labels/mixed", 422, **{**values, **wrong}).text


def test_labels_go_out_and_a_clash_is_asked_about(reader, database):
    assert reader.get("/labels/mix/casting-resin/label?format=toml").text.startswith("[[mixes]]")
    given = reader.get("/labels/mix/casting-resin/label").json
    reader.post("/labels/in", text=json.dumps(given))
    assert "0 labels came in" in reader.text("/labels")
    given["mixes"][0]["reacts"]["max_depth_mm"] = 18
    given["mixes"].append({**given["mixes"][0], "id": "mill-resin", "name": "Mill resin"})
    asked = reader.post("/labels/in", 200, text=json.dumps(given)).text
    assert "1 label is new here" in asked and "12 mm" in asked and "18 mm" in asked
    assert known(database).mixes["casting-resin"].reacts.max_depth_mm == 12
    (form,) = [one for one in forms_of(asked) if one.action == "/labels/in"]
    reader.post("/labels/in", **{**form.values, "way-mix-casting-resin": "mine"})
    assert known(database).mixes["casting-resin"].reacts.max_depth_mm == 12
    assert known(database).mixes["mill-resin"].reacts.max_depth_mm == 18
    reader.post("/labels/in", **{**form.values, "way-mix-casting-resin": "another"})
    assert known(database).mixes["casting-resin-new"].name == "Casting resin, 2:1, new"
    reader.post("/labels/in", **{**form.values, "way-mix-casting-resin": "new"})
    assert known(database).mixes["casting-resin"].reacts.max_depth_mm == 18
    mine = reader.get("/labels/mine").json
    assert {one["id"] for one in mine["mixes"]} == {"casting-resin", "mill-resin", "casting-resin-new"}


def test_a_mix_under_another_name_is_made_of_what_came_with_it(reader, database):
    tin = reader.get("/labels/material/casting-resin/label").json["materials"][0] | {"density": 1.2}
    mix = reader.get("/labels/mix/casting-resin/label").json["mixes"][0] | {"slump_mm": 99}
    text = json.dumps({"materials": [tin], "mixes": [mix]})
    reader.post(
        "/labels/in", text=text, **{"way-mix-casting-resin": "another", "way-material-casting-resin": "another"}
    )
    (parts,) = {tuple(part.material for part in known(database).mixes["casting-resin-new"].ingredients)}
    assert set(parts) <= set(known(database).materials) and "casting-resin" not in parts


def test_what_cannot_come_in_is_told_and_nothing_does(reader, database):
    before = len(known(database).mixes)
    for text, words in (
        ("{", "it is no JSON"), ("", "missing"),
        (json.dumps({"mixes": [{"id": "a", "name": "A", "family": "skin", "source": "mine and only mine",
                                "ingredients": [{"material": "moon-dust", "parts": 1}]}]}), "made of “moon-dust”"),
    ):  # fmt: skip
        answer = html.unescape(reader.post("/labels/in", 422, text=text).text)
        assert words in answer or words == "missing"
    assert len(known(database).mixes) == before


def test_a_photo_of_the_tin(reader, database):
    def send(**files):
        data = {"csrf_token": reader.token, **files}
        return reader.client.post("/labels/mix/casting-resin/photo", data=data, content_type="multipart/form-data")

    assert send(photo=(io.BytesIO(as_file(fen_photo())), "tin.jpg")).status_code == 303
    page = reader.source("/labels/mix/casting-resin")
    assert 'class="tin-photo"' in page
    assert reader.get(page.split('class="tin-photo" src="')[1].split('"')[0]).mimetype == "image/webp"
    assert send(photo=(io.BytesIO(b"no picture at all"), "tin.jpg")).status_code == 422
    assert send().status_code == 303
    assert 'class="tin-photo"' not in reader.source("/labels/mix/casting-resin")


def test_a_scene_says_which_tins_say_otherwise_until_it_is_changed_again(reader, database, clock):
    clock.pass_by(minutes=5)
    page = "/labels/mix/casting-resin"
    reader.post(page, **sent(reader, page, page, reacts_max_depth_mm="20 mm"), how="keep")
    told = "Casting resin, 2:1 says otherwise: greatest depth of one lift 12 mm → 20 mm"
    assert told in reader.text("/s/hollin-delf/layup") and told in reader.text("/s/hollin-delf/history")
    assert told not in reader.text("/s/saltcote-pans/layup")
    clock.pass_by(minutes=5)
    with database.writing() as session:
        row = scenes.find(session, "hollin-delf")
        document = scenes.document(row.head)
        changed = document.model_copy(update={"name": "Hollin Delf, again"})
        scenes.save(session, row, row.head.number, changed, "Renamed", clock.at)
    assert told not in reader.text("/s/hollin-delf/layup") and told in reader.text("/s/hollin-delf/history")


def test_each_field_says_what_it_moves_by_itself(reader, database):
    page = "/labels/mix/casting-resin?reacts_max_depth_mm=20+mm&reacts_hard_h=18&scene=hollin-delf"
    source = reader.source(page)
    cell = source.split('id="moved-reacts_max_depth_mm"')[1].split("</td>")[0]
    assert "lifts 3 → <strong>2</strong>" in cell
    hard = source.split('id="moved-reacts_hard_h"')[1].split("</td>")[0]
    assert "lifts" not in hard and "→" in hard
    told = reader.text(page)
    assert "sooner" in told and "Pit lake, water 8.33 mm" in told
    nothing = reader.source("/labels/mix/casting-resin?reacts_shrinkage=1.6&slump_mm=&scene=hollin-delf")
    assert "moved-reacts_shrinkage" in nothing
    answer = reader.client.get(page, headers={"HX-Request": "true", "HX-Target": "moves"}).text
    assert answer.count('hx-swap-oob="true"') > 10
    with database.reading() as session:
        scene = scenes.resolve(session, scenes.find(session, "hollin-delf").head)
        assert len(plan(scene).lifts["lake-water"].layers) == 3
