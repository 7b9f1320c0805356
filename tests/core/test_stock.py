"""The shelf's arithmetic: what is left, who counts on what, packs of least cost, what a useful unit costs."""

from datetime import UTC, date, datetime, timedelta
from itertools import product
from math import ceil
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.core.catalogue import Bench, Catalogue, Price, shipped
from isostasis.core.document import resolve
from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.core.stock.basket import Offer, least_cost
from isostasis.core.stock.buying import offer_of, parts_in, shopping
from isostasis.core.stock.doubts import doubts
from isostasis.core.stock.ledger import Entered, left
from isostasis.core.stock.model import Demand, Pack, Seller
from isostasis.core.stock.reading import parse_amount, parse_left
from isostasis.core.stock.reserve import by_date, reserve
from isostasis.core.stock.sundries import sundry_uses
from isostasis.core.stock.worth import a_millimetre, useful_units
from isostasis.core.units import NotAMeasure
from isostasis.demo import SCENES, document

TINS = shipped()
DAY = datetime(2027, 3, 1, 19, tzinfo=UTC)


def made_of(name):
    scene = resolve(read(document(name)), TINS)
    return scene, plan(scene)


@pytest.mark.parametrize("name", SCENES)
def test_every_need_is_the_sum_of_what_its_steps_take(name):
    _, made = made_of(name)
    steps = {step.id for step in made.steps} | {""}
    assert {use.step for use in made.uses} <= steps
    assert {use.material for use in made.uses} == {need.material for need in made.buy}
    for need in made.buy:
        assert sum(use.amount for use in made.uses if use.material == need.material) == pytest.approx(need.need.value)
        assert {use.unit for use in made.uses if use.material == need.material} == {need.unit}


def test_a_course_takes_what_its_batches_give_it():
    _, made = made_of("hollin-delf")
    fed = {batch.id: batch for batch in made.batches}
    for step in (one for one in made.steps if one.lift == "lake-water" and one.course):
        mixed = [use for use in made.uses if use.step == step.id and use.mix]
        assert {use.part for use in mixed if use.material == "casting-resin"} == {"A", "B"}
        given_ml = sum(
            feed.volume_ml.number for one in step.batch for feed in fed[one].feeds if feed.layer == step.course
        )
        assert mixed[0].mix_ml == pytest.approx(given_ml)


def exhaustive(need, packs):
    """The least money for packs (holds by part, cents) that cover a need by part; None where they cannot."""
    most = [
        max((ceil(amount / one) for amount, one in zip(need, holds, strict=True) if one), default=0)
        for holds, _ in packs
    ]
    counts = np.indices([top + 1 for top in most]).reshape(len(packs), -1).T if packs else np.zeros((1, 0), dtype=int)
    held = counts @ np.array([holds for holds, _ in packs]).reshape(len(packs), len(need))
    costs = counts @ np.array([cents for _, cents in packs], dtype=int)
    return min(costs[(held >= np.array(need) - 1e-9).all(axis=1)], default=None)


def test_least_cost_is_what_exhaustive_search_finds_on_500_cases():
    found = Random(17)
    for _ in range(500):
        parts = (None,) if found.random() < 0.7 else ("A", "B")
        need = {part: found.randint(1, 900) for part in parts}
        offers = []
        for _ in range(found.randint(1, 4)):
            size = found.choice((60, 100, 250, 375, 500, 750))
            split = {None: 1.0} if parts == (None,) else {"A": found.choice((0.5, 2 / 3)), "B": 0.5}
            holds = tuple((part, round(size * share, 1)) for part, share in split.items())
            offers.append(Offer("it", holds, found.randint(1, 4000) / 100, found.choice(("", "post", "far"))))
        sellers = [Seller(name="post", postage=found.randint(0, 900) / 100), Seller(name="far", postage=3.0)]
        short = [(("it", part), float(amount)) for part, amount in need.items()]
        made = least_cost(short, tuple(offers), sellers)
        best = []
        for allowed in product((False, True), repeat=2):
            names = {"", *(one.name for one, yes in zip(sellers, allowed, strict=True) if yes)}
            packs = [
                (tuple(dict(one.holds)[part] for part in parts), round(one.amount * 100))
                for one in offers
                if one.seller in names
            ]
            cost = exhaustive(tuple(need.values()), packs)
            if cost is not None:
                best.append(
                    cost + sum(round(one.postage * 100) for one, yes in zip(sellers, allowed, strict=True) if yes)
                )
        assert round(made.cost * 100) == min(best)
        for part, amount in need.items():
            held = sum(count * dict(one.holds)[part] for count, one in zip(made.counts, offers, strict=True))
            assert held >= amount - 1e-6


