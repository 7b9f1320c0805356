"""What went wrong, on its page: with a scene its own history speaks, without one at most five questions; and changes."""

import html
import re

from isostasis.store import scenes
from tests.support.pages import document


def test_without_a_scene_five_questions_are_asked_and_no_more(reader):
    page = html.unescape(reader.get("/faults").text)
    assert page.count("symptom=") >= 24 and "What went wrong?" in page
    url = "/faults?symptom=tacky"
    for number in range(5):
        page = html.unescape(reader.get(url).text)
        assert f"{number} of 5 answered" in page
        url = re.search(r'href="(/faults\?[^"]+)">yes<', page)[1]
    page = html.unescape(reader.get(url).text)
    assert ">yes<" not in page and "Likely causes" in page and "to save it" in page
    assert "about" in page or "1 in 10" in page


def test_a_spots_own_history_speaks(reader):
    page = reader.text("/faults?symptom=cracked&spot=hollin-delf/floor-skin")
    assert "by its own history" in page and "Too thick in one go" in page
    assert "against 3 mm in one go" in page
    page = reader.text("/faults?symptom=sunk&spot=hollin-delf/sump-water")
    assert "against its bed is sealed" in page
    assert "is not seen on it" in reader.get("/faults?symptom=weave&spot=hollin-delf/floor-skin", 422).text
    assert "there is no “tea”" in html.unescape(reader.get("/faults?symptom=tea", 422).text)


def test_what_went_wrong_is_done_otherwise_where_it_is_still_to_be_done(reader, database):
    page = reader.get("/faults?symptom=cracked&spot=kettle-fen/ground-skin").text
    assert 'name="change" value="more-courses"' in page
    reader.post("/s/kettle-fen/faults/change", lift="ground-skin", change=["more-courses", "stiffer"])
    number, data = document(database, "kettle-fen")
    skins = [one for patch in data["patches"] for one in patch["lifts"] if one.get("mix") == "paper-plaster"]
    assert number == 2 and len(skins) > 2
    assert all((one["courses"], one["consistency"]) == (2, "cliff") for one in skins)
    with database.reading() as session:
        assert "a course more, mixed for cliffs" in scenes.find(session, "kettle-fen").head.note
    assert (
        "nothing is chosen" in reader.post("/s/kettle-fen/faults/change", 422, lift="ground-skin", change="weigh").text
    )
    assert "not there any more" in reader.post("/s/kettle-fen/faults/change", 422, lift="nix", change="stiffer").text


def test_a_bed_is_sealed_before_each_pour_like_it(reader, database):
    _, before = document(database, "hollin-delf")
    reader.post("/s/hollin-delf/faults/change", lift="sump-water", change="seal", anyway="do")
    _, data = document(database, "hollin-delf")
    sump = next(one for one in data["patches"] if one["id"] == "sump")["lifts"]
    place = [one["id"] for one in sump].index("sump-water")
    assert (sump[place - 1]["material"], sump[place - 1]["coats"]) == ("acrylic-sealer", 2)
    was = next(one for one in before["patches"] if one["id"] == "sump")["lifts"]
    assert len(sump) == len(was) + 1
