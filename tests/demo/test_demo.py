"""The demo scenes: made up, planned without trouble, and with something true to show on every page."""

import pytest

from isostasis.core.plan import plan
from isostasis.core.plan.record import leaves_something
from isostasis.demo import DONE, SCENES, document
from isostasis.store import logbook, marks, scenes
from tests.support.scenes import resolved


@pytest.mark.parametrize("name", SCENES)
def test_every_scene_plans_without_a_serious_warning(name):
    made = plan(resolved(document(name)))
    assert made.lifts
    serious = {"lost", "runs-hot", "melts-foam", "too-deep", "wont-dry", "stays-soft", "unsealed-bed"}
    assert not [notice for lift in made.lifts.values() for notice in lift.warnings if notice.code in serious]


def test_the_scenes_are_those_of_the_design():
    quarry, pans, pools, fen = (document(name) for name in SCENES)
    assert (quarry["base"]["width_mm"], quarry["base"]["depth_mm"], len(quarry["base"]["joints_x_mm"])) == (
        1140,
        430,
        1,
    )
    assert (pans["base"]["width_mm"], sum(form["kind"] == "basin" for form in pans["forms"])) == (400, 6)
    assert (pools["base"]["outline"], pools["copies"]) == ({"disc_mm": 60}, 5)
    assert (fen["base"]["width_mm"], fen["base"]["depth_mm"]) == (600, 400)
    assert sorted(form["depth_mm"] for form in fen["forms"] if form["kind"] == "basin") == [7, 9, 14]
    assert {form["kind"] for form in fen["forms"]} == {"sheet", "mound", "basin"} and fen["flats"][0]["name"] == "Road"
    assert len(plan(resolved(quarry)).lifts["lake-water"].layers) == 3


def test_what_is_done_are_steps_of_the_plans(demo_database):
    with demo_database.reading() as session:
        for name in SCENES:
            row = scenes.find(session, name)
            made = plan(scenes.resolve(session, row.head))
            steps = {step.id for step in made.steps}
            done = {event.step for event in marks.events(session, row)}
            assert {step for scene, step, _ in DONE if scene == name} <= done <= steps
            # Nothing is done that waits for what is not.
            waits = {step.id: set(step.after) for step in plan(resolved(document(name))).steps}
            assert all(waits[one] <= done for one in done)
            left = {step.id for step in made.steps if leaves_something(step)}
            assert {step.id for step in made.steps if step.built} == done & left
        batches = logbook.batches(session, scenes.find(session, "hollin-delf"))
        assert [batch.finished_at is None for batch in batches] == [True, False, False]
        assert all(batch.actual for batch in batches)
