"""The pages of Ground: every form made and changed, every tool asked, files out and in."""

import html
import io
import json
import re
import zipfile

import numpy as np
import pytest

from isostasis.core.catalogue import shipped
from isostasis.core.plan import plan
from isostasis.core.terrain.report import GroundQuery, report
from isostasis.core.units import show
from isostasis.store import scenes
from isostasis.web.ground.fields import FIELDS
from isostasis.web.ground.views import TOOLS
from tests.support.pages import document
from tests.support.scenes import resolved


@pytest.mark.parametrize("slug", ["hollin-delf", "saltcote-pans", "ember-pools", "tarn"])
@pytest.mark.parametrize("tool", [name for name, _ in TOOLS])
def test_every_tool_answers_for_every_scene(reader, slug, tool):
    answer = reader.get(f"/s/{slug}/ground" + ("" if tool == "page" else f"/{tool}"))
    assert not re.search(r"<[^>]+\sstyle=", answer.text)
    assert not re.search(r"<[^>]+\son[a-z]+=", answer.text)


@pytest.mark.parametrize("kind", sorted(FIELDS))
def test_every_kind_of_form_is_added_changed_and_doubled(reader, database, kind):
    reader.post("/start/empty", name="Blank", width="410", depth="333", foam="0")
    reader.post("/s/blank/forms", base=1, kind="sheet")
    reader.post("/s/blank/forms", base=2, kind=kind)
    number, data = document(database, "blank")
    made = data["forms"][-1]
    assert (number, made["kind"]) == (3, kind)
    page = reader.get(f"/s/blank/ground?form={made['id']}").text
    typed = dict(re.findall(r'<input class="input" name="(\w+)" value="([^"]*)"', page))
    assert {entry.name for entry in FIELDS[kind]} <= set(typed)
    # What the page shows, sent back, is the same form.
    values = {name: html.unescape(value) for name, value in typed.items() if name not in ("x", "y")}
    reader.post(f"/s/blank/forms/{made['id']}", base=3, **{**values, "name": "Another"})
    again = document(database, "blank")[1]["forms"][-1]
    assert again.pop("name") == "Another"
    assert {name: value for name, value in again.items() if name != "cut"} == {
        name: pytest.approx(value) if isinstance(value, float) else value for name, value in made.items()}  # fmt: skip
    reader.post(f"/s/blank/forms/{made['id']}/move", base=4, how="duplicate")
    forms = document(database, "blank")[1]["forms"]
    assert forms[-2]["id"] == made["id"] != forms[-1]["id"]
    assert forms[-1]["name"] == "Another, again"


def test_one_size_is_dragged_and_a_path_is_moved(reader, database):
    reader.post("/s/hollin-delf/forms/pit", base=1, field="depth_mm", value="30 mm", anyway="do")
    assert next(form for form in document(database, "hollin-delf")[1]["forms"] if form["id"] == "pit")["depth_mm"] == 30
    reader.post("/s/hollin-delf/forms/haul-incline", base=2, line=json.dumps([[700, 265], [1100, 285]]), anyway="do")
    ramp = next(form for form in document(database, "hollin-delf")[1]["forms"] if form["id"] == "haul-incline")
    assert ramp["path"] == [[700, 265], [1100, 285]]
    assert "has no glow" in reader.post("/s/hollin-delf/forms/pit", 422, base=3, field="glow", value="3").text


