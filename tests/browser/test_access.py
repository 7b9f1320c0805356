"""Can everybody use it: axe's rules on every main view, light and dark; nothing beside the window on a phone."""

import pytest
from playwright.sync_api import expect

from tests.support.axe import CONTRAST, RULES, broken
from tests.support.pointer import press
from tests.support.views import VIEWS


@pytest.mark.parametrize("views", [VIEWS[::2], VIEWS[1::2]], ids=["even", "odd"])
def test_axe_finds_nothing(page, views):
    page.emulate_media(reduced_motion="reduce")  # colours are judged as they end, not on their way
    page.goto("/")
    press(page, "d")
    page.wait_for_selector("html[data-theme=dark]")
    press(page, "d")
    page.wait_for_selector("html[data-theme=light]")
    found = []
    for view in views:
        page.goto(view)
        for details in page.locator("details:not(.room):not(.touch):not(.more-tools) > summary").all()[:8]:
            if details.is_visible():
                details.click()
        # What is asked for dims its control until it is here: judged is the page at rest.
        expect(page.locator(".htmx-request, .htmx-swapping, .htmx-settling")).to_have_count(0)
        found += [(view, *one) for one in broken(page, RULES)]
        page.evaluate("document.documentElement.dataset.theme = 'dark'")
        found += [(f"{view}, dark", *one) for one in broken(page, CONTRAST)]
    assert not found, "\n".join(map(str, found))


def test_a_button_can_be_read_under_the_pointer(page):
    page.emulate_media(reduced_motion="reduce")
    for view, name in (
        ("/archive", "Save everything"),
        ("/labels", "A new tin"),
        ("/swatches", "Judge another round, shuffled"),
    ):
        page.goto(view)
        button = page.get_by_role("link", name=name)
        button.hover()
        assert button.evaluate("one => one.matches(':hover')")
        assert broken(page, CONTRAST) == [], view
