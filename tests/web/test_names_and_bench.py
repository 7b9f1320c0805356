"""What was lost or made wrong figures once: second places, blends and their names, a bench that breaks scenes."""

import html

import pytest

from isostasis.core.plan import plan
from isostasis.store import scenes
from tests.support.pages import document

KEEP = "/s/tarn/ground/keep"
PLACE = {"x1": "10", "y1": "150", "x2": "60", "y2": "190", "width": "", "flat": "0.5 mm", "height": ""}
BLEND = "/s/hollin-delf/layup/blend"
PAINTS = {"material": ["paint-white", "paint-teal"], "scoops": ["3", "1"], "to": ["", ""]}


@pytest.mark.parametrize(("listed", "part"), [("flats", "flats"), ("mask", "protect"), ("seal", "protect")])
def test_a_second_place_is_kept_beside_the_first(reader, database, listed, part):
    for base, name in ((1, "One"), (2, "Two")):
        reader.post(KEEP, base=base, list_=listed, name=name, **PLACE)
    found = document(database)[1][part]
    assert [one["name"] for one in found] == ["One", "Two"]
    assert len({one["id"] for one in found}) == 2
    page = reader.text("/s/tarn/ground/flats")
    assert "One" in page and "Two" in page
    again = reader.post(KEEP, 422, base=3, list_=listed, name="two", **PLACE)
    assert "call it “two 2”" in html.unescape(again.text)


def test_two_blends_are_kept_and_offered_though_nothing_uses_them(reader, database):
    reader.post(BLEND, base=1, name="Sea", **PAINTS)
    reader.post(BLEND, base=2, name="Sky", **PAINTS)
    assert [one["name"] for one in document(database, "hollin-delf")[1]["mixes"]] == ["Sea", "Sky"]
    page = reader.get("/s/hollin-delf/layup?patch=floor").text
    assert "Sea" in page and "Sky" in page
    again = reader.post(BLEND, 422, base=3, name="Sea", **PAINTS)
    assert "call it “Sea 2”" in html.unescape(again.text)


def test_a_blend_never_takes_the_place_of_a_mix_that_comes_with_the_program(reader, database):
    def masses():
        with database.reading() as session:
            made = plan(scenes.resolve(session, scenes.find(session, "hollin-delf").head))
        return {name: lift.mass_g.value for name, lift in made.lifts.items()}

    before = masses()
    refused = reader.post(BLEND, 422, base=1, name="Quarry dust", **PAINTS)
    assert "already" in html.unescape(refused.text)
    reader.post(BLEND, base=1, name="Quarry-dust", **PAINTS)  # another name, though its id would be the same
    (mix,) = document(database, "hollin-delf")[1]["mixes"]
    assert mix["id"] != "quarry-dust"
    assert masses() == before


def test_a_bench_that_breaks_scenes_is_refused_by_their_names(reader):
    page = reader.get("/things").text
    assert 'name="tub_long"' in page
    values = {
        "cup_ml": "400", "bowl_ml": "1500", "scoop_ml": "5", "drop_ml": "0.05", "spread_ml_per_min": "25",
        "tub_long": "20", "tub_wide": "20", "figure_mm": "25", "grade_most": "2.5", "risers_mm": "", "shims_mm": "",
    }  # fmt: skip
    said = html.unescape(reader.post("/things", 422, **values).text)
    assert "“Hollin Delf” could not be planned any more" in said
    assert "a longer or wider tub" in said
    for place in ("ground", "layup", "pour", "mix", "clock"):
        reader.get(f"/s/hollin-delf/{place}")
    reader.post("/things", **{**values, "tub_long": "300", "tub_wide": "200"})