def test_a_ramp_by_grade_and_a_survey_by_dip_stick(reader, database):
    reader.post("/s/tarn/forms", base=1, kind="ramp")
    reader.post(
        "/s/tarn/forms/ramp", base=2, name="Up", width_mm="20", start_mm="25 mm", end_mm="", grade="2.5", riser_mm="40"
    )
    ramp = document(database)[1]["forms"][-1]
    assert "end_mm" not in ramp
    assert (ramp["grade"], ramp["riser_mm"]) == (0.025, 40)
    page = reader.text("/s/tarn/ground?form=ramp")
    assert "risers:" in page
    assert "steeper than your limit" not in page
    reader.post("/s/tarn/forms/ramp", base=3, name="Up", width_mm="20", start_mm="25", end_mm="50", grade="")
    assert "steeper than your limit of 3 %" in reader.text("/s/tarn/ground?form=ramp")
    assert "needs end_mm or grade" in reader.post("/s/tarn/forms/ramp", 422, base=4, end_mm="", grade="").text
    reader.post("/s/tarn/forms", base=4, kind="survey")
    reader.post("/s/tarn/forms/survey", base=5, name="Dip", points="0, 0, 26\n60;0;27\n0 60 28\n\n")
    assert document(database)[1]["forms"][-1]["points"] == [[0, 0, 26], [60, 0, 27], [0, 60, 28]]
    answer = reader.post("/s/tarn/forms/survey", 422, base=6, name="Dip", points="0, 0, 26\n60; 0")
    assert "spot heights, line 2" in answer.text


def test_a_form_waits_for_a_lift(reader, database):
    reader.post("/s/tarn/forms", base=1, kind="mound")
    ring = [[120, 60], [150, 60], [150, 90], [120, 90]]
    reader.post("/s/tarn/forms/mound", base=2, line=json.dumps(ring))
    reader.post("/s/tarn/forms/mound", base=3, name="Isle", crown_mm="4", after="tarn-skin")
    data = document(database)[1]
    assert data["forms"][-1]["after"] == "tarn-skin"
    assert "form-mound" in {step.id for step in plan(resolved(data)).steps}


def numbers(page, label):
    """The number beside a label of a page."""
    found = re.search(re.escape(label) + r"</span><span class=\"number\">([^<]+)<small>([^<]*)</small>", page)
    assert found, label
    return found[1], found[2]


def test_screen_and_command_line_read_the_same_ground(reader, tmp_path):
    from click.testing import CliRunner

    from isostasis.cli import main

    path = tmp_path / "scene.json"
    path.write_text(reader.get("/s/hollin-delf/export.json").text)
    done = CliRunner().invoke(main, ["ground", str(path), "--json"])
    assert done.exit_code == 0, done.output
    told = json.loads(done.stdout)
    page = reader.get("/s/hollin-delf/ground").text
    for name, label, unit in (
        ("true_area_mm2", "true area", "mm2"),
        ("weight_g", "weight, board and forms", "g"),
        ("steepest_deg", "steepest", "deg"),
    ):
        assert numbers(page, label) == show(told["reading"][name], unit)
    steps = reader.get("/s/hollin-delf/ground/steps").text
    flight = told["flights"]["flight-1"]
    assert numbers(steps, "compound to mix") == show(flight["fill_mix_ml"], "ml")
    assert numbers(steps, "dry through after") == show(flight["fill_h"], "h")
    assert numbers(reader.get("/s/hollin-delf/ground/foam").text, "panels")[0] == str(told["foam"]["foam-xps"]["count"])


def test_every_figure_on_the_tools_opens_its_working(reader):
    found = 0
    for tool, _ in TOOLS:
        page = reader.get("/s/hollin-delf/ground" + ("" if tool == "page" else f"/{tool}")).text
        for url in re.findall(r'<details hx-get="([^"]+working[^"]*)"', page):
            answer = reader.get(html.unescape(url)).text
            assert 'class="law"' in answer, url
            found += 1
    assert found > 30
    assert "no such figure" in html.unescape(reader.get("/s/tarn/ground/working?path=reading.hue", 422).text)


