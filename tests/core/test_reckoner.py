"""Quick sums: against the laws' check values, against independent computations, and against the plan of an equal scene."""

from math import pi

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.catalogue import Bench, shipped
from isostasis.core.document import resolve
from isostasis.core.fault import Faults
from isostasis.core.plan import plan
from isostasis.core.reading import read as read_scene
from isostasis.core.reckoner import GROUPS, SUMS, SumRequest
from isostasis.core.reckoner.ifs import week_later, what_ifs
from isostasis.core.reckoner.pours import bowl_bank, shape_ml
from isostasis.core.reckoner.reading import options_of, read
from isostasis.core.reckoner.small import on_square
from isostasis.core.units import Measures, show

TINS, BENCH = shipped(), Bench()


def answer(name, **texts):
    one = SUMS[name]
    return one.compute(
        SumRequest(read(one, {key: str(value) for key, value in texts.items()}, TINS, Measures()), TINS, BENCH)
    )


def other(found, what):
    return next(figure for label, figure in found.others if label.startswith(what))


@pytest.mark.parametrize("name", sorted(SUMS))
def test_every_sum_answers_as_it_stands_with_its_working(name):
    found = answer(name)
    assert found.figure.value is not None and found.figure.formula and found.lead
    assert 1 <= len(SUMS[name].fields) <= 7 and found.drawing is not None
    if found.scene is not None:  # the scene that begins with it can be planned
        assert plan(resolve(read_scene(found.scene), TINS, BENCH)).lifts


def test_every_sum_stands_in_one_group_and_offers_what_there_is():
    names = [one.name for group in GROUPS.values() for one in group]
    assert len(names) == len(set(names)) == len(SUMS)
    for one in SUMS.values():
        for field in one.fields:
            options = options_of(field, TINS)
            assert field.unit != "choice" or field.start in {value for value, _ in options}


@pytest.mark.parametrize(
    ("shape", "width", "depth", "deep", "ml"),
    [("rectangle", 200, 120, 8, 192.0), ("round", 100, 100, 10, pi * 25), ("oval", 180, 120, 8, pi * 90 * 60 * 8 / 1000),
     ("strip", 600, 20, 6, 72.0), ("bowl", 80, 80, 12, 31.064), ("wedge", 300, 100, 12, 180.0)],
)  # fmt: skip
def test_a_plain_shape_holds_what_geometry_says_and_its_scene_the_same(shape, width, depth, deep, ml):
    found = answer("pour", shape=shape, width=width, depth=depth, deep=deep)
    assert other(found, "the shape holds").value == pytest.approx(ml, rel=1e-4)
    made = plan(resolve(read_scene(found.scene), TINS, BENCH)).lifts["pour"]
    assert made.volume_ml.value == pytest.approx(ml, rel=0.015)
    assert made.mix_ml.value == found.figure.value  # one rule, one figure


@pytest.mark.parametrize("name", [name for name in sorted(SUMS) if answer(name).lifts])
def test_the_lifts_of_a_sum_are_lifts_that_a_scene_takes(name):
    found = answer(name)
    data = found.scene or on_square(SumRequest({}, TINS, BENCH), 40_000, [])
    lifts = [{**one, "id": f"own-{number}"} for number, one in enumerate(found.lifts)]
    under = [{"id": "under", "kind": "skin", "mix": "paper-plaster", "depth_mm": 2}] if name in ("bed", "cloth") else []
    if name != "coats":  # a varnish wants a hollow to stand in
        patch = {**data["patches"][0], "lifts": [*under, *lifts]}
        made = plan(resolve(read_scene({**data, "patches": [patch]}), TINS, BENCH))
        assert all(one["id"] in made.lifts for one in lifts)


def test_a_compounds_scene_asks_for_as_much():
    found = answer("compound", area=90_000, thick=5)
    own = plan(resolve(read_scene(found.scene), TINS, BENCH)).lifts["skin"]
    assert own.volume_ml.number == pytest.approx(450, rel=0.01)
    assert own.mix_ml.number == pytest.approx(found.figure.value, rel=0.03)  # in one bowl or in several


def test_a_traced_outline_holds_its_area_times_its_depth_wherever_it_lies():
    ring = [(0, 0), (90, 0), (120, 60), (60, 100), (0, 80)]
    shoelace = abs(sum(x * v - u * y for (x, y), (u, v) in zip(ring, ring[1:] + ring[:1], strict=True))) / 2
    found = [
        answer("traced", outline=" ".join(f"{x + shift},{y - shift}" for x, y in ring), deep=7) for shift in (0, 400)
    ]
    assert other(found[0], "the shape holds").value == pytest.approx(shoelace * 7 / 1000)
    assert found[0].figure.value == pytest.approx(found[1].figure.value)
    made = plan(resolve(read_scene(found[0].scene), TINS, BENCH)).lifts["pour"]
    assert made.mix_ml.value == found[0].figure.value
    assert made.volume_ml.value == pytest.approx(shoelace * 7 / 1000, rel=0.015)


