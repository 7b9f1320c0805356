"""The archive on its page: saved, sent, told first, taken in; a scene with its photos given away; the verbs."""

import html
import io
import re
import zipfile

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.core.document.edit import set_fields
from isostasis.exchange.archive import read_archive
from isostasis.store import photos, scenes, shelved
from isostasis.web.archive import waiting
from tests.support.archives import packed, zipped


@pytest.fixture(autouse=True)
def own_folder(monkeypatch, tmp_path):
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))


def everything(reader):
    answer = reader.get("/archive/everything.zip")
    assert answer.mimetype == "application/zip" and int(answer.headers["Content-Length"]) == len(answer.data)
    return answer.data


def sent(reader, content, status=303, name="all.zip", url="/archive"):
    return reader.post(url, status, file=(io.BytesIO(content), name))


def test_saved_told_and_brought_back(reader, database, clock):
    content = everything(reader)
    with database.writing() as session:
        row = scenes.find(session, "kettle-fen")
        scenes.save(
            session, row, row.head.number, set_fields(scenes.document(row.head), {"name": "Spoilt"}), "x", clock.at
        )
    there = sent(reader, content).headers["Location"]
    text = reader.text(there)
    assert "5 scenes, saved" in text and "All that is here goes: Hollin Delf" in text
    assert "Kettle Fen is here, but otherwise: the one that comes stands beside it, as kettle-fen-2" in text
    with database.reading() as session:
        assert scenes.name_of(scenes.find(session, "kettle-fen").head) == "Spoilt"  # told, nothing done
    reader.post(there, way="replace")
    assert "5 of 5 plans are the same" in reader.text("/")
    with database.reading() as session:
        assert scenes.name_of(scenes.find(session, "kettle-fen").head) == "Kettle Fen"
    assert "waits no more" in html.unescape(reader.post(there, 422, way="replace").text)


def test_merged_from_the_page_of_scenes_too(reader, database, clock):
    content = everything(reader)
    with database.writing() as session:
        shelved.bin_(scenes.find(session, "kettle-fen"), clock.at)
    there = sent(reader, content, url="/scenes/import").headers["Location"]
    reader.post(there, way="merge")
    with database.reading() as session:
        assert scenes.find(session, "kettle-fen-2")


def test_a_scene_is_given_away_with_its_photos(reader, database):
    content = reader.get("/s/kettle-fen/archive.zip").data
    found = read_archive(content)
    assert len(found.pictures) == 2 and [one.step for one in found.steps] == ["ground-skin"]
    there = sent(reader, content).headers["Location"]
    slug = re.search(r"/s/([^/]+)/", there)[1]
    with database.reading() as session:
        first, other = (scenes.find(session, one) for one in ("kettle-fen", slug))
        kept = photos.of(session, other)
        assert [(one.step, one.note, one.digest) for one in kept] == [
            (one.step, one.note, one.digest) for one in photos.of(session, first)]  # fmt: skip
        assert scenes.document(other.head).photo.left_out is False


def spoilt(content, name, data):
    """The same archive with one file otherwise."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(out, "w") as new:
        for one in old.namelist():
            new.writestr(one, data if one == name else old.read(one))
    return out.getvalue()


@pytest.mark.parametrize(
    ("make", "sentence"),
    [
        (lambda whole, scene: b"tea", "it is no archive"),
        (lambda whole, scene: whole[: len(whole) // 2], "damaged"),
        (lambda whole, scene: zipped(**{"readme.txt": "hello"}), "there is no scene.json"),
        (lambda whole, scene: spoilt(scene, "steps.json", '[{"step": "a"}]'), "names photos that are not in it"),
        (lambda whole, scene: spoilt(scene, "photo-taken.webp", b"tea"), "none that was kept here"),
        (lambda whole, scene: spoilt(scene, "scene.json", "{}"), "isostasis"),
        (lambda whole, scene: spoilt(scene, "steps.json", '[{"file": "scene.json", "step": "a", "moment": "before",'
                                     ' "note": "", "at": "2027-01-01T00:00:00+00:00"}]'), "none that was kept here"),
    ],
)  # fmt: skip
def test_what_cannot_be_opened_is_told_and_nothing_kept(reader, database, make, sentence):
    content = make(everything(reader), reader.get("/s/kettle-fen/archive.zip").data)
    with database.reading() as session:
        before = len(scenes.all_scenes(session))
    assert sentence in html.unescape(sent(reader, content, 422).text)
    with database.reading() as session:
        assert len(scenes.all_scenes(session)) == before


def test_a_way_that_is_none_and_a_file_that_is_none(reader, database, clock):
    there = sent(reader, packed(database, clock.at)).headers["Location"]
    assert "merge or replace" in html.unescape(reader.post(there, 422, way="burn").text)
    assert "nothing was chosen" in html.unescape(reader.post("/archive", 422).text)
    for digest in ("a" * 64, "x", "..%2f..%2fetc"):
        answer = reader.client.get(f"/archive/{digest}")
        assert answer.status_code in (404, 422)


def test_few_wait_at_once(reader, database, tmp_path):
    for number in range(waiting.MOST + 2):
        waiting.keep(io.BytesIO(str(number).encode()))
    assert len(list(tmp_path.glob("isostasis-incoming-*/*"))) == waiting.MOST


def test_the_verbs(database, tmp_path):
    runner, file = CliRunner(), tmp_path / "all.zip"

    def said(*arguments, code=0):
        result = runner.invoke(main, [*map(str, arguments)])
        assert result.exit_code == code, result.output
        return result.output

    assert "5 scenes" in said("archive", file, "--db", database.path)
    other = tmp_path / "other.db"
    assert "Kettle Fen comes." in said("unpack", file, "--db", other, "--look")
    assert "nothing was changed" in runner.invoke(main, ["unpack", str(file), "--db", str(other)], input="n\n").output
    assert "Kettle Fen: its plan is the same, by its hash" in said("unpack", file, "--db", other, "--yes")
    assert "here already" in said("unpack", file, "--db", other, "--yes")
    assert "All that is here goes" in said("unpack", file, "--db", other, "--replace", "--yes")
    file.write_bytes(file.read_bytes()[:500])
    assert "damaged" in said("unpack", file, "--db", other, code=2)
    assert "no such file" in said("unpack", tmp_path / "none.zip", "--db", other, code=2)
    assert "cannot be written" in said("archive", tmp_path / "no" / "where.zip", "--db", database.path, code=2)
