"""A whole evening at the bench, on both sizes: the visit, a batch with an over-pour that is mended, the pour, bubbles, a
try at the waves, the server killed in the middle, the phone without a connection, a touch-test, done; kept once."""

import subprocess
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from playwright.sync_api import expect

from isostasis.core.reading import read
from isostasis.store import Database, cautions, logbook, marks, scenes
from tests.support.scenes import Clock
from tests.support.serving import answers
from tests.support.waiting import until
from tools.browser import free_port

ROOT = Path(__file__).parents[2]
PATIENCE_MS = 120_000
LAKE, WATER = "hollin-delf", "lake-water"


class Evening:
    """The server, which can be killed, its clock, which is turned, and the page of a phone or a desk."""

    def __init__(self, path, folder, chromium, size):
        self.path, self.hand = path, folder / "clock"
        self.at = Clock().at
        self.turn(timedelta(0))
        self.port = free_port()
        self.process = None
        self.start()
        url = f"http://127.0.0.1:{self.port}"
        self.context = chromium.new_context(viewport={"width": size[0], "height": size[1]}, base_url=url)
        self.context.set_default_timeout(PATIENCE_MS)
        self.page = self.context.new_page()
        self.page.clock.install(time=self.at)

    def start(self):
        words = [sys.executable, "-m", "tests.support.bench_server", str(self.path), str(self.port), str(self.hand)]
        self.process = subprocess.Popen(words, cwd=ROOT)
        until(lambda: answers(self.port))

    def kill(self):
        self.process.kill()
        self.process.wait()

    def turn(self, span):
        """The clock of the server goes on, all at once."""
        self.at += span
        ahead = self.hand.with_suffix(".new")
        ahead.write_text(self.at.isoformat(), "utf-8")
        ahead.replace(self.hand)  # the server reads it meanwhile: never half of it

    def passes(self, **span):
        """Time goes on, for the server and on the page."""
        self.turn(timedelta(**span))
        self.page.clock.fast_forward(round(timedelta(**span).total_seconds() * 1000))

    def on_page(self):
        """What the clock of the page says, which goes on by itself too."""
        return datetime.fromtimestamp(self.page.evaluate("Date.now()") / 1000, UTC)

    def read(self, look):
        opened = Database(self.path)
        try:
            with opened.reading() as session:
                return look(session, scenes.find(session, LAKE))
        finally:
            opened.close()

    def events(self, step=None):
        found = self.read(lambda session, row: [
            (one.step, one.what, one.at, one.note) for one in marks.events(session, row)])  # fmt: skip
        return [one for one in found if step is None or one[0] == step]

    def batch(self):
        return self.read(lambda session, row: next(
            one for one in logbook.batches(session, row) if one.batch == "lake-water-1-1"))  # fmt: skip

    def close(self):
        self.context.close()
        self.kill()


@pytest.fixture(params=[(1280, 800), (390, 844)], ids=["desk", "phone"])
def evening(request, demo_database, tmp_path, chromium):
    with demo_database.writing() as session:
        row = scenes.find(session, LAKE)
        data = scenes.data_of(row.head)
        lake = next(lift for patch in data["patches"] for lift in patch["lifts"] if lift["id"] == "lake-water")
        lake |= {"waves": True, "level_mm": 24}  # in one lift, which is waved
        scenes.save(session, row, row.head.number, read(data), "Waves", Clock().at)
    made = Evening(demo_database.path, tmp_path, chromium, request.param)
    yield made
    made.close()


def pour(evening, *grams):
    """Pour on to the simulated scale, and wait until it is steady."""
    page = evening.page
    for one in grams:
        page.locator("#scale details", has_text="simulated scale").evaluate("one => one.open = true")
        page.locator("#scale button", has_text=f"pour {one} g").click()
        expect(page.locator("#scale")).to_contain_text("settling")
        evening.passes(seconds=20)
        expect(page.locator("#scale")).to_contain_text("steady")


def point(page, words):
    expect(page.locator("#scale .do")).to_have_text(words)


