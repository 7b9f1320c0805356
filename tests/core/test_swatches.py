"""Trials on scrap: ranking against SciPy's bootstrap and against every redrawing there is, colours off a photo, matches."""

from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import bootstrap

from isostasis.core.catalogue import Bench, Price, shipped
from isostasis.core.colour.light import coded, difference, linear
from isostasis.core.colour.recipe import judge
from isostasis.core.fault import Faults
from isostasis.core.swatches.colour import GREY_CARD, read_off
from isostasis.core.swatches.matching import matches
from isostasis.core.swatches.ranking import JUDGE, ranked, redrawn, weighted
from isostasis.core.swatches.scrap import BOARDS, KINDS, foretold, planned, way

ROUNDS = np.array([[6.0, 1.2, 8.1, 4.4, 7.0], [5.5, 0.8, 8.8, 5.2, 7.4], [6.4, 2.0, 6.9, 4.0, 6.6], [7.2, 1.6, 9.0, 5.8, 8.2],
                   [5.4, 2.2, 6.1, 3.4, 6.7], [5.9, 0.6, 7.0, 4.3, 7.1]])  # fmt: skip
SCORES = st.lists(
    st.lists(st.floats(0, 10), min_size=3, max_size=3), min_size=1, max_size=8
)  # fmt: skip


def test_a_mean_and_its_range_are_scipys_bootstrap():
    """Without the judge, and before it is widened for few rounds: the percentile range of the reference package."""
    rounds = len(ROUNDS)
    drawn = redrawn(ROUNDS, judge=0, draws=20_000)
    for lane in range(ROUNDS.shape[1]):
        other = bootstrap((ROUNDS[:, lane],), np.mean, confidence_level=0.8, n_resamples=20_000, method="percentile",
                          rng=np.random.default_rng(9))  # fmt: skip
        mean = ROUNDS[:, lane].mean()
        narrow = mean + (np.quantile(drawn[:, lane], (0.1, 0.9)) - mean) / (rounds / (rounds - 1)) ** 0.5
        assert narrow == pytest.approx(other.confidence_interval, abs=0.05)
        assert drawn[:, lane].std() == pytest.approx(other.standard_error * (rounds / (rounds - 1)) ** 0.5, rel=0.03)


def test_how_often_a_lane_leads_is_what_every_redrawing_says():
    few = ROUNDS[:4, [0, 2, 4]]
    wins = np.zeros(3)
    middle, widened = few.mean(axis=0), (4 / 3) ** 0.5
    for chosen in product(range(4), repeat=4):
        wins[(middle + (few[list(chosen)].mean(axis=0) - middle) * widened).argmax()] += 1
    made = ranked(np.column_stack([few, np.zeros(4)]), control=3, judge=0)
    assert [one.first for one in made.standings[:3]] == pytest.approx(wins / wins.sum(), abs=0.02)


def test_true_means_lie_within_eight_ranges_of_ten():
    chance = np.random.default_rng(4)
    inside = total = 0
    for _ in range(300):
        truth = chance.uniform(2, 8, size=4)
        rounds = int(chance.integers(3, 9))
        seen = truth + chance.normal(0, JUDGE, size=(rounds, 4)) + chance.normal(0, 0.8, size=(rounds, 4))
        made = ranked(seen, control=0)
        inside += sum(one.low <= what <= one.high for one, what in zip(made.standings, truth, strict=True))
        total += 4
    assert 0.75 <= inside / total <= 0.9


def test_ties_are_said_and_told_apart_by_more_rounds():
    near = [[7.0, 1.0, 6.2], [6.5, 1.5, 6.8], [7.5, 1.0, 6.5]]
    made = ranked(near, control=1)
    assert made.leader == 0 and made.ties == (2,) and made.more and made.standings[0].places == (1, 2)
    many = ranked(near * 8, control=1)
    assert many.ties == () and many.more is None and many.standings[0].places == (1, 1)
    assert many.standings[2].places == (2, 2) and many.standings[0].gain_low > 5
    same = ranked([[5, 5, 5]] * 4, control=1)
    assert same.ties == (2,) and same.more is None  # more rounds alike would never tell


@given(SCORES, st.integers(0, 2))
@settings(max_examples=40, deadline=None)
def test_a_ranking_adds_up(scores, control):
    made = ranked(scores, control)
    rivals = [one for at, one in enumerate(made.standings) if at != control]
    assert made.leader != control and sum(one.first for one in rivals) == pytest.approx(1)
    assert made.standings[control].gain == 0 and made.leader not in made.ties
    for one in made.standings:
        assert one.low <= one.high
    for one in rivals:
        assert 1 <= one.places[0] <= one.places[1] <= 2
    assert made == ranked(scores, control)  # the same always, for screen and command line


def test_rankings_of_nothing_are_refused():
    with pytest.raises(ValueError, match="two lanes"):
        ranked([[1.0]], control=0)
    with pytest.raises(ValueError, match="no round"):
        redrawn(np.empty((0, 3)))
    with pytest.raises(ValueError, match="count for something"):
        weighted({"hold": 3}, {"gloss": 1})


