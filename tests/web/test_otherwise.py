"""What would I do otherwise, a scene made again with that, a batch once more at another size, a fault that is a mishap."""

import html
import re
from datetime import timedelta

import pytest

from isostasis.core.plan import plan
from isostasis.core.schedule import Schedule
from isostasis.store import clock as store_clock
from isostasis.store import labels, logbook, records, scenes
from isostasis.store.tables import EnteredRecordRow
from tests.support.pages import document
from tests.support.store import do


def refused(reader, url, **values):
    return html.unescape(reader.post(url, 422, **values).text)


def finished(database, slug="hollin-delf"):
    with database.reading() as session:
        return next(one for one in logbook.batches(session, scenes.find(session, slug)) if one.finished_at)


def test_a_scene_tells_what_it_has_taught(reader, database):
    text = reader.text("/s/hollin-delf/otherwise")
    assert "What would I do otherwise? Hollin Delf, so far" in text
    assert "Crust skin" in (ember := reader.text("/s/ember-pools/otherwise")) and "knocked over" in ember
    assert "Nothing so far" in reader.text("/s/tarn/otherwise")
    assert "what would I do otherwise?" in reader.text("/s/hollin-delf/clock/diary")


def test_what_came_otherwise_is_told_with_how_sure_it_is(reader, database):
    for number in range(2):
        reader.post(
            "/records/new", label="casting-resin", quantity="hours", title=f"pond {number}", predicted="20", low="30"
        )
    with database.writing() as session:
        for one in records.records(session):
            if one.key.startswith("own"):
                session.get(EnteredRecordRow, one.key).scene = "tarn"
    text = reader.text("/s/tarn/otherwise")
    assert "Hours until ready came to 1.50 times what was said 2 records" in text and "3 records are the fewest" in text


def test_a_scene_is_made_again_with_what_was_ticked(reader, database):
    _, data = document(database)
    water = next(one for patch in data["patches"] for one in patch["lifts"] if one["kind"] == "pour")
    reader.post("/s/tarn/again", change=[f"{water['id']}/tint-less"])
    with database.reading() as session:
        made = scenes.find(session, "tarn-copy")
        scene = scenes.document(made.head)
        assert not scene.built
    halved = [one.drops_per_100_ml for one in scene.lift(water["id"]).tint]
    assert halved == [one["drops_per_100_ml"] / 2 for one in water["tint"]]
    assert "is no change" in refused(reader, "/s/tarn/again", change=["x/sing"])
    assert "not there any more" in refused(reader, "/s/tarn/again", change=["x/seal"])


def test_a_batch_once_more_at_another_size_exactly(reader, database):
    row = finished(database)
    went = {one["key"]: row.actual[one["key"]] for one in row.planned["ingredients"] if one["mass_g"] > 0}
    url = f"/s/hollin-delf/mix/{row.id}/again"
    assert "Once more, at another size" in reader.text(f"/s/hollin-delf/mix?batch={row.batch}")
    page = reader.text(url)
    volume = float(re.search(r"it was ([\d.]+) ml", page)[1])
    first = re.search(r'name="size"[^>]*value="([^"]+)"', reader.get(url).text)[1]
    assert len(first.removesuffix(" ml").replace(".", "")) <= 4
    assert 'value="1234.56 ml"' in reader.get(f"{url}?size=1234.56 ml").text  # as it was typed
    double = reader.source(f"{url}?size={2 * volume} ml")
    now = [float(one.replace(",", "")) for one in re.findall(r'<span class="number">([\d.,]+) g</span>', double)]
    assert now == pytest.approx([2 * grams for grams in went.values()], rel=0.01)
    reader.get(f"{url}?size=-4", 422)
    reader.get(f"{url}?size=tea", 422)
    reader.post(url, name="Floor, as it was good")
    with database.reading() as session:
        mix = next(one for one in labels.catalogue(session).mixes.values() if one.name == "Floor, as it was good")
    assert mix.basis == "mass" and [one.parts for one in mix.ingredients] == pytest.approx(
        list(went.values()), abs=0.01
    )
    assert "already" in refused(reader, url, name="Floor, as it was good") and "none" in refused(reader, url, name="")


def test_what_went_wrong_is_a_mishap_by_one_press(reader, database):
    with database.reading() as session:
        own = [one for one in records.records(session) if (one.scene, one.lift) == ("hollin-delf", "floor-skin")]
    assert len(own) == 2 and not any(one.mishap for one in own)
    page = reader.get("/faults?symptom=cracked&spot=hollin-delf/floor-skin").text
    assert "A mishap: learn nothing" in page
    reader.post("/s/hollin-delf/faults/mishap", symptom="cracked", lift="floor-skin")
    with database.reading() as session:
        own = [one for one in records.records(session) if (one.scene, one.lift) == ("hollin-delf", "floor-skin")]
    assert all(one.mishap == "cracked" for one in own)
    assert "nothing was recorded" in refused(
        reader, "/s/hollin-delf/faults/mishap", symptom="cracked", lift="lake-water"
    )


def test_a_scene_that_is_done_says_when_and_what_was_told_first(reader, database, clock):
    with database.writing() as session:
        row = scenes.find(session, "tarn")
        for day in (0, 1):
            made = Schedule("feasible", (clock.at + timedelta(days=3 + day)).isoformat(), None, 1, (), None).kept()
            store_clock.add_forecast(session, row, f"q{day}", "", made, clock.at + timedelta(days=day))
        session.flush()
        made = plan(scenes.resolve(session, row.head))
        for number, step in enumerate(made.steps):
            do(session, row, step.id, clock.at + timedelta(days=4, hours=number))
    text = reader.text("/s/tarn/otherwise")
    assert "so far" not in text and "Finished" in text and "first it was told for" in text
    assert "Finish of Tarn as it was told" in (told := reader.text("/records")) and "came " in told
