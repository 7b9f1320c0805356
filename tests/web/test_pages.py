"""Every page and every write through the real application over real SQLite."""

import html
import io
import json
import re

import pytest

from isostasis.cli import main
from isostasis.core.plan import plan
from isostasis.core.units import show
from isostasis.store import logbook, marks, scenes
from isostasis.web import MAX_REQUEST_BYTES
from tests.support.pages import document
from tests.support.scenes import resolved, scene_data


def test_screen_and_command_line_give_the_same_figures(reader, tmp_path):
    from click.testing import CliRunner

    file = tmp_path / "scene.json"
    file.write_text(reader.get("/s/hollin-delf/export.json").text)
    printed = CliRunner().invoke(main, ["plan", str(file), "--json"])
    on_line = json.loads(printed.stdout)
    assert json.loads(reader.get("/s/hollin-delf/plan.json").text) == on_line
    pour = reader.text("/s/hollin-delf/pour")
    water = on_line["lifts"]["lake-water"]
    for value, unit in (
        (water["volume_ml"], "ml"),
        (water["mix_ml"], "ml"),
        (water["hours"]["next"], "h"),
        (water["hours"]["workable"], "h"),
    ):
        number, shown_unit = show(value, unit)
        assert re.search(rf"{re.escape(number)}\s*{shown_unit}", pour), (number, shown_unit)


def test_a_figure_opens_its_working(reader):
    text = reader.text("/s/tarn/working?path=lifts.tarn-water.mix_ml")
    assert "in place" in text
    assert "default: 5% of each batch" in text
    assert "likely between" in reader.text("/s/tarn/working?path=lifts.tarn-water.layers.0.peak_c")
    assert "no such figure" in reader.get("/s/tarn/working?path=lifts.x", 422).text
    assert "last lift, cured through" in reader.text("/s/hollin-delf/pour/working?lift=lake-water&path=whole")


def test_a_preview_saves_nothing_and_agrees_with_the_plan(reader, database):
    before = document(database)
    text = reader.text("/s/tarn/pour/preview?lift=tarn-water&level=22.5")
    changed = scene_data()
    changed["patches"][0]["lifts"][2]["level_mm"] = 22.5
    volume = plan(resolved(changed)).lifts["tarn-water"].volume_ml
    assert f"{show(volume.number, 'ml')[0]} ml" in re.sub(r"\s+", " ", text)
    assert document(database) == before
    refused = reader.get("/s/tarn/pour/preview?lift=tarn-water&level=99")
    assert 'data-field="water level">Tarn, Tarn water, water level: 99 mm stands above the lip' in refused.text
    for level in ("high", "nan", "inf", ""):
        assert "level is no number" in reader.get(f"/s/tarn/pour/preview?lift=tarn-water&level={level}", 422).text
        assert "cut is no number" in reader.get(f"/s/tarn/pour/preview?lift=tarn-water&level=24&cut={level}", 422).text
        assert "is no number" in reader.get(f"/s/tarn/cut?y={level}", 422).text
    reader.get("/s/tarn/ground")


def test_the_level_is_saved_where_it_was_let_go(reader, database):
    reader.post("/s/tarn/pour/tarn-water/level", base=1, level="23 mm")
    number, data = document(database)
    assert (number, data["patches"][0]["lifts"][2]["level_mm"]) == (2, 23)
    answer = reader.post("/s/tarn/pour/tarn-water/level", 422, base=2, level="80 mm")
    assert "80 mm stands above the lip" in html.unescape(answer.text)
    reader.post("/s/tarn/pour/tarn-water/level", 422, base=2, level="quite high")
    assert document(database)[0] == 2


def test_a_stale_form_is_told_and_kept(reader, database):
    reader.post("/s/tarn/pour/tarn-water/level", base=1, level="23 mm")
    reader.post("/s/tarn/pour/tarn-water/level", base=1, level="21 mm")
    assert document(database)[1]["patches"][0]["lifts"][2]["level_mm"] == 23
    page = reader.text("/s/tarn/pour")
    assert "changed elsewhere meanwhile" in page
    assert "yours is kept as revision 3" in page
    reader.post("/s/tarn/history/3/restore")
    assert document(database)[1]["patches"][0]["lifts"][2]["level_mm"] == 21
    reader.post("/s/tarn/pour/tarn-water/level", 422, level="21 mm")
    reader.post("/s/tarn/pour/tarn-water/level", 422, base=77, level="21 mm")


