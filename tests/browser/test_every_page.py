"""Every page: it asks for little, arrives from its top down and pushes nothing about; axe's rules, light and dark; on a phone, a tablet, a desk
and at 200 %; words large enough; one heading, one main part, places to go, and a name for each control; a link to a file says
that it is one."""

import pytest
from playwright.sync_api import expect

from tests.support.arriving import HIGHER, SHIFTS, at_rest, pushed
from tests.support.axe import CONTRAST, RULES, broken
from tests.support.views import DESK, FILES, IN_NO_PLACE, PHONE, VIEWS

ZOOMED = {"width": 640, "height": 400}  # what is left of a desk's at 200 %
TABLET = {"width": 1112, "height": 834}  # on its side
PARTS = 4
# How wide the page is, and words under 12.5 px, those of drawings as large as they are on the screen.
FITS = """() => [document.documentElement.scrollWidth, [...document.querySelectorAll('body *')].filter((one) => {
  const words = [...one.childNodes].some((node) => node.nodeType === 3 && node.textContent.trim());
  if (!words || !one.checkVisibility() || one.getBoundingClientRect().width < 1 || one.matches('title, script')) return false;
  const { a, b } = one.ownerSVGElement ? one.getScreenCTM() : { a: 1, b: 0 };
  return Math.hypot(a, b) * parseFloat(getComputedStyle(one).fontSize) < 12.5;
}).map((one) => one.textContent.trim())]"""
UNNAMED = """() => [...document.querySelectorAll("main :is(button, a[href], input:not([type=hidden]), select)")].filter((one) =>
  one.checkVisibility() && !(one.getAttribute("aria-label")
  || one.getAttribute("aria-labelledby") || one.textContent.trim() || one.labels?.length || one.title
  || one.querySelector("img[alt], svg[aria-label], [aria-label]"))).map((one) => one.outerHTML.slice(0, 120))"""
# What hides a part of itself at its right: the scenes on a phone are leafed through, the status is for who runs it.
HIDES = """() => [...document.querySelectorAll('body *:not(.cards, .scroll-x, input, textarea)')].filter((one) => one.checkVisibility()
  && getComputedStyle(one).overflowX !== 'visible' && one.clientWidth > 3 && one.scrollWidth > one.clientWidth + 1
).map((one) => one.outerHTML.slice(0, 120))"""
TOLD = """[["[aria-current]", "outlineStyle"], ["main .button", "borderStyle"]].map(([which, style]) =>
  [...document.querySelectorAll(which)].filter((one) => one.checkVisibility()).map((one) => getComputedStyle(one)[style]))"""
ASKED = "performance.getEntriesByType('resource').length"
PARTS_OF_IT = "['h1', 'main', 'nav'].map((part) => document.querySelectorAll(part).length)"
# Of drawings too.
PATHS = """[...document.querySelectorAll("a[href^='/']:not([download])")].map((one) =>
  decodeURI(new URL(one.getAttribute('href'), location).pathname))"""
SHOWN = {"devices.knock", "ground.print_templates", "bench.picture", "ground.picture"}  # files that a browser shows
UNFOLDED = """() => [...document.querySelectorAll("details:not(.room):not(.touch):not(.more-tools) > summary")]
  .filter((one) => one.checkVisibility()).slice(0, 8).forEach((one) => one.closest('details').open = true)"""


@pytest.mark.parametrize("part", range(PARTS))
def test_a_page_can_be_used_by_everybody(page, server, part):
    addresses = server.pages.url_map.bind("")
    page.emulate_media(reduced_motion="reduce")  # colours are judged as they end, not on their way
    page.add_init_script(SHIFTS)
    found = []
    for view in VIEWS[part::PARTS]:
        page.set_viewport_size(PHONE)
        page.goto(view)
        at_rest(page)
        assert pushed(page) == [], view
        assert page.evaluate(HIGHER) == [], view
        assert page.evaluate(ASKED) < 20, view  # and the page itself
        assert page.evaluate(HIDES) == [], view
        headings, mains, navs = page.evaluate(PARTS_OF_IT)
        assert headings == mains == 1 <= navs, view
        assert page.evaluate(UNNAMED) == [], view
        for path in page.evaluate(PATHS):  # else a page would wait for one that never comes
            is_ours = addresses.test(path, method="GET")
            assert not is_ours or addresses.match(path, method="GET")[0] not in FILES - SHOWN, (view, path)
        for size in (PHONE, ZOOMED, TABLET, DESK):
            page.set_viewport_size(size)
            width, too_small = page.evaluate(FITS)
            assert width <= size["width"], (view, size)
            assert too_small == [], (view, size)
        page.emulate_media(forced_colors="active")  # what is chosen can still be told where the system chooses colours
        chosen, buttons = page.evaluate(TOLD)
        assert set(buttons) <= {"solid"} and set(chosen) == (set() if view in IN_NO_PLACE else {"solid"}), view
        page.emulate_media(forced_colors="none")
        page.evaluate(UNFOLDED)
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
