"""What is printed: A6 mixing cards, four to a sheet of A4, and the diary; nothing of the frame, no card cut."""

import re

from playwright.sync_api import expect


def pages(page):
    made = page.pdf(prefer_css_page_size=True, print_background=True)
    return len(re.findall(rb"/Type\s*/Page[^s]", made))


def test_cards_fill_sheets_of_four_and_none_is_cut(page):
    page.goto("/s/hollin-delf/mix/cards")
    cards = page.locator(".a6")
    expect(cards.first).to_be_visible()
    count = cards.count()
    assert pages(page) == -(-count // 4)
    page.emulate_media(media="print")
    expect(page.locator(".wet-line")).to_be_hidden()
    sizes = [cards.nth(place).evaluate("one => [one.scrollHeight, one.clientHeight]") for place in range(count)]
    assert all(inside <= whole for inside, whole in sizes)


def test_the_diary_prints_as_one_page_with_its_photos(page):
    page.goto("/s/kettle-fen/clock/diary")
    expect(page.locator(".shots img").first).to_be_visible()
    page.emulate_media(media="print")
    expect(page.locator(".wet-line, .spine").first).to_be_hidden()
    assert pages(page) >= 1
