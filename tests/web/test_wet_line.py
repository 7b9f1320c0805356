"""The wet line: what is hardening now, from what was marked done."""

from datetime import timedelta

import pytest

from isostasis.core.document.scene import Patch
from isostasis.core.lifts.kinds.coat import Coat
from isostasis.core.plan import plan
from isostasis.core.schedule import Marks
from isostasis.core.wet import HardeningItem, LaidStep, SceneWork, time_left, wet_line
from isostasis.store import logbook, scenes
from tests.support.store import do


@pytest.fixture
def line(demo_database, clock):
    def at_the_moment():
        with demo_database.reading() as session:
            return wet_line([logbook.work_on(session, row) for row in scenes.all_scenes(session)], clock())

    return at_the_moment


def test_open_cups_come_first_then_what_is_ready_soonest(line):
    wet = line()
    assert [one.urgent for one in wet] == [True, False, False]
    assert (wet[0].spot, wet[0].what) == ("Pit lake", "mixed cup")
    assert wet[1].until < wet[2].until


def test_of_many_six_stand_in_the_line_and_the_others_are_on_the_bench(demo_database, reader, clock):
    assert "more</a>" not in reader.source("/wet-line?here=/")
    with demo_database.writing() as session:
        for slug in ("tarn", "kettle-fen"):
            row = scenes.find(session, slug)
            made = plan(scenes.resolve(session, row.head))
            first = {step.patch: step.id for step in reversed(made.steps) if step.lift and step.wait_h}
            for step in first.values():
                do(session, row, step, clock())
    page = reader.source("/wet-line?here=/")
    count = page.count('class="wet"') + page.count('class="urgent"') + page.count('class="next"')
    assert count > 6 and f'<a href="/bench">{count - 6} more</a>' in page


def test_while_something_rings_a_page_has_it_from_the_start(reader, clock):
    def told():
        return "Working time Pit lake" in reader.text("/shelf")

    clock.pass_by(minutes=30)
    reader.get("/wet-line?here=/shelf")  # as a page asks once it stands: from then on the browser knows when it rings
    assert not told()
    clock.pass_by(minutes=5)
    assert told() and "Working time" in reader.text("/s/kettle-fen/pour")
    reader.post("/s/hollin-delf/ring", timer="cup:3", what="later")
    answer = reader.get("/wet-line?here=/shelf")
    assert not told()
    (name,) = (one.partition("=")[0] for one in answer.headers.getlist("Set-Cookie") if "-rings=" in one)
    reader.client.set_cookie(name, "soon")
    assert not told()


def test_what_is_ready_leaves_the_line(line, clock):
    clock.pass_by(days=30)
    assert [one.what for one in line()] == ["mixed cup"]


def test_only_the_last_step_of_a_lift_counts(demo_database, clock, line):
    with demo_database.writing() as session:
        scene = scenes.find(session, "tarn")
        for step in ("tarn-seal-1", "tarn-seal-2", "form-hole"):
            do(session, scene, step, clock())
    assert [one.what for one in line() if one.scene == "Tarn"] == ["seal 2"]
    clock.pass_by(days=2)
    assert not [one for one in line() if one.scene == "Tarn"]


def test_what_never_dries_stays(clock):
    laid = LaidStep("skin", "skin", "skin", clock(), None)
    clock.pass_by(days=99)
    (never,) = wet_line([SceneWork("Tarn", "tarn", {}, (), (laid,), (), Marks())], clock())
    assert never.left(clock()) == "never dries in this room"
    assert never.share(clock()) == 0


@pytest.mark.parametrize(("span", "words"), [
    (timedelta(minutes=12), "12 min to go"),
    (timedelta(hours=3, minutes=4), "3 h 04 to go"),
    (timedelta(days=2, hours=5), "2 d 5 h to go"),
    (timedelta(0), "ready"),
])  # fmt: skip
def test_time_left_in_words(clock, span, words):
    now = clock()
    wet = HardeningItem("S", "s", "Spot", "skin", now - timedelta(hours=1), now + span)
    assert wet.left(now) == words
    assert 0 <= wet.share(now) <= 1


def test_a_cup_over_its_time(clock):
    now = clock()
    wet = HardeningItem(
        "S", "s", "Spot", "mixed cup", now - timedelta(hours=1), now - timedelta(minutes=1), urgent=True
    )
    assert wet.left(now) == "over time"
    assert wet.share(now) == 1
    assert time_left(now - timedelta(minutes=3), now) == "−3 min"
    assert time_left(now - timedelta(minutes=63), now) == "−1 h 03"


def test_lifts_in_a_word_or_two():
    lake = Patch(id="pit-lake", name="Pit lake", area={"rest": True})
    names = ("lake-seal", "water", "pit-lake-skin-2", "pit-lake-water")
    assert [lake.spot(Coat(id=name, material="water")) for name in names] == [
        "Pit lake, seal", "Pit lake, water", "Pit lake, skin 2", "Pit lake, water",
    ]  # fmt: skip
