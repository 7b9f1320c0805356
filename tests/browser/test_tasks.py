"""Five things that a caster comes for, each in few clicks: counted as a hand makes them, from the page that is open."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect


class Hand:
    """Presses what is told, and counts."""

    def __init__(self, page):
        self.page, self.clicks = page, 0

    def press(self, what, name, exact=False):
        self.clicks += 1
        self.page.get_by_role(what, name=name, exact=exact).first.click()


@pytest.fixture
def hand(page):
    return Hand(page)


def test_start_a_scene(page, hand):
    page.goto("/")
    hand.press("link", "A board with ponds")
    hand.press("button", "Make it a scene")
    page.wait_for_url("**/s/**")
    expect(page.locator(".panels")).to_be_visible()
    assert hand.clicks == 2


def test_find_what_to_buy(page, hand):
    page.goto("/s/hollin-delf/pour")
    hand.press("link", "Shelf")
    hand.press("link", "What to buy")
    expect(page.locator(".short")).to_contain_text("Casting resin")
    assert hand.clicks == 2


def test_mix_a_batch_and_mark_it_done(page, hand):
    """The cup that is open: what is left of its walk, each point a press; then it is poured, and marked by one more."""
    page.goto("/bench")
    hand.press("link", "The mixing card")
    behind = page.locator(".walk-bars .behind")
    expect(behind.first).to_be_visible()
    points = page.locator(".walk-bars li").count()
    left = points - behind.count()
    for done in range(points - left + 1, points):
        hand.clicks += 1
        unweighed = page.get_by_role("button", name="In, not weighed")
        (unweighed if unweighed.count() else page.locator("#scale .button.is-primary")).first.click()
        expect(behind).to_have_count(done)
    assert hand.clicks == left  # the card opened, and a press a point but the last: pouring it out
    page.goto("/bench")
    hand.clicks = 0
    hand.press("button", "the cup is empty")
    expect(page.locator(".now-panel")).not_to_contain_text("the cup is empty")
    assert hand.clicks == 1


def test_find_why_it_is_tacky(page, hand):
    page.goto("/bench")
    page.get_by_role("button", name="the cup is empty").first.click()
    waits = page.locator('details.waiting:has(a[href*="lake-water"])').first
    waits.locator("summary").click()
    hand.clicks += 1
    waits.get_by_role("link", name="something is wrong with it").click()
    hand.clicks += 1
    expect(page.locator(".symptoms")).not_to_contain_text("brush marks")  # a pour has none
    hand.press("link", "stays tacky or soft")
    expect(page.locator(".causes .rank").first).to_have_text("1")
    expect(page.get_by_label("Where")).to_have_value("hollin-delf/lake-water")
    assert hand.clicks == 3