def test_one_click_turns_the_answer_into_a_bevel(reader, database):
    page = reader.text("/s/hollin-delf/ground/steps?slope=38")
    assert "Carving saves" in page
    answer = reader.post("/s/hollin-delf/ground/steps/flight-1/carve", base=1, slope="38", anyway="do")
    forms = document(database, "hollin-delf")[1]["forms"]
    kinds = [form["kind"] for form in forms]
    assert kinds.index("bevel") == max(place for place, kind in enumerate(kinds) if kind == "sheet") + 1
    assert answer.headers["Location"].endswith("form=bevel")
    assert reader.post("/s/hollin-delf/ground/steps/flight-9/carve", 422, base=2, slope="38")


def test_an_incline_is_solved_and_put_on_the_ground(reader, database):
    page = reader.text("/s/hollin-delf/ground/incline?height=31+mm&grade=2.9")
    assert "risers 25 mm + 6 mm" in page
    assert "steeper than your limit" in reader.text("/s/hollin-delf/ground/incline?height=31&grade=5")
    assert "“high” is no length" in reader.text("/s/hollin-delf/ground/incline?height=high")
    where = {"height": "12 mm", "grade": "2.5", "pick": "0", "x": "20", "y": "40", "heading": "0", "width": "30"}
    reader.post("/s/hollin-delf/ground/incline", base=1, anyway="do", **where)
    forms = document(database, "hollin-delf")[1]["forms"]
    assert forms[-1]["kind"] == "ramp"
    assert forms[-1]["end_mm"] == forms[-1]["start_mm"] + 12 == 62
    answer = reader.post("/s/hollin-delf/ground/incline", 422, base=2, **{**where, "heading": "90"})
    assert "would leave the base at 20, 520" in answer.text


def test_joints_are_moved(reader, database):
    reader.post("/s/hollin-delf/ground/joints", base=1, x="400 mm; 800", y="")
    assert document(database, "hollin-delf")[1]["base"]["joints_x_mm"] == [400, 800]
    assert "joint at x 800" in reader.text("/s/hollin-delf/ground/joints?joint=x800")
    assert "outside the board" in reader.post("/s/hollin-delf/ground/joints", 422, base=2, x="5000", y="").text


def test_flats_and_protected_things_are_kept_and_let_go(reader, database):
    at = "/s/tarn/ground/keep"
    reader.post(
        at, base=1, list_="flats", name="Pad", x1="10", y1="150", x2="60", y2="190", width="", flat="0.5 mm", height=""
    )
    reader.post(
        at, base=2, list_="mask", name="Track", x1="0", y1="10", x2="300", y2="10", width="16", flat="1", height=""
    )
    data = document(database)[1]
    assert data["flats"][0] | {"outline": 0} == {"id": "flat", "name": "Pad", "flat_mm": 0.5, "outline": 0}
    assert (data["protect"][0]["path"], data["protect"][0]["width_mm"]) == ([[0, 10], [300, 10]], 16)
    page = reader.text("/s/tarn/ground/flats?foot=20+mm&x=30&y=170")
    assert "Holds through" in page
    assert "there it leans" in page
    assert "hang over" in reader.text("/s/tarn/ground/flats?foot=25&x=1&y=1")
    assert "finds no place" in html.unescape(reader.get("/s/tarn/ground/flats?foot=900", 422).text)
    reader.post("/s/tarn/ground/keep/flat/remove", base=3)
    assert document(database)[1]["flats"] == []
    assert "it has no name" in reader.post(at, 422, base=4, list_="flats", name="", x1="1", y1="1", x2="9", y2="9").text


def test_the_stand_in_level_reads_and_is_shimmed(reader, database):
    page = reader.text("/s/hollin-delf/ground/level")
    assert "a simulated one, since none is connected" in page
    reader.post("/s/hollin-delf/ground/level", base=1, how="read")
    lean = document(database, "hollin-delf")[1]["base"]["tilt_mm_per_m"]
    assert any(abs(one) > 0.2 for one in lean)
    assert "Put this under the corners" in reader.text("/s/hollin-delf/ground/level")
    reader.post("/s/hollin-delf/ground/level/shim", base=2, corner="south-west", height="1 mm")
    after = document(database, "hollin-delf")[1]["base"]["tilt_mm_per_m"]
    assert after[0] - lean[0] == pytest.approx(-1000 / 1140, abs=0.3)
    assert after[1] - lean[1] == pytest.approx(-1000 / 430, abs=0.3)
    reader.post("/s/hollin-delf/ground/level", base=3, how="hand", east="0.1", north="0")
    assert "Level enough" in reader.text("/s/hollin-delf/ground/level")


