"""A club's server: several processes at one database, one of which solves; what is asked in one is seen in all."""

import os
import re
import subprocess
import sys
import urllib.request
from contextlib import closing
from datetime import UTC, datetime, timedelta

import pytest

from isostasis.core.reading import read
from isostasis.core.schedule import Marks
from isostasis.core.schedule.requests import ClockRequest
from isostasis.solver import Solver, SolverJob, Unwanted
from isostasis.solver.question import question
from isostasis.store import Database, devices, jobs, scenes
from isostasis.store import clock as clocks
from isostasis.web import create_app
from isostasis.web.clock.shared_solver import SharedSolver
from tests.support.pages import Reader
from tests.support.scenes import Clock, scene_data
from tests.support.serving import answers
from tests.support.waiting import until
from tools.browser import free_port

NOW = datetime(2026, 3, 4, 19, tzinfo=UTC)


@pytest.fixture
def address(server):
    """Of a club's database with one scene."""
    where = server.address()
    with closing(Database(where)) as database, database.writing() as session:
        scenes.create(session, read(scene_data()), "new", NOW)
    return where


class Counted(Solver):
    """Counts what it is asked."""

    def __init__(self):
        super().__init__()
        self.keys = []

    def ask(self, key, *more, **named):
        self.keys.append(key)
        return super().ask(key, *more, **named)


@pytest.fixture
def two(address):
    """Two processes' shares of a club: their databases, their solvers, the clock of both."""
    clock = Clock()
    databases = [Database(address) for _ in range(2)]
    local = [Counted(), Counted()]
    shared = [SharedSolver(database, solver, clock) for database, solver in zip(databases, local, strict=True)]
    yield databases, local, shared, clock
    for one, database in zip(shared, databases, strict=True):
        one.close()
        database.close()


def solved(shared, key):
    """Turns of all until a question is answered."""

    def over():
        for one in shared:
            one.turn()
        job = shared[0].of(key)
        return job is not None and job.over

    until(over)
    return shared[0].of(key)


def test_one_process_solves_and_all_see_the_answer(two):
    databases, local, shared, clock = two
    first, second = (
        Reader(create_app(database, clock, "Europe/Berlin", solver))
        for database, solver in zip(databases, shared, strict=True)
    )
    first.get("/s/tarn/clock")
    key = f"{databases[0].name}:tarn"
    assert 'id="solving"' in second.client.get("/s/tarn/clock").text  # it is known there too that it is looked for
    job = solved(shared, key)
    assert job.made["status"] == "optimal" and sorted([len(one.keys) for one in local]) == [0, 1]

    def kept():
        with databases[1].reading() as session:
            return clocks.latest(session, scenes.find(session, "tarn"))

    until(lambda: kept() is not None)
    with databases[1].reading() as session:
        assert len(clocks.forecasts(session, scenes.find(session, "tarn"))) == 1  # kept once
    assert "no better order exists" in second.text("/s/tarn/clock")


class Telling(Counted):
    """Says what the test gives it."""

    def ask(self, key, question, on_answer, on_options=lambda _: None, about=""):
        self.keys.append(key)
        self.job = SolverJob(question, on_answer, on_options, about)
        return self.job


def test_times_that_hold_are_kept_by_who_asked_before_better_ones(address):
    clock, heard = Clock(), []
    with closing(Database(address)) as database:
        shared = SharedSolver(database, Telling(), clock)
        put = question({"tarn": scene_data()}, "sat 09:00-17:00", "UTC", ClockRequest(), {"tarn": Marks()}).begun(NOW)
        asking = shared.ask("tarn", put, heard.append)
        shared.turn()
        for name in ("first", "made"):
            setattr(shared._solver.job, name, {"finish": name})
            shared.turn()
            until(lambda told=name: getattr(asking, told) is not None)
        assert heard == [{"finish": "first"}, {"finish": "made"}]
        shared.close()


def test_who_asked_has_no_place_for_the_answer_any_more(address):
    def gone(made):
        raise Unwanted("It is gone.")

    clock = Clock()
    with closing(Database(address)) as database:
        shared = SharedSolver(database, Telling(), clock)
        put = question({"tarn": scene_data()}, "sat 09:00-17:00", "UTC", ClockRequest(), {"tarn": Marks()}).begun(NOW)
        asking = shared.ask("tarn", put, gone)
        shared.turn()
        shared._solver.job.made = {"finish": "made"}
        shared.turn()
        until(lambda: asking.over)
        assert shared.of("tarn").wrong == "It is gone."
        shared.close()


def test_another_takes_over_when_the_one_that_solved_is_gone(two):
    databases, local, shared, clock = two
    shared[0].turn()
    with databases[0].writing() as session:
        assert not jobs.holds_lease(session, "other", clock())
    Reader(create_app(databases[1], clock, "Europe/Berlin", shared[1])).get("/s/tarn/clock")
    shared[1].turn()
    assert local[1].keys == []  # the lease is not its
    clock.pass_by(seconds=16)
    job = solved(shared[1:], f"{databases[1].name}:tarn")
    assert job.made is not None and local[0].keys == []


def test_a_search_is_stopped_from_any_process(two):
    databases, _, shared, clock = two
    Reader(create_app(databases[0], clock, "Europe/Berlin", shared[0])).get("/s/tarn/clock")
    shared[0].turn()
    shared[1].cancel(f"{databases[1].name}:tarn")
    assert "told to stop looking" in shared[0].of(f"{databases[0].name}:tarn").wrong


def test_several_workers_serve_one_database(address, tmp_path):
    """Under gunicorn, behind a name; what one worker saves the others show."""
    port = free_port()
    environment = {**os.environ, "ISOSTASIS_DB": address, "ISOSTASIS_NAMES": f"127.0.0.1:{port}"}
    command = [sys.executable, "-m", "gunicorn", "-w", "2", "-b", f"127.0.0.1:{port}", "--log-level", "error",
               "isostasis.web.wsgi:create()"]  # fmt: skip
    running = subprocess.Popen(command, env=environment)
    try:
        until(lambda: answers(port))
        database = Database(address)
        with database.writing() as session:
            key = devices.pair(session, "Laptop", "all", datetime.now(UTC))
        page = urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=60)
        assert page.url.endswith("/pair")
        (name,) = {one.partition("=")[0] for one in page.headers.get_all("Set-Cookie")}
        cookies = {"Cookie": f"{name}-key={key}"}
        for _ in range(20):
            asked = urllib.request.Request(f"http://127.0.0.1:{port}/", headers=cookies)
            assert re.search("Tarn", urllib.request.urlopen(asked, timeout=60).read().decode())
        database.close()
    finally:
        running.terminate()
        running.wait(60)


def test_a_lease_is_held_by_one(database):
    with database.writing() as session:
        assert jobs.holds_lease(session, "a", NOW) and not jobs.holds_lease(session, "b", NOW)
        assert jobs.holds_lease(session, "a", NOW + timedelta(seconds=10))
        assert not jobs.holds_lease(session, "b", NOW + timedelta(seconds=20))
        assert jobs.holds_lease(session, "b", NOW + timedelta(seconds=26))
        jobs.release(session, "b", NOW)
        assert jobs.holds_lease(session, "a", NOW)