def test_one_order_pays_postage_once_and_is_left_out_where_it_does_not_pay():
    offers = (Offer("glue", ((None, 250),), 3.0, "post"), Offer("glue", ((None, 250),), 4.0),
              Offer("sand", ((None, 1000),), 2.0, "post"), Offer("sand", ((None, 1000),), 7.0))  # fmt: skip
    post = Seller(name="post", postage=5.0)
    both = least_cost([(("glue", None), 200.0), (("sand", None), 900.0)], offers, [post])
    assert (both.counts, both.cost, both.postage) == ((1, 0, 1, 0), 10.0, (("post", 5.0),))
    alone = least_cost([(("glue", None), 200.0)], offers, [post])
    assert (alone.counts, alone.cost, alone.postage) == ((0, 1, 0, 0), 4.0, ())
    assert least_cost([(("chalk", None), 5.0)], offers, [post]).counts == (0, 0, 0, 0)
    many = tuple(Offer("glue", ((None, 1),), 1.0, f"s{place}") for place in range(9))
    with pytest.raises(ValueError, match="more than 8 sellers"):
        least_cost([(("glue", None), 1.0)], many, [Seller(name=f"s{place}", postage=1) for place in range(9)])


PACKS = st.lists(
    st.builds(
        Pack, st.integers(1, 99), st.sampled_from(("glue", "sand")), st.sampled_from((None, "A")),
        st.just(1000.0), st.floats(0, 900), st.sampled_from((None, date(2027, 1, 1), date(2026, 5, 1))),
    ), max_size=6, unique_by=lambda one: one.id,
)  # fmt: skip
DEMANDS = st.lists(
    st.builds(
        Demand, st.sampled_from(("a", "b", "c")), st.text("xyz", max_size=2),
        st.one_of(st.none(), st.integers(0, 9).map(lambda days: DAY + timedelta(days=days))),
        st.sampled_from(("glue", "sand")), st.sampled_from((None, "A")), st.floats(0, 700), st.just("ml"), st.just(""),
        st.integers(0, 9),
    ), max_size=8,
)  # fmt: skip


@given(PACKS, DEMANDS)
def test_no_pack_is_promised_twice_and_who_comes_first_is_served_first(packs, demands):
    made = reserve(packs, demands)
    assert [one.demand for one in made] == by_date(demands)
    held = {pack.id: pack for pack in packs}
    for pack in packs:
        promised = sum(amount for one in made for number, amount in one.taken if number == pack.id)
        assert promised <= pack.left + 1e-6
    for place, one in enumerate(made):
        assert sum(amount for _, amount in one.taken) + one.short == pytest.approx(one.demand.amount, abs=1e-5)
        assert all(held[number].key == one.demand.key for number, _ in one.taken)
        if one.short > 0:  # nobody who comes later has what it lacks
            assert not any(later.taken for later in made[place + 1 :] if later.demand.key == one.demand.key)


@given(PACKS, DEMANDS, st.floats(0, 900))
def test_a_further_pack_leaves_nobody_shorter(packs, demands, more):
    fewer = sum(one.short for one in reserve(packs, demands))
    further = [*packs, Pack(100, "glue", None, 1000, more)]
    assert sum(one.short for one in reserve(further, demands)) <= fewer + 1e-6


LINES = st.lists(
    st.builds(Entered, st.sampled_from(("taken", "back", "counted")), st.floats(0, 500), st.booleans()), max_size=9
)


@given(st.floats(1, 900), LINES)
def test_a_count_says_what_is_there_whatever_came_before(size, lines):
    assert left(size, lines) >= 0
    counted = Entered("counted", 123.0)
    assert left(size, [*lines, counted]) == 123.0
    taken_back = [Entered(line.what, line.amount, False) if line.what != "counted" else line for line in lines]
    last = next((line.amount for line in reversed(lines) if line.what == "counted"), size)
    assert left(size, taken_back) == last


def short_scene(*packs):
    """What to buy for a demand of 100 and 60 ml of a kit, 2:1."""
    demands = [
        Demand("s", "pour", DAY, "casting-resin", part, amount, "ml") for part, amount in (("A", 100.0), ("B", 60.0))
    ]
    prices = (
        Price(material="casting-resin", amount=10, pack=90),
        Price(material="casting-resin", amount=40, pack=90, packs=5),
    )
    return shopping(packs, reserve(packs, demands), TINS, Bench(prices=prices))