@pytest.mark.parametrize(("area", "size", "near", "means"), [
    ("steeper_deg", "30", "edge", {"steeper_deg": 30}),
    ("below_mm", "1 in", "edge", {"below_mm": 25.4}),
    ("above_mm", "40 mm", "edge", {"above_mm": 40}),
    ("near", "12 mm", "hole", {"near": "hole", "within_mm": 12}),
    ("outline", "", "hole", {"outline": [[50, 30], [250, 30], [250, 130], [50, 130]]}),
])  # fmt: skip
def test_patches_by_rule_are_added_and_ordered(reader, database, area, size, near, means):
    reader.post("/s/tarn/ground/patches", base=1, name="Scree slope", area=area, size=size, near=near)
    patches = document(database)[1]["patches"]
    assert (patches[0]["id"], patches[0]["area"]) == ("scree-slope", means)
    assert "Scree slope" in reader.text("/s/tarn/ground/patches?patch=scree-slope")
    takes = area != "above_mm"
    answer = reader.post("/s/tarn/ground/patches/scree-slope/move", 422 if takes else 303, base=2, how="later")
    # A bare patch that takes the pond's bed leaves its pour no ground: told, and nothing changed.
    assert ("owns no ground" in answer.text or "fills nothing" in answer.text) == takes
    assert document(database)[0] == (2 if takes else 3)


def test_overlaps_are_shown_and_settled_by_order(reader, database):
    reader.post("/s/tarn/ground/patches", base=1, name="Edge", area="near", size="26 mm", near="edge")
    before = plan(resolved(document(database)[1])).patches
    assert "Tarn over Edge" in reader.text("/s/tarn/ground/patches")
    reader.post("/s/tarn/ground/patches/edge/move", base=2, how="later")
    assert "Edge over Tarn" in reader.text("/s/tarn/ground/patches")
    after = plan(resolved(document(database)[1])).patches
    assert after["edge"].plan_area_mm2.number > before["edge"].plan_area_mm2.number


def test_files_go_out_and_come_in(reader, database):
    for kind in ("asc", "png", "json", "csv", "stl", "plan.svg", "cut.svg"):
        assert reader.get(f"/s/tarn/ground/files/{kind}").data
    archive = zipfile.ZipFile(io.BytesIO(reader.get("/s/tarn/ground/files/all.zip?at=finished").data))
    assert {"ground.asc", "slab-r1-c1.svg", "plan.svg"} <= set(archive.namelist())
    reader.get("/s/tarn/ground/files/exe", 422)
    reader.get("/s/tarn/ground/files/asc?at=never", 422)
    grid = reader.get("/s/tarn/ground/files/asc?at=bare").data
    reader.post("/s/tarn/ground/survey", base=1, file=[(io.BytesIO(grid), "tarn.asc")])
    data = document(database)[1]
    assert (data["forms"][-1]["kind"], data["forms"][-1]["name"]) == ("survey", "tarn")
    bare = plan(resolved({**data, "forms": data["forms"][:-1]})).built.bare.z
    assert np.abs(plan(resolved(data)).built.bare.z - bare).max() <= 0.002
    picture, side = (reader.get(f"/s/tarn/ground/files/{kind}").data for kind in ("png", "json"))
    reader.post("/s/tarn/ground/survey", base=2, file=[(io.BytesIO(picture), "t.png"), (io.BytesIO(side), "t.json")])
    assert (
        "comes without its side file"
        in reader.post("/s/tarn/ground/survey", 422, base=3, file=[(io.BytesIO(picture), "t.png")]).text
    )
    assert (
        "a side file alone"
        in reader.post("/s/tarn/ground/survey", 422, base=3, file=[(io.BytesIO(side), "t.json")]).text
    )
    assert "nothing was chosen" in reader.post("/s/tarn/ground/survey", 422, base=3).text
    assert document(database)[0] == 3


