"""Who may speak to the pages, and what they do: hosts, origins, devices, roles; nothing is written by looking."""

import re
import stat
from collections import defaultdict
from datetime import timedelta
from itertools import product

import pytest

from isostasis.store import Database, devices, logbook, scenes
from isostasis.web import create_app
from isostasis.web.door import BENCH_MAY, NOT_FOR_BENCH, OPEN, Door
from tests.support.pages import Reader

PHONE = {"REMOTE_ADDR": "192.168.1.20"}


@pytest.fixture(scope="session")
def pages(tmp_path_factory):
    door = Door(names=("workshop.local",), port=8765, url="http://workshop.local:8765", pairing=True)
    return create_app(Database(tmp_path_factory.mktemp("door") / "none.db"), door=door)


def token_of(page):
    return re.search(r'name="csrf[-_]token" (?:content|value)="([^"]+)"', page)[1]


class Device:
    """A browser on another machine."""

    def __init__(self, app):
        self.client = app.test_client()

    def get(self, url):
        return self.client.get(url, environ_base=PHONE)

    def post(self, url, token, **data):
        return self.client.post(url, data={"csrf_token": token, **data}, environ_base=PHONE)

    def knock(self, code, name="Phone"):
        return self.post("/pair", token_of(self.get("/pair").text), code=code, name=name)


def code_for(reader, role="bench"):
    page = reader.client.post("/devices/code", data={"csrf_token": reader.token, "role": role}).text
    return re.search(r'aria-label="Code ([\d ]+)"', page)[1].replace(" ", "")


def paired(app, reader, role="bench", name="Phone"):
    device = Device(app)
    assert device.knock(code_for(reader, role), name).status_code == 303
    return device


@pytest.mark.parametrize("host", ["evil.example", "evil.example:8765", "localhost.evil.example", "", "10.0.0.1"])
def test_a_name_that_was_bound_to_our_address_gets_nothing(app, reader, host):
    for method in (reader.client.get, reader.client.post):
        answer = method("/", headers={"Host": host})
        assert answer.status_code == 400 and "Hollin" not in answer.text and "Set-Cookie" not in answer.headers


