"""Presses that arrive late or twice, and what other devices are told of them."""

from datetime import timedelta

import pytest

from isostasis.store import marks, scenes
from isostasis.web.live import STREAMS

MARK = "/s/tarn/clock/mark"


def events(database, slug="tarn"):
    with database.reading() as session:
        return [(one.step, one.what, one.at) for one in marks.events(session, scenes.find(session, slug))]


def press(reader, headers, **data):
    return reader.client.post(MARK, data={"csrf_token": reader.token, **data}, headers=headers)


def test_a_press_that_is_sent_twice_is_done_once(reader, database):
    key = {"Idempotency-Key": "press-0001", "HX-Request": "true"}
    assert press(reader, key, step="form-slab", what="started").status_code == 204
    again = press(reader, key, step="form-slab", what="started")
    assert again.status_code == 204 and again.headers["Already-Sent"] == "yes"
    assert len(events(database)) == 1
    plain = press(reader, {"Idempotency-Key": "press-0001"}, step="form-slab", what="done", here="/bench")
    assert plain.status_code == 303 and plain.location == "/bench" and len(events(database)) == 1
    press(reader, {**key, "Idempotency-Key": "press-0002"}, step="form-slab", what="done")
    assert [what for _, what, _ in events(database)] == ["started", "done"]


def test_a_press_that_was_refused_may_be_sent_again_with_its_key(reader, database):
    key = {"Idempotency-Key": "press-0003", "HX-Request": "true"}
    assert press(reader, key, step="form-slab", what="skipped").status_code == 422  # no reason was given
    assert press(reader, key, step="form-slab", what="skipped", note="too damp").status_code == 204
    assert [what for _, what, _ in events(database)] == ["skipped"]


def test_a_press_counts_from_when_it_was_pressed(reader, database, clock):
    late = {"Idempotency-Key": "press-0004", "Pressed-Ago": "600", "HX-Request": "true"}
    assert press(reader, late, step="form-slab", what="done").status_code == 204
    assert events(database)[-1][2] == clock.at - timedelta(minutes=10)
    assert press(reader, {}, step="form-slab", what="undone").status_code == 303
    assert events(database)[-1][2] == clock.at


@pytest.mark.parametrize(
    "headers",
    [{"Idempotency-Key": "short"}, {"Idempotency-Key": "no spaces in it"}, {"Idempotency-Key": "x" * 81},
     {"Pressed-Ago": "-5"}, {"Pressed-Ago": "soon"}, {"Pressed-Ago": "nan"}, {"Pressed-Ago": "1e12"}],
)  # fmt: skip
def test_bad_keys_and_ages_are_refused_with_nothing_changed(reader, database, headers):
    answer = press(reader, headers, step="form-slab", what="done")
    assert answer.status_code == 400 and "Nothing was changed" in answer.text and not events(database)


def test_what_changes_the_mark_that_is_watched(reader):
    def mark():
        return reader.client.get("/live/at").text

    seen = [mark()]
    for step, what in (
        ("form-slab", "started"),
        ("form-slab", "paused"),
        ("form-slab", "done"),
        ("form-slab", "undone"),
    ):
        reader.post(MARK, step=step, what=what)
        seen.append(mark())
    reader.post("/s/hollin-delf/caution", about="x", code=["resin-skin"])
    seen.append(mark())
    reader.get("/bench")
    assert mark() == seen[-1] and len(set(seen)) == len(seen)


def test_the_stream_tells_the_mark_and_that_it_is_there(app):
    client = app.test_client()
    answer = client.get("/live", buffered=False)
    assert answer.mimetype == "text/event-stream"
    told = iter(answer.response)
    piece = b""
    while b"data: " not in piece:
        piece = next(told)
    assert piece.decode().partition("data: ")[2].strip() == client.get("/live/at").text
    answer.close()


def test_a_stream_ends_when_its_listener_has_left(app):
    gone = False
    answer = app.test_client().get("/live", buffered=False, environ_base={"waitress.client_disconnected": lambda: gone})
    told = iter(answer.response)
    piece = b""
    while b"data: " not in piece:
        piece = next(told)
    gone = True
    assert list(told) == []
    answer.close()


def test_no_more_streams_than_can_be_and_they_come_free_again(app):
    client = app.test_client()
    held = [client.get("/live", buffered=False) for _ in range(STREAMS)]
    assert client.get("/live").status_code == 204
    for one in held:
        one.close()
    after = client.get("/live", buffered=False)
    assert after.status_code == 200
    after.close()
