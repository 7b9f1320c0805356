"""Grids of heights are kept once, whatever the number of revisions, and come back whole."""

import numpy as np
import pytest
from sqlalchemy import func, select

from isostasis.core.fault import Faults
from isostasis.core.ground.forms.survey import Grid
from isostasis.store import scenes
from isostasis.store.tables import BlobRow
from tests.support.scenes import written


@pytest.fixture
def surveyed(pond):
    z = np.random.default_rng(5).random((100, 150)) * 20 + 5
    pond["patches"][0]["lifts"] = []
    pond["forms"] = [{"id": "heights", "kind": "survey", "grid": Grid.of(z, 2.0).model_dump()}]
    return pond


def test_a_grid_is_kept_once_and_comes_back_whole(database, clock, surveyed):
    with database.writing() as session:
        row = scenes.create(session, written(surveyed), "first", clock())
        for number in range(2, 6):
            scenes.save(session, row, number - 1, written({**surveyed, "name": f"Pond {number}"}), "renamed", clock())
        copied = scenes.copy(session, row, clock())
        slugs = row.slug, copied.slug
    heights = surveyed["forms"][0]["grid"]["heights"]
    with database.reading() as session:
        assert session.scalar(select(func.count()).select_from(BlobRow)) == 1
        for slug in slugs:
            head = scenes.find(session, slug).head
            assert len(head.document) < 2000 < len(heights)
            assert scenes.data_of(head)["forms"][0]["grid"]["heights"] == heights
            assert scenes.exported(session, head)["forms"][0]["grid"]["heights"] == heights
        assert scenes.resolve(session, scenes.find(session, slugs[0]).head).forms[0].grid.rows == 100


def test_saving_the_same_again_makes_no_revision(database, clock, surveyed):
    with database.writing() as session:
        row = scenes.create(session, written(surveyed), "first", clock())
        assert scenes.save(session, row, 1, written(surveyed), "again", clock()).number == 1


def test_too_much_of_it_is_refused(database, clock, surveyed, monkeypatch):
    monkeypatch.setattr(scenes, "MAX_GRID_BYTES", 1000)
    with database.writing() as session, pytest.raises(Faults, match=r"its grids are larger than 0\.001 MB"):
        scenes.create(session, written(surveyed), "first", clock())
