"""Everything to an archive and back: alike by the hash of every plan, merged twice, killed in the middle, of earlier
versions, and of what is none.
"""

import io
import json
import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import zipfile
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from sqlalchemy import select

from isostasis.core.document.edit import set_fields
from isostasis.core.fault import Faults
from isostasis.exchange import archive as packing
from isostasis.exchange.archive import holds_everything, opened
from isostasis.store import Database, archive, labels, records, scenes, settings, swatches
from isostasis.store.tables import ClockRow, DeviceRow, MishapRow, PictureRow
from tests.support.archives import brought, of_file, packed, taken_in, zipped

AT = datetime(2027, 3, 4, 18, 0, tzinfo=UTC)
DATA = Path(__file__).parents[1] / "data"
HEAD = {"isostasis_archive": 1, "schema": archive.NEWEST, "made_at": AT.isoformat(), "scenes": [], "rows": {}}


@pytest.fixture
def workshop(demo_file, tmp_path):
    """A database in which everything is to be found."""
    made = Database(shutil.copy(demo_file, tmp_path / "workshop.db"))
    with made.writing() as session:
        label = labels.entry_of(labels.catalogue(session), "mix", "glue-water-1-1")
        labels.keep(session, label.model_copy(update={"name": "My glue water"}), AT)
        session.add(DeviceRow(name="phone", role="bench", key="k" * 64, paired_at=AT, seen_at=AT))
        settings.change(session, secret="never told")
    yield made
    made.close()


def rows(database):
    with database.reading() as session:
        return {one.name: list(archive.rows_of(session, one)) for one in archive.kept()}


def bare(found):
    return {name: len(rows) for name, rows in found.items()}


def test_everything_comes_back_alike(workshop, database, tmp_path):
    content = packed(workshop, AT)
    told, same = taken_in(content, database, "replace", tmp_path)
    assert len(same) == 5 and all(same.values()), same
    assert rows(database) == rows(workshop)
    assert any("In its place come Hollin Delf" in one for one in told.sentences)
    with workshop.reading() as there, database.reading() as here:
        for row in there.scalars(select(PictureRow)):
            assert here.get_one(PictureRow, row.digest).content == row.content
        tokens = [set(session.scalars(select(ClockRow.token))) for session in (there, here)]
        assert not tokens[0] & tokens[1]  # whoever had a calendar's address there has none here
        assert settings.read(here).secret is None and not here.scalars(select(DeviceRow)).all()
        assert [one.factor for one in records.factors(here)] == [one.factor for one in records.factors(there)]
    with database.writing() as session:  # new rows find numbers of their own
        scenes.copy(session, scenes.find(session, "kettle-fen"), AT)
        trial = swatches.find(session, 1)
        scores = {one.place: {"hold": 5, "scratch": 5, "colour": 5} for one in trial.lanes}
        assert swatches.judge(session, trial, [1, 2, 3, 4, 5], scores, AT).id


def test_nothing_of_devices_and_keys_is_in_it(workshop):
    content = packed(workshop, AT)
    with zipfile.ZipFile(io.BytesIO(content)) as found:
        text = b"".join(found.read(name) for name in found.namelist() if name.endswith(("jsonl", "json")))
    with workshop.reading() as session:
        tokens = list(session.scalars(select(ClockRow.token)))
    assert b"never told" not in text and b"k" * 64 not in text
    assert tokens and not any(token.encode() in text for token in tokens)
    assert holds_everything(io.BytesIO(content))


def test_merged_into_an_empty_one_and_once_more(workshop, database, tmp_path):
    content = packed(workshop, AT)
    for name in ("one", "two"):
        (tmp_path / name).mkdir()
    told, same = taken_in(content, database, "merge", tmp_path / "one")
    assert all(same.values()) and len(same) == 5 and "Kettle Fen comes." in told.sentences
    assert "Your label glue-water-1-1 comes." in told.sentences
    found = bare(rows(database))
    assert found == bare(rows(workshop))
    with database.reading() as session:
        kept = session.scalars(select(MishapRow.key)).one()
        assert kept in {one.key for one in records.records(session) if one.mishap}
    again, same = taken_in(content, database, "merge", tmp_path / "two")
    assert all(same.values()) and bare(rows(database)) == found
    assert all("here already" in one for one in again.sentences), again.sentences


