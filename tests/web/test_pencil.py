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
