"""Records that are entered: typed, weighed in the cup, read off a rule, from a table; and each taken away again."""

import html
import io

import pytest

from isostasis.core.mixing.batches import left_behind
from isostasis.core.plan import plan
from isostasis.store import logbook, records, scenes
from isostasis.store.tables import BatchRow

TYPED = {
    "label": "casting-resin",
    "quantity": "hours",
    "title": "east pond",
    "predicted": "24",
    "low": "30",
    "high": "36",
}
HEAD = "key,at,scene,what,label,quantity,unit,predicted,from,to,mishap\n"


def of(database, label, quantity):
    with database.reading() as session:
        return [one for one in records.records(session) if (one.label, one.quantity) == (label, quantity)]


def refused(reader, url, **values):
    return html.unescape(reader.post(url, 422, **values).text)


def test_a_record_is_typed_and_taken_away(reader, database):
    reader.post("/records/new", **TYPED)
    one = of(database, "casting-resin", "hours")[0]
    assert (one.predicted, one.low, one.high, one.title) == (24, 30, 36, "east pond")
    reader.post("/records/new", **{**TYPED, "quantity": "volume", "low": "26", "high": ""})
    assert of(database, "casting-resin", "volume")[-1].high == 26  # it came just so
    reader.post("/records/new", **{**TYPED, "quantity": "cup", "high": "", "looked": "yes"})
    assert of(database, "casting-resin", "cup")[0].high is None
    text = reader.text("/records?label=casting-resin&quantity=cup")
    assert "loss in the cup" in text and "1 of 3 records" in text
    reader.post("/records/away", key=one.key)
    assert not of(database, "casting-resin", "hours")
    with database.reading() as session:
        batch = next(each.key for each in records.records(session) if each.key.startswith("batch"))
    assert "call it a mishap" in refused(reader, "/records/away", key=batch)


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"label": "tea"}, "no mix"), ({"quantity": "joy"}, "is no quantity"), ({"predicted": "0"}, "said"),
        ({"predicted": "soon"}, "said"), ({"low": "40"}, "lower one first"), ({"low": "", "high": ""}, "nothing of what came"),
        ({"title": " "}, "no title"), ({"low": "-1"}, "came"), ({"predicted": "1e9"}, "said"),
    ],
)  # fmt: skip
def test_a_record_of_nonsense_is_told_and_not_kept(reader, database, change, sentence):
    with database.reading() as session:
        before = len(records.records(session))
    assert sentence in refused(reader, "/records/new", **{**TYPED, **change})
    with database.reading() as session:
        assert len(records.records(session)) == before


def open_batch(database):
    with database.reading() as session:
        row = scenes.find(session, "hollin-delf")
        return next(one for one in logbook.batches(session, row) if one.finished_at is None)


def test_the_cup_is_weighed_as_it_is_emptied(reader, database):
    row = open_batch(database)
    mass = sum(row.actual.get(one["key"], one["mass_g"]) for one in row.planned["ingredients"])
    url = f"/s/hollin-delf/mix/{row.id}/finish"
    assert "Stays in the cup, g" in reader.text("/s/hollin-delf/mix?batch=lake-water-1-1")
    assert "more than was mixed" in refused(reader, url, lost="9000")
    reader.post(url, lost="12.5")
    one = of(database, row.planned["mix"], "cup")[0]
    volume = row.planned["volume_ml"]
    assert one.predicted == pytest.approx(left_behind(volume)) and one.low == pytest.approx(12.5 / mass * volume)
    with database.reading() as session:
        assert session.get(BatchRow, row.id).finished_at


def test_a_pour_that_stands_lower_tells_what_its_bed_drank(reader, database):
    assert "sealed and drinks nothing" in refused(reader, "/records/bed", pour="hollin-delf/lake-water", lower="1")
    assert "no pour that stands" in refused(reader, "/records/bed", pour="hollin-delf/benches-skin", lower="1")
    assert "stands lower" in refused(reader, "/records/bed", pour="hollin-delf/lake-water", lower="900")
    with database.reading() as session:
        made = plan(scenes.resolve(session, scenes.find(session, "saltcote-pans").head)).lifts["salt-glue"]
    more = sum(pool.area_mm2.number for pool in made.pools) * 0.2 / 1000
    reader.post("/records/bed", pour="saltcote-pans/salt-glue", lower="0.2 mm")
    with database.reading() as session:
        one = next(each for each in records.records(session) if each.quantity == "bed")
    assert one.predicted == pytest.approx(made.drunk_ml.number) and one.low == pytest.approx(
        made.drunk_ml.number + more
    )
    assert one.label == "plaster-2-3"  # the skin beneath, for the glued crust drinks little


def test_a_table_goes_out_and_in_and_nothing_twice(reader, database):
    reader.post("/records/new", **TYPED)
    reader.post("/records/mishap", key=of(database, "casting-resin", "hours")[0].key, note="a draught")
    text = reader.get("/records.csv").text
    reader.post("/records/table", file=(io.BytesIO(text.encode()), "r.csv"))
    assert "0 records came; " in reader.text("/records")
    with database.writing() as session:
        records.take_away(session, next(one.key for one in records.records(session) if one.key.startswith("own")))
    reader.post("/records/table", file=(io.BytesIO(text.encode()), "r.csv"))
    back = of(database, "casting-resin", "hours")
    assert [(one.low, one.high, one.title, one.mishap) for one in back] == [(30, 36, "east pond", "a draught")]
    semi = HEAD.replace(",", ";") + ";2027-03-04T18:00+01:00;;Tarn;casting-resin;hours;h;24,5;30;;\n"
    reader.post("/records/table", file=(io.BytesIO(semi.encode("utf-8-sig")), "r.csv"))
    assert (of(database, "casting-resin", "hours")[-1].predicted, of(database, "casting-resin", "hours")[-1].high) == (
        24.5,
        None,
    )


GOOD = ",2027-03-04T18:00+01:00,,Tarn,casting-resin,hours,h,24,30,36,\n"


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("", "nothing in it"), ("a,b\n1,2\n", "no column"), (HEAD, "no record in it"), ("\x00\x01", "no column"),
        (HEAD + GOOD.replace("24", "soon"), "line 2, predicted"), (HEAD + GOOD.replace(",24,", ",,"), "it is empty"),
        (HEAD + GOOD.replace("+01:00", ""), "no moment with its zone"), (HEAD + GOOD + GOOD.replace("hours", "joy"), "line 3"),
        (HEAD + GOOD.replace("30,36", "40,36"), "line 2"), (HEAD + GOOD.replace("24", "nan"), "line 2"),
        (HEAD + GOOD.replace("24", "-3"), "line 2"), (HEAD + "\n".join([GOOD.strip()] * 5001), "more than 5,000"),
    ],
)  # fmt: skip
def test_a_table_of_nonsense_is_told_by_line_and_nothing_kept(reader, database, text, sentence):
    with database.reading() as session:
        before = len(records.records(session))
    assert sentence in refused(reader, "/records/table", file=(io.BytesIO(text.encode()), "r.csv"))
    with database.reading() as session:
        assert len(records.records(session)) == before
    assert "nothing was chosen" in refused(reader, "/records/table")
