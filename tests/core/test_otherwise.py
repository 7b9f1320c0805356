"""What a scene has taught, read off how its lifts went."""

from datetime import timedelta

import pytest

from isostasis.core.faults.changes import WORDS
from isostasis.core.faults.facts import FACTS, CupWork
from isostasis.core.faults.model import symptoms
from isostasis.core.faults.otherwise import MOST, TELLING, lessons
from isostasis.core.plan import plan
from isostasis.store import scenes


def test_every_telling_fact_has_a_rule_that_tells():
    strong = {code for symptom in symptoms().values() for cause in symptom.causes for code in cause.strong}
    assert set(TELLING) <= strong & set(FACTS)


@pytest.fixture
def worked(demo_database, clock):
    with demo_database.reading() as session:
        scene = scenes.resolve(session, scenes.find(session, "hollin-delf").head)
    return scene, plan(scene), clock.at + timedelta(hours=1)


def test_a_cup_that_was_used_too_long_is_told(worked):
    scene, made, now = worked
    before = lessons(scene, made, {}, now)
    slow = {"benches-skin": (CupWork(minutes=400.0, working_min=60.0, volume_ml=300.0, second_cup=None, rested=None),)}
    after = [one for one in lessons(scene, made, slow, now) if one not in before]
    assert [one.lift for one in after] == ["benches-skin"]
    assert after[0].do


def test_only_what_was_built_is_told_and_never_a_litany(worked):
    scene, made, now = worked
    found = lessons(scene, made, {}, now)
    built = {
        one.lift["id"] if isinstance(one.lift, dict) else one.lift.id for one in scene.built if one.lift is not None
    }
    assert {one.lift for one in found} <= built
    for lift in {one.lift for one in found}:
        assert sum(one.lift == lift for one in found) <= MOST
    assert all(not one.change or one.change in WORDS for one in found)
    assert lessons(scene.model_copy(update={"built": ()}), made, {}, now) == ()
