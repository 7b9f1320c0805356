"""Nothing that is entered stops the pages, and nothing that was kept and fits no more takes others with it."""

import html
import io
import json

import pytest

from isostasis.store import clock as clocks
from isostasis.store import scenes, settings
from isostasis.store.tables import SettingRow
from tests.support.pages import document

BIG = "9" * 20
LONG = "9" * 5000


@pytest.mark.parametrize(
    "url",
    [
        f"/s/tarn/history/{BIG}/restore",
        f"/s/tarn/mix/{BIG}/actual",
        f"/s/tarn/mix/{BIG}/finish",
        f"/devices/{BIG}/away",
    ],
)
def test_numbers_of_twenty_figures_lead_nowhere(reader, url):
    reader.post(url, 404)


@pytest.mark.parametrize("base", [BIG, LONG, "-1", "x", "1e9"])
def test_a_revision_that_cannot_be_is_told(reader, base):
    assert (
        "which revision it started from"
        in reader.post("/s/tarn/room", 422, base=base, temp_c="20", rh_percent="50").text
    )


def test_without_a_script_what_is_wrong_is_told_in_its_scene(reader):
    told = reader.post("/s/tarn/room", 422, base="1", temp_c="warm", rh_percent="50").text
    assert "“warm”" in html.unescape(told) and '<a href="/s/tarn/ground">Back to ' in told
    assert 'href="/s/tarn/pour"' in told  # its places are still there


@pytest.mark.parametrize("typed", [BIG, LONG, "9" * 200_000, "x" * 200_000, "1e999", "nan", "-inf"])
def test_a_field_takes_no_more_than_fits(reader, typed):
    assert "temp" in reader.post("/s/tarn/room", 422, base=1, temp_c=typed, rh_percent="50").text.lower()


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("[" * 100_000, "nested too deep"),
        ('{"isostasis": 1, "name": ' + "[" * 100_000 + "]" * 100_000 + "}", "nested too deep"),
        ('{"isostasis": 1, "n": ' + LONG + "}", "thousands of figures"),
        (json.dumps({"isostasis": 1, "name": "A", "base": {"width_mm": 100, "depth_mm": 100},
                     "gates": [{"id": "g", "name": "G", "not_before": "9999-12-31", "blocks": ["a"]}]}), "the year 9999"),
        (json.dumps({"isostasis": 1, "name": "A", "base": {"width_mm": 100, "depth_mm": 100},
                     "bench": {"bowl_ml": 0.0001}}), "bench.bowl_ml: 0.0001 does not fit; it must be at least 1"),
        (json.dumps({"isostasis": 1, "name": "A", "base": {"width_mm": 100, "depth_mm": 100},
                     "flats": [{"id": f"f{n}", "name": "F", "flat_mm": 1, "path": [[0, 0], [9, 9]], "width_mm": 3}
                               for n in range(1001)]}), "give at most 1000"),
    ],
)  # fmt: skip
def test_a_file_that_cannot_be_a_scene_is_told(reader, text, told):
    answer = reader.post("/scenes/import", 422, file=(io.BytesIO(text.encode()), "scene.json"))
    assert told in html.unescape(answer.text)


@pytest.mark.parametrize(
    "head", ["ncols inf\nnrows 3", "ncols 3\nnrows 3\nxllcorner nan", "ncols 3\nnrows 3\nxllcorner 1e300"]
)
def test_a_grid_that_lies_nowhere_is_told(reader, head):
    text = f"{head}\ncellsize 5\n" + "1 1 1\n" * 3
    sent = {"file": (io.BytesIO(text.encode()), "x.asc"), "base": 1}
    assert "no number that fits" in html.unescape(reader.post("/s/tarn/ground/survey", 422, **sent).text)


