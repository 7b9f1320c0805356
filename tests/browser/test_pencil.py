"""The pencil on the plan: strokes, boxes and corners become forms with names; corners come and go; all of it undone."""

import math
import re

import pytest
from playwright.sync_api import expect
from shapely import Polygon

from tests.support.plan import Plan, revision, take
from tests.support.pointer import drag


def circle(x, y, radius, points=40):
    turns = [2 * math.pi * number / points for number in range(points)]
    return [(x + radius * math.cos(turn), y + radius * math.sin(turn)) for turn in turns]


def test_a_pond_is_drawn_freehand_and_has_its_name_at_once(page, saved):
    page.goto("/s/tarn/ground")
    take(page, "basin", "freehand")
    Plan(page).drag(*circle(250, 165, 22))
    revision(page, 2)
    drawn = saved("tarn")["forms"][-1]
    assert drawn["name"] == "North-east pond" and drawn["id"] == "north-east-pond"
    assert Polygon(drawn["outline"]).area == pytest.approx(math.pi * 22**2, rel=0.05) and len(drawn["outline"]) < 30
    expect(page.get_by_role("heading", name="North-east pond")).to_be_visible()
    page.get_by_role("button", name="undo").click()
    revision(page, 1)
    assert len(saved("tarn")["forms"]) == 3
    page.get_by_role("button", name="redo").click()
    revision(page, 2)
    assert saved("tarn")["forms"][-1] == drawn


def test_boxes_corners_and_paths(page, saved):
    page.goto("/s/tarn/ground")
    take(page, "sheet", "rectangle")
    Plan(page).drag((210, 150), (230, 170), (280, 190))
    revision(page, 2)
    take(page, "mound", "ellipse")
    Plan(page).drag((20, 150), (90, 190))
    revision(page, 3)
    take(page, "ramp", "corners")
    for place in ((20, 20), (120, 16), (200, 20)):
        page.mouse.click(*Plan(page).at(*place))
    page.keyboard.press("Enter")
    revision(page, 4)
    step, mound, ramp = saved("tarn")["forms"][-3:]
    assert [one["name"] for one in (step, mound, ramp)] == ["North-east step", "North-west mound", "South ramp"]
    assert Polygon(step["outline"]).area == pytest.approx(70 * 40, rel=0.05)
    assert Polygon(mound["outline"]).area == pytest.approx(math.pi * 35 * 20, rel=0.05)
    assert ramp["path"][1] == pytest.approx([120, 16], abs=1)
    take(page, "basin", "rectangle")
    page.keyboard.press("Escape")
    Plan(page).drag((100, 100), (140, 120))
    expect(page.locator(".pencil [aria-pressed=true]")).to_have_count(0)
    revision(page, 4)


def test_a_click_on_an_edge_adds_a_corner_and_a_double_click_takes_it_away(page, saved):
    page.goto("/s/tarn/ground?form=hole")
    page.wait_for_load_state("load")
    page.mouse.click(*Plan(page).at(150, 31))
    revision(page, 2)
    ring = next(one for one in saved("tarn")["forms"] if one["id"] == "hole")["outline"]
    assert len(ring) == 5 and ring[1] == pytest.approx([150, 31], abs=1)
    page.get_by_role("button", name="Corner 2 of").dblclick()
    revision(page, 3)
    assert len(next(one for one in saved("tarn")["forms"] if one["id"] == "hole")["outline"]) == 4
    page.get_by_role("button", name="Corner 3 of").focus()
    page.keyboard.press("Delete")
    revision(page, 4)


def test_a_drawing_that_is_none_is_told(page, saved):
    page.goto("/s/tarn/ground")
    take(page, "basin", "freehand")
    Plan(page).drag((250, 165), (251, 165), (252, 165))
    expect(page.locator("#problem")).to_contain_text("draw it larger")
    assert len(saved("tarn")["forms"]) == 3


