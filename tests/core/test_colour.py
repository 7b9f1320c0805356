"""Colours: exact round trips, wet and dry looks, blends by grain, paints, and recipes that no other beats."""

from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.colour.blend import dry_blend, gradient, paint_blend, recipes, solve
from isostasis.core.colour.light import coded, difference, from_lab, hexed, lab, linear, mixed, wet_look, words
from isostasis.core.colour.recipe import judge, nearest
from isostasis.core.fault import Faults

CHANNELS = st.floats(0, 1)
COLOURS = st.tuples(CHANNELS, CHANNELS, CHANNELS).map(np.array)
HEX = st.integers(0, 0xFFFFFF).map(lambda number: f"#{number:06x}")


@given(HEX)
@settings(max_examples=300)
def test_a_colour_goes_to_linear_light_and_lab_and_back(colour):
    light = linear(colour)
    assert hexed(light) == colour
    assert hexed(from_lab(lab(light))) == colour
    assert np.abs(coded(light) * 255 - np.round(coded(light) * 255)).max() < 1e-6


def test_what_is_no_colour_is_refused():
    for text in ("", "ccc", "#abc", "red"):
        with pytest.raises(ValueError):
            linear(text)


# Pairs and differences of Sharma, Wu and Dalal (2005), table 1.
SHARMA = (
    ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
    ((50.0, 3.1571, -77.2803), (50.0, 0.0, -82.7485), 2.8615),
    ((50.0, 2.49, -0.001), (50.0, -2.49, 0.0011), 7.2195),
    ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((35.0831, -44.1164, 3.7933), (35.0232, -40.0716, 1.5901), 1.8645),
    ((90.8027, -2.0831, 1.441), (91.1528, -1.6435, 0.0447), 1.4441),
    ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
)


@pytest.mark.parametrize(("one", "other", "off"), SHARMA)
def test_the_difference_is_that_of_the_published_table(one, other, off):
    from skimage.color import deltaE_ciede2000

    assert float(deltaE_ciede2000(np.array(one), np.array(other))) == pytest.approx(off, abs=1e-4)


@given(COLOURS, COLOURS)
@settings(max_examples=60)
def test_a_difference_has_no_order_and_none_is_none(one, other):
    assert float(difference(one, other)) == pytest.approx(float(difference(other, one)), abs=1e-6)
    assert float(difference(one, one)) == pytest.approx(0, abs=1e-9)


def test_what_people_say_of_a_difference():
    assert [words(one) for one in (0.5, 2, 4, 8, 30)] == [
        "the same to the eye", "hard to tell apart", "near", "clearly another", "a different colour"]  # fmt: skip


def test_the_wet_look_of_the_published_values():
    for dry, wet in ((0.1, 0.059), (0.3, 0.195), (0.5, 0.361), (0.8, 0.693)):
        assert float(wet_look(np.array(dry))) == pytest.approx(wet, abs=5e-4)
    with pytest.raises(ValueError):
        wet_look(np.array(0.5), 0.9)


@given(COLOURS)
def test_wet_is_never_lighter(colour):
    assert (wet_look(colour) <= colour + 1e-12).all()


@given(st.lists(st.tuples(st.floats(0.1, 9), st.floats(0.05, 5), COLOURS), min_size=1, max_size=5))
def test_a_dry_blend_lies_within_its_ingredients_and_fines_pull_it(parts):
    volumes, grains, colours = (np.array([one[place] for one in parts]) for place in range(3))
    look = dry_blend(volumes, grains, colours)
    assert (look >= colours.min(axis=0) - 1e-9).all() and (look <= colours.max(axis=0) + 1e-9).all()
    finer = grains.copy()
    finer[0] /= 2
    pulled = dry_blend(volumes, finer, colours)
    assert (np.abs(pulled - colours[0]) <= np.abs(look - colours[0]) + 1e-9).all()


def test_a_little_pale_grout_shifts_a_sand_a_long_way():
    sand, grout = np.array([0.2] * 3), np.array([0.8] * 3)
    look = dry_blend(np.array([9.0, 1.0]), np.array([0.5, 0.06]), np.array([sand, grout]))
    assert look[0] == pytest.approx((9 / 0.5 * 0.2 + 1 / 0.06 * 0.8) / (9 / 0.5 + 1 / 0.06))
    assert look[0] > 0.45


