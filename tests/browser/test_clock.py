"""The Clock in Chromium: strata appear by themselves, a post is dragged, work is marked, the phone has its list."""

from datetime import datetime, timedelta

from tests.support.pointer import box_of, press
from tests.support.views import PHONE
from tests.support.waiting import holds, until

# All of the page is here: of one that comes anew while the search goes on the strata stand before its note does.
SOLVED = """document.readyState === "complete" && document.querySelector(".strata .post")
  && !document.querySelector("#solving")"""


def opened(page, address="/s/tarn/clock"):
    page.goto(address)
    holds(page, SOLVED)


def hold(page, post, hours):
    """Take a post and hold it so many hours later."""
    svg = page.locator(".strata")

    def held():
        """Whether the pointer has it: not where the page was swapped under it."""
        page.mouse.up()
        scale = box_of(svg)["width"] / float(svg.get_attribute("viewBox").split()[2])
        box, hour = box_of(post.locator("line")), scale * float(svg.get_attribute("data-hour"))
        page.mouse.move(box["x"] + 1, box["y"] + 6)
        page.mouse.down()
        page.mouse.move(box["x"] + 40, box["y"] + 6)
        page.mouse.move(box["x"] + 1 + hour * hours, box["y"] + 6)
        return page.locator("#held-time").is_visible()

    until(held)


def test_a_post_is_dragged_and_the_rest_follows(page):
    opened(page, "/s/tarn/clock?days=7")
    post = page.locator('.post[data-step="tarn-seal-1"]')
    before = datetime.fromisoformat(post.get_attribute("data-at"))
    water = page.locator('.post[data-step="tarn-water"]')
    hold(page, post, 73)  # Friday at seven to Monday at eight
    page.mouse.up()
    page.locator(".post.pinned, #refused, .note.stop").first.wait_for()
    assert page.locator(".note.stop").all_inner_texts() == []
    assert page.locator(".post.pinned").get_attribute("data-step") == "tarn-seal-1"
    after = datetime.fromisoformat(page.locator('.post[data-step="tarn-seal-1"]').get_attribute("data-at"))
    assert timedelta(days=3) <= after - before < timedelta(days=3, hours=3)
    assert datetime.fromisoformat(water.get_attribute("data-at")) > after


def test_a_held_post_stays_in_the_hand_while_an_answer_comes(page):
    opened(page, "/s/tarn/clock?days=7")
    post = page.locator('.post[data-step="tarn-seal-1"]')
    hold(page, post, 73)
    # What asks while the solver works: it is told that the answer is there, and would load the page anew.
    page.evaluate("""() => {
      let asked = 0;
      const asks = document.createElement("div");
      document.addEventListener("htmx:beforeRequest", () => { asks.dataset.asked = Math.min((asked += 1), 3); });
      asks.setAttribute("hx-get", "/s/tarn/clock/solving");
      asks.setAttribute("hx-trigger", "every 100ms");
      document.querySelector("aside").append(asks);
      htmx.process(asks);
    }""")
    page.locator('[data-asked="3"]').wait_for(state="attached")
    assert page.locator("#held-time").is_visible()
    page.mouse.up()
    page.locator(".post.pinned, #refused, .note.stop").first.wait_for()
    assert page.locator(".post.pinned").get_attribute("data-step") == "tarn-seal-1"


def test_a_post_is_moved_by_keys_and_refused_into_the_night(page):
    opened(page, "/s/tarn/clock?days=3")
    post = page.locator('.post[data-step="tarn-skin"]')
    post.focus()
    for _ in range(5):
        press(page, "Shift+ArrowRight")
    page.locator("#held-time").wait_for()
    press(page, "Enter")
    refused = page.locator("#refused")
    refused.wait_for()
    assert "lies outside your bench hours" in refused.inner_text()
    assert page.locator(".post.pinned").count() == 0


def test_work_is_marked_on_a_phone(page):
    page.set_viewport_size(PHONE)
    page.goto("/s/tarn/clock/list")
    page.locator(".step-card").wait_for()
    first = page.locator(".step-card h2").first.inner_text()
    page.get_by_role("button", name="Done").first.click()
    page.locator(f".step-card h2:not(:text-is('{first}'))").first.wait_for()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