@given(st.floats(20, 400), st.floats(0.05, 0.45))
def test_a_bowls_bank_holds_the_bowl(width, share):
    deep = width * share
    from math import radians, tan

    run, radius = deep / tan(radians(bowl_bank(width, deep))), width / 2
    frustum = pi * deep / 3 * (radius**2 + radius * (radius - run) + (radius - run) ** 2)
    assert frustum / 1000 == pytest.approx(shape_ml("bowl", width, width, deep).number, rel=1e-6)


def test_parts_make_their_total_and_a_part_makes_the_total_again():
    found = answer("parts", total="90ml", waste="no")
    assert [figure.value for label, figure in found.others if figure.unit == "ml"] == [
        pytest.approx(60),
        pytest.approx(30),
    ]
    grams = other(found, "Casting resin, two-part, B")
    again = answer(
        "whole",
        have=next(f for label, f in found.others if label.endswith("B") and f.unit == "g").value,
        part=2,
        by="g",
    )
    assert again.figure.value == pytest.approx(90) and grams.value > 0
    assert answer("parts", total=90).figure.value > 90  # what stays in the cup


def test_too_much_in_the_cup_is_mended_by_the_laws_own_numbers():
    made = answer("over", first=200, second=110)
    right = 0.98 / (2 * 1.16)  # g of B to a g of A, by volume 2:1
    assert made.figure.value == pytest.approx(110 / right - 200)
    assert other(made, "Casting resin, two-part, B is off").value == pytest.approx(100 * (110 / 200 / right - 1))
    with pytest.raises(Faults, match="nothing is in it"):
        answer("over", first=0, second=0)


def test_by_volume_is_other_numbers_by_mass():
    made = answer("mass")
    assert made.figure.value == pytest.approx(100 * 0.98 / (2 * 1.16)) and "18% too much" in made.notes[0]


def test_a_stock_is_let_down_and_a_weak_one_refused():
    made = answer("stock", total=200, wanted=30, stock=50)
    assert (made.figure.value, other(made, "and water").value) == (pytest.approx(120), pytest.approx(80))
    with pytest.raises(Faults, match="weaker"):
        answer("stock", wanted=60, stock=50)


def test_compound_is_what_the_plan_of_that_area_takes():
    made = answer("compound", area="600 cm2", thick="4 mm")
    assert made.figure.value > 240 and other(made, "Paper-fibre").value == pytest.approx(
        2 * other(made, "Water").value, rel=1e-6
    )
    stiff = answer("compound", area="600 cm2", thick="4 mm", purpose="cliff")
    assert other(stiff, "Water").value < other(made, "Water").value


@pytest.mark.parametrize(("spread", "words"), [(45, "stiff"), (60, "as the label"), (90, "thin")])
def test_a_spoonful_tells_how_stiff_it_is(spread, words):
    assert words in answer("slump", spread=spread).lead


def test_the_label_or_its_heat_says_how_deep():
    deep = answer("deep", mix="deep-resin")
    assert deep.figure.value <= TINS.mixes["deep-resin"].reacts.max_depth_mm
    quick, slow = answer("deep", mix="quick-resin", temp_c=30), answer("deep", mix="quick-resin", temp_c=12)
    assert quick.figure.value <= slow.figure.value


def test_warmer_is_sooner_by_the_rate_law():
    cold, warm = answer("warmth", temp_c=15), answer("warmth", temp_c=23)
    label = TINS.mixes["casting-resin"].reacts
    assert warm.figure.value == pytest.approx(label.hard_h, rel=1e-3) and cold.figure.value > warm.figure.value


def test_reach_says_at_how_many_points_to_pour():
    near, far = answer("reach", length=300), answer("reach", length="6 m", deep="2 mm", mix="quick-resin")
    assert near.figure.value > 300 and not near.notes and "Pour at" in far.notes[0]


def test_an_incline_of_ones_own_stock():
    made = answer("incline", height="31 mm", grade="2.5")
    assert made.figure.value == 1240 and made.notes[0] == "Risers 25 mm + 6 mm."
    assert any("Steeper than your own limit" in note for note in answer("incline", height=31, grade=8).notes)


