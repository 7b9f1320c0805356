import re
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.core.mixing.drops import count_drops
from isostasis.core.units import Measures, NotAMeasure, duration, household, number, parse, show, typed

INCHES = Measures(system="imperial")


@pytest.mark.parametrize(
    ("text", "quantity", "value"),
    [
        ("25", "length", 25),
        ("2.5 cm", "length", 25),
        ("1 1/2 in", "length", 38.1),
        ('1½"', "length", 38.1),
        ("3/4 in", "length", 19.05),
        ("1 ft 2 1/2 in", "length", 368.3),
        ("2'", "length", 609.6),
        ("250 ml", "volume", 250),
        ("1 1/2 cups", "volume", 354.882355),
        ("2 tbsp", "volume", 29.5735296),
        ("1 tsp", "volume", 4.92892159),
        ("3 fl oz", "volume", 88.7205886),
        ("12 drops", "volume", 0.6),
        ("4 scoops", "volume", 60),
        ("1.2 kg", "mass", 1200),
        ("12 oz", "mass", 340.194278),
    ],
)
def test_what_people_write(text, quantity, value):
    assert parse(text, quantity) == pytest.approx(value, rel=1e-7)


def test_bare_numbers_are_inches_for_imperial_readers():
    assert parse("2 1/4", "length", INCHES) == pytest.approx(57.15)
    assert parse("2 1/4 mm", "length", INCHES) == pytest.approx(2.25)


def test_drops_and_scoops_are_the_users_own():
    mine = Measures(drop_ml=0.04, scoop_ml=30)
    assert parse("10 drops", "volume", mine) == pytest.approx(0.4)
    assert parse("2 scoops", "volume", mine) == 60


@pytest.mark.parametrize(
    "text",
    ["", "  ", "blue", "12 furlongs of", "12 parsecs", "3 lightyears", "2,5,1 mm", "5 g", "1/0 in", "-", "3 kg", "mm"],
)
def test_no_measure_is_refused_with_what_would_be_right(text):
    with pytest.raises(NotAMeasure) as refused:
        parse(text, "length")
    assert "write" in str(refused.value)


@given(st.floats(0.001, 9000), st.sampled_from(["mm", "ml", "g", "mm2"]), st.sampled_from(["metric", "imperial"]))
def test_what_a_field_holds_reads_back_as_it_is(value, unit, system):
    measures = Measures(system=system)
    quantity = {"mm": "length", "ml": "volume", "g": "mass", "mm2": "area"}[unit]
    value = round(value, 3)
    assert round(parse(typed(value, unit, measures), quantity, measures), 3) == value


def test_a_field_holds_inches_where_they_are_plain_ones():
    assert [typed(one, "mm", INCHES) for one in (19.05, 20.066, 20, 1234.5)] == [
        "3/4 in",
        "0.79 in",
        "20 mm",
        "1234.5 mm",
    ]
    assert typed(35.55, "mm") == "35.55 mm"


def test_a_decimal_comma_counts_as_a_point():
    assert parse("2,5 mm", "length") == 2.5 and parse("0,125 cm", "length") == 1.25
    assert parse("1,25 l", "volume") == 1250
    for text in ("1,500 mm", "1.500,5", "1,234,567"):
        with pytest.raises(NotAMeasure, match="tenths or thousands"):
            parse(text, "length")


def test_showing():
    assert show(897.2, "ml") == ("897", "ml")
    assert show(0.0687, "mm") == ("0.0687", "mm")
    assert show(21, "degC", INCHES) == ("69.8", "°F")
    assert show(12_340, "ml") == ("12.3", "l")
    assert show(None, "h") == ("never", "")
    assert duration(0.5) == ("30", "min")
    assert duration(110.46) == ("4 d 14", "h")
    assert number(12_400) == "12400"
    assert household(237, Measures()) == "1 cup"
    assert household(270, Measures()) == "1 cup 2 tbsp (4 ml short)"
    assert household(13 * 14.787, Measures()) == "3/4 cup 1 tbsp"  # not 13 spoons
    assert household(7.4, Measures()) == "1 1/2 tsp"
    assert household(0.15, Measures()) == "3 drops"
    assert household(0.01, Measures()) == "1 drop"


@given(st.floats(2.5, 4000))
def test_kitchen_measures_come_near(value):
    said = household(value, Measures())
    held = sum(
        float(sum(Fraction(part) for part in numbers.split())) * ml
        for numbers, name in re.findall(r"([0-9/ ]+) (cups?|tbsp|tsp)", said)
        for ml in ({"cup": 236.588, "cups": 236.588, "tbsp": 14.787, "tsp": 4.929}[name],)
    )
    assert held == pytest.approx(value, rel=0.13)
    assert len(re.findall("cup|tbsp|tsp", said)) <= 3


def test_definitions_are_cached_by_installation_and_never_needed(tmp_path, monkeypatch):
    from isostasis.core import units

    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    for folder in ("one", "two"):
        monkeypatch.setattr("pint.__file__", f"/{folder}/pint/__init__.py")
        before = set(tmp_path.rglob("units-*"))
        assert units._registry.__wrapped__()("2 inch").to("mm").magnitude == pytest.approx(50.8)
        assert len(set(tmp_path.rglob("units-*")) - before) == 1
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "file"))
    assert units._registry.__wrapped__()("2 inch").to("mm").magnitude == pytest.approx(50.8)


@given(st.floats(0.05, 60), st.floats(5, 400))
def test_drops_are_whole_and_near_or_come_from_a_stock(drops, batch):
    counted = count_drops(drops, batch)
    assert counted.drops >= 1
    assert counted.right_ml == pytest.approx(batch / drops)
    assert abs(counted.error) <= (1.0 if drops < 0.1 else 0.5 if drops < 0.3 else 0.2)
    assert not counted.stock or drops < 3


@pytest.mark.parametrize("text", ["9" * 5000, "9" * 81, "1" * 79 + "/3", "x" * 200_000])
def test_what_is_longer_than_any_measure_is_no_number_or_told(text):
    try:
        assert parse(text, "length") > 1e60
    except NotAMeasure as told:
        assert len(str(told)) < 120
