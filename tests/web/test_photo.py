"""A photo under the plan: taken in, laid straight, traced, sent on with its scene; and what is told instead."""

import html
import io
import json

import numpy as np
import pytest
from PIL import Image

from tests.support.pages import document
from tests.support.photos import as_file, fen_photo, with_place

CORNERS = "[[300, 960], [1428, 955], [1478, 128], [190, 212]]"
FEN = "/s/kettle-fen"


def lay(reader, data, **more):
    """Send a photo, drag its corners, lay it."""
    sent = reader.client.post("/s/tarn/photo", data={"csrf_token": reader.token, "photo": (io.BytesIO(data), "b.jpg")})
    assert sent.status_code == 303, sent.text
    digest = sent.location.split("picture=")[1]
    page = reader.text(sent.location)
    assert "Where is the board?" in page and "top rim" in page
    return digest, {"base": 1, "picture": digest, "by": "corners", "corners": CORNERS, **more}


def test_a_photo_is_laid_under_the_plan_and_told_about(reader, database):
    digest, sent = lay(reader, with_place(fen_photo().rotate(90, expand=True)))
    reader.post("/s/tarn/photo/lay", **sent)
    photo = document(database)[1]["photo"]
    assert photo["taken"] == digest and 0 <= photo["agree_mm"] < 20 and photo["corners"] == json.loads(CORNERS)
    page = reader.source("/s/tarn/ground")
    assert f"/pictures/{photo['straight']}.webp" in page and 'data-name="follow an edge"' in page
    picture = reader.get(f"/pictures/{photo['straight']}.webp")
    assert Image.open(io.BytesIO(picture.data)).size == (600, 400) and "immutable" in picture.headers["Cache-Control"]
    assert "its edges agree to" in reader.text("/s/tarn/ground/photo")
    reader.post("/s/tarn/photo/change", base=2, strength="40", here="/s/tarn/ground")
    assert document(database)[1]["photo"]["strength"] == 0.4
    reader.post("/s/tarn/photo/change", base=3, how="remove")
    assert "photo" not in document(database)[1] and "Took the photo away" in reader.text("/s/tarn/history")
    reader.post("/s/tarn/undo")
    assert document(database)[1]["photo"]["strength"] == 0.4


def test_two_points_and_a_distance_place_it_too(reader, database):
    _, sent = lay(reader, as_file(fen_photo()))
    points = json.dumps([[200, 1000], [200, 1000], [700, 1000]])
    reader.post("/s/tarn/photo/lay", **{**sent, "by": "distance", "points": points, "apart": "10 cm"})
    photo = document(database)[1]["photo"]
    assert "agree_mm" not in photo and photo["corners"][1] == [200 + 5 * 300, 1000]
    assert "two points" in reader.text("/s/tarn/ground/photo")


@pytest.mark.parametrize(("more", "sentence"), [
    ({"picture": "0" * 64}, "it is not here any more"),
    ({"corners": "[[0,0],[1,1]]"}, "no 4 places on it"),
    ({"corners": "[" * 9000}, "no 4 places on it"),
    ({"corners": "[[300, 960], [190, 212], [1478, 128], [1428, 955]]"}, "wrong way round"),
    ({"corners": "[[300, 960], [1478, 128], [1428, 955], [190, 212]]"}, "cross"),
    ({"by": "distance", "points": "[[0,0],[1,1],[2,2]]", "apart": "100"}, "too near together"),
    ({"by": "distance", "points": "[[0,900],[1,1],[800,2]]", "apart": "never"}, "how far apart they are"),
    ({"by": "distance", "points": "[[0,900],[1,1],[800,2]]", "apart": "-4"}, "how far apart they are"),
])  # fmt: skip
def test_a_place_that_is_none_is_told(reader, database, more, sentence):
    _, sent = lay(reader, as_file(fen_photo()))
    assert sentence in html.unescape(reader.post("/s/tarn/photo/lay", 422, **{**sent, **more}).text)
    assert document(database)[0] == 1


def test_what_is_no_photo_is_told_and_nothing_is_lost(reader, database):
    for data, status, sentence in (
        (b"", 422, "nothing in it"),
        (b"plaster", 422, "no picture of a kind"),
        (b"\0" * 31_000_000, 413, "larger than"),
    ):
        sent = {"csrf_token": reader.token, "photo": (io.BytesIO(data), "b.jpg")}
        answer = reader.client.post("/s/tarn/photo", data=sent)
        assert answer.status_code == status and sentence in html.unescape(answer.text), answer.text
    assert "nothing was chosen" in html.unescape(reader.post("/s/tarn/photo", 422).text)
    assert document(database)[0] == 1