def test_what_is_here_otherwise_stays_and_the_other_stands_beside(workshop, database, tmp_path):
    content = packed(workshop, AT)
    for name in ("one", "two"):
        (tmp_path / name).mkdir()
    taken_in(content, database, "replace", tmp_path / "one")
    with database.writing() as session:
        row = scenes.find(session, "kettle-fen")
        changed = set_fields(scenes.document(row.head), {"name": "Kettle Fen, drained"})
        scenes.save(session, row, row.head.number, changed, "drained", AT + timedelta(hours=1))
        label = labels.entry_of(labels.catalogue(session), "mix", "glue-water-1-1")
        labels.keep(session, label.model_copy(update={"name": "Another"}), AT)
        settings.change(session, currency="£")
    before = rows(database)
    told, same = taken_in(content, database, "merge", tmp_path / "two")
    assert any("stands beside it, as kettle-fen-2" in one for one in told.sentences)
    assert any("glue-water-1-1 says otherwise here" in one for one in told.sentences)
    with database.reading() as session:
        assert scenes.name_of(scenes.find(session, "kettle-fen").head) == "Kettle Fen, drained"
        assert scenes.name_of(scenes.find(session, "kettle-fen-2").head) == "Kettle Fen"
        assert settings.read(session).currency == "£"
        assert labels.catalogue(session).mixes["glue-water-1-1"].name == "Another"
    assert len(rows(database)["pack"]) == len(before["pack"]) and len(rows(database)["scrap"]) == len(before["scrap"])
    assert same["Hollin Delf"] in (True, False)


KILLED = """
import os, signal, sys
from pathlib import Path
from isostasis.exchange.archive import opened
from isostasis.store import Database, archive
real = archive._copy
def half(here, there):
    real(here, there)
    here.flush()
    os.kill(os.getpid(), signal.SIGKILL)
archive._copy = half
import tempfile
with opened(Path(sys.argv[1])) as whole, archive.scratch(whole, Path(tempfile.mkdtemp(dir=sys.argv[3]))) as brought:
    with brought.reading() as there, Database(Path(sys.argv[2])).writing() as here:
        archive.take_in(here, there, "replace")
"""


def test_killed_in_the_middle_nothing_has_changed(workshop, tmp_path):
    file, other = tmp_path / "all.zip", tmp_path / "other.db"
    file.write_bytes(packed(workshop, AT))
    made = Database(other)
    with made.writing() as session:
        settings.change(session, currency="mine")
    before = rows(made)
    made.close()
    ended = subprocess.run([sys.executable, "-c", KILLED, str(file), str(other), str(tmp_path)], check=False,
                           env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)})  # fmt: skip
    assert ended.returncode == -signal.SIGKILL
    made = Database(other)
    assert rows(made) == before
    (tmp_path / "then").mkdir()
    _, same = taken_in(file.read_bytes(), made, "replace", tmp_path / "then")
    assert all(same.values())
    made.close()


def test_an_archive_of_the_first_version_that_kept_work_opens(tmp_path, database):
    """The tables of 0003, with what a person had in them then."""
    old = tmp_path / "old.db"
    with closing(sqlite3.connect(old)) as file:
        file.executescript((DATA / "store-0003.sql").read_text("utf-8"))
        slugs = [slug for (slug,) in file.execute("select slug from scene")]
    (tmp_path / "in").mkdir()
    taken_in(of_file(old, "0003"), database, "merge", tmp_path / "in")
    with database.reading() as session:
        assert slugs and {row.slug for row in scenes.all_scenes(session)} >= set(slugs)


@pytest.mark.parametrize("path", sorted(DATA.glob("archive-*.zip")), ids=lambda one: one.stem)
def test_archives_that_were_saved_once_keep_opening(path, database, tmp_path):
    _, same = taken_in(path.read_bytes(), database, "merge", tmp_path)
    with database.reading() as session:
        assert {row.slug for row in scenes.all_scenes(session)} == {"ember-pools"}
        assert [one.scrap.title for one in swatches.trials(session)] == ["Which skin cracks least?"]
        assert records.records(session)
    assert same


