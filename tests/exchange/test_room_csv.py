"""Readings from lines of text."""

from datetime import datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest

from isostasis.core.fault import Faults
from isostasis.exchange.room_csv import read_room


def test_lines_in_the_ways_that_loggers_and_people_write_them():
    made = read_room("time,temp,rh\n2027-03-01 19:00, 18.5, 55\n2027-03-01T07:00+00:00,15,0.6\n\n")
    assert [(one["temp_c"], one["rh"]) for one in made] == [(15, 0.6), (18.5, 0.55)]
    assert read_room("2027-03-01 19:00;18,5;55")[0]["temp_c"] == 18.5
    twice = read_room("2027-03-01 19:00, 18, 55\n2027-03-01 19:00, 19, 55")
    assert [one["temp_c"] for one in twice] == [19]


@pytest.mark.parametrize(("text", "words"), [
    ("", "there is no reading in it"),
    ("time,temp,rh", "there is no reading in it"),
    ("2027-03-01 19:00, 18", "line 1: it has no time, temperature and humidity"),
    ("2027-03-01 19:00, 18, 55\nlater, 18, 55", "line 2: “later” is no time"),
    ("2027-03-01 19:00, warm, 55", "“warm” is no number"),
    ("2027-03-01 19:00, 71, 55", "71 °C is outside -10 to 50"),
    ("2027-03-01 19:00, 17, 155", "a humidity of 155 is outside 0 to 100"),
    ("\n".join(["2027-03-01 19:00, 17, 55"] * 5001), "are more than 5,000"),
])  # fmt: skip
def test_what_is_no_reading_is_told_with_its_line(text, words):
    with pytest.raises(Faults, match=words):
        read_room(text)


def test_both_half_past_twos_of_the_autumn_night_are_kept_and_the_one_that_is_none_in_spring_is_told():
    berlin = ZoneInfo("Europe/Berlin")
    lines = "\n".join(
        f"2027-10-31 {at}, {temp}, 50" for at, temp in (("01:30", 18), ("02:30", 17), ("02:30", 16), ("03:30", 15))
    )
    made = read_room(lines, berlin)
    assert [one["temp_c"] for one in made] == [18, 17, 16, 15]
    times = [datetime.fromisoformat(one["at"]) for one in made]
    assert [later - earlier for earlier, later in pairwise(times)] == [timedelta(hours=1)] * 3
    with pytest.raises(Faults, match="the clocks went forward over it"):
        read_room("2027-03-28 02:30, 18, 50", berlin)
