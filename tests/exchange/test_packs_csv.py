"""Packs as lines of cells: in as people and tables write them, out and in again alike, what is wrong told by line."""

import re
from datetime import date

import pytest

from isostasis.core.catalogue import shipped
from isostasis.core.fault import Faults
from isostasis.core.stock.model import NewPack
from isostasis.exchange.packs_csv import read_packs, write_packs

TINS = shipped()


def packs(text):
    return [pack for _, pack in read_packs(text.encode(), TINS)]


def test_lines_in_the_ways_that_people_write_them():
    assert packs("material,size\nplaster,5 kg\n") == [NewPack("plaster", 5000)]
    assert packs("Size;Material;Left;Price\n0,75 l;Casting resin, two-part;half;29,80\n") == [
        NewPack("casting-resin", 750, None, 375, 29.8)
    ]
    tabbed = "material\tpart\tsize\tleft\tbest_before\topened\nplaster-cloth\t\t0,6 m2\t1/4\t2027-06-01\t\n"
    assert packs(tabbed) == [NewPack("plaster-cloth", 600_000, None, 150_000, best_before=date(2027, 6, 1))]
    assert packs('\ufeffmaterial,part,size,place\ncasting-resin,b,250,"shelf, low"\n\n') == [
        NewPack("casting-resin", 250, "B", place="shelf, low")
    ]
    assert [line for line, _ in read_packs(b"material,size\nplaster,1 kg\n\nplaster,2 kg\n", TINS)] == [2, 4]


@pytest.mark.parametrize(("text", "words"), [
    ("material,size\nplaster,5 parsecs\n", "line 2, size: “parsecs” is no unit of mass"),
    ("material,size\nplastr,5 kg\n", "line 2, material: there is no “plastr”; did you mean “plaster”"),
    ("material,size\nplaster,0\n", "line 2, size: a pack of nothing"),
    ("material,size,left\nplaster,1 kg,2 kg\n", "line 2, left: 2 kg is more than it holds"),
    ("material,size,price\nplaster,1 kg,cheap\n", "line 2, price: “cheap” is no amount of money"),
    ('material,size,price\nplaster,1 kg,"1,250"\n', "line 2, price: “1,250” has a comma that could mean tenths or thousands"),
    ("material,size,price\nplaster,1 kg,-3\n", "line 2, price: -3 is outside"),
    ("material,size,opened\nplaster,1 kg,last May\n", "line 2, opened: “last May” is no day"),
    ("material,size,opened\nplaster,1 kg,0026-01-01\n", "outside 2000 to 2100"),
    ("material,size,part\nplaster,1 kg,A\n", "line 2, part: Plaster, casting has no part “A”"),
    ("material,size\nplaster,1 kg,3,4\n", "line 2: it has 2 cells more than the heading"),
    ("material,size\nplaster,1 kg\nplaster,1 kg\n", "line 3: it is the same as line 2"),
    ("material,size,place\nplaster,1 kg," + "x" * 70 + "\n", "line 2, place: it has 70 letters"),
    ("material,weight\nplaster,5 kg\n", "no column “size”"), ("material,size,shoe\n", "“shoe” is no column"),
    ("material,size,size\n", "stands in it twice"), ("", "there is nothing in it"), ("material,size\n", "no pack in it"),
    ("plaster;5 kg", "no column “material”"),
    ("material,size\n" + "plaster,1 kg\n" * 100_000, "100,000 packs are more than 5,000"),
    ("material,size\n" + "plaster,1 kg " + " " * 2_000_001, "larger than 2 MB"),
])  # fmt: skip
def test_what_is_wrong_is_told_by_line_and_field(text, words):
    with pytest.raises(Faults, match=re.escape(words)):
        packs(text)


def test_bytes_that_are_no_text_and_many_faults_are_told():
    with pytest.raises(Faults, match="no text in UTF-8"):
        read_packs(b"\xff\xfe\x00", TINS)
    with pytest.raises(Faults) as refused:
        packs("material,size\n" + "nothing,1 kg\n" * 40)
    assert len(refused.value.faults) == 13 and "28 more lines" in str(refused.value.faults[-1])


def test_what_goes_out_comes_in_again():
    rows = [
        {"material": "casting-resin", "part": "A", "size": "500 ml", "left": "210 ml", "price": "19.87", "seller": "=far",
         "opened": date(2026, 9, 27), "best before": "", "place": "-5 °C, not"},
    ]  # fmt: skip
    text = write_packs(rows)
    assert "'=far" in text and "'-5" in text
    assert packs(text) == [
        NewPack("casting-resin", 500, "A", 210, 19.87, "=far", date(2026, 9, 27), None, "-5 °C, not")
    ]