def test_undo_and_redo(reader, database):
    reader.post("/s/tarn/pour/tarn-water/level", base=1, level="23 mm")
    answer = reader.post("/s/tarn/undo", here="/s/tarn/pour")
    assert answer.location == "/s/tarn/pour"
    assert document(database)[0] == 1
    reader.post("/s/tarn/redo", here="//evil.example/")
    assert document(database)[0] == 2


def test_a_scene_from_nothing_to_a_first_pour(reader, database):
    reader.post("/start/empty", name="Mill leat", width="12 in", depth="200 mm", foam="0")
    at = "/s/mill-leat"
    assert "Start with a sheet" in reader.text(f"{at}/ground")
    assert "lay a sheet first" in reader.post(f"{at}/forms", 422, base=1, kind="basin").text
    reader.post(f"{at}/forms", base=1, kind="sheet")
    reader.post(f"{at}/forms", base=2, kind="basin")
    reader.post(f"{at}/forms/basin", base=3, name="Pool", depth_mm="12 mm", bank_deg="60",
                x=["60", "200", "200", "60"], y=["50", "50", "150", "150"])  # fmt: skip
    reader.post(f"{at}/patches", base=4, name="Pool", around="basin")
    reader.post(f"{at}/patches/pool/lifts", base=5, kind="skin", mix="paper-plaster", depth="3 mm")
    reader.post(f"{at}/patches/pool/lifts", base=6, kind="coat", material="acrylic-sealer", coats="2")
    reader.post(f"{at}/patches/pool/lifts", base=7, kind="pour", mix="casting-resin")
    number, data = document(database, "mill-leat")
    assert number == 8
    assert [lift["kind"] for lift in data["patches"][1]["lifts"]] == ["skin", "coat", "pour"]
    assert data["forms"][1] | {"outline": None} == {
        "id": "basin", "kind": "basin", "name": "Pool", "depth_mm": 12, "bank_deg": 60, "outline": None}  # fmt: skip
    made = plan(resolved(data))
    assert made.lifts["pool-water"].volume_ml.number > 50
    for place in ("ground", "layup", "pour", "mix"):
        reader.get(f"{at}/{place}")
    reader.post(f"{at}/lifts/pool-coat/move", base=8, how="down", patch="pool")
    assert [lift["kind"] for lift in document(database, "mill-leat")[1]["patches"][1]["lifts"]] == [
        "coat",
        "skin",
        "pour",
    ]
    reader.post(f"{at}/lifts/pool-skin", base=9, patch="pool", mix="plaster-2-3", depth="1/8 in")
    assert document(database, "mill-leat")[1]["patches"][1]["lifts"][1]["depth_mm"] == 3.175
    reader.post(f"{at}/lifts/pool-coat/move", base=10, how="remove", patch="pool")
    reader.post(
        f"{at}/pour/pool-water",
        base=11,
        mix="deep-resin",
        way="depth_mm",
        size="6 mm",
        ink="acrylic-ink-blue",
        drops="2",
    )
    lift = document(database, "mill-leat")[1]["patches"][1]["lifts"][1]
    assert (lift["mix"], lift["depth_mm"], lift["tint"][0]["drops_per_100_ml"]) == ("deep-resin", 6, 2)
    reader.post(f"{at}/pour/pool-water/level", base=12, level="20 mm")
    assert "level_mm" not in document(database, "mill-leat")[1]["patches"][1]["lifts"][1]
    reader.post(f"{at}/patches/pool/remove", base=13)
    assert "No pour yet" in reader.text(f"{at}/pour")


def test_a_round_scene_holds_a_pour(reader, database):
    reader.post("/start/bases", name="Coin", across="25 mm", deep="2", pools="1")
    assert plan(resolved(document(database, "coin")[1])).lifts["pools-water"].volume_ml.number > 0.05


