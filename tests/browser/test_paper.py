"""What is printed: cards, the day, the list for the shop, templates true to scale, the diary: how many pages of which size,
nothing of the frame, nothing cut."""

import re

import pytest
from playwright.sync_api import expect

from tests.support.pointer import press

A4, A5 = (595, 842), (420, 595)  # points
MM = 96 / 25.4  # px
FRAME = ".wet-line, .spine, .history-bar, .button:visible"
OVER = """() => [...document.querySelectorAll("main *")].filter((one) => {
  const box = one.getBoundingClientRect();
  return box.width && !one.closest("svg, .away, .skip") && getComputedStyle(one).visibility !== "hidden"
    && box.right > document.documentElement.clientWidth + 1;
}).map((one) => one.outerHTML.slice(0, 120))"""


def sheets(page):
    """The size of each page in points."""
    made = page.pdf(prefer_css_page_size=True, print_background=True)
    boxes = re.findall(rb"/MediaBox\s*\[\s*0 0 ([\d.]+) ([\d.]+)", made)
    return [(round(float(wide)), round(float(high))) for wide, high in boxes]


def close(found, wanted):
    return all(abs(have - want) <= 2 for have, want in zip(found, wanted, strict=True))


def printed(page, url, size, at_most):
    """The page as it is printed: so many sheets of that size, no frame, nothing beyond the paper's edge."""
    page.goto(url)
    found = sheets(page)
    assert 1 <= len(found) <= at_most and all(close(one, size) for one in found), found
    page.emulate_media(media="print")
    page.set_viewport_size({"width": round((size[0] / 72 * 25.4 - 24) * MM), "height": 900})
    expect(page.locator(".spine")).to_be_hidden()
    expect(page.locator(".wet-line")).to_be_hidden()
    assert not page.locator("main .button:visible, main .go:visible").count()
    assert page.evaluate(OVER) == []


def test_cards_fill_sheets_of_four_and_none_is_cut(page):
    page.goto("/s/hollin-delf/mix/cards")
    cards = page.locator(".a6")
    expect(cards.first).to_be_visible()
    count = cards.count()
    found = sheets(page)
    assert len(found) == -(-count // 4) and all(close(one, A4) for one in found)
    page.emulate_media(media="print")
    expect(page.locator(".wet-line")).to_be_hidden()
    boxes = cards.evaluate_all("all => all.map((one) => [one.offsetWidth, one.offsetHeight])")
    assert all(abs(wide - 105 * MM) < 1 and abs(high - 148 * MM) < 1 for wide, high in boxes)  # A6
    sizes = [cards.nth(place).evaluate("one => [one.scrollHeight, one.clientHeight]") for place in range(count)]
    assert all(inside <= whole for inside, whole in sizes)


def test_the_sheet_of_a_day_is_a5(page):
    page.goto("/s/kettle-fen/clock")
    page.goto("/s/kettle-fen/clock/day")
    printed(page, page.url, A5, 3)


@pytest.mark.parametrize(
    ("url", "at_most"),
    [
        ("/shelf/buy", 2),
        ("/s/hollin-delf/layup", 1),
        ("/s/hollin-delf/pour", 2),
        ("/s/kettle-fen/ground", 2),
        ("/s/hollin-delf/layup/steps", 4),
        ("/s/hollin-delf/clock/diary", 3),
        ("/swatches", 3),
    ],
)
def test_a_place_is_printed_on_few_sheets_of_a4(page, url, at_most):
    printed(page, url, A4, at_most)


def test_what_is_dark_on_screen_is_light_on_paper(page):
    page.goto("/shelf")
    press(page, "d")
    page.wait_for_selector("html[data-theme=dark]")
    page.emulate_media(media="print")
    ink = page.evaluate("getComputedStyle(document.querySelector('h1')).color")
    assert sum(int(one) for one in re.findall(r"\d+", ink)[:3]) < 200


def test_the_diary_prints_its_photos(page):
    page.goto("/s/kettle-fen/clock/diary")
    expect(page.locator(".shots img").first).to_be_visible()
    assert len(sheets(page)) >= 1


def test_templates_are_true_to_scale_and_say_how_to_check(page):
    page.goto("/s/hollin-delf/ground/templates/pit")
    shown = page.locator(".sheet-page svg")
    found = sheets(page)
    assert len(found) == shown.count() > 1 and all(close(one, A4) for one in found)
    rulers = page.locator(".sheet-page .ruler")
    assert rulers.count() == shown.count()
    widths = rulers.evaluate_all("all => all.map((one) => one.getBoundingClientRect().width)")
    assert all(abs(width - 100 * MM) < 1.5 for width in widths)
    assert all("100 mm: measure it before cutting" in text for text in shown.all_text_contents())
