"""Shared by all tests: scenes as data, resolved scenes, a database, the application with a clock of its own."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from isostasis.core.reading import read
from isostasis.demo import fill
from isostasis.store import Database, scenes
from isostasis.web.collecting import settle
from tests.support.scenes import Clock, scene_data, square
from tests.support.solving import Resting
from tests.support.store import SharedEngine, fresh
from tools.postgres import Server

# Nothing depends on how fast a machine is, and a run today is the run of tomorrow.
settings.register_profile("plain", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("plain")


def pytest_collection_finish():
    settle()  # else a twentieth of a run goes by looking through what stays


@pytest.fixture
def tarn():
    return scene_data()


@pytest.fixture
def pond():
    """A plain pond: 200 x 120 mm at the lip, 10 mm deep, in a 25 mm sheet."""
    return {
        "isostasis": 1,
        "name": "Pond",
        "grid_mm": 2,
        "base": {"width_mm": 300, "depth_mm": 200},
        "forms": [
            {"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 25},
            {"id": "hole", "kind": "basin", "outline": square(50, 40, 250, 160), "depth_mm": 10, "bank_deg": 45},
        ],
        "patches": [
            {
                "id": "pond",
                "name": "Pond",
                "area": {"rest": True},
                "lifts": [{"id": "water", "kind": "pour", "mix": "casting-resin", "level_mm": 24}],
            }
        ],
    }


@pytest.fixture(scope="session")
def standing(tmp_path_factory):
    return SharedEngine(tmp_path_factory.mktemp("standing"))


@pytest.fixture
def database(standing, tmp_path):
    opened = standing.over(fresh(tmp_path / "test.db"))
    yield opened
    opened.close()


@pytest.fixture(scope="session")
def server(tmp_path_factory):
    """A PostgreSQL server for all tests of a worker."""
    running = Server(tmp_path_factory.mktemp("server"))
    yield running
    running.close()


@pytest.fixture(scope="session")
def solving():
    """One process for all tests of a worker: it takes a second to start, and keeps its plans."""
    made = Resting()
    yield made
    made.close()


@pytest.fixture
def solver(solving):
    yield solving
    solving.rest()


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory):
    """A database with the demo scenes and the tarn, made once; tests get copies."""
    path = tmp_path_factory.mktemp("demo") / "demo.db"
    made = Database(path)
    fill(made, Clock().at)
    with made.writing() as session:
        scenes.create(session, read(scene_data()), "new", Clock().at)
    made.close()
    return path


@pytest.fixture
def demo_database(standing, demo_file, tmp_path):
    opened = standing.over(Path(shutil.copy(demo_file, tmp_path / "demo.db")))
    yield opened
    opened.close()
