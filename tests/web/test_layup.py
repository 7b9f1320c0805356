"""The Lay-up page: shells and skins laid, done by other schools, copied and kept."""

import html
import re

from isostasis.core.lifts.fold import build
from isostasis.core.plan import plan
from isostasis.store import logbook, marks, scenes
from tests.support.pages import document
from tests.support.scenes import resolved


def test_a_shell_is_laid_changed_and_drawn(reader, database):
    at = "/s/tarn/patches/rest/lifts"
    reader.post(at, base=1, kind="shell", material="plaster-cloth", layers="2")
    lift = document(database)[1]["patches"][1]["lifts"][-1]
    assert (lift["id"], lift["kind"], lift["layers"]) == ("rest-shell", "shell", 2)
    page = reader.get("/s/tarn/layup?patch=rest").text
    strips = int(plan(resolved(document(database)[1])).lifts["rest-shell"].strips.count.number)
    assert page.count('class="strip"') == strips
    assert "strips to cut" in page
    reader.post("/s/tarn/lifts/rest-shell", base=2, patch="rest", material="plaster-cloth", layers="1")
    assert document(database)[1]["patches"][1]["lifts"][-1]["layers"] == 1
    assert "1.5 is no whole number" in reader.post(at, 422, base=3, kind="shell", layers="1.5").text
    assert "is no cloth on a roll" in html.unescape(
        reader.post(at, 422, base=3, kind="shell", material="foam-xps", layers="1").text
    )


def test_a_skin_by_purpose_in_courses(reader, database):
    values = {
        "patch": "tarn",
        "mix": "paper-plaster",
        "depth": "6",
        "consistency": "cliff",
        "courses": "2",
        "fill_steps": "40",
    }
    reader.post("/s/tarn/lifts/tarn-skin", base=1, **values)
    lift = document(database)[1]["patches"][0]["lifts"][0]
    assert (lift["consistency"], lift["courses"], lift["fill_steps_deg"]) == ("cliff", 2, 40)
    assert "in 2 courses" in reader.text("/s/tarn/layup?patch=tarn")
    reader.post("/s/tarn/lifts/tarn-skin", base=2, **{**values, "fill_steps": ""})
    assert "fill_steps_deg" not in document(database)[1]["patches"][0]["lifts"][0]
    reader.post("/s/tarn/lifts/tarn-skin", base=3, **values, water="35", clouded="yes", ink="paint-earth", drops="30")
    lift = document(database)[1]["patches"][0]["lifts"][0]
    assert (lift["water_c"], lift["clouded"], lift["tint"][0]["drops_per_100_ml"]) == (35, True, 30)
    reader.get("/s/tarn/mix?batch=tarn-skin-1-1")
    assert "at most 60" in reader.post("/s/tarn/lifts/tarn-skin", 422, base=4, **values, water="95").text
    assert (
        "consistency" in reader.post("/s/tarn/lifts/tarn-skin", 422, base=4, **{**values, "consistency": "soup"}).text
    )


def test_schools_open_their_working_and_one_is_chosen(reader, database):
    page = reader.get("/s/hollin-delf/layup/schools?lift=benches-skin").text
    assert page.index("as planned") < page.index("use this")  # what it is now comes first
    urls = re.findall(r'hx-get="([^"]+schools/working[^"]+)"', page)
    assert len(urls) > 30
    for url in urls[::7]:
        assert 'class="law"' in reader.get(html.unescape(url)).text
    reader.post("/s/hollin-delf/layup/schools/benches-skin", base=1, school="foam-putty", anyway="do")
    lifts = next(one for one in document(database, "hollin-delf")[1]["patches"] if one["id"] == "upper-benches")[
        "lifts"
    ]
    assert lifts[0]["mix"] == "foam-putty"
    assert "over voids and joints only" in reader.text("/s/hollin-delf/layup/schools?lift=heap-shell")
    post = "/s/hollin-delf/layup/schools/"
    assert "no longer there" in reader.post(post + "nothing", 422, base=2, school="none").text
    assert "cannot be swapped" in reader.post(post + "heap-shell", 422, base=2, school="mud").text
    reader.post(post + "heap-shell", base=2, school="voids", anyway="do")
    assert resolved(document(database, "hollin-delf")[1]).lift("heap-shell").over == "voids"
    reader.post(post + "heap-shell", base=3, school="trowel:hard-putty", anyway="do")
    assert resolved(document(database, "hollin-delf")[1]).lift("heap-shell").mix == "hard-putty"
    reader.post("/s/hollin-delf/undo", here="/s/hollin-delf/layup")
    reader.post(post + "heap-shell", base=3, school="none", anyway="do")
    assert "heap-shell" not in str(document(database, "hollin-delf")[1])
    assert "has no other schools" in reader.get("/s/hollin-delf/layup/schools?lift=lake-gloss", 422).text
    assert "no longer there" in reader.get("/s/hollin-delf/layup/schools?lift=nothing", 422).text
    reader.get("/s/hollin-delf/layup/schools/working?lift=benches-skin&school=mud&figure=cost", 422)


