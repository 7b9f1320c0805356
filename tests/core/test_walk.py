"""A batch mixed point by point: the order, what is wanted by what is in the cup, what mends it, stocks let down."""

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from isostasis.core.mixing.repair import repair
from isostasis.core.mixing.walk import WalkPart, as_if_by_mass, dilution, going, points, to_add, wanted

A, B = WalkPart("a", "Casting resin, A", "part A"), WalkPart("b", "Casting resin, B", "part B")
TINT = WalkPart("t", "Blue", "blue", tints=True)
GRAMS = st.floats(1, 500)


def codes(*args, **named):
    return [one.code for one in points(*args, **named)]


def test_a_kit_goes_in_as_it_is_named_and_is_scraped_into_a_second_cup():
    assert codes([A, B, TINT], "reacts", 0, ()) == [
        "lay-out", "part:a", "part:b", "tint", "mix", "scrape", "second-cup", "rest", "pour",
    ]  # fmt: skip
    assert "rest" in points([A, B], "reacts", 30, ())[-2].code and "30 min" in points([A, B], "reacts", 30, ())[-2].do
    assert points([A, B], "reacts", 0, ("no streaks",))[3].look == "no streaks"


def test_water_or_powder_goes_first_as_the_label_says():
    water, powder = WalkPart("w", "Water", "water"), WalkPart("p", "Plaster", "plaster", liquid=False)
    assert codes([powder, water], "wet", 0, ())[1:3] == ["part:w", "part:p"]
    assert codes([water, powder], "wet", 0, (), True)[1:3] == ["part:p", "part:w"]
    assert codes([powder, water], "dry", 0, ())[-2:] == ["mix", "pour"] and "scrape" not in codes(
        [powder], "dry", 0, ()
    )


@given(GRAMS, GRAMS, GRAMS, GRAMS)
def test_what_is_added_mends_the_ratio_and_is_what_repair_says(a, b, in_a, in_b):
    planned, within = {"a": a, "b": b}, {"a": in_a, "b": in_b}
    add = to_add(planned, within, good=0.0)
    full = wanted(planned, within)
    assert all(full[key] >= max(within[key], planned[key]) - 1e-9 for key in planned)
    assert full["b"] / full["a"] == pytest.approx(b / a)
    assume(max(in_a / a, in_b / b) >= 1)  # before the batch is whole, more of both is still to go in
    mended = dict(zip("ab", repair((a, b), (in_a, in_b)).add, strict=True))
    assert all(add.get(key, 0.0) == pytest.approx(mended[key], abs=0.11) for key in planned)


def test_a_part_within_its_fiftieth_is_good():
    planned = {"a": 230.0, "b": 97.1}
    assert to_add(planned, {"a": 230.0, "b": 98.5}) == {}
    assert to_add(planned, {"a": 230.0, "b": 100.5}) == {"a": pytest.approx(8.05, abs=0.01)}


def test_a_ratio_by_volume_weighed_by_mass_is_known_for_what_it_is():
    assert as_if_by_mass((2, 1), (200, 100), (200, 84.5))
    assert not as_if_by_mass((2, 1), (200, 84.5), (200, 84.5))
    assert not as_if_by_mass((2, 1), (200, 100), (200, 100))  # of equal densities it is right
    assert not as_if_by_mass((2, 1), (0, 100), (200, 84.5))


@given(st.floats(1, 5000), st.floats(0.01, 1), st.floats(0.01, 1))
def test_a_stock_let_down_holds_what_is_wanted(total, share, stock_share):
    if stock_share < share:
        with pytest.raises(ValueError, match="weaker"):
            dilution(total, share, stock_share)
        return
    stock, water = dilution(total, share, stock_share)
    assert stock + water == pytest.approx(total) and stock * stock_share == pytest.approx(total * share)


@pytest.mark.parametrize("bad", [(1, 0, 0.5), (1, 0.5, 1.2), (-1, 0.5, 0.5)])
def test_what_no_stock_can_be_is_refused(bad):
    with pytest.raises(ValueError, match="shares are"):
        dilution(*bad)


@given(GRAMS, GRAMS, GRAMS, GRAMS)
def test_a_walk_ends_with_the_ratio_right_whatever_was_poured(a, b, in_a, in_b):
    walk, planned = points([A, B], "reacts", 0, ()), {"a": a, "b": b}
    within, behind = {}, {"lay-out"}
    for over in (in_a, in_b):
        now = going(walk, planned, within, frozenset(behind))
        assert now.point.part == now.part and not now.mends
        within[now.part] = over
        behind.add(f"part:{now.part}")
    for _ in range(4):
        now = going(walk, planned, within, frozenset(behind))
        if not now.part:
            break
        assert now.mends and now.grams > 0
        within[now.part] += now.grams
    assert not now.part and now.point.code == "mix"
    assert within["b"] / within["a"] == pytest.approx(b / a, rel=0.05) or max(within["a"], within["b"]) < 6
    left = going(walk, planned, {"a": a, "b": 2 * b}, frozenset(behind), leave_so=True)
    assert not left.part and not going(walk, planned, {"a": a, "b": 2 * b}, frozenset({*behind, "mix"})).part