def test_a_large_grid_is_taken_and_other_requests_stay_small(reader, database):
    rng = np.random.default_rng(1)
    rows = "\n".join(" ".join(f"{value:.3f}" for value in row) for row in rng.random((700, 900)) * 20 + 5)
    text = f"ncols 900\nnrows 700\nxllcorner 0\nyllcorner 0\ncellsize 0.4\n{rows}\n".encode()
    assert len(text) > 3_500_000
    sent = {"base": 1, "anyway": "do"}  # its skins lie on the ground as it was
    reader.post("/s/saltcote-pans/ground/survey", **sent, file=[(io.BytesIO(text), "large.asc")])
    assert document(database, "saltcote-pans")[1]["forms"][-1]["grid"]["columns"] == 900
    reader.get("/s/saltcote-pans/ground")
    with database.reading() as session:
        assert len(scenes.find(session, "saltcote-pans").head.document) < 20_000


def test_templates_print_one_sheet_a_page(reader):
    page = reader.get("/s/hollin-delf/ground/templates/pit").text
    assert page.count('class="sheet-page"') == page.count("row ") > 1
    assert "<style" not in page
    reader.get("/s/hollin-delf/ground/templates/nothing", 422)


def test_the_relief_has_every_stage(reader):
    page = reader.get("/s/hollin-delf/ground?stage=relief").text
    stages = json.loads(html.unescape(re.search(r'data-stages="([^"]+)"', page)[1]))
    assert [name for name, _ in stages][-1] == "finished"
    heights = {}
    assert len(stages) > 20
    for name in ("ground-sheet", "pit", "bare", "lake-skin", "finished"):
        model = json.loads(reader.get(f"/s/hollin-delf/relief.json?stage={name}").text)
        assert len(model["z"]) == model["columns"] * model["rows"] <= 130_000
        assert model["columns"] * model["step_mm"] == pytest.approx(1140, abs=2 * model["step_mm"])
        heights[name] = max(z for z in model["z"] if z is not None) / 10
    assert heights["ground-sheet"] == 25
    assert heights["bare"] == 125 < heights["finished"]
    corner = model["sides"]["0"]  # of the finished ground: foam, and what was laid on it
    assert [hatch for _, hatch in corner][-1] == "skin" and corner == sorted(corner)
    assert corner[0][1] == "foam"
    for form in ("json", "webp"):
        assert "no stage &#39;never&#39;" in reader.get(f"/s/hollin-delf/relief.{form}?stage=never", 422).text
    assert None in json.loads(reader.get("/s/ember-pools/relief.json?stage=bare").text)["z"]


def frame(page):
    return {name: float(re.search(rf'data-{name}="([^"]+)"', page)[1]) for name in ("scale", "left", "zoom")}


def test_looking_closer_holds_on_every_page(reader):
    whole = frame(reader.get("/s/hollin-delf/ground").text)
    reader.post("/s/hollin-delf/look", move="in", here="/s/hollin-delf/ground")
    for place in ("ground", "layup", "pour", "ground/patches"):
        assert frame(reader.get(f"/s/hollin-delf/{place}").text)["scale"] == pytest.approx(2 * whole["scale"])
    left = frame(reader.get("/s/hollin-delf/ground").text)["left"]
    reader.post("/s/hollin-delf/look", move="east")
    assert frame(reader.get("/s/hollin-delf/ground").text)["left"] < left
    for _ in range(9):
        reader.post("/s/hollin-delf/look", move="in")
    assert frame(reader.get("/s/hollin-delf/ground").text)["zoom"] == 32
    reader.post("/s/hollin-delf/look", move="whole")
    assert frame(reader.get("/s/hollin-delf/ground").text) == whole
    reader.post("/s/hollin-delf/look", 422, zoom="4", x="nan", y="2")