def test_a_lay_up_is_copied_and_kept_for_other_scenes(reader, database):
    reader.post("/s/hollin-delf/patches/sump/copy", base=1, from_="upper-benches")
    sump = next(one for one in document(database, "hollin-delf")[1]["patches"] if one["id"] == "sump")
    copied = ["sump-skin-2", "sump-slate", "sump-scree", "sump-fix-2", "sump-lights"]
    assert [lift["id"] for lift in sump["lifts"][-5:]] == copied
    reader.post("/s/hollin-delf/patches/upper-benches/keep", base=2, name="Quarry face")
    assert "Quarry face" in reader.text("/s/tarn/layup?patch=rest")
    reader.post("/s/tarn/layup/lay", base=1, layup="own:Quarry face", on="rest")
    lifts = document(database)[1]["patches"][1]["lifts"]
    assert [(lift["kind"], lift["id"]) for lift in lifts[-5:-3]] == [("skin", "rest-skin"), ("coat", "rest-slate")]
    plan(resolved(document(database)[1]))
    assert "no such lay-up" in reader.post("/s/tarn/patches/rest/copy", 422, base=2, from_="nobody").text
    assert "has no name" in reader.post("/s/tarn/patches/rest/keep", 422, name="").text


def test_a_face_is_added_beside_the_ground(reader, database):
    reader.post("/s/tarn/ground/patches", base=1, name="Portal", area="face_mm2", size="52 cm2", near="edge")
    assert document(database)[1]["patches"][0]["area"] == {"face_mm2": 5200}
    reader.post("/s/tarn/patches/portal/lifts", base=2, kind="skin", mix="filler-grout-render", depth="3", courses="1")
    page = reader.text("/s/tarn/layup?patch=portal")
    assert "A face: it has amounts and hours" in page
    assert "a face of 52 cm²" in reader.text("/s/tarn/ground/patches")
    for place in ("ground", "ground/flats", "ground/joints", "pour", "mix"):
        reader.get(f"/s/tarn/{place}")


def test_a_room_by_day_and_by_night(reader, database, clock):
    before = plan(resolved(document(database)[1])).lifts["tarn-skin"].hours.full.number
    reader.post("/s/tarn/room", base=1, temp_c="21", rh_percent="50", night_c="12", night_rh="70", here="/s/tarn/layup")
    room = document(database)[1]["room"]
    assert (room["temp_c"], room["series"][0]["temp_c"]) == (21, 21 if 8 <= clock().astimezone().hour < 22 else 12)
    assert len(room["series"]) >= 60
    times = [reading["at"] for reading in room["series"]]
    assert times == sorted(times)
    assert {reading["temp_c"] for reading in room["series"]} == {12, 21}
    assert plan(resolved(document(database)[1])).lifts["tarn-skin"].hours.full.number > before
    assert "12 °C at night" in reader.text("/s/tarn/layup")
    reader.post("/s/tarn/room", base=2, temp_c="21", rh_percent="50", night_c="", night_rh="", here="/s/tarn/layup")
    assert "series" not in document(database)[1]["room"]
    assert (
        "outside 0 to 100"
        in reader.post("/s/tarn/room", 422, base=3, temp_c="21", rh_percent="50", night_c="9", night_rh="140").text
    )


