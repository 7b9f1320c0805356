"""Swatches on their pages: a scrap begun, judged, photographed, laid on a scene; evidence beside its label."""

import html
import io
import re

import numpy as np
import pytest
from PIL import Image

from isostasis.core.colour.light import coded, linear
from isostasis.core.swatches.colour import GREY_CARD
from isostasis.store import labels, scenes, swatches
from tests.support.pages import document

NEW = {
    "title": "Which fix holds?", "board": "foam-xps", "temp_c": "19", "rh_percent": "50", "under": "texture/ballast",
    "under_thick": "4", "what": ["fix/glue-water-1-1", "fix/scenic-binder"], "name": ["", "Neat"],
    "thick": ["", ""], "wetting": ["alcohol-water-1-1", ""], "steps": ["slowly", ""], "batch": ["", ""],
    "control": "bare", "criterion": ["hold", "scratch"], "weight-hold": "2", "weight-scratch": "", "own": "smell",
    "own-weight": "1",
}  # fmt: skip


def begun(reader, **more):
    there = reader.post("/swatches", **{**NEW, **more}).headers["Location"]
    return int(there.rpartition("/")[2])


def trial(database, number):
    with database.reading() as session:
        return swatches.find(session, number)


def scores(found, value):
    names = list(found.scrap.weights)
    return {
        f"score-{lane.place}-{at}": f"{value(lane.place, name):g}"
        for lane in found.lanes
        for at, name in enumerate(names)
    }


def refused(reader, url, **values):
    return html.unescape(reader.post(url, 422, **values).text)


def test_a_scrap_from_begun_to_judged(reader, database):
    number = begun(reader)
    made = trial(database, number)
    assert [(one.name, one.control) for one in made.lanes] == [
        ("Glue water, 1:1, after alcohol and water, 1:1", False), ("Neat", False), ("Untreated", True)]  # fmt: skip
    assert made.scrap.weights == {"hold": 2, "smell": 1} and made.lanes[0].versions["glue-water-1-1"] == ["mix", 0]
    assert "Not judged yet" in reader.text(f"/swatches/{number}")
    page = reader.get(f"/swatches/{number}/judge").text
    assert sorted(re.findall(r'name="order" value="(\d)"', page)) == ["1", "2", "3"]
    assert "Neat" not in page  # by its number alone
    for given in ((7, 6, 1), (8, 6.5, 2), (7.5, 6, 1)):
        reader.post(
            f"/swatches/{number}/judge", order=["3", "1", "2"], **scores(made, lambda at, _, of=given: of[at - 1])
        )
    made = trial(database, number)
    assert made.rounds[0].order == [3, 1, 2] and made.ranking.leader == 0
    text = reader.text(f"/swatches/{number}")
    assert "leads" in text and f"{made.ranking.standings[0].gain:+.1f}" in text and "Every round" not in text
    assert "1st" in text and "control" in text and "what untreated does" in text


def test_rounds_come_in_an_order_of_chance(reader, database):
    number = begun(reader)
    seen = {
        tuple(re.findall(r'name="order" value="(\d)"', reader.get(f"/swatches/{number}/judge").text)) for _ in range(40)
    }
    assert len(seen) > 2


def test_what_counts_is_changed_and_only_what_was_judged_can_count(reader, database):
    number = begun(reader)
    made = trial(database, number)
    reader.post(f"/swatches/{number}/judge", order=["1", "2", "3"],
                **scores(made, lambda at, name: at if name == "hold" else 9 - at))  # fmt: skip
    before = trial(database, number).ranking
    reader.post(f"/swatches/{number}/weights", criterion=["hold", "smell"], **{"weight-hold": "", "weight-smell": "3"})
    after = trial(database, number).ranking
    assert before.leader == 1 and after.leader == 0
    assert "was not judged in every round" in refused(
        reader, f"/swatches/{number}/weights", criterion=["gloss"], **{"weight-gloss": "1"})  # fmt: skip
    assert "nothing counts" in refused(reader, f"/swatches/{number}/weights", criterion=["hold"], **{"weight-hold": ""})