def test_forms_are_dragged_ordered_switched_and_removed(reader, database):
    ring = [[60, 30], [250, 30], [250, 130], [50, 130]]
    reader.post("/s/tarn/forms/hole", base=1, line=json.dumps(ring))
    assert document(database)[1]["forms"][2]["outline"] == ring
    crossed = json.dumps([[60, 30], [250, 130], [250, 30], [50, 130]])
    assert "crosses itself" in reader.post("/s/tarn/forms/hole", 422, base=2, line=crossed).text
    assert "no list of corners" in reader.post("/s/tarn/forms/hole", 422, base=2, line="round").text
    reader.post("/s/tarn/forms/hole/move", base=2, how="up")
    assert [form["id"] for form in document(database)[1]["forms"]] == ["slab", "hole", "bank"]
    answer = reader.post("/s/tarn/forms/hole/move", 422, base=3, how="remove")
    assert "lowest ground" in html.unescape(answer.text) or "cut a hollow" in html.unescape(answer.text)
    assert document(database)[0] == 3
    reader.post("/s/tarn/forms/bank/move", base=3, how="switch")
    assert document(database)[1]["forms"][2]["off"] is True
    reader.post("/s/tarn/forms/nobody", 422, base=4, name="x", depth_mm="3")


@pytest.mark.parametrize(("url", "values", "sentence"), [
    ("/scenes/import", {"text": ""}, "nothing was chosen"),
    ("/scenes/import", {"text": "{"}, "this is no JSON"),
    ("/scenes/import", {"text": "{\"isostasis\": 1}"}, "base: is missing"),
    ("/s/tarn/room", {"base": 1, "temp_c": "warm", "rh_percent": "50"}, "“warm” is no number"),
    ("/s/tarn/room", {"base": 1, "temp_c": "20", "rh_percent": "140"}, "outside 0 to 100"),
    ("/s/tarn/room", {"base": 1, "temp_c": "200", "rh_percent": "40"}, "at most 50"),
    ("/s/tarn/forms", {"base": 1, "kind": "volcano"}, "no kind of form that is built"),
    ("/s/tarn/forms/hole", {"base": 1, "name": "h", "depth_mm": "40 mm", "bank_deg": "45"}, "cuts through the board"),
    ("/s/tarn/forms/hole", {"base": 1, "name": "h", "depth_mm": "4 mm", "bank_deg": "steep"}, "“steep” is no number"),
    ("/s/tarn/patches/tarn/lifts", {"base": 1, "kind": "snow"}, "no kind of lift that is built"),
    ("/s/tarn/patches/rest/lifts", {"base": 1, "kind": "pour", "mix": "casting-resin"}, "has no hollow that holds liquid"),
    ("/s/tarn/patches/nobody/lifts", {"base": 1, "kind": "skin", "mix": "paper-plaster", "depth": "3"}, "is no longer there"),
    ("/s/tarn/lifts/tarn-seal", {"base": 1, "patch": "tarn", "material": "acrylic-sealer", "coats": "1.5"}, "no whole number"),
    ("/s/tarn/lifts/tarn-skin", {"base": 1, "patch": "tarn", "mix": "mud", "depth": "3"}, "there is no mix 'mud'"),
    ("/s/tarn/patches", {"base": 1, "name": "", "around": "hole"}, "the patch has no name"),
    ("/s/tarn/patches", {"base": 1, "name": "P", "around": "slab"}, "there is no such basin"),
    ("/s/tarn/pour/tarn-water", {"base": 1, "mix": "casting-resin", "drops": "some", "way": "level_mm", "size": "24"}, "“some” is no number"),
    ("/s/tarn/pour/tarn-water", {"base": 1, "mix": "paper-plaster", "way": "level_mm", "size": "24"}, "neither reacts nor"),
    ("/s/tarn/pour/tarn-water", {"base": 1, "mix": "casting-resin", "way": "volume_ml", "size": "a lot"}, "is no volume"),
    ("/s/tarn/mix/nothing/start", {}, "no batch 'nothing' any more"),
])  # fmt: skip
def test_bad_input_is_told_and_changes_nothing(reader, database, url, values, sentence):
    before = document(database)
    answer = reader.post(url, 422, **values)
    assert sentence in html.unescape(answer.text)
    assert document(database) == before
    part = reader.client.post(url, data={"csrf_token": reader.token, **values}, headers={"HX-Request": "true"})
    assert part.headers["HX-Retarget"] == "#problem"
    assert "<html" not in part.text