def test_pieces_are_cast_from_a_card_like_any_batch(reader, database):
    reader.post("/s/hollin-delf/clock/mark", step="cast-slate-slabs-2", what="undone")
    page = reader.text("/s/hollin-delf/ground?form=slate-slabs")
    for words in ("plaster to mix", "3 rounds", "out of the mould after"):
        assert words in page
    assert 'class="law"' in reader.get("/s/hollin-delf/working?path=forms.slate-slabs.cast.hours.full").text
    assert "Slate slabs, pieces" in reader.text("/s/hollin-delf/mix?batch=slate-slabs-2-1")
    reader.post("/s/hollin-delf/mix/slate-slabs-2-1/start")
    with database.reading() as session:
        row = logbook.batches(session, scenes.find(session, "hollin-delf"))[0]
    assert (row.batch, row.lift, row.planned["course"]) == ("slate-slabs-2-1", "slate-slabs", 2)
    reader.post(f"/s/hollin-delf/mix/{row.id}/finish")
    with database.reading() as session:
        events = marks.events(session, scenes.find(session, "hollin-delf"))
    assert "cast-slate-slabs-2" in [event.step for event in events]
    reader.post("/s/hollin-delf/ground/patches", base=1, name="Slabs again", area="on", size="", near="slate-slabs")
    assert document(database, "hollin-delf")[1]["patches"][0]["area"] == {"on": "slate-slabs"}
    assert "all of Slate slabs" in reader.text("/s/hollin-delf/ground/patches")


def test_a_new_lift_shows_three_fields_and_more_shows_the_rest(reader):
    page = reader.source("/s/tarn/layup?patch=tarn")
    form = page[page.index('name="kind" value="skin"') :]
    form = form[: form.index("</form>")]
    first, rest = form.split('<details class="more"')
    assert [name for name in ("mix", "depth", "consistency") if f'name="{name}"' in first] == [
        "mix",
        "depth",
        "consistency",
    ]
    assert 'name="courses"' not in first and 'name="courses"' in rest and not rest.startswith(" open")


def test_falling_water_goes_through_plan_mix_clock_and_export(reader, database):
    at = "/s/hollin-delf/patches/upper-benches/lifts"
    way = {"kind": "falls", "mix": "casting-resin", "width": "30 mm", "layers": "3", "free": "along"}
    assert "“foot” is no point" in reader.post(at, 422, base=1, **way, way="560, 340; foot").text
    assert "that is one point" in reader.post(at, 422, base=1, **way, way="560, 340").text
    assert "begin at the higher end" in html.unescape(
        reader.post(at, 422, base=1, **way, way="470, 230; 560, 340", anyway="do").text
    )
    reader.post(at, base=1, **way, way="560, 340; 470, 230", anyway="do")
    exported = reader.get("/s/hollin-delf/export.json").get_json()
    lift = next(one for patch in exported["patches"] for one in patch["lifts"] if one["kind"] == "falls")
    assert (lift["path"], lift["width_mm"]) == ([[560, 340], [470, 230]], 30)
    made = plan(resolved(exported))
    fall = made.lifts[lift["id"]]
    page = reader.text("/s/hollin-delf/layup?patch=upper-benches")
    assert f"{fall.volume_ml.number:.3g} ml" in page and "its foot then stands in the pool" in page
    steps = [step for step in made.steps if step.lift == lift["id"] and step.course]
    mix = reader.text(f"/s/hollin-delf/mix?batch={steps[0].batch[0]}")
    assert "Casting resin" in mix and "falls" in mix
    assert "drips" in steps[0].hazards
    reader.get("/s/hollin-delf/clock")
    reader.get(f"/s/hollin-delf/layup?patch=upper-benches&lift={lift['id']}")
    # What is drawn: white where it runs, and 1 to 2 mm higher.
    tested = build(resolved(exported)).stages[lift["id"]]
    rise = tested.after.z - tested.site.ground.z
    assert 1 < rise.max() < 3 and (rise > 0).sum() * 25 < 3 * 30 * 142
