"""Scales and probes that post by themselves: keys of their own, what is taken, what follows from it; none lost, none
doubled."""

import json
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from sqlalchemy import func, select

from isostasis.store import marks, readings, scenes
from isostasis.store.tables import DeviceReadingRow, DeviceRow, MovedWaitRow, SentRow
from tests.support.pages import Reader

POST = "/devices/post"


def key_of(reader, name="Scale at the bench"):
    page = reader.post("/devices/sensor", 200, name=name).text
    return page.partition('class="key">')[2].partition("<")[0]


def post(app, key, **value):
    return app.test_client().post(POST, json=value, headers={"Device-Key": key} if key else {})


def test_a_key_of_its_own_lets_a_scale_post_and_do_nothing_else(app, reader, database):
    key = key_of(reader)
    assert post(app, key, grams=90.7, steady=True).json == {"kept": "scale"}
    with database.reading() as session:
        row = readings.newest(session, "scale")
        assert row.value == {"grams": 90.7, "steady": True, "battery": 1.0}
        assert session.get(DeviceRow, row.device_id).name == "Scale at the bench"
    assert post(app, "no such key", grams=1).status_code == 401
    stranger = {"REMOTE_ADDR": "192.168.1.9"}
    other = app.test_client().post("/settings", headers={"Device-Key": key}, environ_base=stranger)
    assert other.status_code in (400, 401)
    assert reader.post("/devices/sensor", 422, name=" ").status_code == 422
    assert "posts readings" in reader.text("/devices")


def test_the_card_follows_a_posted_scale_and_tells_its_silence(app, reader, database, clock):
    key = key_of(reader)
    post(app, key, grams=230.0 + 90.7, steady=True, battery=0.1)
    page = reader.text("/s/hollin-delf/mix/3/scale")
    assert "scale that posts by itself" in page and "battery low" in page and "Slow down" in page
    reader.post("/s/hollin-delf/mix/3/scale", 422, how="pour", grams="5")  # it is not simulated
    clock.pass_by(seconds=30)
    assert "posted nothing for a while" in reader.text("/s/hollin-delf/mix/3/scale")
    clock.pass_by(minutes=10)
    assert "simulated scale" in reader.text("/s/hollin-delf/mix/3/scale")


@pytest.mark.parametrize(
    "value",
    [{}, {"grams": "much"}, {"grams": 1e9}, {"grams": 1, "battery": 2}, {"grams": 1, "colour": "red"}, {"temp_c": 20},
     {"temp_c": 90, "rh": 0.5}, {"temp_c": 20, "rh": 50}, [1, 2], "words", None],
)  # fmt: skip
def test_what_is_no_reading_is_refused_with_what_would_be_right(app, reader, value):
    answer = app.test_client().post(POST, data=json.dumps(value), content_type="application/json")
    assert answer.status_code == (422 if isinstance(value, dict) else 400) and "send" in answer.json["wrong"]


def test_readings_of_the_room_move_the_waits_of_what_is_wet(app, reader, database, clock):
    def waits():
        with database.reading() as session:
            resolved = scenes.resolve(session, scenes.find(session, "hollin-delf").head)
        return {one.step: one.wait_h for one in resolved.built}

    before = waits()
    clock.pass_by(minutes=30)
    assert post(app, "", temp_c=11.0, rh=0.8).json == {"kept": "room"}
    app.extensions["keeper"].round()
    after = waits()
    colder = {step for step in before if after[step] != before[step]}
    assert colder and all(after[step] > before[step] for step in colder)
    assert {"heap-skin", "benches-skin"} <= colder and "floor-skin" not in colder  # that is dry since yesterday
    assert "as logged" in reader.text("/s/hollin-delf/pour")
    with database.reading() as session:
        moved = session.scalar(select(func.count()).select_from(MovedWaitRow))
    app.extensions["keeper"].round()  # nothing new was read
    with database.reading() as session:
        assert session.scalar(select(func.count()).select_from(MovedWaitRow)) == moved
    clock.pass_by(minutes=30)
    post(app, "", temp_c=24.0, rh=0.45)
    app.extensions["keeper"].round()
    assert waits()["benches-skin"] < after["benches-skin"]


EACH = 150  # of each device; `python -m tools.devices` sends five thousand


def test_readings_of_two_devices_at_once_are_each_kept_once(app, reader, database):
    keys = [key_of(reader, "Scale"), key_of(reader, "Probe")]

    def send(which):
        client, sent = app.test_client(), []
        for number in range(EACH):
            value = {"grams": number} if which == 0 else {"temp_c": 20.0, "rh": 0.5}
            headers = {"Device-Key": keys[which], "Idempotency-Key": f"device-{which}-{number:05d}"}
            for _ in range(2 if number % 5 == 0 else 1):  # the answer was lost: sent once more
                sent.append(client.post(POST, json=value, headers=headers).status_code)
        return sent

    with ThreadPoolExecutor(2) as both:
        answers = [status for sent in both.map(send, (0, 1)) for status in sent]
    assert len(answers) == 2 * EACH * 6 // 5 and set(answers) <= {200, 204, 303}
    with database.reading() as session:
        assert session.scalar(select(func.count()).select_from(SentRow)) == 2 * EACH
        kept = session.execute(select(DeviceReadingRow.kind, DeviceReadingRow.value)).all()
    assert sorted(value["grams"] for kind, value in kept if kind == "scale") == list(range(EACH))
    assert sum(kind == "room" for kind, _ in kept) == EACH


def test_marks_of_two_devices_at_once_are_each_kept_once_and_in_order(app, reader, database):
    steps = ("form-slab", "form-bank")

    def press(which):
        mine = Reader(app)
        for number in range(30):
            data = {"csrf_token": mine.token, "step": steps[which], "what": ("started", "undone")[number % 2]}
            for _ in range(2 if number % 3 == 0 else 1):
                headers = {"Idempotency-Key": f"press-{which}-{number:05d}"}
                assert mine.client.post("/s/tarn/clock/mark", data=data, headers=headers).status_code == 303

    with ThreadPoolExecutor(2) as both:
        list(both.map(press, (0, 1)))
    with database.reading() as session:
        found = marks.events(session, scenes.find(session, "tarn"))
    for step in steps:
        assert [one.what for one in found if one.step == step] == ["started", "undone"] * 15


def test_old_readings_go(database, clock):
    with database.writing() as session:
        readings.add(session, "scale", {"grams": 1}, clock.at)
        readings.add(session, "room", {"temp_c": 20, "rh": 0.5}, clock.at)
        readings.add(session, "scale", {"grams": 2}, clock.at + timedelta(hours=1))
        kept = session.scalars(select(DeviceReadingRow.kind)).all()
    assert sorted(kept) == ["room", "scale"]