def test_the_way_between_clicks_is_found_and_a_ring_becomes_a_pond(reader, database):
    clicks = [[x, y] for x, y in document(database, "kettle-fen")[1]["forms"][5]["outline"][::3]]
    found = reader.get(f"{FEN}/photo/edge?clicks={json.dumps(clicks[:4])}").json
    assert found["first"] == 1 and len(found["segments"]) == 2 and np.allclose(found["segments"][1][-1], clicks[3])
    ring = reader.get(f"{FEN}/photo/edge?closed=1&clicks={json.dumps(clicks)}").json
    assert len(ring["line"]) > 8 and ring["off_mm"] < 2
    before, shape = document(database, "kettle-fen")
    lower = [[x, y - 75] for x, y in clicks]  # beside the pond, where nothing stands in its way
    reader.post(f"{FEN}/forms/draw", base=before, kind="rim", tool="follow an edge", line=json.dumps(lower))
    drawn = document(database, "kettle-fen")[1]["forms"][-1]
    assert drawn["kind"] == "rim" and drawn["name"].startswith("South-west rim") and len(shape["forms"]) == 7
    path = json.dumps([[20, 60], [120, 62], [260, 58]])
    reader.post(f"{FEN}/forms/draw", base=before + 1, kind="ramp", tool="follow an edge", line=path)
    assert document(database, "kettle-fen")[1]["forms"][-1]["path"][0] == [20, 60]


@pytest.mark.parametrize("clicks", ["", "x", "[[1,1]]", json.dumps([[1, 1]] * 900), "[" * 2000, '[[1,1],[2,"NaN"]]'])
def test_clicks_that_are_none_are_told(reader, clicks):
    assert reader.client.get(f"{FEN}/photo/edge", query_string={"clicks": clicks}).status_code == 422
    assert reader.client.get("/s/tarn/photo/edge?clicks=[[1,1],[9,9]]").status_code == 422  # no photo there


def test_a_scene_begins_from_a_photo(reader, database):
    assert "From straight above" in reader.text("/start/photo")
    data = {"csrf_token": reader.token, "width": "60 cm", "depth": "400", "foam": "25", "name": "Reed bed",
            "photo": (io.BytesIO(as_file(fen_photo())), "reed.jpg")}  # fmt: skip
    answer = reader.client.post("/start/photo", data=data)
    assert answer.status_code == 303 and answer.location.startswith("/s/reed-bed/ground/photo?picture=")
    picture = answer.location.split("picture=")[1]
    reader.post("/s/reed-bed/photo/lay", base=1, picture=picture, by="corners", corners=CORNERS)
    scene = document(database, "reed-bed")[1]
    assert scene["photo"]["width_mm"] == 600 and [one["kind"] for one in scene["forms"]] == ["sheet"]
    for wrong, words in (({"width": "2"}, "west to east"), ({"foam": "-1"}, "foam on the board")):
        kept = {**data, **wrong, "photo": (io.BytesIO(b"x"), "x")}
        told = reader.client.post("/start/photo", data=kept)
        assert told.status_code == 422 and words in html.unescape(told.text)


def test_the_archive_carries_it_and_the_json_says_that_it_is_left_out(reader, database, clock, tmp_path):
    from isostasis.store import Database
    from isostasis.web import create_app
    from tests.support.pages import Reader

    packed, plain = reader.get(f"{FEN}/archive.zip").data, reader.get(f"{FEN}/export.json").data
    assert "its photo left out" in reader.text(f"{FEN}/ground/files")
    elsewhere = Database(tmp_path / "elsewhere.db")
    other = Reader(create_app(elsewhere, clock))
    for number, (data, name) in enumerate(((packed, "fen.zip"), (plain, "fen.json"))):
        sent = {"csrf_token": other.token, "file": (io.BytesIO(data), name)}
        assert other.client.post("/scenes/import", data=sent).status_code == 303
        slug = "kettle-fen" if number == 0 else "kettle-fen-2"
        photo = document(elsewhere, slug)[1]["photo"]
        assert photo.get("left_out", False) is False  # the archive brought the pictures; now they are here
        assert photo["straight"] in other.get(f"/s/{slug}/ground").text
    empty = Database(tmp_path / "empty.db")
    third = Reader(create_app(empty, clock))
    sent = {"csrf_token": third.token, "file": (io.BytesIO(plain), "fen.json")}
    assert third.client.post("/scenes/import", data=sent).status_code == 303
    assert "was left out of the file" in third.text("/s/kettle-fen/ground")
    assert "left out" in third.text("/s/kettle-fen/ground/photo")
    for database_ in (elsewhere, empty):
        database_.close()


def test_a_broken_archive_is_told(reader):
    for data in (b"PK\x03\x04broken", reader.get(f"{FEN}/archive.zip").data[:-2000]):
        sent = {"csrf_token": reader.token, "file": (io.BytesIO(data), "fen.zip")}
        answer = reader.client.post("/scenes/import", data=sent)
        assert answer.status_code == 422 and "archive" in html.unescape(answer.text)