def test_a_kit_is_bought_until_both_halves_are_there():
    made = short_scene()
    (line,) = made.lines
    assert (line.need, line.have, line.short) == (160, 0, 160)
    assert [(one.count, one.packs) for one in line.buy] == [(2, 1)]  # 60 of A and 30 of B each
    assert line.over == 20 and line.cost == made.cost == 20
    assert [way[0].amount for way in line.alternatives] == [40]
    half = short_scene(Pack(1, "casting-resin", "A", 100, 100))
    assert half.lines[0].short == 60 and half.lines[0].buy[0].count == 2
    assert short_scene(Pack(1, "casting-resin", "A", 100, 100), Pack(2, "casting-resin", "B", 60, 60)).enough == (
        "casting-resin",
    )
    assert offer_of(Price(material="casting-resin", amount=1, pack=90), parts_in(TINS)).holds == (
        ("A", 60.0),
        ("B", 30.0),
    )


def told(packs, demands=(), keep=None, today=date(2027, 3, 1)):
    families = {name: one.family for name, one in TINS.materials.items()}
    units = {name: one.sold_by for name, one in TINS.materials.items()}
    return doubts(packs, reserve(packs, demands), today, families, units, parts_in(TINS), keep or {})


def test_what_is_doubtful_is_told():
    glue = Pack(1, "white-glue", None, 1000, 100)
    two = [Demand(scene, "fix", DAY, "white-glue", None, 60.0, "ml") for scene in ("a", "b")]
    assert [(one.code, one.amount) for one in told([glue], two)] == [("short", 20), ("twice", 20)]
    assert [one.code for one in told([glue], two[:1])] == []
    kit = [Pack(1, "casting-resin", "A", 500, 200), Pack(2, "casting-resin", "B", 250, 60)]
    (halves,) = told(kit)
    assert (halves.code, halves.part, halves.amount) == ("halves", "B", 80)
    assert "part B runs out first, 80 ml of part A will be left over" in halves.sentence(
        "Resin", lambda n, u: f"{n:g} {u}", str
    )
    old = Pack(3, "acrylic-sealer", None, 100, 30, date(2025, 1, 1), date(2027, 2, 28))
    assert [one.code for one in told([old])] == ["past"]
    opened = Pack(3, "plaster", None, 5000, 30, date(2026, 1, 1))
    assert [one.code for one in told([opened])] == ["opened"]
    assert [one.code for one in told([Pack(3, "plaster", None, 5000, 0.0, date(2026, 1, 1))])] == []
    assert [(one.code, one.amount) for one in told([glue], keep={"white-glue": 250.0})] == [("low", 150)]


def test_steps_use_up_gloves_cups_and_tape():
    scene, made = made_of("hollin-delf")
    uses = sundry_uses(scene, made, TINS.sundries, TINS.materials)
    amounts = {}
    for use in uses:
        amounts[use.material] = amounts.get(use.material, 0) + use.amount
    poured = [step for step in made.steps if "resin" in step.hazards]
    assert amounts["nitrile-gloves"] == sum(bool(step.hazards & {"resin", "caustic"}) for step in made.steps)
    assert amounts["mixing-cup"] == amounts["stir-stick"] == 2 * len({one for step in poured for one in step.batch})
    assert amounts["flat-brush"] == amounts["dust-mask"] == amounts["low-tack-tape"] == 1
    assert "dam-tape" not in amounts
    edged = {**document("saltcote-pans"), "base": {**document("saltcote-pans")["base"], "dammed": "all"}}
    dammed = resolve(read(edged), TINS)
    tape = [
        use for use in sundry_uses(dammed, plan(dammed), TINS.sundries, TINS.materials) if use.material == "dam-tape"
    ]
    put_up = sum(step.tape_mm for step in plan(dammed).steps)
    assert sum(use.amount for use in tape) == pytest.approx(put_up * 1.1 * 50)