@pytest.mark.parametrize(
    ("more", "sentence"),
    [
        ({"title": ""}, "question"), ({"title": "x" * 121}, "121 letters"), ({"board": "sky"}, "none that scraps"),
        ({"what": ["", ""]}, "1 lanes cannot be compared"), ({"what": ["fix/tea", ""]}, "no mix"),
        ({"what": ["skin/glue-water-1-1", ""]}, "not trowelled on"), ({"what": ["lift/nowhere/x", ""]}, "nowhere"),
        ({"name": ["Neat", "Neat"]}, "same name"), ({"weight-hold": "", "own-weight": ""}, "nothing counts"),
        ({"weight-hold": "12"}, "9"), ({"thick": ["900 mm", ""]}, "50"), ({"temp_c": "99"}, "45"),
        ({"batch": ["9999", ""]}, "not there any more"),
    ],
)  # fmt: skip
def test_a_scrap_of_nonsense_is_told_and_not_kept(reader, database, more, sentence):
    with database.reading() as session:
        before = len(swatches.trials(session))
    answer = reader.client.post("/swatches", data={"csrf_token": reader.token, **NEW, **more})
    assert answer.status_code in (404, 422) and (sentence in html.unescape(answer.text) or answer.status_code == 404)
    with database.reading() as session:
        assert len(swatches.trials(session)) == before


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"score-1-0": "11"}, "outside 0 to 10"), ({"score-1-0": "-1"}, "outside 0 to 10"), ({"score-2-1": ""}, "not judged"),
        ({"score-1-0": "good"}, "lane 1"), ({"score-1-0": "nan"}, "lane 1"), ({"order": ["1", "1", "2"]}, "every lane"),
        ({"order": ["1"]}, "every lane"),
    ],
)  # fmt: skip
def test_scores_of_nonsense_are_told_and_nothing_kept(reader, database, change, sentence):
    number = begun(reader)
    sent = {"order": ["1", "2", "3"], **scores(trial(database, number), lambda *_: 5), **change}
    assert sentence in refused(reader, f"/swatches/{number}/judge", **sent)
    assert trial(database, number).rounds == ()


def photo_of(colours):
    """Lanes beside each other over a card, under a warm lamp."""
    image = np.empty((400, 600, 3))
    image[:] = linear("#e9dcc0")
    each = 600 // len(colours)
    for at, colour in enumerate(colours):
        image[20:280, at * each + 10 : (at + 1) * each - 10] = linear(colour)
    image[310:390, 500:590] = linear(GREY_CARD)
    out = io.BytesIO()
    lit = coded(image * np.array([0.95, 0.88, 0.7]))
    Image.fromarray((lit * 255).round().astype("uint8")).save(out, "PNG")
    out.seek(0)
    return out


def test_colours_are_read_off_a_photo_beside_a_card(reader, database):
    number = begun(reader)
    colours = "#8b8577", "#406080", "#a98252"
    reader.post(f"/swatches/{number}/photo", moment="dry", photo=(photo_of(colours), "scrap.png"))
    page = reader.get(f"/swatches/{number}/photo").text
    boxes = {f"box-{name}": value for name, value in re.findall(r'name="box-(\w+)" value="([^"]+)"', page)}
    assert set(boxes) == {"box-card", "box-1", "box-2", "box-3"}
    boxes["box-card"] = "0.84 0.79 0.13 0.17"
    reader.post(f"/swatches/{number}/colours", moment="dry", how="photo", known=GREY_CARD, **boxes)
    made = trial(database, number)
    for lane, colour in zip(made.lanes, colours, strict=True):
        seen = np.array([int(lane.dry[at : at + 2], 16) - int(colour[at : at + 2], 16) for at in (1, 3, 5)])
        assert abs(seen).max() <= 6 and "grey card" in lane.how
    assert made.photos["dry"].boxes["card"] == [0.84, 0.79, 0.13, 0.17]
    assert (
        "viewBox" in reader.get(f"/swatches/{number}").text and "/pictures/" in reader.get(f"/swatches/{number}").text
    )
    url = f"/swatches/{number}/colours"
    for name, value, sentence in (
        ("box-1", "a b", "is no box"),
        ("box-1", "2 0 1 1", "outside"),
        ("known", "red", "no colour"),
    ):
        sent = {"moment": "dry", "how": "photo", "known": GREY_CARD, **boxes, name: value}
        assert sentence in refused(reader, url, **sent)
    assert "there is none of it wet" in refused(reader, url, moment="wet", how="photo", **boxes)
    assert "no way to find" in refused(reader, url, moment="wet", how="dream")
    reader.post(url, moment="wet", how="eye", **{"known-2": "yes", "colour-2": "#203040", "colour-1": "#111111"})
    made = trial(database, number)
    assert [one.wet for one in made.lanes] == ["", "#203040", ""] and made.lanes[1].how == "set by eye"


def test_what_is_no_photo_is_told(reader, database):
    number = begun(reader)
    url = f"/swatches/{number}/photo"
    for photo, sentence in ((None, "there is none"), ((io.BytesIO(b"tea"), "tea.png"), "no picture")):
        assert sentence in refused(reader, url, moment="dry", **({"photo": photo} if photo else {}))
    assert "dry or wet" in refused(reader, url, moment="frozen", photo=(photo_of(["#888888"]), "x.png"))
    assert trial(database, number).photos == {}


