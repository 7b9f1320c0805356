"""Memory in the real interface: from a trial on scrap to a lift, to records, to an hour that they change; colours read off
a photo by boxes; Find by keys alone; everything saved and brought back.
"""

from playwright.sync_api import expect

from tests.support.pointer import press

MIX = "joint-compound"


def hours(page, lift):
    made = page.request.get("/s/kettle-fen/plan.json").json()
    return made["lifts"][lift]["hours"]["next"]


def test_from_a_trial_to_a_lift_to_records_to_a_changed_hour(page):
    page.goto("/bench")
    press(page, "w")
    page.get_by_role("link", name="a new scrap").click()
    page.get_by_label("What do you want to know?").fill("Which skin takes a knock?")
    page.get_by_label("Way 1, what is laid").select_option(f"skin/{MIX}")
    page.get_by_label("Way 2, what is laid").select_option("skin/paper-plaster")
    page.get_by_role("button", name="Keep this scrap").click()
    expect(page.locator("h1")).to_contain_text("Which skin takes a knock?")
    for _ in range(3):
        page.get_by_role("link", name="round, shuffled").click()
        for lane, score in ((1, "9"), (2, "5"), (3, "1")):
            page.get_by_role("textbox", name=f"hold, lane {lane}").fill(score)
        page.get_by_role("button", name="Keep this round").click()
        expect(page.locator(".score-chart")).to_be_visible()
    expect(page.locator(".lead-line .lead")).to_have_text("+8.0")
    expect(page.locator(".reading")).to_contain_text("leads, beyond doubt")
    page.get_by_role("button", name="Make lane 1 on my scene").click()
    page.locator("#make select").select_option(label="Kettle Fen, Road")
    page.get_by_role("button", name="Lay it there").click()
    expect(page).to_have_url("/s/kettle-fen/layup?patch=road")
    lift = next(one for one in page.request.get("/s/kettle-fen/plan.json").json()["lifts"] if one == "road-skin-2")
    before = hours(page, lift)
    for number in range(3):
        page.goto("/records/new")
        page.locator("[name=label]").select_option(MIX)
        page.locator("[name=title]").fill(f"board {number}")
        page.locator("[name=predicted]").fill("10")
        page.locator("[name=low]").fill("14")
        page.locator("[name=high]").fill("16")
        page.get_by_role("button", name="Keep it").first.click()
        expect(page.locator(".reading")).to_contain_text(f"{number + 1} record")
    expect(page.locator(".reading .mine")).to_have_text("in use")
    factor = float(page.locator(".lead-line .lead").inner_text().removeprefix("× "))
    expect(page.locator(".moves").first).to_contain_text("Kettle Fen")
    assert factor > 1.2 and abs(hours(page, lift) / before - factor) < 0.01
    page.get_by_role("button", name="Switch off").click()
    expect(page.locator(".reading .mine")).to_have_text("switched off")
    assert hours(page, lift) == before


def test_boxes_are_dragged_and_colours_read_off(page):
    page.goto("/swatches/1/photo")
    box, field = page.locator("[data-box='2']"), page.locator("input[name='box-2']")
    before = field.input_value()
    box.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowDown")
    west, north, width, high = (float(one) for one in field.input_value().split())
    was = [float(one) for one in before.split()]
    assert (round(west - was[0], 4), round(high - was[3], 4)) == (0.005, 0.005) and (north, width) == (was[1], was[2])
    corner = page.locator("[data-box='2'] .corner").bounding_box()
    page.mouse.move(corner["x"] + corner["width"] / 2, corner["y"] + corner["height"] / 2)
    page.mouse.down()
    page.mouse.move(corner["x"] - 60, corner["y"] - 120, steps=4)
    page.mouse.up()
    assert float(field.input_value().split()[3]) < high - 0.05
    kept = field.input_value()
    page.get_by_role("button", name="Read the colours off").click()
    expect(page.locator("input[name='box-2']")).not_to_have_value(before)
    assert [round(float(one), 2) for one in page.locator("input[name='box-2']").input_value().split()] == [
        round(float(one), 2) for one in kept.split()]  # fmt: skip


def test_anything_is_found_by_keys_alone(page):
    page.goto("/bench")
    press(page, "/")
    expect(page.locator(".find-box")).to_be_focused()
    page.keyboard.type("east po")
    expect(page.locator(".hits a").first).to_contain_text("East pond")
    page.keyboard.press("ArrowDown")
    expect(page.locator(".hits a").first).to_be_focused()
    page.keyboard.press("ArrowUp")
    expect(page.locator(".find-box")).to_be_focused()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    page.wait_for_url("**/s/kettle-fen/**")


def test_find_opens_over_the_page_and_takes_every_letter(page):
    page.goto("/bench")
    press(page, "/")
    page.keyboard.type("ballast")  # at once: b and a are keys of places
    expect(page.locator(".find-box")).to_have_value("ballast")
    expect(page.locator(".hits a").first).to_contain_text("Ballast", ignore_case=True)
    page.keyboard.press("Escape")
    expect(page.locator(".find-box")).to_be_hidden()
    assert page.url.endswith("/bench")
    page.keyboard.press("/")  # what was asked stands there to be gone on with
    expect(page.locator(".find-box")).to_have_value("ballast")
    page.keyboard.press("Enter")
    page.wait_for_url("**/find?q=ballast")
    expect(page.locator("h1")).to_have_text("Find")


def test_find_opens_again_the_moment_it_was_closed(page):
    page.goto("/bench")
    press(page, "/")
    page.keyboard.type("bal")
    expect(page.locator(".find-box")).to_have_value("bal")
    page.evaluate(  # within one frame, as two keys on a busy machine come
        "for (const key of ['Escape', '/'])"
        " document.activeElement.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))"
    )
    expect(page.locator(".find-box")).to_be_focused()
    page.keyboard.press("Enter")
    page.wait_for_url("**/find?q=bal")


def test_everything_is_saved_told_and_brought_back(page, tmp_path):
    page.goto("/archive")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save everything").click()
    file = tmp_path / "all.zip"
    saved.value.save_as(file)
    page.get_by_label("The archive").set_input_files(file)
    page.get_by_role("button", name="Look into it").click()
    expect(page.locator("h1")).to_contain_text("What will happen")
    expect(page.locator(".will").first).to_contain_text("Kettle Fen is here already, just so")
    page.get_by_role("button", name="Merge it").click()
    expect(page.locator("#problem")).to_contain_text("5 of 5 plans are the same")
