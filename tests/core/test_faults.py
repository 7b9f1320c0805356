"""From a symptom to its causes: every rule is reached, facts are read off a scene's own history, questions decide."""

from datetime import timedelta

import pytest

from isostasis.core.faults.changes import WORDS
from isostasis.core.faults.facts import FACTS, CupWork, Known, facts_of, joined
from isostasis.core.faults.finder import MAX_ASKED, questions, rank, telling
from isostasis.core.faults.model import symptoms
from tests.support.casting import Bench
from tests.support.layups import SKIN, board, coat
from tests.support.scenes import square

SYMPTOMS = symptoms()
CASES = [(symptom.code, cause.code) for symptom in SYMPTOMS.values() for cause in symptom.causes]


def holds(*codes):
    return {code: Known(True, FACTS[code].holds) for code in codes}


@pytest.mark.parametrize(("symptom", "cause"), CASES)
def test_each_cause_comes_first_where_all_speaks_for_it(symptom, cause):
    one = next(each for each in SYMPTOMS[symptom].causes if each.code == cause)
    others = {code for each in SYMPTOMS[symptom].causes if each is not one for code in each.for_} - set(one.for_)
    known = {**holds(*one.for_), **{code: Known(False, "") for code in others}}
    ranked = rank(SYMPTOMS[symptom], known)
    assert ranked[0].cause.code == cause
    assert ranked[0].speaks_for and sum(each.share for each in ranked) == pytest.approx(1)
    assert not one.change or one.change in WORDS


def test_what_goes_wrong_is_all_there_with_tests_and_words():
    assert len(SYMPTOMS) >= 23
    assert {cause.change for symptom in SYMPTOMS.values() for cause in symptom.causes} == {"", *WORDS}
    for symptom in SYMPTOMS.values():
        names = {cause.code for cause in symptom.causes}
        assert all(set(test.between) <= names for test in symptom.tests)
        known = {code for cause in symptom.causes for code in (*cause.for_, *cause.against, *cause.strong)}
        assert known <= FACTS.keys()
        assert all(set(cause.strong) <= set(cause.for_) | set(cause.against) for cause in symptom.causes)


def test_a_fact_that_holds_raises_what_it_speaks_for():
    symptom = SYMPTOMS["tacky"]
    before = {one.cause.code: one.share for one in rank(symptom, {})}
    after = {one.cause.code: one.share for one in rank(symptom, holds("cold"))}
    assert after["cold-cure"] > before["cold-cure"] and after["ratio"] < before["ratio"]
    hot = {one.cause.code: one.share for one in rank(symptom, holds("hot_room"))}
    assert hot["cold-cure"] < before["cold-cure"]
    assert telling(symptom, rank(symptom, holds("cold"))).between == ("ratio", "cold-cure")


@pytest.mark.parametrize("code", sorted(SYMPTOMS))
def test_without_a_scene_at_most_five_questions_and_they_decide(code):
    symptom = SYMPTOMS[code]
    for wanted in symptom.causes:
        told = {}
        for _ in range(MAX_ASKED):
            asked = questions(symptom, joined({}, told), len(told))
            if not asked:
                break
            told[asked[0]] = asked[0] in wanted.for_
        assert len(told) <= MAX_ASKED
        ranked = rank(symptom, joined({}, told))
        if any(told.values()):
            assert wanted.code in [one.cause.code for one in ranked[:2]]
        assert questions(symptom, joined({}, told), MAX_ASKED) == ()


def pond(**water):
    data = board(SKIN, {"id": "water", "kind": "pour", "mix": "casting-resin", "depth_mm": 8, **water})
    data["forms"] = [
        {"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 40},
        {"id": "hollow", "kind": "basin", "outline": square(50, 50, 250, 150), "depth_mm": 12, "bank_deg": 60},
    ]
    data["room"] = {"temp_c": 14, "rh": 0.75}
    return data


def test_a_lifts_own_history_tells():
    bench = Bench(pond(tint=[{"material": "acrylic-ink-teal", "drops_per_100_ml": 5}])).do_all()
    ended = max(one.ended for one in bench.scene.built)
    cup = CupWork(70.0, 45.0, 6.0, second_cup=False, rested=False)
    known = facts_of(bench.scene, bench.plan, "water", (cup,), ended + timedelta(hours=5))
    said = {code: one.holds for code, one in known.items()}
    for code in ("cold", "damp", "unsealed", "young", "tinted_much", "small_batch", "unscraped", "over_time", "reacts"):
        assert said[code] is True, code
    for code in ("hot_room", "dammed", "tilted", "dries", "oil_coat"):
        assert said[code] is False, code
    assert known["cold"].said == "14 °C, its label is for 23"
    assert known["over_time"].said == "70 min in the cup, 45 were right"
    first = rank(SYMPTOMS["sunk"], known)[0]
    assert first.cause.code == "bed-drank" and "its bed is not sealed" in first.speaks_for
    later = facts_of(bench.scene, bench.plan, "water", (), ended + timedelta(days=90))
    assert not later["young"].holds


def test_what_is_sealed_and_right_speaks_against():
    data = pond()
    data["patches"][0]["lifts"].insert(1, coat("seal", "acrylic-sealer"))
    data["room"] = {"temp_c": 22, "rh": 0.5}
    bench = Bench(data).do_all()
    known = facts_of(bench.scene, bench.plan, "water", (), max(one.ended for one in bench.scene.built))
    assert not known["unsealed"].holds and not known["cold"].holds
    ranked = rank(SYMPTOMS["cratered"], known)
    assert ranked[0].cause.code != "open-bed" and "its bed is sealed" in ranked[-1].speaks_against
    skin = facts_of(bench.scene, bench.plan, "skin", (), max(one.ended for one in bench.scene.built))
    assert "unsealed" not in skin and not skin["thick"].holds
    with pytest.raises(KeyError):
        facts_of(bench.scene, bench.plan, "nothing", (), max(one.ended for one in bench.scene.built))


def test_a_person_knows_better_than_the_record():
    known = joined({"cold": Known(True, "14 °C")}, {"cold": False, "in_sun": True, "nonsense": True})
    assert not known["cold"].holds and known["in_sun"].said == "it stands in the sun" and "nonsense" not in known