def test_useful_units_are_worked_out_from_the_label():
    cloth = useful_units(TINS.materials["plaster-cloth"], TINS, Bench())[0]
    assert cloth.unit == "covered m2, a layer"
    assert cloth.takes == pytest.approx(1e6 / ((180 * 280) / (200 * 300)), rel=0.01)
    cheap = cloth.cost(Price(material="plaster-cloth", amount=6.0, pack=600_000)).number
    assert cheap == pytest.approx(10 / 0.84, rel=0.01)
    glue = useful_units(TINS.materials["white-glue"], TINS, Bench())[0]
    assert glue.unit == "gram of solids" and glue.takes == pytest.approx(1 / (0.45 * 1.08))
    mixed = useful_units(TINS.materials["paper-fibre-powder"], TINS, Bench())[0]
    assert mixed.unit == "litre, mixed" and 700 < mixed.takes < 1000
    tape = useful_units(TINS.materials["dam-tape"], TINS, Bench())[0]
    assert (tape.unit, tape.takes) == ("metre of edge", 50_000)
    assert [one.unit for one in useful_units(TINS.materials["flat-brush"], TINS, Bench())] == ["piece"]
    there = a_millimetre(TINS.materials["casting-resin"], TINS.mixes["casting-resin"], TINS, 100_000, "the lake")
    assert there.takes == pytest.approx(100)
    tub = Bench(tub_mm=(20, 15))
    assert useful_units(TINS.materials["plaster-cloth"], TINS, tub)[0].unit == "m2"


@pytest.mark.parametrize("material", TINS.materials.values(), ids=lambda one: one.id)
def test_every_material_is_useful_by_some_unit(material):
    for useful in useful_units(material, TINS, Bench()):
        assert useful.takes > 0
        assert useful.cost(Price(material=material.id, amount=3, pack=2)).number == pytest.approx(1.5 * useful.takes)


@pytest.mark.parametrize(("text", "material", "amount"), [
    ("750 ml", "casting-resin", 750), ("1.10 kg", "casting-resin", 1000), ("1,5 kg", "plaster", 1500),
    ("0.6 m2", "plaster-cloth", 600_000), ("372 g", "plaster-cloth", 600_000), ("100 ml", "plaster", 95),
    ("12", "mixing-cup", 12), ("3 pieces", "mixing-cup", 3),
])  # fmt: skip
def test_amounts_are_read_in_what_a_material_is_sold_by(text, material, amount):
    assert parse_amount(text, TINS.materials[material]) == pytest.approx(amount)


@pytest.mark.parametrize(("text", "amount"), [
    ("half", 250), ("1/4", 125), ("3/4", 375), ("empty", 0), ("Full", 500), ("40 %", 200), ("12,5%", 62.5), ("120", 120),
    ("180 g - 60 g", 120 / 1.08),
])  # fmt: skip
def test_what_is_left_is_read_by_eye_and_with_the_tin(text, amount):
    assert parse_left(text, TINS.materials["white-glue"], 500) == pytest.approx(amount)


@pytest.mark.parametrize(("text", "material"), [
    ("much", "white-glue"), ("-5 ml", "white-glue"), ("60 g - 180 g", "white-glue"), ("3 parsecs", "plaster"), ("", "plaster"),
    ("a few", "mixing-cup"), ("9e99", "mixing-cup"), ("1,500 ml", "white-glue"), ("nan", "mixing-cup"),
])  # fmt: skip
def test_what_is_no_amount_is_refused(text, material):
    with pytest.raises(NotAMeasure):
        parse_left(text, TINS.materials[material], 500)


def test_of_several_sizes_a_plan_costs_the_one_that_comes_cheapest_alone():
    data = document("hollin-delf")
    data["bench"] = {"prices": [
        {"material": "casting-resin", "amount": 30, "pack": 1000}, {"material": "casting-resin", "amount": 16, "pack": 500},
        {"material": "casting-resin", "amount": 80, "pack": 1000, "packs": 3, "seller": "far"},
    ]}  # fmt: skip
    scene = resolve(read(data), TINS)
    need = next(one for one in plan(scene).buy if one.material == "casting-resin")
    assert 1000 < need.need.value < 1500
    assert (need.packs.value, need.cost.value) == (3, 48)
    assert scene.bench.price_each("casting-resin") == pytest.approx(80 / 3000)


def test_own_rates_of_the_hands_change_the_minutes():
    data = document("hollin-delf")
    before = {step.id: step.hands_on_min for step in plan(resolve(read(data), TINS)).steps}
    data["bench"] = {"hands": [{"tool": "strewing", "cm2_per_min": 150}]}
    after = {step.id: step.hands_on_min for step in plan(resolve(read(data), TINS)).steps}
    changed = {step for step, minutes in after.items() if minutes != before[step]}
    assert "floor-dust" in changed and after["floor-dust"] > before["floor-dust"]
    assert all(step.endswith(("dust", "scree", "spoil", "gravel")) for step in changed)


def test_a_catalogue_with_own_labels_keeps_its_rules_of_sundries():
    made = TINS.with_own([], [])
    assert isinstance(made, Catalogue) and made.sundries == TINS.sundries