def test_a_lane_is_laid_on_a_scene(reader, database):
    number = begun(reader)
    assert "Kettle Fen, Ground" in reader.get(f"/swatches/{number}/lanes/1/spots").text
    reader.post(f"/swatches/{number}/lanes/1/lift", to="kettle-fen/road", under="yes")
    _, after = document(database, "kettle-fen")
    road = next(one for one in after["patches"] if one["id"] == "road")
    assert [(one["kind"], one["mix"]) for one in road["lifts"][-2:]] == [
        ("texture", "ballast"),
        ("fix", "glue-water-1-1"),
    ]
    assert road["lifts"][-1]["wetting"] == "alcohol-water-1-1" and len({one["id"] for one in road["lifts"]}) == len(
        road["lifts"]
    )
    assert "Made as lane 1 of “Which fix holds?”" in reader.text("/s/kettle-fen/history")
    assert "nothing is laid" in refused(reader, f"/swatches/{number}/lanes/3/lift", to="kettle-fen/road")
    assert "not there any more" in refused(reader, f"/swatches/{number}/lanes/1/lift", to="kettle-fen/moon")
    reader.get(f"/swatches/{number}/lanes/9/spots", 422)


def test_a_lift_of_a_scene_is_tried_on_scrap(reader, database):
    number = begun(reader, what=["lift/kettle-fen/ground-skin", "skin/plaster-2-3"], wetting=["", ""], under="")
    made = trial(database, number)
    assert made.lanes[0].lifts[0]["mix"] == "paper-plaster" and "id" not in made.lanes[0].lifts[0]


def test_a_scrap_is_evidence_beside_its_label(reader, database):
    text = reader.text("/labels/mix/glue-water-1-1")
    assert "Tried: What holds the ballast?" in text and "of 10 in 6 rounds" in text and "read off a photo" in text
    reader.post("/labels/mix/glue-water-1-1", how="keep", name="Glue water, mine", **{})
    with database.reading() as session:
        found = swatches.evidence(session, "glue-water-1-1")
    assert found[0].lane.name == "Glue-water 1 : 1"


def test_a_colour_is_matched_with_the_shelf(reader, database):
    text = reader.text("/swatches/match?colour=%238a7a60&all=yes")
    assert "ΔE" in text and "parts of paint" in text and "keep it as a blend" in text
    shelf = reader.text("/swatches/match?colour=%238a7a60")
    assert "with what is on the shelf" in shelf
    assert "is no colour" in reader.text("/swatches/match?colour=mud")
    link = re.search(
        r'href="(/s/kettle-fen/layup/blend\?[^"]+)"', reader.get("/swatches/match?colour=%238a7a60&all=yes").text
    )
    assert "from what is wanted" in reader.text(html.unescape(link[1]))


def test_a_scrap_is_put_away(reader, database):
    number = begun(reader)
    reader.post(f"/swatches/{number}/away")
    assert "no such scrap" in html.unescape(reader.get(f"/swatches/{number}", 422).text)
    assert "Which fix holds?" not in reader.text("/swatches")


def test_without_a_scrap_the_page_says_how_to_begin(reader, database):
    with database.writing() as session:
        for one in swatches.trials(session):
            one.scrap.gone_at = one.scrap.made_at
    assert "Begin a scrap" in reader.text("/swatches")


def test_scraps_stay_when_a_scene_goes(reader, database):
    with database.reading() as session:
        assert scenes.find(session, "kettle-fen") and len(swatches.trials(session)) == 2


def test_a_known_way_is_the_control_and_a_lane_names_its_batch(reader, database):
    number = begun(reader, control="first", batch=["2", ""])
    made = trial(database, number)
    assert [one.control for one in made.lanes] == [True, False] and made.lanes[0].batch_id == 2
    assert "of floor skin, batch 2" in reader.text(f"/swatches/{number}?lane=1")


def test_what_the_laws_say_of_a_lane_opens_to_its_working(reader, database):
    for figure in ("hours", "cost"):
        url = f"/swatches/1/lanes/3/working?figure={figure}"
        assert (
            url.replace("&", "&amp;") in reader.get("/swatches/1?lane=3").text and 'class="law"' in reader.get(url).text
        )
    for url in ("/swatches/1/lanes/3/working?figure=joy", "/swatches/1/lanes/2/working?figure=lifts"):
        assert "no such figure" in reader.get(url, 422).text


def test_a_label_that_says_otherwise_since_is_told(reader, database, clock):
    number = begun(reader)
    with database.writing() as session:
        mix = labels.catalogue(session).mixes["glue-water-1-1"]
        labels.keep(session, mix.model_copy(update={"name": "Thinner glue"}), clock.at)
    assert "A label says otherwise since it was laid" in reader.text(f"/swatches/{number}?lane=1")
    assert "the tin said otherwise then" in reader.text("/labels/mix/glue-water-1-1")