def entry(**more):
    return json.dumps({**HEAD, **more})


MAX_MB = 50


def bomb():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr("archive.json", entry())
        with made.open("tables/scene.jsonl", "w", force_zip64=True) as line:
            for _ in range(MAX_MB + 1):
                line.write(b"\0" * 1_000_000)
    return out.getvalue()


def twice():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made, pytest.warns(UserWarning):
        for _ in range(2):
            made.writestr("archive.json", entry())
    return out.getvalue()


GOOD = zipped(**{"archive.json": entry(), "tables/setting.jsonl": '{"name":"currency","value":"€"}\n'})


@pytest.mark.parametrize(
    ("content", "sentence"),
    [
        (b"", "damaged"), (b"tea", "damaged"), (GOOD[: len(GOOD) // 2], "damaged"),
        (GOOD[:120] + b"\xff" + GOOD[121:], "damaged"),
        (zipped(**{"scene.json": "{}"}), "no archive of ours"),
        (zipped(**{"archive.json": entry(), "../../etc/passwd": "x"}), "which no archive of ours has"),
        (zipped(**{"archive.json": entry(), "/tables/scene.jsonl": "x"}), "which no archive of ours has"),
        (zipped(**{"archive.json": entry(isostasis_archive=9)}), "newer version"),
        (zipped(**{"archive.json": entry(schema="9999")}), "newer version"),
        (zipped(**{"archive.json": "[]"}), "says nothing of Isostasis"), (zipped(**{"archive.json": "{"}), "damaged"),
        (zipped(**{"archive.json": entry(scenes="x")}), "does not name its scenes"),
        (zipped(**{"archive.json": entry(scenes=[{"slug": 1}])}), "does not name its scenes"),
        (zipped(**{"archive.json": entry(), "tables/scene.jsonl": '{"id":1,"slug":"fen","created_at":"2027-01-01T00:00:00+00:00"}\n'}),
         "it has no document"),
        (zipped(**{"archive.json": entry(), "tables/teapot.jsonl": "{}"}), "a table “teapot”"),
        (zipped(**{"archive.json": entry(), "tables/device.jsonl": "{}"}), "a table “device”"),
        (zipped(**{"archive.json": entry(), "tables/setting.jsonl": "[1]\n"}), "no row of a table"),
        (zipped(**{"archive.json": entry(), "tables/setting.jsonl": '{"name":"a","colour":1}\n'}), "colour"),
        (zipped(**{"archive.json": entry(), "tables/setting.jsonl": '{"name":"a"}\n'}), "do not fit together"),
        (zipped(**{"archive.json": entry(), "tables/score_round.jsonl":
                   '{"id":1,"scrap_id":7,"order":[],"scores":{},"note":"","at":"2027-01-01T00:00:00+00:00"}\n'}), "refer to what"),
        (zipped(**{"archive.json": entry(), "tables/picture.jsonl":
                   '{"digest":"%s","width":1,"height":1,"kept_at":"2027-01-01T00:00:00+00:00"}\n' % ("a" * 64)}), "missing"),
    ],
)  # fmt: skip
def test_what_is_no_archive_is_told_and_changes_nothing(content, sentence, tmp_path):
    made = Database(tmp_path / "here.db")
    before = rows(made)
    with pytest.raises(Faults, match=sentence):
        taken_in(content, made, "replace", tmp_path)
    assert rows(made) == before
    made.close()


def test_bombs_and_twins_are_told_before_they_are_unpacked(monkeypatch):
    assert packing.MAX_TABLE_BYTES == 1e9  # as docs/formats.md says; to pack that much takes seconds
    monkeypatch.setattr(packing, "MAX_TABLE_BYTES", MAX_MB * 1_000_000)
    for content, sentence in ((bomb(), f"larger than {MAX_MB} MB"), (twice(), "in it twice")):
        with pytest.raises(Faults, match=sentence), opened(io.BytesIO(content)):
            raise AssertionError


def test_a_good_one_is_good(tmp_path):
    with brought(GOOD, tmp_path) as (_, there):
        assert settings.read(there).currency == "€"
