"""From a few answers to a scene; whole lay-ups and patches in one go."""

import html
import io
import re

import numpy as np
import pytest
from PIL import Image

from isostasis.core.plan import plan
from isostasis.core.starters import STARTERS
from tests.support.pages import document
from tests.support.scenes import resolved
from tools.starters import FOLDER, picture

KINDS = pytest.mark.parametrize("kind", [one.id for one in STARTERS])


@KINDS
def test_each_start_asks_shows_and_becomes_a_scene(reader, database, kind):
    page = reader.get(f"/start/{kind}").text
    picture = html.unescape(re.search(r'<img src="([^"]+)"', page)[1])
    answer = reader.get(picture)
    assert answer.mimetype == "image/webp" and answer.data[:4] == b"RIFF"
    assert f'href="/start/{kind}"' in reader.get("/").text
    made = reader.post(f"/start/{kind}", name="A new one")
    assert made.location == "/s/a-new-one/ground"
    assert plan(resolved(document(database, "a-new-one")[1])).steps
    for place in ("ground", "layup", "pour", "mix"):
        reader.get(f"/s/a-new-one/{place}")


@pytest.mark.parametrize("starter", STARTERS, ids=lambda one: one.id)
def test_its_picture_is_what_would_be_drawn_now(starter):
    """`make starters` draws them anew."""
    shown, drawn = (
        np.asarray(Image.open(io.BytesIO(data)).convert("RGBA"), dtype=float)
        for data in ((FOLDER / f"{starter.id}.webp").read_bytes(), picture(starter))
    )
    assert shown.shape == drawn.shape and abs(shown - drawn).mean() < 1


def test_what_it_comes_to_follows_the_answers(reader):
    def said(**answers):
        url = "/start/ponds?" + "&".join(f"{name}={value}" for name, value in answers.items())
        text = reader.client.get(url, headers={"HX-Request": "true", "HX-Target": "begun"}).text
        return float(re.search(r'to mix</span>.*?class="number">([\d.]+)', text, re.S)[1]), text

    few, text = said(deep="8+mm", width="300+mm", depth="200+mm")
    more, _ = said(deep="11+mm", width="300+mm", depth="200+mm")
    assert 0 < few < more
    assert 'hx-swap-oob="innerHTML"' in text and "<html" not in text and "sittings" in text
    assert "A board with ponds" in reader.text("/start/ponds?count=9") and "write 1 to 6" in reader.text(
        "/start/ponds?count=9"
    )


@pytest.mark.parametrize(("kind", "answers", "sentence"), [
    ("ponds", {"width": "12 parsecs"}, "“parsecs” is no unit of length"),
    ("ponds", {"deep": "59"}, "mm across; at most"),
    ("ponds", {"count": "many"}, "is no number"),
    ("hills", {"road": "120", "count": "2", "depth": "250"}, "a narrower road"),
    ("bases", {"copies": "3.5"}, "is no whole number"),
    ("framed", {"water": "lava"}, "choose one of"),
    ("empty", {"width": "30 m"}, "write 20 to 20000 mm"),
])  # fmt: skip
def test_answers_that_cannot_be_made_are_told(reader, database, kind, answers, sentence):
    assert sentence in html.unescape(reader.post(f"/start/{kind}", 422, name="x", **answers).text)
    assert "“" in reader.text(f"/start/{kind}") or reader.get(f"/start/{kind}").status_code == 200
    assert "/s/x/" not in reader.get("/").text


def test_there_is_no_start_of_another_kind(reader):
    assert "there is no “castle” to start from" in reader.client.get("/start/castle").text


def test_patches_follow_from_the_forms_and_whole_layups_lie_on_several(reader, database):
    reader.post("/start/ponds", name="Fen", count="3", deep="9")
    for name in ("ponds", "ground"):
        reader.post(f"/s/fen/patches/{name}/remove", base=document(database, "fen")[0])
    page = reader.text("/s/fen/layup")
    assert "a patch on each hollow (3)" in page and "the rest" in page
    for base, what in enumerate(("ponds", "rest", "slopes"), start=3):
        reader.post("/s/fen/layup/patches", base=base, what=what)
    names = [one["name"] for one in document(database, "fen")[1]["patches"]]
    assert names == ["Slopes", "Rest", "South-west pond", "East pond", "North pond"]
    assert (
        "not be made" not in page
        and "or it is there already" in reader.post("/s/fen/layup/patches", 422, base=6, what="rest").text
    )
    ids = [one["id"] for one in document(database, "fen")[1]["patches"]]
    reader.post("/s/fen/layup/lay", base=6, layup="pond", on=ids[2:])
    reader.post("/s/fen/layup/lay", base=7, layup="grass", on=ids[1:2])
    made = plan(resolved(document(database, "fen")[1]))
    pours = [name for name, lift in made.lifts.items() if lift.kind == "pour"]
    assert len(pours) == 3 and all(made.lifts[name].volume_ml.number > 20 for name in pours)
    assert "no patch is ticked" in reader.post("/s/fen/layup/lay", 422, base=8, layup="grass").text
    assert "there is no such lay-up" in reader.post("/s/fen/layup/lay", 422, base=8, layup="moss", on=ids[:1]).text
    reader.post(f"/s/fen/patches/{ids[1]}/keep", name="My meadow")
    reader.post("/s/fen/layup/lay", base=8, layup="own:My meadow", on=[ids[0]])
    assert [lift["kind"] for lift in document(database, "fen")[1]["patches"][0]["lifts"]] == [
        "skin",
        "coat",
        "texture",
        "fix",
        "texture",
    ]