@pytest.mark.parametrize("year", ["0001", "1999", "2100", "9999"])
def test_dates_that_nobody_plans_are_told_wherever_they_are_written(reader, database, year):
    moment = f"{year}-01-01T19:00"
    hours = {"hours": "mon 19:00-22:00", "deadline": moment, "buffer_h": ""}
    for url, sent in (
        ("/s/tarn/clock/hours", hours),
        ("/s/tarn/clock/gates/add", {"base": 1, "name": "Post", "not_before": moment, "blocks": "tarn-water"}),
        ("/s/tarn/clock/room", {"base": 1, "lines": f"{moment}, 18, 55"}),
    ):
        told = html.unescape(reader.post(url, 422, **sent).text)
        assert f"the year {int(year)} is outside 2000 to 2099" in told, url
    assert "outside 2000 to 2099" in reader.get(f"/s/tarn/clock/day?date={moment}", 422).text
    assert reader.get("/s/tarn/clock").status_code == 200


def test_a_bowl_that_holds_nothing_is_refused_where_it_is_entered(reader, database):
    values = {"cup_ml": "400", "bowl_ml": "0.0001", "scoop_ml": "15", "drop_ml": "0.05", "spread_ml_per_min": "60",
              "tub_long": "300", "tub_wide": "200", "figure_mm": "25", "grade_most": "3"}  # fmt: skip
    assert (
        "mixing bowl: 0.0 does not fit; it must be at least 1"
        in html.unescape(reader.post("/things", 422, **values).text).lower()
    )


def test_a_setting_that_no_longer_fits_is_told_where_it_can_be_set(reader, database):
    with database.writing() as session:
        session.merge(SettingRow(name="bench", value={"bowl_ml": 0.0001, "cup_ml": 250}))
        session.merge(SettingRow(name="theme", value="blue"))
    for url in ("/", "/s/tarn/ground", "/s/hollin-delf/pour", "/s/tarn/clock"):
        reader.get(url)
    assert "bench.bowl_ml: 0.0001 does not fit" in reader.text("/things")
    with database.reading() as session:
        assert (settings.read(session).bench.cup_ml, settings.read(session).bench.bowl_ml) == (250, 1500)


def test_a_deadline_that_no_longer_fits_is_told_and_can_be_set_anew(reader, database):
    with database.writing() as session:
        row = scenes.find(session, "tarn")
        session.get(clocks.ClockRow, row.id).asked = {"deadline": "0001-01-01T00:00:00Z", "buffer_h": 3}
    assert "the year 1 is outside 2000 to 2099" in reader.text("/s/tarn/clock")
    reader.post("/s/tarn/clock/hours", hours="mon 19:00-22:00", deadline="2027-05-01T10:00", buffer_h="")
    assert "the year 1 is" not in reader.text("/s/tarn/clock")


def test_a_scene_that_no_longer_fits_opens_with_its_fault_and_is_mended(reader, database):
    good = document(database)[1]
    broken = {
        **good,
        "room": {"temp_c": 21, "rh": 0.5, "series": [{"at": "9999-01-01T00:00:00Z", "temp_c": 20, "rh": 0.5}]},
    }
    with database.writing() as session:
        scenes.find(session, "tarn").head.document = json.dumps(broken)
    for url in ("/s/tarn/ground", "/s/tarn/clock", "/s/tarn/pour", "/s/tarn/history"):
        page = html.unescape(reader.get(url, 422).text)
        assert "the year 9999 is outside 2000 to 2099" in page and "9999-01-01T00:00:00Z" in page
    assert "the year 9999" in reader.text("/")  # on its own card; the others stand there as ever
    assert "Hollin Delf" in reader.text("/") and reader.get("/s/hollin-delf/clock").status_code == 200
    assert "the year 9999" in html.unescape(reader.post("/s/tarn/mend", 422, text=json.dumps(broken)).text)
    reader.post("/s/tarn/mend", text=json.dumps(good))
    assert reader.get("/s/tarn/ground").status_code == 200
    with database.reading() as session:
        assert scenes.find(session, "tarn").head.note == "Mended"
