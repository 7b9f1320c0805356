"""Undo and redo go over marks as over edits, in the order in which they were made, and say what they did."""

from isostasis.store import marks, scenes
from tests.support.pages import document


def done(database, slug="tarn"):
    with database.reading() as session:
        row = scenes.find(session, slug)
        return set(marks.marks(marks.events(session, row)).done)


def settings(reader, base, name):
    reader.post("/s/tarn/settings", base=base, name=name, width_mm="300", depth_mm="200", copies="1", dammed="south")


def test_marks_and_edits_are_undone_in_their_order(reader, database):
    page = "/s/tarn/layup"
    settings(reader, 1, "Mere")
    for step in ("tarn-skin", "tarn-seal-1"):
        reader.post("/s/tarn/clock/mark", step=step, what="done", here=page)
    assert done(database) == {"tarn-skin", "tarn-seal-1"}
    reader.post("/s/tarn/undo", here=page)
    told = reader.text(page)
    assert "Undone: “" in told and "marked as done" in told
    assert done(database) == {"tarn-skin"} and document(database)[0] == 2
    reader.post("/s/tarn/undo", here=page)
    assert done(database) == set() and document(database)[0] == 2
    reader.post("/s/tarn/undo", here=page)
    assert document(database)[0] == 1 and "Undone: Renamed to Mere" in reader.text(page)
    reader.post("/s/tarn/redo", here=page)
    assert document(database)[0] == 2 and done(database) == set()
    for wanted in ({"tarn-skin"}, {"tarn-skin", "tarn-seal-1"}, {"tarn-skin", "tarn-seal-1"}):
        reader.post("/s/tarn/redo", here=page)
        assert done(database) == wanted
    assert "Done again" in reader.text(page) or "Undone" not in reader.text(page)


def test_what_was_built_comes_back_with_its_mark(reader, database):
    def built():
        with database.reading() as session:
            row = scenes.find(session, "tarn")
            return [
                (one.lift.id, round(one.volume_ml, 3), one.share) for one in scenes.resolve(session, row.head).built
            ]

    reader.post("/s/tarn/clock/mark", step="tarn-skin", what="part", share="40", here="/")
    before = built()
    assert len(before) == 1
    reader.post("/s/tarn/undo", here="/")
    assert built() == []
    reader.post("/s/tarn/redo", here="/")
    assert built() == before


def test_a_mark_made_meanwhile_ends_what_could_be_done_again(reader, database):
    reader.post("/s/tarn/clock/mark", step="tarn-skin", what="done", here="/")
    reader.post("/s/tarn/undo", here="/")
    reader.post("/s/tarn/clock/mark", step="tarn-skin", what="started", here="/")
    reader.post("/s/tarn/redo", here="/")
    assert done(database) == set()


def test_marks_of_another_day_are_left_to_the_clock(reader, database, clock):
    reader.post("/s/tarn/clock/mark", step="tarn-skin", what="done", here="/")
    clock.pass_by(hours=25)
    reader.post("/s/tarn/undo", here="/")
    assert done(database) == {"tarn-skin"}
