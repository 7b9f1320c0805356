"""Settings of a scene: one page, nothing changed that was not; a smaller board asks; away and back."""

import html

import pytest

from isostasis.core.plan import plan
from isostasis.store import scenes, shelved
from tests.support.forms import forms_of
from tests.support.pages import document

PAGE = "/s/kettle-fen/settings"


def sent(reader, page=PAGE, **changed):
    """The page's form as a browser would send it, some fields changed."""
    form = next(one for one in forms_of(reader.get(page).text) if one.action == page)
    return {**form.values, **changed}


def test_name_board_and_copies(reader, database):
    form = sent(reader)
    reader.post(PAGE, **form)
    assert document(database, "kettle-fen")[0] == 1  # sent as it was
    reader.post(PAGE, **{**form, "name": "  Kettle   Moss ", "copies": "3", "board": "hardboard-3", "dam_mm": "2 cm",
                         "dammed": ["north", "east"]})  # fmt: skip
    scene = document(database, "kettle-fen")[1]
    assert (scene["name"], scene["copies"]) == ("Kettle Moss", 3)
    assert scene["base"] == {
        "width_mm": 600,
        "depth_mm": 400,
        "board": "hardboard-3",
        "dammed": ["north", "east"],
        "dam_mm": 20,
    }
    assert "Renamed to Kettle Moss" in reader.text("/s/kettle-fen/history")
    again = sent(reader, name="Kettle Moss")
    assert again["copies"] == ["3"] and again["dam_mm"][0].startswith("20")


def test_copies_change_every_amount_at_once(reader, database):
    def needs():
        with database.reading() as session:
            made = plan(scenes.resolve(session, scenes.find(session, "kettle-fen").head))
        return {one.material: one.need.number for one in made.buy}, made.lifts["east-pond-water-water"].mix_ml.number

    before, mix = needs()
    reader.post(PAGE, **sent(reader, copies="2"))
    after, mixed = needs()
    assert mixed == pytest.approx(mix) or mixed == pytest.approx(2 * mix, rel=0.2)
    assert all(after[name] > 1.5 * amount for name, amount in before.items() if amount > 5)


def test_a_smaller_board_asks_what_becomes_of_the_rest(reader, database):
    form = sent(reader, width_mm="450")
    asked = html.unescape(reader.post(PAGE, 409, **form).text)
    assert "Paper mound, East pond, East pond water" in asked and "Cut it off there" in asked
    told = html.unescape(reader.post(PAGE, 422, **form, beyond="cut").text)
    assert "runs over the open east edge" in told and document(database, "kettle-fen")[0] == 1
    reader.post(PAGE, **form, beyond="cut", dammed="east", anyway="do")
    scene = document(database, "kettle-fen")[1]
    assert max(x for form in scene["forms"] for x, _ in form["outline"]) == 450 and scene["base"]["dammed"] == ["east"]
    reader.post("/s/kettle-fen/undo")
    reader.post(PAGE, **{**form, "base": "1"}, beyond="scale", anyway="do")
    assert document(database, "kettle-fen")[1]["forms"][4]["outline"][0][0] < 450


def test_a_round_base_and_back(reader, database):
    page = "/s/ember-pools/settings"
    assert sent(reader, page)["shape"] == ["disc"]
    reader.post(page, **sent(reader, page, shape="rectangle"), anyway="do")
    assert "outline" not in document(database, "ember-pools")[1]["base"]
    assert sent(reader, page)["shape"] == ["rectangle"]
    reader.post(page, **sent(reader, page, shape="disc"), anyway="do")
    assert document(database, "ember-pools")[1]["base"]["outline"] == {"disc_mm": 60}


@pytest.mark.parametrize(("changed", "sentence"), [
    ({"name": " "}, "the scene has no name"),
    ({"name": "hollin delf"}, "call it “hollin delf 2”"),
    ({"name": "x" * 90}, "it has 90 letters"),
    ({"width_mm": "12 parsecs"}, "west to east"),
    ({"width_mm": "0"}, "west to east"),
    ({"width_mm": "30 m"}, "west to east"),
    ({"copies": "0"}, "copies of it"),
    ({"copies": "1.5"}, "no whole number"),
    ({"dam_mm": "-3"}, "dam"),
    ({"board": "cheese"}, "cheese"),
    ({"shape": "star"}, "choose one of the list"),
    ({"shape": "disc", "disc_mm": "500"}, "does not fit"),
])  # fmt: skip
def test_what_cannot_be_is_told(reader, database, changed, sentence):
    assert sentence in html.unescape(reader.post(PAGE, 422, **sent(reader, **changed)).text)
    assert document(database, "kettle-fen")[0] == 1


def test_into_the_archive_the_bin_and_back(reader, database):
    reader.post("/s/saltcote-pans/archive", how="away")
    reader.post("/s/kettle-fen/bin")
    home = reader.text("/")
    assert (
        "Saltcote Pans is in the archive" in home and "archive 1" in home and "bin 1" in home and "30 days left" in home
    )
    reader.get("/s/kettle-fen/ground", 404)
    assert "Saltcote Pans" in reader.text("/s/saltcote-pans/ground")
    assert "out of the archive" in reader.text("/s/saltcote-pans/settings")
    reader.post("/bin/kettle-fen/back")
    reader.post("/s/saltcote-pans/archive", how="back")
    reader.get("/s/kettle-fen/ground")
    reader.post("/bin/kettle-fen/back", 404)
    with database.reading() as session:
        assert shelved.archived(session) == [] == shelved.binned(session)


def test_the_keeper_empties_the_bin(app, reader, database, clock):
    reader.post("/s/kettle-fen/bin")
    clock.pass_by(days=31)
    app.extensions["keeper"].round()
    with database.reading() as session:
        assert shelved.binned(session) == []


def test_a_second_one_of_a_name_is_told(reader):
    for wanted in ("/s/fen-of-mine/ground", "/s/fen-of-mine-2/ground"):
        assert reader.post("/start/empty", name="Fen of mine").location == wanted
    assert "There is a Fen of mine already: this one is Fen of mine 2" in reader.text("/s/fen-of-mine-2/ground")