def test_the_cheaper_of_two_offers():
    made = answer("price", price_a=6, pack_a=1000, price_b=10, pack_b=2500)
    assert "second is cheaper: the other costs 50% more" in made.notes[0]
    assert "cost the same" in answer("price", price_a=4, pack_a=1000, price_b=10, pack_b=2500).notes[0]


def test_strips_drops_coats_scoops_and_beds():
    assert answer("cloth", area="2 m2", layers=2).figure.value > answer("cloth", area="1 m2", layers=2).figure.value
    assert answer("tint", drops=4).figure.value == pytest.approx(2 * answer("tint", drops=2).figure.value)
    assert answer("coats", height=4).figure.value >= 2 * answer("coats", height=2).figure.value - 1
    assert answer("scoops", total=300).figure.value == pytest.approx(20)
    deep, thin = answer("bed", thick=6), answer("bed", thick=3)
    assert deep.figure.value > thin.figure.value and other(deep, "passes").value >= other(thin, "passes").value
    assert answer("dry", thick=10).figure.value > answer("dry", thick=5).figure.value
    assert answer("bubbles", bubble=0.1).figure.value > answer("bubbles", bubble=0.5).figure.value


def test_what_is_no_value_is_told_by_its_field_all_at_once():
    with pytest.raises(Faults) as told:
        answer("pour", width="wide", deep="9000", mix="tea", colour="red")
    sentences = [str(one) for one in told.value.faults]
    assert len(sentences) == 4 and any(one.startswith("deepest: 9000 is outside") for one in sentences)
    assert any("does not ask that" in one for one in sentences) and any("there is no “tea”" in one for one in sentences)
    with pytest.raises(Faults, match="no whole number"):
        answer("cloth", layers="1.5")
    with pytest.raises(Faults, match="a bowl 80 mm across is no deeper"):
        answer("pour", shape="bowl", width=80, deep=60)


@settings(max_examples=25)
@given(st.sampled_from(sorted(SUMS)), st.data())
def test_every_sum_answers_or_says_why_for_whatever_its_fields_take(name, data):
    one, values = SUMS[name], {}
    for field in one.fields:
        if field.unit == "choice":
            values[field.name] = data.draw(st.sampled_from([value for value, _ in options_of(field, TINS)]))
        elif field.unit == "text":
            values[field.name] = data.draw(
                st.sampled_from([field.start, "", "1,1", "0,0 9,9 0,9", "0,0 1e300,0 5,nan"])
            )
        else:
            low, high = field.low, min(field.high, max(float(field.start) * 4, field.low + 1))
            drawn = data.draw(st.floats(low, high, allow_nan=False))
            values[field.name] = int(drawn) or int(field.start) if field.unit == "whole" else drawn
    try:
        found = one.compute(SumRequest(values, TINS, BENCH))
    except Faults as told:
        assert all(str(each) for each in told.faults)
    else:
        assert found.figure.value is None or found.figure.value >= 0


def test_a_week_later_a_sum_says_what_is_done_by_then():
    def later(name, **texts):
        made = answer(name, **texts)
        return week_later(
            SumRequest(read(SUMS[name], {k: str(v) for k, v in texts.items()}, TINS, Measures()), TINS, BENCH), made
        )

    told = later("pour")
    hard = other(answer("pour"), "hard").value
    assert (
        told
        == f"hard since {' '.join(show(168 - hard, 'h'))}; it bonds by itself until 40 h: scuff it before the next lift"
    )
    assert later("dry", thick=5).startswith("dry since ")
    assert later("dry", thick=60, temp_c=5, rh=90).startswith(("not dry yet", "never dry"))
    assert later("mass") == ""


def test_what_if_asks_only_what_the_fields_take():
    one = SUMS["pour"]
    values = read(one, {"temp_c": "6"}, TINS, Measures())
    words = [said for said, _ in what_ifs(one, values)]
    assert "2 mm deeper" in words and "half as deep" in words and not any("room" in said for said in words)
    assert what_ifs(SUMS["mass"], {"mix": "casting-resin"}) == []


def test_risers_of_ones_own_and_the_next_coat():
    own = answer("incline", height=31, grade=2.5, stock="31")
    assert "31 mm" in own.notes[0] and answer("incline", height=31, grade=2.5).notes[0] != own.notes[0]
    for typed in ("tall", "0", "9000", " ".join(f"{one}" for one in range(1, 26))):
        with pytest.raises(Faults, match="no heights"):
            answer("incline", stock=typed)
    near, far = (other(answer("coats", height=2, temp_c=one), "the next coat after").value for one in (25, 12))
    assert far > near > 0
