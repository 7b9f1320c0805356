"""A form that is opened and sent as it was changes nothing, in any unit; a field that was touched changes that alone."""

import json

import pytest

from isostasis.core.document.edit import written
from isostasis.core.reading import read
from isostasis.store import scenes, settings
from tests.support.forms import forms_of
from tests.support.pages import document

FINE = {
    "isostasis": 1, "name": "Fine", "grid_mm": 5,
    "base": {"width_mm": 1234.5, "depth_mm": 333.333, "board": "plywood-9", "joints_x_mm": [411.5]},
    "room": {"temp_c": 19.23, "rh": 0.553},
    "forms": [
        {"id": "slab", "kind": "sheet", "thickness_mm": 20, "material": "foam-xps",
         "outline": [[0, 0], [1234.5, 0], [1234.5, 333.333], [0, 333.333]]},
        {"id": "pond", "kind": "basin", "depth_mm": 7.123456, "bank_deg": 47.25,
         "outline": [[100.1, 50.05], [301.0625, 50.05], [301.0625, 200], [100.1, 200]]},
        {"id": "road", "kind": "ramp", "path": [[500, 100], [900.0001, 100]], "width_mm": 41.275, "start_mm": 20,
         "grade": 0.0123456},
        {"id": "dip", "kind": "survey", "points": [[1000.125, 50, 33.33333], [1100, 60.0004, 30], [1050, 150, 27.5]]},
    ],
    "patches": [
        {"id": "water", "name": "Water", "area": {"outline": [[90, 40], [310, 40], [310, 210], [90, 210]]},
         "lifts": [
             {"id": "water-skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 1.5875},
             {"id": "water-seal", "kind": "coat", "material": "acrylic-sealer", "coats": 2},
             {"id": "water-pour", "kind": "pour", "mix": "casting-resin", "level_mm": 18.0625,
              "tint": [{"material": "acrylic-ink-blue", "drops_per_100_ml": 1.23456}]}]},
        {"id": "rest", "name": "Rest", "area": {"rest": True},
         "lifts": [{"id": "rest-soil", "kind": "texture", "mix": "quarry-dust", "depth_mm": 2.0833},
                   {"id": "rest-fix", "kind": "fix", "mix": "glue-water-1-1", "wetting": "alcohol-water-1-1"}]}],
}  # fmt: skip


@pytest.fixture(params=["metric", "imperial"])
def fine(request, database, clock, reader):
    with database.writing() as session:
        scenes.create(session, read(json.loads(json.dumps(FINE))), "new", clock())
        settings.change(
            session, system=request.param, bench={"shims_mm": [2, 0.5], "cup_ml": 157.7254, "drop_ml": 0.043}
        )
    reader.get("/s/fine/ground")
    return reader


def changing_forms(page, slug="fine"):
    """Forms that change what is there, not those that add something."""
    ends = ("/room", "/things", "/ground/joints", *(f"/{part}/{name}" for part, name in CHANGED))
    return [one for one in forms_of(page) if one.method == "post" and one.action.endswith(ends)]


CHANGED = [("forms", one["id"]) for one in FINE["forms"]]
CHANGED += [("lifts", lift["id"]) for patch in FINE["patches"] for lift in patch["lifts"]]
CHANGED += [("pour", "water-pour")]
PAGES = [*(f"/s/fine/ground?form={one['id']}" for one in FINE["forms"]), "/s/fine/layup?patch=water",
         "/s/fine/layup?patch=rest", "/s/fine/pour", "/s/fine/ground/joints", "/things"]  # fmt: skip


def test_a_form_sent_as_it_was_opened_changes_nothing(fine, database):
    tried = set()
    for url in PAGES:
        for form in changing_forms(fine.get(url).text):
            tried.add(form.action)
            answer = fine.client.post(form.action, data=form.values)
            assert answer.status_code == 303, (form.action, answer.text)
    assert len(tried) >= len(CHANGED) + 3
    number, data = document(database, "fine")
    assert number == 1 and data == FINE
    with database.reading() as session:
        bench = settings.read(session).bench
    assert (bench.shims_mm, bench.cup_ml, bench.drop_ml) == ((2, 0.5), 157.7254, 0.043)


def test_a_touched_field_changes_that_alone(fine, database):
    (form,) = [one for one in changing_forms(fine.get("/s/fine/ground?form=pond").text) if one.action.endswith("/pond")]
    assert fine.client.post(form.action, data={**form.values, "bank_deg": "60"}).status_code == 303
    number, data = document(database, "fine")
    pond = {**FINE["forms"][1], "bank_deg": 60}
    assert number == 2 and data == {**FINE, "forms": [FINE["forms"][0], pond, *FINE["forms"][2:]]}
    (form,) = [
        one for one in changing_forms(fine.get("/s/fine/layup?patch=water").text) if one.action.endswith("/water-skin")
    ]
    assert fine.client.post(form.action, data={**form.values, "depth": "2 mm"}).status_code == 303
    with database.reading() as session:
        lift = scenes.document(scenes.find(session, "fine").head).lift("water-skin")
    assert written(lift)["depth_mm"] == 2
