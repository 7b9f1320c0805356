"""Starters: every answer that is taken makes a scene that is planned and can be scheduled; lay-ups lie ready."""

from datetime import UTC, datetime

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.document import resolve
from isostasis.core.fault import Faults
from isostasis.core.ground.sketch import by_place
from isostasis.core.hours import parse_hours
from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.core.schedule import ScheduleRequest, first_times
from isostasis.core.starters import READY, STARTERS, starter

# What is told of work done as it should be: waits that the plan keeps, first coats that go on light, tiny tints.
FINE = {"wet-bed", "light-first-coat", "tint-too-small"}
WEEK = ScheduleRequest(datetime(2027, 3, 1, 12, tzinfo=UTC), parse_hours("mon-fri 19:00-22:00; sat-sun 10:00-17:00"))
KINDS = pytest.mark.parametrize("kind", STARTERS, ids=lambda one: one.id)


def planned(document):
    return plan(resolve(read(document), shipped()))


def names(document):
    return {one.title for one in read(document).forms}


def told(made):
    return {(name, one.code) for name, lift in made.lifts.items() for one in lift.warnings if one.code not in FINE}


@KINDS
def test_a_starter_unanswered_is_a_whole_scene_without_a_warning(kind):
    made = planned(kind.document({}))
    assert not told(made) and not made.checks
    times = first_times(made.steps, WEEK)
    assert times.finish and times.sessions >= 1
    assert 2 <= len(kind.questions) <= 6
    assert all(one.name for one in read(kind.document({})).forms) and kind.document({}, "Mine")["name"] == "Mine"


@KINDS
def test_what_cannot_be_made_is_told_by_its_question(kind):
    first = kind.questions[0]
    for wrong in (-5, 1e9, "wide", None, float("nan")):
        with pytest.raises(Faults) as refused:
            kind.document({first.name: wrong})
        assert first.label in str(refused.value)


def answers_of(kind):
    def values(one):
        if one.kind == "choice":
            return st.sampled_from([name for name, _ in one.options])
        if one.kind == "count":
            return st.integers(int(one.low), min(int(one.high), 8))
        return st.floats(one.low, min(one.high, 1500), allow_nan=False).map(lambda value: round(value, 1))

    return st.fixed_dictionaries({one.name: values(one) for one in kind.questions})


@KINDS
@given(data=st.data())
@settings(max_examples=12, deadline=None)
def test_any_answers_make_a_scene_or_are_told_in_a_sentence(kind, data):
    answers = data.draw(answers_of(kind))
    try:
        document = kind.document(answers)
    except Faults as faults:
        labels = {one.label for one in kind.questions}
        assert all(one.where in labels for one in faults.faults)
        return
    assert planned(document).steps or not document["forms"]


def test_ponds_are_as_many_and_as_deep_as_was_said():
    document = starter("ponds").document({"count": 5, "deep": 12, "banks": "steep"})
    made = planned(document)
    water = made.lifts["ponds-water"]
    assert len(water.pools) == 5 and {round(one.deepest_mm.number, 1) for one in water.pools} == {10.0}
    assert names(document) >= {"South-west pond", "Middle pond"}
    seven = starter("bases").document({"copies": 7, "pools": 2})
    assert seven["copies"] == 7 and len(planned(seven).lifts["pools-water"].pools) == 2


def test_places_have_names():
    names = by_place("pond", [(10, 10), (12, 14), (150, 100), (290, 190)], 300, 200)
    assert names == ["south-west pond", "south-west pond 2", "middle pond", "north-east pond"]


@pytest.mark.parametrize("layup", READY, ids=lambda one: one.id)
def test_a_ready_layup_lies_well_on_a_board(layup):
    document = starter("ponds" if layup.hollow else "empty").document({"count": 1})
    lifts = layup.laid("rest", depth_mm=6.0)
    document["patches"] = [{"id": "rest", "name": "Rest", "area": {"rest": True}, "lifts": lifts}]
    made = planned(document)
    assert len(made.lifts) == len(layup.lifts) and not told(made)
