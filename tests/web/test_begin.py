"""A card begun otherwise than planned: all of one part, a leftover in it, a stock that is thinned already; on paper."""

import pytest

from isostasis.store import logbook, scenes, shelf, walk


def batch(database, key, slug="hollin-delf"):
    with database.reading() as session:
        return next(row for row in logbook.batches(session, scenes.find(session, slug)) if row.batch == key)


def test_all_that_is_left_of_one_part_scales_the_batch(reader, database):
    url = "/s/hollin-delf/mix/lake-water-2-1/start"
    planned = None
    for text, told in (("lots", "neither a mass nor a volume"), ("1 g", "times what is planned"), ("9 kg", "times")):
        assert told in reader.post(url, 422, all_of="casting-resin:B", all=text).text
    assert "not said of which part" in reader.post(url, 422, all_of="tea", all="50 g").text
    reader.post(url, all_of="casting-resin:B", all="50 g", how="walk")
    planned = logbook.batch_of(batch(database, "lake-water-2-1"))
    by_key = {one.key: one for one in planned.ingredients}
    assert by_key["casting-resin:B"].mass_g == pytest.approx(50)
    assert by_key["casting-resin:A"].mass_g == pytest.approx(50 * 2 * 1.16 / 0.98)
    assert sum(ml for *_, ml in planned.feeds) == pytest.approx(planned.volume_ml)


def test_the_clock_runs_only_once_both_parts_are_in(reader, database, clock):
    reader.post("/s/hollin-delf/mix/lake-water-2-1/start", how="walk")
    row = batch(database, "lake-water-2-1")
    assert not walk.is_wet(row) and "part A" in reader.text(f"/s/hollin-delf/mix/{row.id}/scale")
    clock.pass_by(minutes=9)
    on = f"/s/hollin-delf/mix/{row.id}/walk"
    reader.post(on, how="next", point="part:casting-resin:A")
    assert not walk.is_wet(batch(database, "lake-water-2-1"))
    clock.pass_by(minutes=2)
    reader.post(on, how="next", point="part:casting-resin:B")
    row = batch(database, "lake-water-2-1")
    assert walk.is_wet(row) and row.started_at == clock.at
    reader.post(on, how="back")
    assert not walk.is_wet(batch(database, "lake-water-2-1"))
    reader.post(on, how="next", point="part:casting-resin:B")
    reader.post(on, how="next", point="part:casting-resin:B")  # a second press
    points = [one["point"] for one in batch(database, "lake-water-2-1").walk]
    assert points.count("part:casting-resin:B") == 1
    reader.post(on, 422, how="next", point="tea")
    reader.post(on, 422, how="dance")


def test_a_leftover_is_blended_in_and_taken_out_of_its_jar(reader, database, clock):
    with database.writing() as session:
        shelf.into_jar(session, "glue-water-1-1", 30.0, clock.at)
    url = "/s/hollin-delf/mix/floor-fix-1-1/start"
    assert "in jars" in reader.text("/s/hollin-delf/mix?batch=floor-fix-1-1")
    reader.post(url, 422, jar="90 ml")
    assert "not 35 ml" in reader.post(url, 422, jar="35 ml").text
    reader.post(url, jar="20 ml")
    planned = logbook.batch_of(batch(database, "floor-fix-1-1"))
    fresh = sum(one.volume_ml for one in planned.ingredients)
    assert planned.blended_ml == 20 and fresh == pytest.approx(planned.volume_ml - 20, rel=0.02)
    with database.reading() as session:
        left = sum(one.left for one in shelf.stocked(session) if one.row.material == "glue-water-1-1")
    assert left == pytest.approx(10)


def test_a_stock_that_is_thinned_already(reader):
    page = reader.text("/s/hollin-delf/mix?batch=floor-fix-1-1&stock=80")
    assert "of the stock and" in page and "of water" in page
    assert "weaker than what is wanted" in reader.text("/s/hollin-delf/mix?batch=floor-fix-1-1&stock=30").lower()
    assert "thinned already" not in reader.text("/s/hollin-delf/mix?batch=lake-water-2-1")


def test_what_was_the_wrong_part_is_written_down_as_what_it_was(reader, database, clock):
    row = batch(database, "lake-water-1-1")
    url = f"/s/hollin-delf/mix/{row.id}/scale"
    clock.pass_by(seconds=20)
    reader.post(url, 200, how="pour", grams="40")
    clock.pass_by(seconds=20)
    reader.post(url, 422, how="wrong", key="tea")
    reader.post(url, how="wrong", key="casting-resin:A")
    after = batch(database, "lake-water-1-1").actual
    assert after["casting-resin:A"] == pytest.approx(270, abs=1) and "casting-resin:B" not in after
    assert "more than planned: too much of another is in" in reader.text(url)


def test_cards_print_four_to_a_sheet(reader):
    page = reader.source("/s/hollin-delf/mix/cards")
    cards, sheets = page.count('<article class="a6">'), page.count('<div class="a4">')
    assert cards > 8 and sheets == -(-cards // 4)
    assert "lake-water" not in page and "Casting resin" in page
