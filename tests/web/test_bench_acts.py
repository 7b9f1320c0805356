"""At the bench beside marks: pauses, photos, what was left, cautions read, rings heard and put off, touches of the cup."""

import io
from datetime import timedelta

import pytest
from PIL import Image

from isostasis.store import cautions, marks, photos, pictures, scenes, shelf
from isostasis.store import timers as notes
from tests.support.forms import forms_of

MARK = "/s/tarn/clock/mark"


def row_of(session, slug="hollin-delf"):
    return scenes.find(session, slug)


def jpeg(width=900, height=600, where=True):
    image, out = Image.new("RGB", (width, height), "#88776a"), io.BytesIO()
    exif = image.getexif()
    if where:
        exif.get_ifd(0x8825)[2] = (59.0, 54.0, 30.0)  # latitude
        exif[0x010F] = "A camera"
    image.save(out, "JPEG", exif=exif)
    return out.getvalue()


def photograph(reader, status=303, data=None, slug="hollin-delf", name="shot.jpg", **fields):
    sent = {
        "csrf_token": reader.token,
        "step": "lake-seal-2",
        "moment": "after",
        "photo": (io.BytesIO(data or jpeg()), name),
    }
    answer = reader.client.post(f"/s/{slug}/shots", data=sent | fields, content_type="multipart/form-data")
    assert answer.status_code == status, answer.text
    return answer


def test_a_pause_is_no_end_and_no_beginning(reader, database, clock):
    reader.post(MARK, 422, step="form-slab", what="paused")
    reader.post(MARK, step="form-slab", what="started")
    begun = clock.at
    clock.pass_by(minutes=10)
    reader.post(MARK, step="form-slab", what="paused")
    (form,) = [one for one in forms_of(reader.get("/bench").text) if one.action.endswith("/finish")]
    reader.post(form.action, **form.values)  # an open cup comes first
    assert "paused" in reader.text("/bench") and "Go on" in reader.text("/bench")
    reader.post(MARK, 422, step="form-slab", what="paused")
    clock.pass_by(hours=2)
    reader.post(MARK, step="form-slab", what="started")
    with database.reading() as session:
        known = marks.marks(marks.events(session, row_of(session, "tarn")))
    assert known.started["form-slab"] == begun and not known.paused
    clock.pass_by(minutes=5)
    reader.post(MARK, step="form-slab", what="done")
    with database.reading() as session:
        (built,) = scenes.resolve(session, row_of(session, "tarn").head).built
    assert built.begun == begun


def test_a_photo_is_kept_small_and_whole_without_where_it_was_taken(reader, database):
    photograph(reader, note="the second coat")
    with database.reading() as session:
        (row,) = photos.of(session, row_of(session))
        whole, small = (Image.open(io.BytesIO(pictures.find(session, one).content)) for one in (row.digest, row.thumb))
    assert max(small.size) <= 480 < max(whole.size) and not whole.getexif() and not small.getexif()
    assert reader.get(f"/s/hollin-delf/shots/{row.thumb}.webp").mimetype == "image/webp"
    assert "the second coat" in reader.text("/bench") and "the second coat" in reader.text("/s/hollin-delf/clock/diary")
    reader.get(f"/s/tarn/shots/{row.digest}.webp", 404)  # another scene's
    reader.post(f"/s/hollin-delf/shots/{row.id}/off")
    reader.post(f"/s/hollin-delf/shots/{row.id}/off", 422)
    assert "the second coat" not in reader.text("/s/hollin-delf/clock/diary")
    reader.get(f"/s/hollin-delf/shots/{row.digest}.webp", 404)


@pytest.mark.parametrize(
    ("data", "fields", "told"),
    [(b"no picture", {}, "no picture of a kind"), (None, {"moment": "during"}, "before or after"),
     (jpeg(100, 100), {}, "at least 200 px"), (jpeg()[:900], {}, "breaks off")],
)  # fmt: skip
def test_what_is_no_photo_of_a_step_is_refused(reader, data, fields, told):
    assert told in photograph(reader, 422, data, **fields).text


def test_photos_of_steps_outlive_the_clearing_of_what_nothing_shows(reader, database, clock):
    photograph(reader)
    clock.pass_by(days=3)
    photograph(reader, data=jpeg(800, 500), slug="tarn", step="form-slab")
    with database.reading() as session:
        assert all(
            pictures.find(session, one.digest) and pictures.find(session, one.thumb)
            for slug in ("tarn", "hollin-delf")
            for one in photos.of(session, row_of(session, slug))
        )


def test_what_was_left_of_a_step_goes_back_to_the_shelf(reader, database):
    reader.post("/s/hollin-delf/clock/mark", step="sump-gravel", what="done")
    with database.reading() as session:
        event = next(one for one in marks.events(session, row_of(session)) if one.step == "sump-gravel")
        (took,) = shelf.taken_by(session, event)
        before = shelf.left_of(session, took.pack)
    (form,) = [one for one in forms_of(reader.get("/bench").text) if one.values.get("line") == [str(took.line.id)]]
    reader.post(form.action, 422, **form.values | {"left": "lots"})
    reader.post(form.action, 422, **form.values | {"left": "90000 ml"})
    reader.post(form.action, **form.values | {"left": "5 ml"})
    with database.reading() as session:
        assert shelf.left_of(session, shelf.find(session, took.pack.id)) > before
    reader.post("/s/hollin-delf/left", 422, line="99999", left="5 ml")


