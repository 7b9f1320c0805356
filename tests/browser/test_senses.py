"""For eyes, hands and ears of all kinds: text twice as large, colours that the system chooses, nothing that jumps, keys
alone, the order in which a page is heard, and every place before anything is in it."""

from __future__ import annotations

from playwright.sync_api import expect

from isostasis.store import Database
from isostasis.web import serve_from
from tests.support.arriving import SHIFTS, at_rest, pushed
from tests.support.axe import RULES, broken
from tests.support.pointer import press
from tests.support.views import DESK, PHONE
from tests.support.waiting import holds, until

PLACES = (
    "/", "/s/hollin-delf/ground", "/s/hollin-delf/layup", "/s/hollin-delf/pour", "/s/hollin-delf/mix", "/s/hollin-delf/clock",
    "/bench", "/shelf", "/shelf/buy", "/labels", "/swatches", "/records", "/reckon", "/find?q=skin", "/faults",
)  # fmt: skip

SOUNDS = """window.states = [];
window.AudioContext = class extends AudioContext {
  constructor() { super(); this.addEventListener("statechange", () => states.push(this.state)); }
};"""


def test_a_ring_sounds_and_sound_sleeps_otherwise(page):
    """A sound that runs keeps a phone awake, heard or not."""
    page.add_init_script(SOUNDS)
    page.goto("/things")
    page.locator("h1").click()  # none is allowed before
    holds(page, "states.at(-1) === 'suspended'")
    before = page.evaluate("states.length")
    page.locator("[data-rings]").first.evaluate("one => one.dataset.rings = '2001-01-01T00:00:00Z'")
    holds(page, "(before) => states.slice(before).includes('running') && states.at(-1) === 'suspended'", before)


def test_nothing_jumps_while_a_page_arrives(page):
    """On a desk; on a phone every page is asked (test_every_page)."""
    page.add_init_script(SHIFTS)
    for place in PLACES:
        page.goto(place)
        at_rest(page)
        assert pushed(page) == [], place


def test_nothing_jumps_while_something_rings(page, clock):
    clock.pass_by(minutes=35)
    page.goto("/things")
    expect(page.locator(".ring", has_text="Pit lake").first).to_be_visible()
    page.add_init_script(SHIFTS)
    asked = []

    def hold(route):
        asked.append(route)

    page.route("**/wet-line?*", hold)
    for place in ("/shelf", "/s/kettle-fen/pour", "/reckon"):
        page.goto(place)
        holds(page, "performance.getEntriesByName('first-contentful-paint').length")
        until(lambda: page.evaluate("true") and asked)  # what the page asks for is heard of while it is spoken to
        with page.expect_response("**/wet-line?*"):
            asked.pop().continue_()
        expect(page.locator(".ring", has_text="Pit lake").first).to_be_visible()
        at_rest(page)
        assert pushed(page) == [], place


def test_where_the_system_chooses_colours_water_is_still_water(page):
    page.emulate_media(forced_colors="active", reduced_motion="reduce")
    page.goto("/s/hollin-delf/pour")
    kept = page.locator("#live-plan path").first
    assert kept.evaluate("one => getComputedStyle(one).fill") not in ("rgb(0, 0, 0)", "rgb(255, 255, 255)")


def test_each_place_is_reached_by_its_key_and_shows_where_the_focus_is(page):
    page.goto("/s/hollin-delf/ground")
    for key, heading in (
        ("l", "Lay-up"), ("p", "Pit lake"), ("m", "resin"), ("c", "Clock"), ("b", "Bench"), ("h", "Shelf"), ("a", "Labels"),
        ("w", "ballast"), ("k", "pour"), ("e", "Records"), ("s", "making"),
    ):  # fmt: skip
        press(page, key)
        expect(page.locator("h1").first).to_contain_text(heading)
        page.keyboard.press("Escape")
        page.evaluate("document.activeElement?.blur()")
    page.goto("/s/hollin-delf/pour")
    seen = []
    for _ in range(40):
        page.keyboard.press("Tab")
        told = page.evaluate("""() => {
          const one = document.activeElement, style = getComputedStyle(one);
          const shown = style.outlineStyle !== "none" || one.matches("g[tabindex], [role=slider]") || style.boxShadow !== "none";
          const name = one.getAttribute("aria-label") || one.textContent.trim() || one.labels?.[0]?.textContent || one.title;
          return [shown, Boolean(name), one.outerHTML.slice(0, 90)];
        }""")
        seen.append(told)
    assert [one for one in seen if not (one[0] and one[1])] == []
    assert len({one[2] for one in seen}) > 25  # it goes on through the page


def test_every_place_before_anything_is_in_it(page, served, server, tmp_path, clock, solver):
    """No place is blank on the first evening: a heading, a sentence, a way on; and it can be used by everybody."""
    serve_from(server.pages, Database(tmp_path / "new.db"), clock, "UTC", solver)
    page.emulate_media(reduced_motion="reduce")
    for place in ("/", "/bench", "/shelf", "/shelf/buy", "/shelf/list", "/shelf/prices", "/shelf/count", "/labels", "/swatches",
                  "/swatches/match", "/records", "/faults", "/reckon", "/find?q=", "/devices", "/archive", "/things"):  # fmt: skip
        page.goto(place)
        for size in (DESK, PHONE):
            page.set_viewport_size(size)
            expect(page.locator("h1").first).to_be_visible()
            assert page.evaluate("document.documentElement.scrollWidth") <= size["width"], place
            assert len(page.locator("main").inner_text()) > 60, place
            assert page.locator("main").locator("a:visible, button:visible, input:visible").count(), place
            assert broken(page, RULES) == [], (place, size)