@given(st.tuples(*[st.integers(20, 235)] * 3), st.floats(0.35, 1.2), st.tuples(*[st.floats(0.7, 1.0)] * 3))
@settings(max_examples=60, deadline=None)
def test_a_colour_is_read_off_under_any_lamp(levels, bright, lamp):
    wanted = "#" + "".join(f"{one:02x}" for one in levels)
    photo = np.empty((40, 80, 3))
    for part, colour in ((slice(0, 40), wanted), (slice(40, 80), GREY_CARD)):
        photo[:, part] = linear(colour) * bright * np.array(lamp)
    if photo.max() > 1:
        return
    photo = np.round(coded(photo) * 255) / 255
    found = read_off(photo, (0, 0, 0.5, 1), (0.5, 0, 0.5, 1))
    assert float(difference(linear(found.colour), linear(wanted))) < 3.5


def test_what_cannot_be_read_is_told():
    photo = np.full((60, 60, 3), 0.5)
    half, card = (0.0, 0.0, 0.5, 1.0), (0.5, 0.0, 0.5, 1.0)
    for box in ((0.9, 0, 0.5, 1), (-0.1, 0, 0.5, 1), (0, 0, 0, 1)):
        with pytest.raises(Faults, match="outside of the photo"):
            read_off(photo, box, card)
    with pytest.raises(Faults, match="holds 1 px"):
        read_off(photo, (0, 0, 0.01, 0.01), card)
    photo[:, 30:] = 1.0
    with pytest.raises(Faults, match="burnt out"):
        read_off(photo, half, card)
    photo[:, 30:] = 0.0
    with pytest.raises(Faults, match="black"):
        read_off(photo, half, card)
    photo[:, 30:] = (0.8, 0.5, 0.3)
    assert "coloured" in read_off(photo, half, card).doubt
    photo[:, 30:] = 0.2
    assert "brighter than white" in read_off(photo, half, card).doubt


def test_a_blend_of_the_shelf_is_found_again():
    known = shipped().materials
    shelf = [known[name] for name in ("paint-sand", "paint-earth", "paint-slate", "stone-dust", "play-sand")]
    wanted = judge([known["paint-sand"], known["paint-slate"]], [3, 1], None).dry
    first = matches(wanted, shelf)[0]
    assert [one.id for one in first.materials] == ["paint-sand", "paint-slate"] and first.recipe.halves == (3, 1)
    assert first.recipe.off.value < 0.5 and first.scoops == ["1.5", "0.5"]
    found = matches("#808080", shelf)
    assert [one.recipe.off.value for one in found] == sorted(one.recipe.off.value for one in found)
    for one in found:  # paints and dry stuff are never stirred together
        assert len({part.family == "colour" for part in one.materials}) == 1
    with pytest.raises(Faults, match="nothing with a colour"):
        matches("#808080", [])


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("board", BOARDS)
def test_every_kind_of_way_is_planned_on_every_board(kind, board):
    known, bench = shipped(), Bench()
    mix = {"skin": "plaster-2-3", "texture": "sand", "fix": "glue-water-1-1", "coat": "acrylic-sealer",
           "pour": "casting-resin"}[kind]  # fmt: skip
    under = [way("texture", "ballast", 5.0, None, known)] if kind == "fix" else []
    lift = way(kind, mix, None, "alcohol-water-1-1", known)
    _, made = planned(board, [*under, lift], (20.0, 0.5), known, bench)
    assert made.lifts[f"lane-{len(under) + 1}"].volume_ml.number > 0
    told = foretold(board, [*under, lift], (20.0, 0.5), known, bench)
    assert told and told.hours and told.cost is None and foretold(board, [], (20.0, 0.5), known, bench) is None


def test_a_lane_costs_what_its_lifts_cost():
    known = shipped()
    prices = (Price(material="acrylic-sealer", amount=8.0, pack=250.0),)
    bench = Bench(prices=prices)
    lift = way("coat", "acrylic-sealer", None, None, known)
    _, made = planned("foam-xps", [lift], (20.0, 0.5), known, bench)
    told = foretold("foam-xps", [lift], (20.0, 0.5), known, bench)
    assert told.cost.value == pytest.approx(made.lifts["lane-1"].mix_ml.number * 8 / 250)


@pytest.mark.parametrize(
    ("kind", "mix", "sentence"),
    [("sing", "sand", "cannot be tried"), ("skin", "tea", "no mix"), ("skin", "sand", "not trowelled on")],
)
def test_what_cannot_be_tried_is_told(kind, mix, sentence):
    with pytest.raises(Faults, match=sentence):
        way(kind, mix, None, None, shipped())
    assert foretold("foam-xps", [{"kind": "skin", "mix": "gone", "depth_mm": 3}], (20, 0.5), shipped(), Bench()) is None
