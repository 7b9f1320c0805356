"""Quick sums by keys alone, and on a phone: the answer follows what is typed, the picture with it."""

import pytest
from playwright.sync_api import expect

from tests.support.pointer import press

SUMS = (
    ("A pour on a plain shape", "width", "300 mm", "Deepest"),
    ("Parts from a total", "total", "250 ml", "Wanted"),
    ("Too much in the cup", "second", "140 g", "Second part in the cup"),
    ("Cloth, strips and rolls", "area", "2 m2", "Area"),
    ("An incline of your own stock", "height", "44 mm", "Climbs"),
)


@pytest.fixture(params=[(1280, 800), (390, 844)], ids=["desk", "phone"])
def sized(request, page):
    page.set_viewport_size({"width": request.param[0], "height": request.param[1]})
    return page


def test_five_sums_by_keys(sized):
    page = sized
    page.goto("/bench")
    press(page, "k")
    expect(page.locator("h1")).to_contain_text("A pour on a plain shape")
    for title, field, typed, _ in SUMS:
        if page.viewport_size["width"] < 1000:
            page.get_by_role("link", name="another sum").click()
            expect(page.locator(".sums a").first).to_be_in_viewport()  # all of them stand beneath
        link = page.locator(".sums a", has_text=title)
        link.focus()
        page.keyboard.press("Enter")
        expect(page.locator("h1")).to_contain_text(title)
        lead = page.locator("#answered .number.lead")
        before, drawn = lead.inner_text(), page.locator(".sum-picture path").first.get_attribute("d")
        page.locator(f"#asked [name={field}]").focus()
        page.keyboard.press("Control+a")
        page.keyboard.type(typed)
        page.keyboard.press("Tab")
        expect(lead).not_to_have_text(before)
        assert drawn is not None
    page.locator("#asked [name=height]").fill("tea")
    expect(page.locator("#answered")).to_contain_text("“tea” is no length")
    height, beside = (
        page.locator("#asked [name=height]"),
        page.locator("#asked .line:has([name=height]) + .field-wrong"),
    )
    expect(beside).to_contain_text("“tea” is no length")
    expect(height).to_be_focused()
    assert height.get_attribute("aria-describedby") == beside.get_attribute("id")
    page.locator("#asked [name=height]").fill("50 mm")
    expect(page.locator("#asked .field-wrong")).to_have_count(0)


def test_the_picture_moves_with_the_fields_and_what_if_answers(page):
    page.goto("/reckon/pour")
    water = page.locator(".sum-picture .water")
    before = water.get_attribute("d")
    page.locator("[name=depth]").fill("60 mm")
    expect(water).not_to_have_attribute("d", before)
    expect(page.locator(".if").first).to_contain_text("2 mm deeper")
    page.get_by_role("button", name="Start a scene from it").click()
    expect(page).to_have_url("/s/a-pour-on-a-plain-shape/layup", timeout=60_000)