def test_cautions_are_read_once_about_a_batch_and_that_is_kept(reader, database, clock):
    about = "lake-water-1-1"
    assert "I have read it" in reader.text("/s/hollin-delf/mix") and "if it happened" in reader.text(
        "/s/hollin-delf/mix"
    )
    reader.post("/s/hollin-delf/caution", about=about, code=["resin-skin", "resin-cup", "flame-vapour"])
    first = clock.at
    clock.pass_by(minutes=5)
    reader.post("/s/hollin-delf/caution", about=about, code=["resin-skin"])
    with database.reading() as session:
        assert cautions.read_of(session, row_of(session), about)["resin-skin"] == first
    assert "I have read it" not in reader.text("/s/hollin-delf/mix")
    assert "I have read it" in reader.text("/s/hollin-delf/mix?batch=lake-water-2-1")  # another batch


def test_a_ring_is_put_off_with_its_risk_told_and_heard(reader, database, clock):
    clock.pass_by(minutes=35)
    page = reader.text("/wet-line?here=/bench")
    assert "Working time Pit lake" in page and "After that it thickens" in page
    reader.post("/s/hollin-delf/ring", timer="cup:3", what="later")
    held = reader.source("/wet-line?here=/bench").partition('aria-label="working time, Pit lake"')
    assert held[2].lstrip().startswith("hidden")
    clock.pass_by(minutes=6)
    assert "Working time Pit lake" in reader.text("/wet-line?here=/bench")
    reader.post("/s/hollin-delf/ring", timer="cup:3", what="heard")
    assert "Working time Pit lake" not in reader.text("/wet-line?here=/bench")
    with database.reading() as session:
        assert notes.notes(session, row_of(session))["cup:3"].until is None
    reader.post("/s/hollin-delf/ring", 422, timer="cup:99", what="heard")
    reader.post("/s/hollin-delf/ring", 422, timer="cup:3", what="dance")
    reader.post("/s/hollin-delf/ring", 422, timer="cup:3", what="later", minutes="0")


def test_a_touch_of_the_kept_cup_moves_the_layer(reader, database, clock):
    (form,) = [one for one in forms_of(reader.get("/bench").text) if one.action.endswith("/finish")]
    reader.post(form.action, **form.values)

    def ready():
        with database.reading() as session:
            known = marks.marks(marks.events(session, row_of(session)))
        return known.not_yet.get("lake-water-1"), known.ready.get("lake-water-1")

    clock.pass_by(hours=10)
    reader.post("/s/hollin-delf/clock/mark", step="lake-water-1", what="cup-not-yet")
    not_yet, _ = ready()
    assert not_yet is not None and not_yet != clock.at
    clock.pass_by(hours=20)
    reader.post("/s/hollin-delf/clock/mark", step="lake-water-1", what="cup-ready")
    assert ready()[1] > not_yet
    reader.post("/s/hollin-delf/clock/mark", step="lake-water-1", what="undone")
    assert ready() == (not_yet, None)
    told = reader.post("/s/hollin-delf/clock/mark", 422, step="heap-skin", what="cup-ready").text
    assert "touch the work itself" in told
    assert timedelta(0) < not_yet - (clock.at - timedelta(hours=30)) < timedelta(hours=30)


def test_vapour_that_is_about_is_told_first_by_what_is_really_going_on(reader, clock):
    assert "Vapour since" not in reader.text("/bench")
    reader.post("/s/hollin-delf/clock/mark", step="sump-gravel", what="done")
    reader.post("/s/hollin-delf/clock/mark", step="sump-fix", what="started")
    clock.pass_by(minutes=6)
    page = reader.text("/bench")
    assert "Vapour since 19:00 , Sump: no flame, hot wire or hot glue until it is done and half an hour aired" in page
    reader.post("/s/hollin-delf/clock/mark", step="sump-fix", what="done")
    assert "before 19:36" in reader.text("/bench")
    clock.pass_by(minutes=31)
    assert "Vapour since" not in reader.text("/bench")


def test_a_bowl_that_was_emptied_is_to_be_washed_before_it_sets(reader, clock):
    reader.post("/s/kettle-fen/mix/ground-skin-1-1/start")
    page = reader.get("/s/kettle-fen/mix?batch=ground-skin-1-1").text
    (form,) = [one for one in forms_of(page) if one.action.endswith("/finish")]
    clock.pass_by(minutes=12)
    reader.post(form.action, **form.values)
    told = reader.text("/wet-line?here=/bench")
    assert "Clean-up Ground" in told and "bucket of water" in told and "sets hard in the bowl" in told
