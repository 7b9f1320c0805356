"""Pictures of the main views for docs/screenshots, taken of the demo scenes: `make screenshots`."""

from __future__ import annotations

import io
import sys
import tempfile
from pathlib import Path

from PIL import Image
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
    page.evaluate("""() => Promise.all([...document.images]
      .filter((one) => one.getBoundingClientRect().top <= innerHeight)
      .map((one) => one.decode().catch(() => {})))""")
    expect(page.locator(".htmx-request")).to_have_count(0, timeout=60_000)


FRAMES = (
    0,
    5,
    10,
    15,
    20,
    24,
    24,
    20,
    15,
    10,
    5,
    0,
    -3,
    -6,
    -8,
    -8,
    -6,
    -3,
    0,
    0,
)  # px down from where the level stands


def _dragged(page: Page, url: str, target: Path) -> None:
    """The level of the pit lake dragged down and up again, as a moving picture."""
    page.set_viewport_size({"width": DESK[0], "height": DESK[1]})
    page.goto(url)
    _settled(page)
    box = page.locator("#level rect").bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 3, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    frames = []
    for down in FRAMES:
        page.mouse.move(x, y + down)
        page.wait_for_timeout(300)  # the answer is here, and drawn
        frames.append(
            Image.open(io.BytesIO(page.screenshot())).convert("RGB").resize((960, 600), Image.Resampling.LANCZOS)
        )
    page.keyboard.press("Escape")
    frames[0].save(target, save_all=True, append_images=frames[1:], duration=180, loop=0, quality=72, method=4)


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
        page.keyboard.press("d")
        page.wait_for_selector("html[data-theme=light]")
        _dragged(page, f"{served.url}/s/hollin-delf/pour", target / "drag.webp")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