@pytest.mark.parametrize("host", ["localhost", "127.0.0.1:8765", "[::1]:8765", "workshop.local"])
def test_our_own_names_are_answered(reader, host):
    assert reader.client.get("/", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize(
    "origin", ["http://evil.example", "null", "http://localhost:9", "https://localhost.evil.example"]
)
def test_a_page_of_another_site_changes_nothing(reader, database, origin):
    data = {"csrf_token": reader.token, "theme": "dark"}
    assert reader.client.post("/settings", data=data, headers={"Origin": origin}).status_code == 400
    assert 'data-theme="light"' in reader.get("/").text
    assert reader.client.post("/settings", data=data, headers={"Origin": "http://localhost"}).status_code == 303


def test_a_write_without_its_token_changes_nothing(app):
    answer = app.test_client().post("/settings", data={"theme": "dark"})
    assert answer.status_code == 400 and "nothing was changed" in answer.text


@pytest.mark.parametrize(
    "here",
    [
        "//evil.example",
        "/\t/evil.example",
        "/\n/evil.example",
        "\\\\evil.example",
        "http://evil.example",
        "/\\evil.example",
    ],
)
def test_one_is_led_back_to_pages_of_ours_alone(reader, here):
    assert reader.post("/settings", theme="dark", here=here).headers["Location"] == "/"


def test_every_answer_is_for_our_own_pages(reader):
    answer = reader.get("/")
    assert (
        answer.headers["Cross-Origin-Opener-Policy"] == answer.headers["Cross-Origin-Resource-Policy"] == "same-origin"
    )
    assert "default-src 'none'" in answer.headers["Content-Security-Policy"]


def test_cookies_are_of_one_database_on_one_port(app, database, clock):
    named = [create_app(database, clock, door=Door(port=port)).config["SESSION_COOKIE_NAME"] for port in (8765, 8766)]
    assert len({*named, Door(port=8765).cookie("another.db")}) == 3
    (cookie,) = app.test_client().get("/").headers.getlist("Set-Cookie")
    assert "HttpOnly" in cookie and "SameSite=Strict" in cookie and "Secure" not in cookie
    behind = create_app(database, clock, door=Door(names=("workshop.local",), proxied=True, pairing=True))
    (cookie,) = behind.test_client().get("/pair", base_url="https://workshop.local").headers.getlist("Set-Cookie")
    assert "Secure" in cookie


def test_the_database_is_for_its_owner_alone(database):
    for path in database.path.parent.glob(f"{database.path.name}*"):
        assert stat.S_IMODE(path.stat().st_mode) == 0o600, path


def test_a_stranger_sees_the_door_alone(app, database):
    stranger = Device(app)
    for url in ("/", "/s/tarn/ground", "/s/tarn/export.json", "/devices", "/status.json"):
        answer = stranger.get(url)
        assert answer.status_code == 303 and answer.headers["Location"] == "/pair", url
    page = stranger.get("/pair")
    assert page.status_code == 200 and "Tarn" not in page.text and "wet-line" not in page.text
    assert stranger.post("/settings", token_of(page.text), theme="dark").status_code == 401
    assert stranger.get("/s/none").status_code == 303  # nor whether there is such a scene


def test_no_fault_shows_a_stranger_a_page(app, reader):
    stranger = Device(app)
    for answer in (
        stranger.client.post("/pair", data={"code": "1", "name": "A"}, environ_base=PHONE),  # without its token
        stranger.get("/calendar/none.ics"),
        stranger.client.put("/pair", environ_base=PHONE),
    ):
        assert answer.status_code in (400, 401, 404)
        assert "wet-line" not in answer.text and "Pit lake" not in answer.text
    assert "wet-line" in reader.get("/nowhere", 404).text


@pytest.mark.parametrize("header", ["X-Forwarded-For", "Forwarded", "X-Real-IP"])
def test_what_a_proxy_passes_on_is_not_from_this_machine(reader, header):
    assert reader.client.get("/", headers={header: "127.0.0.1"}).headers["Location"] == "/pair"


def test_a_device_is_paired_by_a_code_that_is_good_once(app, reader, clock, database):
    code = code_for(reader)
    phone = Device(app)
    (cookie,) = [one for one in phone.knock(code).headers.getlist("Set-Cookie") if "-key=" in one]
    assert "HttpOnly" in cookie and "SameSite=Strict" in cookie
    assert phone.get("/s/tarn/ground").status_code == 200
    refused = Device(app).knock(code, "Another")
    assert refused.status_code == 422 and "not the one that is good now" in refused.text
    assert "Phone" in reader.text("/devices") and "bench: marks" in reader.text("/devices")
    late = code_for(reader)
    clock.pass_by(minutes=10)
    assert Device(app).knock(late, "Tablet").status_code == 422
    with database.reading() as session:
        assert [one.name for one in devices.in_force(session)] == ["Phone"]


def test_a_code_cannot_be_guessed(app, reader, clock):
    code = code_for(reader)
    stranger = Device(app)
    for number in range(5):
        assert stranger.knock(f"{(int(code) + 1 + number) % 1_000_000:06d}").status_code == 422
    told = stranger.knock(code)
    assert told.status_code == 422 and "5 tries within a minute" in told.text  # even the right one has to wait
    clock.pass_by(minutes=1, seconds=1)
    assert stranger.knock(code).status_code == 303


def test_a_name_that_is_taken_does_not_cost_the_code(app, reader):
    paired(app, reader)
    code = code_for(reader)
    tablet = Device(app)
    told = tablet.knock(code)
    assert told.status_code == 422 and "there is a device “Phone” already" in told.text and code in told.text
    assert tablet.knock(code, "Tablet").status_code == 303


def test_a_device_that_is_turned_away_is_so_at_once(app, reader, database):
    phone = paired(app, reader)
    with database.reading() as session:
        (row,) = devices.in_force(session)
    reader.post(f"/devices/{row.id}/away")
    assert phone.get("/s/tarn/ground").headers["Location"] == "/pair"
    assert reader.client.post(f"/devices/{row.id}/away", data={"csrf_token": reader.token}).status_code == 422


def test_a_device_at_the_bench_marks_and_changes_nothing_else(app, reader, database):
    phone = paired(app, reader)
    page = phone.get("/s/tarn/clock/list").text
    token = token_of(page)
    told = phone.post("/s/tarn/undo", token)
    assert told.status_code == 403 and "paired for the bench" in told.text
    assert phone.get("/devices").status_code == 403
    assert phone.post("/devices/code", token, role="all").status_code == 403
    assert phone.post("/s/tarn/clock/mark", token, step="form-slab", what="done").status_code == 303
    whole = paired(app, reader, "all", "Tablet")
    assert whole.post("/settings", token_of(whole.get("/").text), theme="dark").status_code == 303


def test_roles_name_addresses_that_there_are(app):
    known = {rule.endpoint for rule in app.url_map.iter_rules()}
    assert known >= OPEN | BENCH_MAY | NOT_FOR_BENCH


def test_it_is_kept_which_device_did_it(app, reader, database, clock):
    phone = paired(app, reader, "all", "Tablet")
    token = token_of(phone.get("/s/tarn/ground").text)
    phone.post("/s/tarn/clock/mark", token, step="form-slab", what="done")
    phone.post("/s/tarn/room", token, base=1, temp_c="19", rh_percent="55")
    with database.reading() as session:
        (tablet,) = devices.in_force(session)
        scene = scenes.find(session, "tarn")
        assert scene.head.device_id == tablet.id
        assert [one.device_id for one in scenes.history(session, scene)] == [tablet.id, None]
    assert "Tablet" in reader.text("/s/tarn/clock/diary")
    assert "Tablet" in reader.text("/s/tarn/history") and "this machine" in reader.text("/s/tarn/history")
    reader.post("/s/tarn/room", base=2, temp_c="18", rh_percent="55")
    with database.reading() as session:
        assert scenes.find(session, "tarn").head.device_id is None


def test_a_batch_says_which_device_began_it(app, reader, database):
    phone = paired(app, reader)
    page = phone.get("/s/ember-pools/mix").text
    begin = re.search(r'action="(/s/ember-pools/mix/[^"]+/start)"', page)[1]
    assert phone.post(begin, token_of(page)).status_code == 303
    with database.reading() as session:
        newest = max(logbook.batches(session, scenes.find(session, "ember-pools")), key=lambda row: row.id)
        assert newest.device_id == devices.in_force(session)[0].id
    end = re.search(r'action="(/s/ember-pools/mix/[^"]+/finish)"', phone.get("/s/ember-pools/mix").text)[1]
    assert "Begun by “Phone”" in reader.text("/s/ember-pools/mix")
    reader.post(end)
    assert "by “Phone”" in reader.text(f"/s/ember-pools/mix?batch={newest.batch}")


def test_when_a_device_was_there_is_kept_by_and_by(app, reader, database, clock):
    phone = paired(app, reader)
    begun = clock()
    clock.pass_by(minutes=7)
    phone.get("/s/tarn/ground")
    with database.reading() as session:
        assert devices.in_force(session)[0].seen_at == begun
    app.extensions["keeper"].round()
    with database.reading() as session:
        assert devices.in_force(session)[0].seen_at == begun + timedelta(minutes=7)


NEEDS = {
    "ground.cut": [{"y": "20"}],
    "ground.relief": [{"stage": "bare"}, {"stage": "finished"}],
}  # what they are asked
PLACES = ("ground", "layup", "pour", "mix", "history", "cut?y=20", "relief.webp?stage=bare", "relief.webp?stage=finished",
          "export.json", "plan.json")  # fmt: skip


def is_strict(answer):
    """Nothing on a page runs or paints but what comes from here in files of its own."""
    policy = answer.headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy and "unsafe" not in policy
    if answer.mimetype == "text/html":
        assert not re.search(r"<[^>]+\sstyle=", answer.text)
        assert not re.search(r"<[^>]+\son[a-z]+=", answer.text)
        assert not re.search(r"<script(?![^>]*\bsrc=)", answer.text)
        assert "http://" not in answer.text.replace("http://127.0.0.1", "").replace("http://localhost", "")


def test_nothing_is_written_by_looking(app, database, solver_asked):
    """Every address that can be got, of every scene: the database stays as it is, nobody is asked for a schedule, and
    the answer comes under a strict policy."""
    client = app.test_client()
    client.get("/")
    with database.engine.connect() as watch:
        before = watch.exec_driver_sql("pragma data_version").scalar()
        with database.reading() as session:
            slugs = [row.slug for row in scenes.all_scenes(session)]
        seen = defaultdict(list)
        for rule in app.url_map.iter_rules():
            if "GET" not in rule.methods or rule.endpoint == "static":
                continue
            for slug, more in product(slugs if "slug" in rule.arguments else ("",), NEEDS.get(rule.endpoint, [{}])):
                values = {name: slug if name == "slug" else "1" for name in rule.arguments}
                with app.test_request_context():
                    url = app.url_for(rule.endpoint, **values, **more)
                answer = client.get(url)
                assert answer.status_code < 500, url
                is_strict(answer)
                seen[answer.status_code].append(url)
        assert {"/", "/things", *(f"/s/{slug}/{place}" for slug in slugs for place in PLACES)} <= set(seen[200])
        assert watch.exec_driver_sql("pragma data_version").scalar() == before
    assert not solver_asked


@pytest.fixture
def solver_asked(app, monkeypatch):
    asked = []
    monkeypatch.setattr(app.extensions["solver"], "ask", lambda *args, **more: asked.append(args))
    return asked


def test_a_reader_of_pages_is_this_machine(app):
    assert Reader(app).get("/devices").status_code == 200
