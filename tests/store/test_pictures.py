"""Pictures are kept once, as long as a revision shows them, and a copy shows the same one."""

from datetime import UTC, datetime, timedelta

from isostasis.core.document.edit import set_fields
from isostasis.core.reading import read
from isostasis.store import pictures, scenes

NOW = datetime(2027, 3, 1, 19, tzinfo=UTC)


def photo(straight, taken):
    return {
        "straight": straight, "taken": taken, "width_mm": 300, "depth_mm": 200, "agree_mm": 0.4,
        "corners": [[0, 300], [400, 300], [400, 0], [0, 0]],
    }  # fmt: skip


def test_what_nothing_shows_goes_and_what_a_revision_shows_stays(database, pond):
    with database.writing() as session:
        taken, straight, loose = (pictures.keep(session, content, (4, 3), NOW) for content in (b"t", b"s", b"loose"))
        assert pictures.keep(session, b"t", (4, 3), NOW) == taken
        row = scenes.create(session, read({**pond, "photo": photo(straight, taken)}), "begun", NOW)
        scenes.save(session, row, 1, set_fields(scenes.document(row.head), {"photo": None}), "away", NOW)
    with database.writing() as session:
        pictures.keep(session, b"new", (4, 3), NOW + timedelta(hours=30))
    with database.reading() as session:
        assert pictures.find(session, loose) is None
        assert pictures.find(session, straight).content == b"s" and pictures.find(session, taken).width == 4


def test_a_copy_carries_it_and_an_export_says_that_it_is_left_out(database, pond):
    with database.writing() as session:
        digests = [pictures.keep(session, content, (4, 3), NOW) for content in (b"s", b"t")]
        row = scenes.create(session, read({**pond, "photo": photo(*digests)}), "begun", NOW)
        copy = scenes.copy(session, row, NOW)
        assert scenes.document(copy.head).photo.straight == digests[0]
        sent = scenes.exported(session, row.head)
        assert sent["photo"]["left_out"] is True
        back = scenes.create(session, read(sent), "back", NOW)
        assert scenes.document(back.head).photo.left_out is False  # its pictures are here
        sent["photo"]["straight"] = "0" * 64
        other = scenes.create(session, read({**sent, "name": "Elsewhere"}), "elsewhere", NOW)
        assert scenes.document(other.head).photo.left_out is True
