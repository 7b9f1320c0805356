"""Pictures of the main views for docs/screenshots, taken of the demo scenes: `make screenshots`."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from tools.browser import CHROMIUM, CHROMIUM_FLAGS, Served

DESK, PHONE = (1280, 800), (390, 844)
VIEWS = (
    ("scenes", "/", DESK, "light"),
    ("ground", "/s/hollin-delf/ground?form=pit", DESK, "light"),
    ("label", "/labels/mix/casting-resin?reacts_max_depth_mm=20+mm&scene=hollin-delf", DESK, "light"),
    ("shelf", "/shelf", DESK, "light"),
    ("buy", "/shelf/buy", DESK, "light"),
    ("layup", "/s/hollin-delf/layup?patch=pit-lake", DESK, "light"),
    ("photo", "/s/kettle-fen/ground/photo", DESK, "light"),
    ("pour", "/s/hollin-delf/pour", DESK, "light"),
    ("list-phone", "/shelf/list", PHONE, "light"),
    ("mix", "/s/hollin-delf/mix", DESK, "light"),
    ("clock", "/s/hollin-delf/clock", DESK, "light"),
    ("bench", "/bench", DESK, "light"),
    ("bench-phone", "/bench", PHONE, "light"),
    ("diary", "/s/hollin-delf/clock/diary", DESK, "light"),
    ("reckoner", "/reckon", DESK, "light"),
    ("swatches", "/swatches", DESK, "light"),
    ("records", "/records", DESK, "light"),
    ("wrong", "/faults?symptom=cracked&spot=hollin-delf/benches-skin", DESK, "light"),
    ("pour-working-dark", "/s/hollin-delf/pour", DESK, "dark"),
)  # fmt: skip


def _settled(page: Page) -> None:
    """Nothing more is asked for, but for what is asked again and again."""
    page.wait_for_load_state("load")
    page.locator("#wet[data-fresh]").wait_for(state="attached")
    page.wait_for_timeout(600)  # what is asked for once the page is there
    expect(page.locator(".htmx-request")).to_have_count(0, timeout=60_000)


def main(folder: str) -> None:
    """Take them all into a folder."""
    target = Path(folder)
    target.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch, Served(scratch) as served, sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=CHROMIUM, args=list(CHROMIUM_FLAGS))
        page = browser.new_page()
        for name, url, (width, height), theme in VIEWS:
            page.set_viewport_size({"width": width, "height": height})
            if name.startswith("list"):
                page.goto(f"{served.url}/shelf/buy")
                page.locator(".foot .next").click()
                page.wait_for_url("**/shelf/list")
                for place in (1, 3):
                    page.locator(".take").nth(place).click()
                    _settled(page)
            page.goto(served.url + url)
            if page.locator("html").get_attribute("data-theme") != theme:
                page.keyboard.press("d")
                page.wait_for_selector(f"html[data-theme={theme}]")
            if "working" in name:
                page.locator(".figure summary").nth(1).click()
                page.locator(".working .law").first.wait_for()
            if "clock" in name:
                page.locator(".strata, .step-card").first.wait_for(timeout=60_000)
                page.locator("#solving, #options[hx-get]").wait_for(state="detached", timeout=60_000)
            _settled(page)
            page.screenshot(path=str(target / f"{name}.png"))
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