def test_a_hollow_is_measured_by_tapping_its_dips(page, saved):
    page.goto("/s/kettle-fen/ground")
    take(page, "hollow, by its dips", "ellipse")
    plan = Plan(page)
    plan.drag((230, 40), (330, 110))
    revision(page, 2)
    page.wait_for_load_state("load")
    for number, (x, y, deep) in enumerate(((280, 75, "9"), (250, 70, "6"), (310, 82, "5,5")), start=3):
        page.mouse.click(*plan.at(x, y))
        field = page.get_by_label("dip here")
        expect(field).to_be_focused()
        field.fill(deep)
        field.press("Enter")
        revision(page, number)
    dips = saved("kettle-fen")["forms"][-1]["dips"]
    assert [one[2] for one in dips] == [9, 6, 5.5] and abs(dips[0][0] - 280) < 1 and abs(dips[0][1] - 75) < 1
    expect(page.locator(".dip")).to_have_count(3)
    page.get_by_role("button", name="undo").click()
    revision(page, 4)
    expect(page.locator(".dip")).to_have_count(2)


def test_what_is_chosen_is_turned_scaled_and_moved_together(page, saved):
    page.goto("/s/tarn/ground")
    plan = Plan(page)
    for number, box in enumerate((((20, 20), (50, 40)), ((240, 20), (280, 50))), start=2):
        take(page, "mound", "rectangle")
        plan.drag(*box)
        revision(page, number)
    first, second = (one["id"] for one in saved("tarn")["forms"][-2:])

    page.keyboard.down("Shift")
    page.mouse.click(*plan.at(35, 30))
    page.keyboard.up("Shift")
    expect(page.get_by_role("heading", name="2 chosen")).to_be_visible()
    page.wait_for_load_state("load")
    plan.drag((260, 35), (255, 75), (250, 95))
    revision(page, 4)
    moved = saved("tarn")["forms"][-2:]
    assert moved[0]["outline"][0][1] == pytest.approx(80, abs=4) and moved[1]["outline"][0][1] == pytest.approx(
        80, abs=4
    )
    expect(page.get_by_role("heading", name="2 chosen")).to_be_visible()

    page.wait_for_load_state("load")
    turn = page.get_by_role("slider", name="Turn")
    turn.focus()
    for _ in range(4):
        turn.press("Shift+ArrowRight")
    expect(page.locator(".form-shape.chosen")).to_have_attribute("transform", re.compile(r"rotate\(-40 "))
    revision(page, 5)
    turned = saved("tarn")["forms"][-2:]
    middles = [[sum(axis) / 4 for axis in zip(*one["outline"], strict=True)] for one in turned]
    assert abs(middles[0][1] - middles[1][1]) == pytest.approx(225 * math.sin(math.radians(40)), abs=4)

    page.get_by_role("button", name="mirror north-south").click()
    revision(page, 6)
    page.wait_for_load_state("load")
    drag(page, page.get_by_role("slider", name="Scale").locator(".hit"), -30, 30)
    revision(page, 7)
    scaled = saved("tarn")["forms"][-2:]
    assert Polygon(scaled[0]["outline"]).area < 0.95 * Polygon(turned[0]["outline"]).area
    for number in (6, 5, 4):
        page.get_by_role("button", name="undo").click()
        revision(page, number)
    assert saved("tarn")["forms"][-2:] == moved
    page.get_by_role("button", name="redo").click()
    revision(page, 5)
    assert saved("tarn")["forms"][-2:] == turned and {first, second} == {one["id"] for one in turned}


def test_a_corner_snaps_to_the_middle_of_the_board_unless_alt_is_held(page, saved):
    page.goto("/s/tarn/ground")
    take(page, "mound", "rectangle")
    Plan(page).drag((210, 148), (230, 160), (151, 101))
    revision(page, 2)
    assert saved("tarn")["forms"][-1]["outline"][0] == [150, 100]
    take(page, "mound", "rectangle")
    page.keyboard.down("Alt")
    Plan(page).drag((212, 40), (220, 45), (241, 71))
    page.keyboard.up("Alt")
    revision(page, 3)
    assert saved("tarn")["forms"][-1]["outline"][2] == pytest.approx([241, 71], abs=0.5)
