"""From a photo to traced ponds, by hand: corners dragged under the glass, an edge followed, closed, taken back."""

import io
import json

import numpy as np
import pytest
from playwright.sync_api import expect
from shapely import Polygon

from isostasis.demo import document
from tests.support.photos import as_file, fen_photo
from tests.support.plan import Plan, revision, take
from tests.support.pointer import drag, middle
from tests.support.views import PHONE

TRUE = document("kettle-fen")


def ring_of(name):
    return next(form["outline"] for form in TRUE["forms"] if form["id"] == name)


def round_clicks(name, count=12):
    ring = Polygon(ring_of(name)).exterior
    return [ring.interpolate(one / count, normalized=True).coords[0] for one in range(count)]


def put_corners(page, corners):
    """Each handle on to its corner of the board."""
    view = page.locator("#corners")
    for handle, (x, y) in zip(page.locator(".by-corners .corner-handle").all(), corners, strict=True):
        px = view.evaluate("one => one.getScreenCTM().a")
        at = json.loads(handle.get_attribute("data-at"))
        drag(page, handle.locator("circle").nth(1), (x - at[0]) * px, (y - at[1]) * px)


def test_a_board_is_photographed_laid_straight_and_its_ponds_are_traced(page, saved):
    page.goto("/")
    page.get_by_role("link", name="From a photo of your board").click()
    page.get_by_label("A photo of the board").set_input_files(
        {"name": "fen.jpg", "mimeType": "image/jpeg", "buffer": as_file(fen_photo(), quality=90)}
    )
    page.get_by_label("Name").fill("Traced fen")
    page.get_by_role("button", name="Take it in").click()
    expect(page.get_by_role("heading", name="Where is the board?")).to_be_visible()
    page.wait_for_load_state("load")
    true = TRUE["photo"]["corners"]
    put_corners(page, true)
    handle = page.locator(".by-corners .corner-handle").first
    before = json.loads(handle.get_attribute("data-at"))
    handle.focus()
    page.keyboard.press("ArrowRight")
    assert json.loads(handle.get_attribute("data-at")) == [before[0] + 1, before[1]]
    x, y = middle(handle.locator("circle").first)
    page.mouse.move(x, y)
    page.mouse.down()
    expect(page.locator(".loupe")).to_be_visible()
    page.mouse.up()
    expect(page.locator(".loupe")).to_have_count(0)
    page.get_by_role("button", name="Lay it under the plan").click()
    expect(page.locator("svg.panels image.photo")).to_be_visible()
    photo = saved("traced-fen")["photo"]
    assert np.abs(np.array(photo["corners"]) - true).max() < 6 and photo["agree_mm"] < 1

    take(page, "basin", "follow an edge")
    plan = Plan(page)
    clicks = round_clicks("east-pond")
    for place in clicks[:5]:
        page.mouse.click(*plan.at(*place))
    page.mouse.move(*plan.at(*clicks[5]))
    expect(page.locator(".stroke.offered")).to_have_attribute("points", pattern())
    page.get_by_role("button", name="one back").click()
    for place in clicks[4:]:
        page.mouse.click(*plan.at(*place))
    page.keyboard.press("Enter")
    kept = page.locator(".history-bar a", has_text="revision 3")
    asked = page.get_by_text("Two edges run side by side")
    expect(kept.or_(asked).first).to_be_visible()
    if asked.is_visible():  # the lip and what runs inside it: the one drawn is kept
        page.keyboard.press("Enter")
    revision(page, 3)
    drawn = saved("traced-fen")["forms"][-1]
    assert drawn["name"] == "East pond"
    found, ring = Polygon(drawn["outline"]), Polygon(ring_of("east-pond"))
    assert found.area == pytest.approx(ring.area, rel=0.06)
    assert found.symmetric_difference(ring).area / ring.length < 2.0
    page.get_by_role("button", name="undo").click()
    revision(page, 2)
    page.get_by_role("button", name="redo").click()
    revision(page, 3)
    assert saved("traced-fen")["forms"][-1] == drawn


def pattern():
    import re

    return re.compile(r"^\d.*,.* \d")


def test_by_hand_from_here_and_a_strength(page, saved):
    page.goto("/s/kettle-fen/ground")
    take(page, "rim", "follow an edge")
    plan = Plan(page)
    for place in ((200, 40), (300, 40)):
        page.mouse.click(*plan.at(*place))
    page.get_by_role("button", name="by hand").click()
    for place in ((300, 90), (200, 90)):
        page.mouse.click(*plan.at(*place))
    page.get_by_role("button", name="close it").click()
    revision(page, 2)
    drawn = saved("kettle-fen")["forms"][-1]
    assert drawn["name"] == "South rim" and drawn["outline"][-1] == pytest.approx([200, 90], abs=1.5)
    page.goto("/s/kettle-fen/ground")
    slider = page.locator(".strength input[type=range]")
    slider.focus()
    page.wait_for_load_state("load")
    slider.press("Home")
    revision(page, 3)
    assert saved("kettle-fen")["photo"]["strength"] == 0
    expect(page.locator("image.photo")).to_have_attribute("opacity", "0.0")


def test_a_finger_drags_a_corner(chromium, served):
    context = chromium.new_context(viewport=PHONE, base_url=served, has_touch=True)
    page = context.new_page()
    page.goto("/s/kettle-fen/ground/photo")
    page.wait_for_load_state("load")
    handle = page.locator(".by-corners .corner-handle").nth(2)
    before = json.loads(handle.get_attribute("data-at"))
    x, y = middle(handle.locator("circle").first)
    touch = context.new_cdp_session(page)
    for kind, places in (("touchStart", [(x, y)]), ("touchMove", [(x - 30, y + 20)]), ("touchEnd", [])):
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": a, "y": b} for a, b in places]})
    expect(handle).not_to_have_attribute("data-at", json.dumps(before).replace(" ", ""))
    after = json.loads(handle.get_attribute("data-at"))
    assert after[0] < before[0] - 40 and after[1] > before[1] + 20
    context.close()


def test_a_file_that_is_no_photo_is_told_on_the_page(page):
    page.goto("/s/tarn/ground/photo")
    field = page.get_by_label("A photo of the board")
    field.set_input_files({"name": "notes.jpg", "mimeType": "image/jpeg", "buffer": io.BytesIO(b"plaster").read()})
    page.get_by_role("button", name="Take it in").click()
    expect(page.get_by_text("it is no picture of a kind that is known")).to_be_visible()
