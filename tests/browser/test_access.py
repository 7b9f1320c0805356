"""Can everybody use it: axe's rules on every main view, light and dark; nothing beside the window on a phone."""

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from tests.support.pointer import press

VIEWS = [
    "/",
    "/start/ponds",
    "/start/photo",
    "/s/kettle-fen/ground",
    "/s/kettle-fen/ground/photo",
    "/s/tarn/ground/photo",
    "/s/kettle-fen/settings",
    "/labels",
    "/labels/mix/casting-resin?reacts_max_depth_mm=20+mm&scene=hollin-delf",
    "/labels/new?family=resin",
    "/labels/mixed",
    "/labels/in",
    "/bench",
    "/shelf",
    "/shelf/buy",
    "/shelf/list",
    "/shelf/prices?material=casting-resin",
    "/shelf/count",
    "/shelf/pack/1",
    "/s/hollin-delf/ground?form=pit",
    "/s/hollin-delf/ground?stage=relief",
    "/s/hollin-delf/ground/steps",
    "/s/hollin-delf/ground/incline",
    "/s/hollin-delf/ground/foam",
    "/s/hollin-delf/ground/joints",
    "/s/hollin-delf/ground/flats",
    "/s/hollin-delf/ground/level",
    "/s/hollin-delf/ground/patches",
    "/s/hollin-delf/ground/files",
    "/things",
    "/s/hollin-delf/layup",
    "/s/hollin-delf/ground?form=slate-slabs",
    "/s/hollin-delf/layup?patch=spoil-heap",
    "/s/hollin-delf/layup/schools?lift=benches-skin",
    "/s/hollin-delf/layup/schools?lift=sump-fix",
    "/s/hollin-delf/layup/blend?material=play-sand&material=chalk-dust&scoops=2&scoops=1&to=&to=3&target=%23c5b592",
    "/s/hollin-delf/layup/bands?lift=lake-water",
    "/s/hollin-delf/pour/course?lift=lake-water",
    "/s/hollin-delf/pour/whatif?lift=sump-water",
    "/s/saltcote-pans/pour?lift=salt-glue",
    "/s/hollin-delf/pour",
    "/s/hollin-delf/mix",
    "/s/hollin-delf/mix/cards",
    "/s/kettle-fen/clock/diary",
    "/reckon",
    "/reckon/over",
    "/records",
    "/records/new",
    "/s/ember-pools/otherwise",
    "/s/hollin-delf/mix/1/again",
    "/swatches",
    "/swatches?lane=2",
    "/swatches/2",
    "/swatches/new",
    "/swatches/1/judge",
    "/swatches/1/photo",
    "/swatches/match",
    "/find?q=skin",
    "/archive",
    "/faults",
    "/faults?symptom=tacky&spot=hollin-delf/lake-water",
    "/s/hollin-delf/history",
    "/s/hollin-delf/clock?step=heap-wash",
    "/s/hollin-delf/clock/list",
    "/s/hollin-delf/clock/day",
    "/s/hollin-delf/clock/room",
    "/s/hollin-delf/clock/gates",
]


RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
# What is dark differs in its colours alone.
CONTRAST = {"type": "rule", "values": ["color-contrast"]}


def broken(page, rules):
    """What breaks the rules on the page at rest."""
    return [
        (one["id"], one["nodes"][0]["html"][:140], one["nodes"][0]["failureSummary"][:300])
        for one in Axe().run(page, options={"runOnly": rules}).response["violations"]
    ]


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


# Words of drawings as large as they are on the screen, those under 12 px.
TOO_SMALL = """() => [...document.querySelectorAll('svg text')].filter((text) => {
  if (!text.textContent.trim() || !text.checkVisibility() || text.getBoundingClientRect().width < 1) return false;
  const { a, b } = text.getScreenCTM();
  return Math.hypot(a, b) * parseFloat(getComputedStyle(text).fontSize) < 12;
}).map((text) => text.textContent.trim())"""


def test_nothing_sticks_out_on_a_phone_and_every_word_can_be_read(page):
    page.set_viewport_size({"width": 390, "height": 844})
    for view in VIEWS:
        page.goto(view)
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, view
        assert page.evaluate(TOO_SMALL) == [], view


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