def test_writes_need_a_token_and_a_modest_size(app, reader):
    client = app.test_client()
    assert client.post("/s/tarn/undo").status_code == 400
    for rule in app.url_map.iter_rules():
        if "POST" in rule.methods:
            url = re.sub(r"<int:\w+>", "1", rule.rule.replace("<slug>", "tarn"))
            assert client.post(re.sub(r"<\w+>", "x", url)).status_code == 400, url
    big = client.post("/s/tarn/forms", data={"text": "x" * (MAX_REQUEST_BYTES + 10)})
    assert big.status_code == 413
    assert "larger than" in big.text


def test_what_is_not_there_is_told(reader):
    for url in ("/s/nobody/ground", "/nothing", "/s/nobody/pour/preview?lift=a&level=1"):
        reader.get(url, 404)
    reader.post("/s/tarn/history/99/restore", 404)
    reader.post("/s/tarn/mix/999/finish", 404)
    reader.get("/s/tarn/cut?y=low", 422)
    assert "no batch 'nonsense'" in html.unescape(reader.get("/s/tarn/mix?batch=nonsense", 422).text)


def test_import_by_file_and_text(reader, database):
    data = json.dumps({**scene_data(), "name": "By text"})
    reader.post("/scenes/import", text=data)
    sent = {"csrf_token": reader.token, "file": (io.BytesIO(data.replace("By text", "By file").encode()), "s.json")}
    assert reader.client.post("/scenes/import", data=sent).status_code == 303
    assert document(database, "by-text")[1]["name"] == "By text"
    assert document(database, "by-file")[1]["name"] == "By file"
    reader.post("/s/by-file/copy")
    assert document(database, "by-file-copy")[1]["name"] == "By file, copy"


def test_measures_theme_and_room(reader, database):
    reader.post("/settings", system="imperial", here="/s/tarn/pour")
    assert "fl oz" in reader.text("/s/tarn/pour")
    reader.post("/s/tarn/room", base=1, temp_c="68", rh_percent="60", air="fan", here="/s/tarn/pour")
    assert document(database)[1]["room"] == {"temp_c": 20, "rh": 0.6, "air": "fan"}
    reader.post("/settings", theme="dark", system="metric")
    assert 'data-theme="dark"' in reader.get("/").text


def test_the_users_own_bench_splits_batches_and_counts_drops(reader):
    def mine(**changed):
        whole = {
            "cup_ml": "400 ml",
            "bowl_ml": "1.5 l",
            "scoop_ml": "15",
            "drop_ml": "0.05",
            "spread_ml_per_min": "60",
            "tub_long": "300",
            "tub_wide": "8 in",
            "figure_mm": "1 in",
            "grade_most": "4",
            "risers_mm": "50 mm; 1 in",
            "shims_mm": "",
        }
        return whole | changed

    def batches():
        made = json.loads(reader.get("/s/hollin-delf/plan.json").text)
        return [batch["id"] for batch in made["batches"] if batch["id"].startswith("lake-water-1")]

    assert len(batches()) == 1
    reader.post("/things", **mine(cup_ml="2/3 cup", drop_ml="1 ml"))
    assert len(batches()) == 2
    assert json.loads(reader.get("/s/hollin-delf/export.json").text)["bench"]["drop_ml"] == 1
    assert "it must be at least 1" in reader.post("/things", 422, **mine(bowl_ml="0")).text
    assert "“big” is no volume" in html.unescape(reader.post("/things", 422, **mine(cup_ml="big")).text)
    reader.post("/things", 422, **mine(spread_ml_per_min="fast"))
    assert 'value="157.725 ml"' in reader.get("/things").text


