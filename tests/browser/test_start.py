"""From the page of scenes to the whole plan of a fen, played and counted: by mouse, by touch, by keys alone."""

import re

import pytest
from playwright.sync_api import expect

from isostasis.core.plan import plan
from isostasis.store import scenes
from tests.support.pointer import press
from tests.support.scenes import resolved
from tests.support.views import DESK, PHONE

MAX_CLICKS, MAX_TYPED = 30, 20
DEPTHS = {"South-west pond": 7, "South pond": 9, "South-east pond": 14}


# How many of what can be focused stand between where the focus is and a thing.
BEFORE = """thing => {
  const all = [...document.querySelectorAll("a[href], button, input, select, summary, [tabindex='0']")].filter((one) =>
    one.checkVisibility() && !one.disabled);
  return all.indexOf(thing) - all.indexOf(document.activeElement) - 4;
}"""


class Hand:
    """Does what a person does on a page, and counts it."""

    def __init__(self, page):
        self.page, self.clicks, self.typed = page, 0, 0

    def click(self, thing):
        self.clicks += 1
        thing.click()

    def type(self, field, text):
        """Into a field that is clicked first."""
        self.click(field)
        self.typed += 1
        field.fill(text)


class Finger(Hand):
    def click(self, thing):
        self.clicks += 1
        thing.scroll_into_view_if_needed()
        thing.tap()


class Keys(Hand):
    """Tab to a thing, Enter or Space on it: each press that is no Tab counts as a click."""

    def click(self, thing):
        self.clicks += 1
        expect(thing).to_be_visible()
        here = thing.element_handle()
        for _ in range(400):
            if self.page.evaluate("one => document.activeElement === one", here):
                break
            for _ in range(max(1, self.page.evaluate(BEFORE, here))):
                self.page.keyboard.press("Tab")
        assert self.page.evaluate("one => document.activeElement === one", here), "Tab does not lead there"
        if self.page.evaluate("one => one.matches('input:not([type=radio])')", here):
            return
        self.page.keyboard.press("Enter" if self.page.evaluate("one => one.matches('a, button')", here) else "Space")

    def choose(self, radio):
        """Arrows move on within a group."""
        group = self.page.locator(f"input[name={radio.get_attribute('name')}]")
        group.first.evaluate("one => one.focus()")
        for _ in range(8):
            if radio.is_checked():
                return
            self.clicks += 1
            self.page.keyboard.press("ArrowRight")


@pytest.fixture(params=["mouse", "touch", "keys"])
def hand(request, chromium, served):
    size = PHONE if request.param == "touch" else DESK
    context = chromium.new_context(viewport=size, base_url=served, has_touch=request.param == "touch")
    context.set_default_timeout(120_000)
    yield {"mouse": Hand, "touch": Finger, "keys": Keys}[request.param](context.new_page())
    context.close()


def test_a_fen_from_nothing_to_its_whole_plan(hand, demo_database):
    page = hand.page
    page.goto("/")
    hand.click(page.get_by_role("link", name="Hills and a road"))
    page.wait_for_url("**/start/hills")
    page.wait_for_load_state("load")
    three = page.locator("input[name=count][value='3']")
    if isinstance(hand, Keys):
        hand.choose(three)
    else:
        hand.click(page.locator("label", has=three))
    expect(page.locator("#comes-to")).to_contain_text("ponds, to mix")
    hand.type(page.get_by_label("Name"), "Kettle moss")
    hand.click(page.get_by_role("button", name="Make it a scene"))
    for number, (pond, depth) in enumerate(DEPTHS.items(), start=2):
        hand.click(page.get_by_role("link", name=re.compile(rf"^{pond}\b")).last)
        expect(page.locator("h2", has_text=pond)).to_be_visible()
        hand.type(page.get_by_label("Depth", exact=True), str(depth))
        hand.click(page.get_by_role("button", name="Set these numbers"))
        expect(page.locator(".history-bar a")).to_have_text(f"revision {number}")
    assert hand.clicks <= MAX_CLICKS and hand.typed <= MAX_TYPED, (hand.clicks, hand.typed)
    with demo_database.reading() as session:
        data = scenes.data_of(scenes.find(session, "kettle-moss").head)
    made = plan(resolved(data))
    assert [one["depth_mm"] for one in data["forms"] if one["kind"] == "basin"] == list(DEPTHS.values())
    assert [one["kind"] for one in data["forms"]].count("sheet") == 3 and data["flats"]
    assert {len(patch["lifts"]) > 3 for patch in data["patches"]} == {True} and len(data["patches"]) >= 3
    pools = made.lifts["ponds-water"].pools
    assert sorted(round(one.deepest_mm.number) for one in pools) == [5, 7, 12]
    assert made.steps and not re.search("falls in", " ".join(one.text for one in made.lifts["mound-skin"].warnings))


def test_help_says_what_a_page_is_for_and_what_its_words_mean(page):
    page.goto("/swatches")
    press(page, "?")
    expect(page.locator("#keys")).to_contain_text("judged in rounds, so that you know which won")
    expect(page.locator("#keys .words")).to_contain_text("left alone, or done as always")
    page.keyboard.press("Escape")
    page.locator(".term").click()
    expect(page.locator("#term-control")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator("#term-control")).to_be_hidden()


def test_on_a_phone_every_place_is_behind_more(page):
    page.set_viewport_size(PHONE)
    page.goto("/bench")
    expect(page.locator(".spine li:visible")).to_have_count(3)
    page.get_by_role("button", name="More").click()
    for name in ("Find", "Records", "My things", "Devices"):
        expect(page.locator("#all-places").get_by_role("link", name=name)).to_be_visible()
    page.locator("#all-places").get_by_role("button", name="dark").click()
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")


def test_another_page_begins_at_its_top_and_the_same_stays_where_one_was(page):
    page.set_viewport_size(PHONE)
    page.goto("/s/ember-pools/settings")
    page.get_by_role("button", name="into the bin").click()
    expect(page.locator(".note", has_text="is in the bin")).to_be_in_viewport()
    page.goto("/s/hollin-delf/ground?form=pit")
    depth = page.get_by_label("Depth", exact=True)
    depth.fill("35")
    page.get_by_role("button", name="Set these numbers").click()
    page.get_by_role("button", name="Do it").click()
    expect(page.locator(".history-bar a")).to_have_text("revision 2")
    assert page.evaluate("scrollY") > 100
