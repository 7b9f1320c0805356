"""The archive keeps a scene whole and out of the way; the bin keeps it for 30 days, and then nothing of it is left."""

from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import func, select

from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.core.stock.model import NewPack
from isostasis.store import NoSuchScene, cautions, logbook, photos, scenes, shelf, shelved, timers
from isostasis.store.swatch_tables import SwatchRow
from isostasis.store.tables import (
    BatchRow,
    BuiltRow,
    MovedWaitRow,
    PackLineRow,
    PackRow,
    RevisionRow,
    SceneRow,
    StepEventRow,
)

NOW = datetime(2027, 3, 1, 19, tzinfo=UTC)


def begun(session, pond, name):
    """A scene with a revision more and a step done."""
    row = scenes.create(session, read({**pond, "name": name}), "begun", NOW)
    scenes.save(session, row, 1, read({**pond, "name": name, "copies": 2}), "two", NOW)
    resolved = scenes.resolve(session, row.head)
    made = plan(resolved)
    logbook.add_event(session, row, (resolved, made), made.steps[0], "done", NOW)
    return row


def test_away_and_back(database, pond):
    with database.writing() as session:
        kept, put_away, thrown = (begun(session, pond, name) for name in ("Kept", "Archived", "Thrown"))
        shelved.archive(put_away, NOW)
        shelved.bin_(thrown, NOW)
        assert (
            [name for _, name in scenes.named(session)]
            == ["Kept"]
            == [scenes.name_of(one.head) for one in scenes.all_scenes(session)]
        )
        assert [one.slug for one in shelved.archived(session)] == ["archived"]
        assert [one.slug for one in shelved.binned(session)] == ["thrown"]
        assert scenes.find(session, "archived") is put_away and logbook.at_work(session) == [kept]
        with pytest.raises(NoSuchScene):
            scenes.find(session, "thrown")
        assert shelved.take_out(session, "thrown") is thrown and scenes.find(session, "thrown") is thrown
        with pytest.raises(NoSuchScene):
            shelved.take_out(session, "thrown")
        shelved.archive(put_away, None)
        assert len(scenes.named(session)) == 3


def test_after_thirty_days_the_bin_is_empty(database, pond):
    with database.writing() as session:
        begun(session, pond, "Kept")
        shelved.bin_(begun(session, pond, "Thrown"), NOW)
    with database.writing() as session:
        assert shelved.empty_bin(session, NOW + timedelta(days=29)) == 0
        assert shelved.empty_bin(session, NOW + timedelta(days=31)) == 1
    with database.reading() as session:
        assert session.scalar(select(func.count(SceneRow.id))) == 1
        for table, left in ((RevisionRow, 2), (StepEventRow, 1)):
            assert session.scalar(select(func.count()).select_from(table)) == left
        assert session.scalar(select(func.count()).select_from(BuiltRow)) <= 1
        assert scenes.find(session, "kept").head.number == 2


def test_what_hangs_on_a_scene_goes_with_it_and_the_shelf_keeps_what_was_taken(database, pond):
    with database.writing() as session:
        row = scenes.create(session, read(pond), "new", NOW)
        opened = scenes.resolve(session, row.head)
        made = plan(opened)
        step = made.steps[0]
        event = logbook.add_event(session, row, (opened, made), step, "done", NOW)
        pack = shelf.add(session, NewPack("white-glue", 500.0), NOW)
        session.add(PackLineRow(pack_id=pack.id, what="taken", amount=40.0, event_id=event.id, at=NOW))
        timers.put_off(session, row, "ready:x", None, NOW)
        cautions.mark_read(session, row, step.id, ["knife"], NOW)
        photos.add(session, row, step.id, "after", (b"whole", (9, 9)), (b"small", (3, 3)), NOW)
        session.add(MovedWaitRow(scene_id=row.id, event_id=event.id, hours=3.0, at=NOW))
        shelved.bin_(row, NOW)
        session.flush()
        assert shelved.empty_bin(session, NOW + timedelta(days=31)) == 1
    with database.reading() as session:
        assert shelf.left_of(session, session.get(PackRow, pack.id)) == 460


def test_a_lane_stays_when_the_batch_that_it_was_laid_of_goes(demo_database, clock):
    with demo_database.writing() as session:
        row = scenes.find(session, "hollin-delf")
        batch = session.scalars(select(BatchRow).where(BatchRow.scene_id == row.id)).first()
        session.scalars(select(SwatchRow)).first().batch_id = batch.id
        shelved.bin_(row, clock.at)
    with demo_database.writing() as session:
        assert shelved.empty_bin(session, clock.at + timedelta(days=31)) == 1
        assert session.scalars(select(SwatchRow)).first().batch_id is None