@given(COLOURS, st.floats(0.1, 5), st.floats(0.2, 3))
def test_paint_of_one_colour_stays_what_it_is(colour, parts, strength):
    look = paint_blend(np.array([parts, 1.0]), np.array([strength, 1.0]), np.array([colour, colour]))
    assert look == pytest.approx(np.clip(colour, 0.004, 1), abs=1e-9)


def test_a_strong_paint_pulls_further():
    white, black = np.array([0.9] * 3), np.array([0.03] * 3)
    weak, strong = (
        paint_blend(np.array([9.0, 1.0]), np.array([1.0, strength]), np.array([white, black]))[0]
        for strength in (1.0, 2.0)
    )
    assert 0.03 < strong < weak < 0.9 * 0.9 + 0.003


@given(st.lists(st.tuples(st.floats(0.03, 4), HEX), min_size=1, max_size=3), HEX, st.booleans())
@settings(max_examples=40, deadline=None)
def test_no_recipe_of_the_same_scoops_is_nearer(ingredients, target, whole):
    grains = np.array([grain for grain, _ in ingredients])
    colours = np.array([linear(colour) for _, colour in ingredients])
    found = solve(linear(target), len(grains), lambda halves: dry_blend(halves, grains, colours), 8, whole)
    step = 2 if whole else 1
    every = np.array([
        halves for halves in product(range(0, 9, step), repeat=len(ingredients)) if 0 < sum(halves) <= 8])  # fmt: skip
    offs = difference(dry_blend(every.astype(float), grains, colours), linear(target))
    assert found.off <= float(offs.min()) + 1e-6
    assert 0 < sum(found.halves) <= 8 and all(one % step == 0 for one in found.halves)


def test_recipes_are_each_ratio_once():
    assert len(recipes(2, 4)) == 7  # 1:0 0:1 1:1 2:1 1:2 3:1 1:3
    with pytest.raises(ValueError, match="choose fewer"):
        recipes(8, 30)
    with pytest.raises(ValueError):
        recipes(0, 4)


def test_a_gradient_runs_from_one_to_the_other():
    assert gradient(3) == [0, 0.5, 1]
    eased = gradient(6, eased=True)
    assert eased[0] == 0 and eased[-1] == pytest.approx(1) and eased == sorted(eased)
    with pytest.raises(ValueError):
        gradient(1)


def test_light_mixes_by_share():
    assert mixed([1, 3], [np.zeros(3), np.ones(3)]) == pytest.approx([0.75] * 3)
    with pytest.raises(ValueError):
        mixed([0, 0], [np.zeros(3), np.ones(3)])


def test_a_recipe_is_judged_and_told_why_it_gets_no_nearer():
    known = shipped().materials
    sand, dust, chalk = known["play-sand"], known["stone-dust"], known["chalk-dust"]
    plain = judge([sand, dust], [4, 0], None)
    assert plain.dry == sand.colour and plain.off is None
    found = nearest([sand, dust, chalk], "#c5b592", 12, whole=False)
    assert found.off.number < 3 and found.why == ""
    assert judge([sand, dust, chalk], found.halves, "#c5b592") == found
    for target, why in (("#ffffff", "paler than chalk dust"), ("#101010", "darker than"), ("#cdb9e6", "bluer")):
        far = nearest([sand, dust, chalk], target, 8, whole=True)
        assert why in far.why and far.off.number > 5, target
    assert nearest([known["paint-white"], known["paint-slate"]], "#8a9196", 8, False).off.number < 8


def test_a_blend_of_nothing_or_of_unlike_things_is_refused():
    known = shipped().materials
    for call in (lambda: judge([], [], None), lambda: judge([known["play-sand"]], [0], None),
                 lambda: nearest([], "#808080", 6, False)):  # fmt: skip
        with pytest.raises(Faults, match="a blend of nothing"):
            call()
    with pytest.raises(Faults, match="play sand, dry is strewn and the rest is paint"):
        judge([known["play-sand"], known["paint-earth"]], [1, 1], None)
    many = [
        known[name] for name in ("play-sand", "stone-dust", "chalk-dust", "tile-grout", "garden-soil", "quarry-grit")
    ]
    with pytest.raises(Faults, match="choose fewer ingredients"):
        nearest(many, "#808080", 40, False)
