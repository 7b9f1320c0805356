"""The card on the scale: it follows what is poured, says when to stop, and writes the weight down by itself."""

import re
import socket
import threading

from isostasis.store import logbook, scenes, settings


def open_batch(database):
    with database.reading() as session:
        return next(
            row for row in logbook.batches(session, scenes.find(session, "hollin-delf")) if row.finished_at is None
        )


def test_the_card_follows_the_simulated_scale_and_writes_down_what_is_in(reader, database, clock):
    row = open_batch(database)
    url = f"/s/hollin-delf/mix/{row.id}/scale"
    first = next(part for part in logbook.batch_of(row).ingredients if part.key in row.actual)
    second = next(
        part for part in logbook.batch_of(row).ingredients if part.key not in row.actual and part.drops is None
    )
    page = reader.text(url)
    assert "simulated scale" in page and f"next: Casting resin, two-part, {second.part}" in page

    def pour(grams):
        clock.pass_by(seconds=20)
        reader.post(url, 200, how="pour", grams=str(grams))
        clock.pass_by(seconds=20)
        return reader.text(url)

    assert abs(row.actual[first.key] - float(page.split(" g on it")[0].split()[-1])) < 1  # the cup stands on it
    assert "Pour until" in pour(second.mass_g * 0.5)
    assert "Slow down" in pour(second.mass_g * 0.45)
    assert "Stop" in pour(second.mass_g * 0.05)
    assert "Too much is in" in pour(second.mass_g * 0.1)
    reader.post(url, how="in")
    with database.reading() as session:
        written = logbook.get_batch(session, scenes.find(session, "hollin-delf"), row.id).actual
    assert abs(written[second.key] - second.mass_g * 1.1) < 1
    assert f"Add {first.mass_g * 0.1:.1f}"[:6] in reader.text(url)  # what mends it comes next
    assert "The ratio is off" in reader.text("/s/hollin-delf/mix")
    assert "Stop" in pour(first.mass_g * 0.1)
    reader.post(url, how="in")
    with database.reading() as session:
        mended = logbook.get_batch(session, scenes.find(session, "hollin-delf"), row.id).actual
    assert abs(mended[second.key] / mended[first.key] - second.mass_g / first.mass_g) < 0.02
    assert "All parts are in" in reader.text(url)
    reader.post(url, 422, how="in")


def test_a_press_on_a_page_that_is_behind_writes_nothing(reader, database, clock):
    """Else a second tap on "Part B is in" would write down 0 g of what comes after it."""
    row = open_batch(database)
    url = f"/s/hollin-delf/mix/{row.id}/scale"
    second = next(part for part in logbook.batch_of(row).ingredients if part.key not in row.actual)
    place = re.search(r'name="place"\s+value="([^"]+)"', reader.source(url))[1]
    assert f"{url}?place={place}" in reader.source(url)
    reader.post(url, 200, how="pour", grams=str(second.mass_g * 1.2))
    clock.pass_by(seconds=20)
    reader.post(url, how="in", place=place)
    once = open_batch(database)
    assert second.key in once.actual
    for how in ("in", "wrong"):
        reader.post(url, how=how, place=place, key=second.key)
    twice = open_batch(database)
    assert (twice.actual, twice.walk) == (once.actual, once.walk)
    assert reader.get(f"{url}?place={place}", 204).text == ""


def test_an_unsteady_weight_is_not_written_down_and_bad_presses_are_told(reader, database, clock):
    row = open_batch(database)
    url = f"/s/hollin-delf/mix/{row.id}/scale"
    reader.post(url, 200, how="pour", grams="50")
    assert "it is not steady" in reader.post(url, 422, how="in").text
    for sent in ({"how": "pour", "grams": "lots"}, {"how": "pour", "grams": "9e9"}, {"how": "dance"}):
        reader.post(url, 422, **sent)
    clock.pass_by(seconds=30)
    reader.post(url, 200, how="pour", grams="4000")
    clock.pass_by(seconds=30)
    assert "More than the scale can weigh" in reader.text(url)


def test_a_tare_between_parts_is_told_and_nothing_is_written_down(reader, database, clock):
    row = open_batch(database)
    url = f"/s/hollin-delf/mix/{row.id}/scale"
    reader.post(url, 200, how="tare")
    clock.pass_by(seconds=30)
    assert "tare it before the first part only" in reader.text(url)
    assert "tare it before the first part only" in reader.post(url, 422, how="in").text
    assert open_batch(database).actual == row.actual


def test_a_real_scale_is_followed_and_its_silence_is_told(reader, database):
    server = socket.create_server(("127.0.0.1", 0))
    port = server.getsockname()[1]

    def answer():
        talk, _ = server.accept()
        with talk:
            talk.sendall(b"S 321.5 g B9\n")

    threading.Thread(target=answer, daemon=True).start()
    reader.post("/things/scale", 422, scale_at="kitchen")
    reader.post("/things/scale", scale_at=f"127.0.0.1:{port}")
    row = open_batch(database)
    url = f"/s/hollin-delf/mix/{row.id}/scale"
    page = reader.text(url)
    assert f"scale at 127.0.0.1:{port}" in page and "321.5 g on it" in page and "battery low" in page
    server.close()
    assert "The scale does not answer" in reader.text(url)
    reader.post(url, 422, how="pour", grams="5")
    reader.post("/things/scale", scale_at="")
    with database.reading() as session:
        assert settings.read(session).scale_at == ""