def test_a_batch_from_cup_to_hardening(reader, database, clock):
    key = "tarn-water-1-1"
    card = reader.text(f"/s/tarn/mix?batch={key}")
    assert "start the clock" in card
    assert "Nitrile gloves" in card
    assert "hardener would be 18 % too much" in card
    reader.post(f"/s/tarn/mix/{key}/start")
    with database.reading() as session:
        (row,) = logbook.batches(session, scenes.find(session, "tarn"))
    clock.pass_by(minutes=10)
    assert "mixed cup" in reader.text("/s/tarn/mix")
    a, b, _ink = (part["mass_g"] for part in row.planned["ingredients"])
    reader.post(f"/s/tarn/mix/{row.id}/actual", **{"casting-resin:A": f"{a * 1.1} g", "casting-resin:B": f"{b} g"})
    mend = re.sub(r"\s+", " ", reader.text("/s/tarn/mix"))
    assert "The ratio is off. Add" in mend
    added = re.search(r"([0-9.]+) g of B", mend)
    assert float(added[1]) == pytest.approx(b * 0.1, rel=0.005)
    assert (
        "neither a mass nor a volume"
        in reader.post(f"/s/tarn/mix/{row.id}/actual", 422, **{"casting-resin:A": "lots"}).text
    )
    clock.pass_by(minutes=5)
    reader.post(f"/s/tarn/mix/{row.id}/finish", note="no bubbles")
    done = reader.text(f"/s/tarn/mix?batch={key}")
    assert "no bubbles" in done
    with database.reading() as session:
        (event,) = marks.events(session, scenes.find(session, "tarn"))
    assert (event.step, event.what, event.at) == ("tarn-water", "done", clock())
    assert event.planned["wait_h"] > 10
    assert re.search(r"Tarn\s+water\s+(\d+ d )?\d+ h( \d\d)? to go", reader.text("/s/tarn/mix"))


def test_an_open_cup_stays_on_the_wet_line_past_its_time(reader, clock):
    assert "left in the cup" in reader.text("/")
    clock.pass_by(hours=3)
    assert "over time" in reader.text("/")


def test_a_lift_that_was_mixed_and_then_removed_keeps_its_batch(reader, database):
    reader.post("/s/tarn/mix/tarn-seal-1-1/start")
    reader.post("/s/tarn/lifts/tarn-seal/move", base=1, how="remove", patch="tarn")
    page = reader.text("/s/tarn/mix?batch=tarn-seal-1-1")
    assert "no longer in the plan" in page
    assert "acrylic-sealer" in page


def test_one_bowl_for_two_spots_finishes_both(reader, database, clock):
    page = reader.text("/s/tarn/mix?batch=tarn-skin-1-1")
    assert "In this order" in page
    assert "then Banks, skin" in " ".join(page.split())
    batches = [
        batch["id"]
        for batch in json.loads(reader.get("/s/tarn/plan.json").text)["batches"]
        if batch["id"].startswith("tarn-skin")
    ]
    for key in batches:
        reader.post(f"/s/tarn/mix/{key}/start")
        with database.reading() as session:
            row = next(one for one in logbook.batches(session, scenes.find(session, "tarn")) if one.batch == key)
        reader.post(f"/s/tarn/mix/{row.id}/finish", note="")
    with database.reading() as session:
        done = {event.step for event in marks.events(session, scenes.find(session, "tarn"))}
    assert {"tarn-skin", "bank-skin"} <= done


def test_a_revision_that_this_version_cannot_plan_is_shown_as_such(reader, database):
    with database.writing() as session:
        row = scenes.find(session, "tarn")
        row.head.document = json.dumps({**scene_data("tarn"), "moods": []})
    assert "This version cannot plan it" in reader.text("/")
    assert "is not a key that is known here" in html.unescape(reader.get("/s/tarn/ground", 422).text)


def test_undo_says_what_it_undid(reader):
    fields = {"width_mm": "300", "depth_mm": "200", "copies": "1"}
    reader.post("/s/tarn/settings", base=1, name="Mere", **fields)
    reader.post("/s/tarn/undo", here="/s/tarn/ground")
    assert "Undone: Renamed to Mere" in reader.text("/s/tarn/ground")
    reader.post("/s/tarn/redo", here="/s/tarn/ground")
    assert "Done again: Renamed to Mere" in reader.text("/s/tarn/ground")
    reader.post("/s/tarn/redo", here="/s/tarn/ground")
    assert "again" not in reader.text("/s/tarn/ground")


def test_history_calls_things_by_their_names(reader):
    page = "/s/tarn/history"
    reader.post("/s/tarn/forms/hole", base=1, field="depth_mm", value="9 mm")
    reader.post("/s/tarn/forms/bank/move", base=2, how="duplicate")
    reader.post("/s/tarn/pour/tarn-water/level", base=3, level="25 mm")
    reader.post("/s/tarn/lifts/tarn-seal/move", base=4, how="remove", patch="tarn")
    told = reader.text(page)
    for words in ("Hole: depth", "Bank: once more", "Tarn, water to 25 mm", "Tarn, seal: remove"):
        assert words in told, told
