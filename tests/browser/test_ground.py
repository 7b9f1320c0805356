"""The ground under the hand: forms moved and snapped, heights dragged in the cut, looking closer, the relief turned."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from isostasis.core.plan import plan
from tests.support.pointer import box_of, drag, keys, middle, press
from tests.support.scenes import resolved
from tests.support.waiting import held_back, holds


def form(saved, name, slug="tarn"):
    return next(one for one in saved(slug)["forms"] if one["id"] == name)


def scale(page):
    """Screen px per mm."""
    panels = page.locator("svg.panels")
    wide = float(panels.get_attribute("viewBox").split()[2])
    return float(panels.get_attribute("data-scale")) * box_of(panels)["width"] / wide


def revision(page, number):
    expect(page.locator(".history-bar a")).to_have_text(f"revision {number}")


def test_a_whole_form_is_dragged_and_snaps_to_the_grid(page, saved):
    page.goto("/s/tarn/ground?form=hole")
    x, y = middle(page.locator("g.body polygon"))
    page.mouse.move(x, y + 30)  # off the cut line
    page.mouse.down()
    page.mouse.move(x + 21.3 * scale(page), y + 30 - 10.9 * scale(page), steps=5)
    page.mouse.up()
    revision(page, 2)
    ring = np.array(form(saved, "hole")["outline"])
    assert np.ptp(ring, axis=0) == pytest.approx([200, 100])
    assert ring[0] == pytest.approx([72, 40])  # from 50, 30; the grid is 2 mm, and 140 is the bank's edge


def test_a_form_snaps_to_the_edges_of_the_others_and_alt_frees_it(page, saved):
    page.goto("/s/tarn/ground?form=hole")
    near = 9 - 2 / scale(page)
    x, y = middle(page.locator("g.body polygon"))
    page.mouse.move(x, y + 30)
    page.mouse.down()
    page.mouse.move(x, y + 30 - near * scale(page), steps=5)
    page.mouse.up()
    revision(page, 2)
    assert max(place[1] for place in form(saved, "hole")["outline"]) == 140  # the bank's edge, not the grid's 138
    page.get_by_role("button", name="undo").click()
    revision(page, 1)
    page.keyboard.down("Alt")
    page.mouse.move(x, y + 30)
    page.mouse.down()
    page.mouse.move(x + 7.3 * scale(page), y + 30, steps=5)
    page.mouse.up()
    page.keyboard.up("Alt")
    revision(page, 3)
    assert form(saved, "hole")["outline"][0][0] == pytest.approx(57.3, abs=0.4)


def test_arrow_keys_nudge_a_form_by_millimetres(page, saved):
    page.goto("/s/tarn/ground?form=hole")
    body = page.get_by_role("button", name="Hole, the whole of it")
    body.focus()
    keys(body, "ArrowRight", "ArrowRight", "Shift+ArrowDown")
    revision(page, 2)
    assert form(saved, "hole")["outline"][0] == [52, 20]


@pytest.mark.parametrize("handle", ["#handle-form", "#handle-corner-0"])
def test_keys_pressed_while_others_are_saved_are_kept(page, saved, handle):
    page.goto("/s/tarn/ground?form=hole")
    held = held_back(page, "**/forms/hole")
    page.locator(handle).focus()
    with page.expect_request("**/forms/hole"):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowUp")
    held[0].continue_()
    revision(page, 3)
    assert form(saved, "hole")["outline"][0] == [52, 40]
    expect(page.locator(handle)).to_be_focused()
    expect(page.locator("#problem")).to_be_empty()


def test_the_height_of_a_form_is_dragged_in_the_cut(page, saved):
    page.goto("/s/tarn/ground?form=hole")
    handle = page.locator(".form-handle rect")
    rise = (
        float(page.locator("svg.panels").get_attribute("data-rise"))
        * scale(page)
        / float(page.locator("svg.panels").get_attribute("data-scale"))
    )
    drag(page, handle, 0, 3 * rise)
    revision(page, 2)
    assert form(saved, "hole")["depth_mm"] == pytest.approx(13, abs=0.5)
    slider = page.get_by_role("slider", name="Hole, depth in mm")
    slider.focus()
    slider.press("ArrowUp")
    revision(page, 3)
    assert form(saved, "hole")["depth_mm"] == pytest.approx(13.5, abs=0.5)


def test_the_handle_follows_the_cut(page):
    page.goto("/s/tarn/ground?form=bank")
    expect(page.locator(".form-handle")).to_have_count(0)  # the cut at 80 mm misses the bank
    drag(page, page.locator("#cut-line circle").first, 0, -90 * scale(page))
    expect(page.locator(".form-handle text")).to_have_text("thickness 25 mm")


def test_a_path_is_bent_and_a_form_is_doubled(page, saved):
    page.goto("/s/hollin-delf/ground?form=haul-incline")
    drag(page, page.get_by_role("button", name="Point 2 of Haul incline"), -30, 0)
    expect(
        page.get_by_text("This touches work that is done.")
    ).to_be_visible()  # it was cut, and compound lies round it
    page.get_by_role("button", name="Do it").click()
    revision(page, 2)
    assert form(saved, "haul-incline", "hollin-delf")["path"][1][0] < 1090
    page.get_by_role("button", name="once more").click()
    revision(page, 3)
    assert [one["id"] for one in saved("hollin-delf")["forms"]].count("haul-incline-2") == 1


def test_keys_come_closer_and_move_along(page):
    page.goto("/s/hollin-delf/ground")
    panels = page.locator("svg.panels")
    press(page, "+")
    expect(panels).to_have_attribute("data-zoom", "2.0")
    left = float(panels.get_attribute("data-left"))
    press(page, "ArrowRight")
    expect(panels).not_to_have_attribute("data-left", str(left))
    assert float(panels.get_attribute("data-left")) < left
    press(page, "l")
    expect(page.locator("h1")).to_contain_text("Lay-up")
    expect(panels).to_have_attribute("data-zoom", "2.0")
    press(page, "0")
    expect(panels).to_have_attribute("data-zoom", "1.0")


def test_the_wheel_comes_closer_to_where_it_points_and_dragging_moves_along(page):
    page.goto("/s/hollin-delf/ground/level")
    panels = page.locator("svg.panels")
    box = box_of(panels)

    def under(x):
        inside = (x - box["x"]) / box["width"] * 812
        return (inside - float(panels.get_attribute("data-left"))) / float(panels.get_attribute("data-scale"))

    x, y = box["x"] + 0.7 * box["width"], box["y"] + 60
    before = under(x)
    page.mouse.move(x, y)
    page.mouse.wheel(0, -120)
    expect(panels).to_have_attribute("data-zoom", "1.5")
    assert under(x) == pytest.approx(before, abs=3)
    left = panels.get_attribute("data-left")
    page.mouse.down()
    page.mouse.move(x + 60, y, steps=4)
    page.mouse.up()
    expect(panels).not_to_have_attribute("data-left", left)  # the page has come again
    expect(panels).to_have_attribute("data-zoom", "1.5")
    assert under(x + 60) == pytest.approx(before, abs=4)


def test_corners_are_dragged_where_the_plan_is_looked_at_closely(page, saved):
    page.goto("/s/tarn/ground?form=hole")
    press(page, "+")
    panels = page.locator("svg.panels")
    expect(panels).to_have_attribute("data-zoom", "2.0")
    for key, edge in (("ArrowLeft", "data-left"), ("ArrowDown", "data-plan-bottom")):
        before = panels.get_attribute(edge)
        press(page, key)
        expect(panels).not_to_have_attribute(edge, before)
    corner = page.get_by_role("button", name="Corner 1 of Hole")
    expect(corner).to_be_visible()
    drag(page, corner, 20 * scale(page), 0)
    revision(page, 2)
    assert form(saved, "hole")["outline"][0] == [70, 30]


def test_the_relief_turns_and_is_built_up(page):
    page.goto("/s/hollin-delf/ground?stage=relief&at=finished")
    canvas = page.locator("#relief")
    expect(canvas).to_have_attribute("data-shown", "finished")

    def picture():
        return page.evaluate("document.getElementById('relief').toDataURL()")

    first, turn = picture(), canvas.get_attribute("data-turn")
    drag(page, canvas, 120, 0)
    expect(canvas).not_to_have_attribute("data-turn", turn)
    second = picture()
    assert second != first
    canvas.focus()
    canvas.press("ArrowLeft")
    canvas.press("+")
    holds(page, "before => document.getElementById('relief').toDataURL() !== before", second)
    slider = page.locator("#relief-stage")
    slider.focus()
    slider.press("Home")
    expect(page.locator("#relief-words")).to_have_text("Ground sheet")
    expect(canvas).to_have_attribute("data-shown", "ground-sheet")
    blank = page.evaluate(
        "(() => { const c = document.createElement('canvas'); c.width = 812; c.height = 560; return c.toDataURL(); })()"
    )
    assert picture() != blank


def test_a_click_tries_a_figures_foot(page):
    page.goto("/s/saltcote-pans/ground/flats")
    box = box_of(page.locator("svg.panels"))
    page.mouse.click(box["x"] + 0.5 * box["width"], box["y"] + 60)
    expect(page.locator(".figure", has_text="there it leans")).to_be_visible()
    expect(page.locator(".tried-foot")).to_have_count(1)


def test_heights_come_in_from_a_file(page, saved, tmp_path):
    path = tmp_path / "dip.csv"
    path.write_text("x,y,z\n0,150,26\n300,150,26\n300,200,50\n0,200,44\n")
    page.goto("/s/tarn/ground/files")
    page.locator("input[type=file]").set_input_files(path)
    page.get_by_role("button", name="Take them in").click()
    expect(page.get_by_role("heading", name="dip")).to_be_visible()
    assert plan(resolved(saved())).built.bare.z[98, 148] == pytest.approx(49, abs=1)
    path.write_text("x,y,z\n0,150\n")
    page.goto("/s/tarn/ground/files")
    page.locator("input[type=file]").set_input_files(path)
    page.get_by_role("button", name="Take them in").click()
    expect(page.locator("#problem")).to_contain_text("line 2: it has 2 values")


def test_carving_steps_with_one_click(page, saved):
    page.goto("/s/hollin-delf/ground/steps")
    page.get_by_role("button", name="Carve it").first.click()
    page.get_by_role("button", name="Do it").click()
    expect(page.get_by_role("heading", name="carved")).to_be_visible()
    assert "bevel" in [one["kind"] for one in saved("hollin-delf")["forms"]]


def test_the_surface_is_shown_stage_by_stage_wet_and_dry(page):
    page.goto("/s/hollin-delf/layup?patch=spoil-heap")
    picture, words = page.locator("#plan-image"), page.locator("#surface-words")
    expect(words).to_have_text("finished")
    waters = page.locator("#water-plan [data-lift]")
    expect(waters.first).to_be_visible()
    page.locator("#surface-stage").press("Home")
    expect(words).to_have_text("Ground sheet")
    expect(picture).to_have_attribute("href", re.compile("stage=ground-sheet$"))
    expect(waters.first).to_be_hidden()
    page.locator("#surface-wet").check()
    expect(picture).to_have_attribute("href", re.compile("stage=ground-sheet&wet=1$"))
    with page.expect_response(re.compile("relief.webp.*stage=finished")) as answer:
        page.locator("#surface-stage").press("End")
    assert answer.value.ok
    expect(waters.first).to_be_visible()


def test_where_neighbours_bite_moves_with_the_cut(page):
    page.goto("/s/hollin-delf/layup?patch=floor")
    expect(page.locator("#marks-plan .bite-number")).to_have_count(1)
    expect(page.locator("#marks-cut path")).to_have_count(0)  # the cut misses the slabs
    line = page.locator("#cut-line")
    for _ in range(2):
        line.press("Shift+ArrowUp")
    expect(page.locator("#marks-cut path")).to_have_count(1)


def test_what_is_wrong_stands_beside_its_field_too(page):
    page.goto("/s/hollin-delf/ground?form=pit")
    depth = page.get_by_label("Depth", exact=True)
    depth.fill("deep")
    page.get_by_role("button", name="Set these numbers").click()
    expect(page.locator("#problem")).to_contain_text("“deep” is no length")
    note = page.locator(".field-wrong")
    expect(note).to_contain_text("“deep” is no length")
    expect(depth).to_be_focused()
    assert depth.get_attribute("aria-describedby") == note.get_attribute("id")
    depth.fill("9000 mm")
    page.get_by_role("button", name="Set these numbers").click()
    expect(page.locator("#problem")).to_contain_text("Pit, depth")  # by its name, no path of the document
    expect(page.locator("#problem")).not_to_contain_text("forms[")
