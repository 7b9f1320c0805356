"""Who waits sees how long still, and can stop; on a server that answers when the test says so."""

from __future__ import annotations

import threading

import pytest
from playwright.sync_api import expect

from tests.support.waiting import holds

SLOW = "/s/hollin-delf/layup/schools"


@pytest.fixture
def held(server, served):
    """The server answers schools only once the test lets it; each answer needs a leave of its own."""
    leave = threading.Semaphore(0)
    app = server.app

    def slow(environ, start_response):
        if environ["PATH_INFO"] in (SLOW, "/s/hollin-delf/room"):
            leave.acquire()
        return app(environ, start_response)

    server.app = slow
    yield leave
    leave.release(100)


# A browser that is on its way to another page answers no questions: what it shows meanwhile is written down by itself.
WATCH = """
new MutationObserver(() => {
  const box = document.getElementById("waiting");
  if (!box) return;
  localStorage.told = (localStorage.told ?? "") + box.textContent + "|";
  const stop = box.querySelector("button:not([hidden])");
  if (stop && localStorage.stops) stop.click();
}).observe(document, { subtree: true, childList: true, characterData: true, attributes: true });
"""


def test_a_page_that_takes_long_says_how_long_still_and_can_be_stopped(page, held):
    page.add_init_script(WATCH)
    page.goto("/s/hollin-delf/layup?patch=upper-benches")
    page.locator("details.lift").evaluate_all("all => all.forEach((one) => (one.open = true))")
    # What is asked for by itself is here before anything is stopped: it would be broken off too, and say so.
    expect(page.locator(".htmx-request, .htmx-swapping, .htmx-settling")).to_have_count(0)
    link = page.locator(f'a[href^="{SLOW}"]').first
    page.evaluate("localStorage.stops = 'yes'")
    link.click(no_wait_after=True)
    holds(page, "!document.getElementById('waiting') && localStorage.told?.includes('Working for 3 s')")
    assert "schools" not in page.url
    held.release()  # the one that nobody waits for any more
    page.evaluate("""() => {
      localStorage.removeItem("stops");
      localStorage.told = "";
      localStorage.setItem("isostasis-took", JSON.stringify({ "GET /s/*/layup/schools": [60000, 60000, 60000] }));
    }""")
    beside = page.context.new_page()
    beside.goto("/status")
    page.bring_to_front()
    link.click(no_wait_after=True)
    holds(beside, "localStorage.told.includes('s left')")
    held.release()
    page.wait_for_url("**/schools**")
    spans = page.evaluate("JSON.parse(localStorage.getItem('isostasis-took'))['GET /s/*/layup/schools']")
    assert len(spans) == 4 and spans[-1] < 60000


def test_a_change_that_takes_long_can_be_stopped_and_the_page_shows_what_holds(page, held):
    page.goto("/s/hollin-delf/ground")
    page.locator(".room > summary").click()
    page.get_by_label("temperature", exact=False).first.fill("25")
    page.locator(".room form").get_by_role("button").first.click(no_wait_after=True)
    expect(page.locator("#waiting")).to_contain_text("Working")
    page.get_by_role("button", name="Stop").click()
    page.wait_for_load_state()
    expect(page.locator("#waiting")).to_have_count(0)
    expect(page.locator("h1")).to_contain_text("Ground")


def test_what_a_page_asks_by_itself_shows_nothing(page):
    page.goto("/s/hollin-delf/mix")
    expect(page.locator("#scale")).to_be_visible()
    expect(page.locator("#waiting")).to_have_count(0)