def test_a_whole_evening(evening):
    page = evening.page
    page.goto("/bench")
    expect(page.locator(".now-panel .do")).to_have_text("Pour out the cup")
    page.get_by_text("Lay out for this visit").click()
    expect(page.locator(".lists")).to_contain_text("gloves, glasses, an open window")
    page.get_by_role("link", name="The mixing card").click()

    # What can hurt is read first, once for this batch.
    page.get_by_role("button", name="I have read it").click()
    expect(page.get_by_role("button", name="I have read it")).to_have_count(0)
    known = evening.read(lambda session, row: cautions.read_of(session, row, "lake-water-1-1"))
    assert {"resin-skin", "resin-cup"} <= set(known)

    # Part A is in already; of B too much goes in, and more A mends it.
    point(page, "Part B, up to the mark")
    pour(evening, 20, 20, 20, 20, 20, 5)
    point(page, "Too much B is in")
    expect(page.locator("#scale")).to_contain_text("Mended by adding")
    page.get_by_role("button", name="Part B is in").click()
    expect(page.locator("#scale .do")).to_contain_text("of Part A")
    pour(evening, 5, 5, 5)
    page.get_by_role("button", name="It is added").click()
    expect(page.locator("#scale .do")).to_contain_text("Tint it")
    page.locator("#scale").get_by_role("button", name="Done").click()
    point(page, "Stir for 3 min, slowly, so that no air goes in")
    page.locator("#scale").get_by_role("button", name="Done").click()
    point(page, "Scrape walls, floor and stick, and stir once more")

    # The server is killed; what is pressed is kept, told, and sent once when it is back.
    evening.kill()
    page.locator("#scale").get_by_role("button", name="Done").click()
    expect(page.locator("#outbox")).to_contain_text("Kept on this device: 1")
    evening.start()
    evening.passes(seconds=10)
    expect(page.locator("#outbox")).to_have_count(0)
    point(page, "Pour it into a second cup, leave the walls of the first, and stir")
    for _ in range(2):
        before = page.locator("#scale .do").inner_text()
        page.locator("#scale").get_by_role("button", name="Done").click()
        expect(page.locator("#scale .do")).not_to_have_text(before)
    point(page, "Pour it")
    page.get_by_role("button", name="The cup is empty").click()
    until(lambda: evening.events(WATER))
    poured = evening.at

    # The bubbles ring on whatever page is open; they are heard.
    page.goto("/bench")
    evening.passes(minutes=5, seconds=2)
    ring = page.locator(".ring", has_text="Bubbles").first
    expect(ring).to_be_visible()
    ring.get_by_role("button", name="Heard").click()
    expect(page.locator(".ring:visible", has_text="Bubbles")).to_have_count(0)

    # Ten minutes without a connection: a touch and a mark are kept with their moments.
    waiting = page.locator("details.waiting", has_text="Upper benches").first
    waiting.locator("summary").click()
    evening.context.set_offline(True)
    touched, pressed = evening.at, evening.on_page()
    waiting.get_by_role("button", name="leathery").click()
    expect(page.locator("#outbox")).to_contain_text("leathery")
    evening.passes(minutes=10)
    assert not [one for one in evening.events("benches-skin") if one[1] == "not-yet"]
    evening.context.set_offline(False)
    evening.passes(seconds=5)
    expect(page.locator("#outbox")).to_have_count(0)
    (touch,) = [one for one in evening.events("benches-skin") if one[1] == "not-yet"]
    by_itself = evening.on_page() - pressed - timedelta(minutes=10, seconds=5)
    assert touch[3] == "leathery" and -by_itself <= touch[2] - touched <= timedelta(seconds=6)

    # The waves are tried when the kept cup is thick enough; then it is touched, and it is hard.
    waves = page.locator(".ring", has_text="Waves").first
    rings = datetime.fromisoformat(waves.get_attribute("data-rings"))
    evening.passes(seconds=round((rings - evening.at).total_seconds()) + 5)
    page.reload()
    expect(page.locator(".ring:visible", has_text="Waves").first).to_be_visible()
    page.locator(".ring:visible", has_text="Waves").first.get_by_role("button", name="in 5 min").click()
    expect(page.locator(".ring:visible", has_text="Waves")).to_have_count(0)
    evening.passes(hours=5)
    page.reload()
    lake = page.locator("details.waiting", has_text="Pit lake").first
    lake.locator("summary").click()
    lake.get_by_role("button", name="hard", exact=True).click()
    until(lambda: [one for one in evening.events(WATER) if one[1] == "ready"])

    # Every amount and time is in the record once.
    row = evening.batch()
    added = [one for one in row.walk if one["point"].startswith("add:")]
    assert len(added) == 1 and row.finished_at == poured
    assert abs(row.actual["casting-resin:A"] - 245) < 2 and abs(row.actual["casting-resin:B"] - 105) < 2
    codes = [one["point"] for one in row.walk]
    assert len(codes) == len(set(codes)) and {"mix", "scrape", "second-cup", "rest"} <= set(codes)
    assert [what for _, what, _, _ in evening.events(WATER)] == ["done", "ready"]
