"""The first run: an empty database says what this is and offers ways in; five steps to a planned pour, left at any point."""

from datetime import timedelta

import pytest

from isostasis.core.plan import plan
from isostasis.core.schedule import Schedule, Timed
from isostasis.store import Database, scenes
from isostasis.store import clock as store_clock
from isostasis.web import create_app
from isostasis.web.shared.filters import FILTERS
from tests.support.pages import Reader


@pytest.fixture
def empty(tmp_path, clock):
    made = Database(tmp_path / "new.db")
    yield Reader(create_app(made, clock)), made
    made.close()


def test_an_empty_database_says_what_this_is_and_offers_four_ways_in(empty):
    reader, _ = empty
    text = reader.text("/")
    for words in (
        "Know before you pour",
        "Start with a board",
        "with a photo of it",
        "one quick sum",
        "made-up scenes",
    ):
        assert words in text


def test_the_demo_comes_into_an_empty_database_alone(empty):
    reader, made = empty
    reader.post("/demo")
    with made.reading() as session:
        assert [row.slug for row in scenes.all_scenes(session)][:2] == ["hollin-delf", "saltcote-pans"]
    assert "Know before you pour" not in reader.text("/")
    assert "scenes here already" in reader.post("/demo", 422).text


def test_five_steps_end_with_a_planned_pour_and_can_be_left(empty, clock):
    reader, made = empty
    where = reader.post("/start/ponds", name="Fen").headers["Location"]
    slug = where.split("/")[2]
    page = reader.text(f"/s/{slug}/ground")
    assert (
        "a board , done a hollow in it , done a skin over it , done water, at its level , done your evenings leave the path"
        in page
    )
    with made.writing() as session:
        row = scenes.find(session, slug)
        kept = Schedule("feasible", clock.at.isoformat(), None, 1, (), None).kept()
        store_clock.add_forecast(session, row, "q", "", kept, clock.at)
    assert "Your pour is planned." in reader.text(f"/s/{slug}/ground")
    reader.post("/path", here=f"/s/{slug}/ground")
    assert "leave the path" not in reader.text(f"/s/{slug}/ground")


def test_what_comes_next_is_told_before_anything_is_at_work(empty, clock):
    reader, made = empty
    slug = reader.post("/start/ponds", name="Fen").headers["Location"].split("/")[2]
    begin, end = (clock.at + timedelta(hours=hours) for hours in (2, 2.5))
    with made.writing() as session:
        row = scenes.find(session, slug)
        first = plan(scenes.resolve(session, row.head)).steps[0]
        timed = Timed(first.id, begin.isoformat(), end.isoformat(), end.isoformat(), title=first.title, step=first.id)
        kept = Schedule("feasible", clock.at.isoformat(), None, 1, (timed,), None).kept()
        store_clock.add_forecast(session, row, "q", "", kept, clock.at)
    at = f"{begin:%a %H:%M}"
    assert f"next Fen form foam, {at}" in reader.text("/bench")
    home = reader.text("/")
    assert f"Form foam : to be done, {at}" in home and "at work" not in home


def test_an_empty_shelf_asks_what_stands_there_and_raises_no_alarm(empty):
    reader, _ = empty
    assert "Enough of everything" not in reader.text("/shelf")
    reader.post("/start/ponds", name="Fen")
    text = reader.text("/shelf")
    assert "Your scenes need" in text and "too little" not in text and "Add a pack" in text
    assert "What Plywood, 9 mm Foam, extruded White glue" in text  # what is needed first is asked for first
    reader.post("/shelf/add", material="white-glue", size="20 ml")
    assert "1 thing in 1 pack" in reader.text("/shelf") and "too little" in reader.text("/shelf")


def test_a_bare_board_has_its_steps_before_it(empty):
    reader, _ = empty
    slug = reader.post("/start/empty", name="Bare").headers["Location"].split("/")[2]
    text = reader.text(f"/s/{slug}/layup")
    assert "a board , done a hollow in it a skin over it" in text
    reader.post("/start/empty", name="Another")
    assert "leave the path" not in reader.text(f"/s/{slug}/layup")  # with a second scene nobody is new


def test_without_a_price_what_to_buy_is_counted_and_the_prices_are_asked_for(empty):
    reader, _ = empty
    slug = reader.post("/start/ponds", name="Fen").headers["Location"].split("/")[2]
    page = f"/shelf/buy?scene={slug}"
    text = reader.text(page)
    assert "No price is known yet." in text and "0.00" not in text and "cheaper set" not in text
    assert "short before what at least" in text  # no full bars, no price missed in each row, no money asked for
    assert "no price known" not in text and "enough" not in text and "Things are priced in" not in text
    reader.post("/shelf/prices", material="white-glue", pack="250 ml", price="3.50")
    text = reader.text(page)
    assert "without a price are not in it" in text and "3.50" in text and "cheaper set" in text
    assert "no price known" in text and "needed, above what there is" in text and "Things are priced in" in text


def test_a_diary_without_a_day_leads_to_the_bench(empty):
    reader, _ = empty
    reader.post("/start/ponds", name="Fen")
    text = reader.text("/s/fen/clock/diary")
    assert "Nothing is done yet." in text and "To the bench" in text and "still to be done" not in text


def test_names_in_a_sentence_keep_their_letters():
    assert [FILTERS["capital"](words) for words in ("form South-west pond", "")] == ["Form South-west pond", ""]