def test_prices_are_kept_and_costs_are_told(reader):
    for material, price, pack in (("foam-xps", "9.5", "7500 cm2"), ("casting-resin", "14", "1 l")):
        reader.post("/shelf/prices", material=material, price=price, pack=pack, seller="corner")
    page = reader.text("/shelf/prices?material=foam-xps")
    assert "9.50, corner" in page
    made = json.loads(reader.get("/s/hollin-delf/plan.json").text)
    resin = next(need for need in made["buy"] if need["material"] == "casting-resin")
    assert resin["cost"] == resin["packs"] * 14
    assert "costs" in reader.text("/s/hollin-delf/ground/steps")
    opened = json.loads(reader.get("/s/hollin-delf/export.json").text)
    scene = resolved(opened)
    found = report(scene, plan(scene).built, plan(scene).lifts, GroundQuery(), shipped(), ("foam",)).foam["foam-xps"]
    assert found.cost.number == pytest.approx(9.5 * found.count.number)
    bad = reader.post("/shelf/prices", 422, material="plaster", price="cheap", pack="1 kg").text
    assert "“cheap” is no number" in html.unescape(bad)


def test_dips_are_kept_where_they_are_tapped(reader, database):
    line = "[[210, 150], [280, 190]]"
    reader.post("/s/tarn/forms/draw", base=1, kind="dips", tool="ellipse", line=line)
    name = document(database)[1]["forms"][-1]["id"]
    assert name == "north-east-hollow"
    page = f"/s/tarn/ground?form={name}"
    assert "Lay a straightedge across the lip" in reader.text(page)
    reader.post(f"/s/tarn/forms/{name}/dip", base=2, x="245", y="170", deep="5,5")
    reader.post(f"/s/tarn/forms/{name}/dip", base=3, x="230", y="165", deep="1/8 in")
    assert document(database)[1]["forms"][-1]["dips"] == [[245, 170, 5.5], [230, 165, 3.175]]
    reader.post(f"/s/tarn/forms/{name}/dip", base=4, x="245.5", y="170", deep="6")  # measured again
    assert document(database)[1]["forms"][-1]["dips"] == [[230, 165, 3.175], [245.5, 170, 6]]
    assert "2 so far" in reader.text(page) and "likely between" in reader.text(
        f"/s/tarn/working?path=forms.{name}.volume_ml"
    )
    told = reader.post(f"/s/tarn/forms/{name}/dip", 422, base=5, x="20", y="20", deep="6").text
    assert "lies outside its lip" in html.unescape(told)
    assert "is no hollow by dips" in reader.post("/s/tarn/forms/slab/dip", 422, base=5, x="9", y="9", deep="6").text
    # Opened and sent as it is, it changes nothing; one taken out of the list is gone.
    reader.post(f"/s/tarn/forms/{name}", base=5, dips="230, 165, 3.175\n245.5, 170, 6")
    assert document(database)[0] == 5
    reader.post(f"/s/tarn/forms/{name}", base=5, dips="245.5, 170, 6")
    assert document(database)[1]["forms"][-1]["dips"] == [[245.5, 170, 6]]


def test_a_name_sent_empty_is_told_and_kept(reader, database):
    form = next(one for one in document(database, "hollin-delf")[1]["forms"] if one["id"] == "pit")
    answer = reader.post(
        "/s/hollin-delf/forms/pit", 422, base=1, name=" ", depth_mm=f"{form['depth_mm']} mm", bank_deg="50"
    )
    assert "name: it is empty; give it one" in answer.text
    assert document(database, "hollin-delf")[0] == 1  # nothing was saved
