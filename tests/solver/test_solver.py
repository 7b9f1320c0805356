"""The solver's process: answers, is cancelled, crashes, and is there again."""

import json
import sys
from datetime import UTC, datetime

import pytest

from isostasis.core.schedule import Marks, Schedule
from isostasis.core.schedule.requests import ClockRequest
from isostasis.solver import Solver, Unwanted
from isostasis.solver.question import question, request_of
from tests.support.scenes import scene_data
from tests.support.waiting import until

HOURS = "mon-fri 19:00-22:00; sat 09:00-17:00"


def put(data=None, **more):
    return question({"tarn": data or scene_data()}, HOURS, "UTC", ClockRequest(**more), {"tarn": Marks()}).begun(
        datetime(2027, 3, 1, 12, tzinfo=UTC)
    )


def waited(asking, what):
    until(lambda: what(asking))
    return asking


@pytest.fixture(scope="module")
def solver():
    made = Solver()
    yield made
    made.close()


def test_a_question_is_answered_and_time_is_bought(solver):
    heard, options = [], []
    asking = waited(solver.ask("one", put(), heard.append, options.extend), lambda one: one.over)
    made = Schedule.of(heard[0])
    assert made.status == "optimal" and made.finish and asking.made == heard[0]
    assert [one["name"] for one in options] == [one["name"] for one in asking.options] and options
    assert json.loads(json.dumps(made.kept())) == heard[0]


SAYS_FIRST = """
import json, sys
number = json.loads(sys.stdin.readline())["number"]
for said in ({"first": {"finish": "first"}}, {"made": {"finish": "made"}}, {"option": {"name": "more"}}, {"end": True}):
    print(json.dumps({"number": number, **said}), flush=True)
sys.stdin.readline()
"""


def test_times_that_hold_are_heard_of_before_better_ones():
    heard, options = [], []
    telling = Solver((sys.executable, "-c", SAYS_FIRST))
    asking = waited(telling.ask("one", put(), heard.append, options.extend), lambda one: one.over)
    telling.close()
    assert heard == [asking.first, asking.made] == [{"finish": "first"}, {"finish": "made"}] and options


def test_a_fault_is_told_and_the_process_goes_on(solver):
    bad = scene_data()
    bad["patches"][0]["lifts"][2]["level_mm"] = 99
    asking = waited(solver.ask("bad", put(bad), lambda _: None), lambda one: one.over)
    assert "at most" in asking.wrong
    waited(solver.ask("good", put(), lambda _: None), lambda one: one.made is not None)


def test_a_newer_question_ends_the_older_and_a_cancel_ends_the_process(solver):
    heard = []
    first = solver.ask("one", put(), lambda made: heard.append(1))
    second = solver.ask("one", put(buffer_h=1.0), lambda made: heard.append(2))
    assert first.over
    other = solver.ask("other", put(), lambda made: heard.append(3))
    solver.cancel("one")
    assert second.over and "told to stop" in solver.of("one").wrong
    waited(solver.of("other"), lambda one: one.made is not None)
    assert other.made is None or heard == [3]
    assert 2 not in heard


def test_a_crash_is_told_and_harms_nothing():
    crashing = Solver((sys.executable, "-c", "import sys; sys.stdin.readline(); sys.exit(3)"))
    asking = waited(crashing.ask("one", put(), lambda _: None), lambda one: one.over)
    assert "stopped unexpectedly" in asking.wrong
    asking = waited(crashing.ask("one", put(), lambda _: None), lambda one: one.over)
    assert "stopped unexpectedly" in asking.wrong
    crashing.close()


def test_a_search_ends_with_the_process_that_asked():
    """Also where that one is killed, and ends nothing itself."""
    steps = [{"id": f"l{n}", "kind": "coat", "material": "paint-earth", "coats": 3} for n in range(120)]
    long = scene_data()
    long["patches"] = [{"id": "rest", "name": "Rest", "area": {"rest": True}, "lifts": steps}]
    made = Solver()
    asking = waited(made.ask("one", put(long), lambda _: None), lambda one: one.first is not None or one.wrong)
    assert asking.wrong is None and asking.made is None  # the search goes on
    child = made._child
    child.stdin.close()  # as a killed parent's end of it is
    until(lambda: child.poll() is not None)
    made.close()


def test_an_answer_that_cannot_be_kept_is_told(solver):
    def failing(made):
        raise OSError("the disk is full")

    asking = waited(solver.ask("full", put(), failing), lambda one: one.over)
    assert "could not be kept" in asking.wrong
    waited(solver.ask("full", put(), lambda _: None), lambda one: one.made is not None)


def test_an_answer_that_has_no_place_any_more_is_told_and_logged_nowhere(solver, caplog):
    def gone(made):
        raise Unwanted("It is gone.")

    asking = waited(solver.ask("gone", put(), gone), lambda one: one.over)
    assert asking.wrong == "It is gone." and not caplog.records


def test_a_question_says_all_that_is_asked():
    at = datetime(2027, 2, 28, 20, tzinfo=UTC)
    marks = {"tarn": Marks(done={"form-slab": at}), "pool": Marks()}
    made = question({"tarn": {}, "pool": {}}, HOURS, "Europe/Berlin", ClockRequest(buffer_h=3.0), marks, {"tarn": at})
    asked = request_of(made.begun(datetime(2027, 3, 1, 12, tzinfo=UTC)))
    assert asked.marks.done == {"tarn/form-slab": at} and asked.due == {"tarn": at} and asked.buffer_h == 3
    assert str(asked.start.tzinfo) == "Europe/Berlin"
    assert made.digest != made.model_copy(update={"hours": "sat 09:00-17:00"}).digest
    assert made.digest == made.begun(at).digest and made.same(made.begun(at))
    assert made.pinned("tarn/a", at).asked.pins == {"tarn/a": at} and not made.pinned("tarn/a", None).asked.pins


def test_a_solver_that_was_started_answers_from_the_process_that_is_there():
    made = Solver()
    try:
        made.start()
        child = made._child
        made.start()
        heard = []
        waited(made.ask("one", put(), heard.append), lambda one: one.made is not None or one.wrong)
        assert heard and made._child is child
    finally:
        made.close()
