"""What is drawn becomes a form with a name, or is told; nothing half-kept."""

import html
import json

import pytest

from tests.support.pages import document

BOX = json.dumps([[210, 150], [280, 190]])


def test_every_kind_that_is_drawn_becomes_a_form(reader, database):
    kinds = ("sheet", "mound", "basin", "rim", "bevel", "casting")
    for base, kind in enumerate(kinds, start=1):
        reader.post("/s/tarn/forms/draw", base=base, kind=kind, tool="rectangle", line=BOX)
    for base, kind in enumerate(("ramp", "channel"), start=7):
        line = json.dumps([[200 + x, 160 + x % 3] for x in range(0, 90, 2)])
        reader.post("/s/tarn/forms/draw", base=base, kind=kind, tool="freehand", line=line)
    forms = document(database)[1]["forms"][3:]
    assert [one["kind"] for one in forms] == [*kinds, "ramp", "channel"]
    assert forms[2]["name"] == "North-east pond" and len({one["name"] for one in forms}) == 8
    reader.post("/s/tarn/forms/draw", base=9, kind="basin", tool="rectangle", line=BOX)
    assert document(database)[1]["forms"][-1]["name"] == "North-east pond 2"
    assert "Drew North-east pond 2" in reader.text("/s/tarn/history")


@pytest.mark.parametrize(("sent", "sentence"), [
    ({"kind": "survey", "tool": "rectangle", "line": BOX}, "is not drawn; one of"),
    ({"kind": "ramp", "tool": "ellipse", "line": BOX}, "a ramp is not drawn so"),
    ({"kind": "basin", "tool": "spray", "line": BOX}, "a basin is not drawn so"),
    ({"kind": "basin", "tool": "corners", "line": "[[1,2]]"}, "it has 1 points"),
    ({"kind": "basin", "tool": "freehand", "line": "[" * 100_000}, "it is no list of points"),
    ({"kind": "basin", "tool": "freehand", "line": json.dumps([[0, 0]] * 50_000)}, "it has 50000 points"),
    ({"kind": "basin", "tool": "freehand", "line": "{}"}, "points"),
    ({"kind": "basin", "tool": "corners", "line": "[[0,0],[50,50],[50,0],[0,50]]"}, "crosses itself"),
])  # fmt: skip
def test_what_is_no_drawing_is_told(reader, database, sent, sentence):
    assert sentence in html.unescape(reader.post("/s/tarn/forms/draw", 422, base=1, **sent).text)
    assert document(database)[0] == 1


def test_several_are_shaped_together(reader, database):
    reader.post("/s/tarn/forms/draw", base=1, kind="mound", tool="rectangle", line=BOX)
    before = {one["id"]: one for one in document(database)[1]["forms"]}
    name = next(one for one in before if one not in ("slab", "bank", "hole"))
    page = reader.source(f"/s/tarn/ground?form={name}&also=bank&also=bank&also=gone")
    assert "2 chosen" in page and "mirror east-west" in page
    shaped = "/s/tarn/forms/shape"
    reader.post(shaped, base=2, how="turn", chosen=[name], by="90")
    turned = {one["id"]: one for one in document(database)[1]["forms"]}
    xs = {x for x, _ in turned[name]["outline"]}
    assert max(xs) - min(xs) == 40 and turned["bank"] == before["bank"]
    answer = reader.post(shaped, base=3, how="copy", chosen=[name, "bank"])
    assert f"form={name}-2" in answer.location and "also=bank-2" in answer.location
    assert len(document(database)[1]["forms"]) == 6 and "Once more" in reader.text("/s/tarn/history")
    reader.post(shaped, base=4, how="remove", chosen=[f"{name}-2", "bank-2"])
    assert [one["id"] for one in document(database)[1]["forms"]] == ["slab", "bank", "hole", name]
    for sent, sentence in (({"how": "spin", "chosen": name}, "nothing to do"), ({"how": "turn"}, "nothing is chosen"),
                           ({"how": "turn", "chosen": name, "by": "x"}, "by how much")):  # fmt: skip
        assert sentence in html.unescape(reader.post(shaped, 422, base=5, **sent).text)


def test_a_road_is_drawn_and_kept_flat(reader, database):
    line = json.dumps([[5, 20], [150, 24], [290, 20]])
    for base in (1, 2):
        reader.post("/s/tarn/forms/draw", base=base, kind="road", tool="corners", line=line)
    flats = document(database)[1]["flats"]
    assert [one["name"] for one in flats[-2:]] == ["South road", "South road 2"] and flats[-1]["width_mm"] == 20
