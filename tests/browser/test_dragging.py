"""What a hand does: dragging the level, the cut, a corner; arrow keys; opening the working; mixing a batch."""

import re

import pytest
from playwright.sync_api import expect

from isostasis.core.plan import plan
from isostasis.core.units import number
from tests.support.pointer import box_of, drag, keys, middle, press
from tests.support.scenes import resolved
from tests.support.waiting import held_back


def figure(page, label):
    return page.locator(".figure", has_text=label).locator(".number").first


def ml(page, label):
    return float(re.match(r"[\d.]+", figure(page, label).inner_text().strip())[0])


def test_dragging_the_level_changes_the_figures_and_is_saved_when_let_go(page, saved):
    page.goto("/s/tarn/pour")
    before, drawn = ml(page, "resin in place"), page.locator("#live-cut path").first.get_attribute("d")
    mixed = page.locator("#pour-next").inner_text()
    handle = page.locator("#level rect")
    x, y = middle(handle)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 5, steps=3)
    expect(figure(page, "resin in place")).not_to_have_text(f"{before:g}ml")
    lower = ml(page, "resin in place")
    assert lower < before
    assert page.locator("#pour-next").inner_text() != mixed
    assert saved()["patches"][0]["lifts"][2]["level_mm"] == 24
    assert page.locator("#live-cut path").first.get_attribute("d") != drawn
    page.mouse.up()
    expect(page.locator(".history-bar a")).to_have_text("revision 2")
    level = saved()["patches"][0]["lifts"][2]["level_mm"]
    assert 18 < level < 24
    volume = plan(resolved(saved())).lifts["tarn-water"].volume_ml.number
    expect(figure(page, "resin in place")).to_have_text(f"{number(volume)}ml")
    page.get_by_role("button", name="undo").click()
    expect(page.locator(".history-bar a")).to_have_text("revision 1")
    assert ml(page, "resin in place") == before


def test_the_level_stops_at_the_brim(page, saved):
    page.goto("/s/tarn/pour")
    drag(page, page.locator("#level rect"), 0, -400)
    expect(page.locator(".history-bar a")).to_have_text("revision 2")
    assert saved()["patches"][0]["lifts"][2]["level_mm"] == pytest.approx(30, abs=0.05)


def test_arrow_keys_move_the_level(page, saved):
    page.goto("/s/tarn/pour")
    level = page.get_by_role("slider", name="Water level")
    level.focus()
    keys(level, "ArrowDown", "Shift+ArrowDown")
    expect(page.locator(".history-bar a")).to_have_text("revision 2")
    assert saved()["patches"][0]["lifts"][2]["level_mm"] == pytest.approx(24 - 0.2 - 2)


def test_a_level_dragged_again_while_it_is_saved_is_kept(page, saved):
    page.goto("/s/tarn/pour")
    held = held_back(page, "**/pour/*/level")
    with page.expect_request("**/pour/*/level"):
        drag(page, page.locator("#level rect"), 0, 10)
    drag(page, page.locator("#level rect"), 0, -400)
    held[0].continue_()
    expect(page.locator(".history-bar a")).to_have_text("revision 3")
    assert saved()["patches"][0]["lifts"][2]["level_mm"] == pytest.approx(30, abs=0.05)
    expect(page.locator("#problem")).to_be_empty()


def test_the_cut_follows_the_pointer_and_the_keys(page):
    page.goto("/s/tarn/ground?stage=finished")
    caption, shapes = page.locator("#cut-caption"), page.locator("#cut-shapes path").nth(1)
    before = shapes.get_attribute("d")
    drag(page, page.locator("#cut-line circle").first, 0, -90)
    expect(caption).not_to_contain_text("cut at 80 mm")
    expect(shapes).not_to_have_attribute("d", before)
    text = caption.text_content()
    line = page.get_by_role("slider", name="Cut line")
    line.focus()
    line.press("Shift+ArrowDown")
    expect(caption).not_to_have_text(text)
    page.goto("/s/tarn/layup")
    expect(caption).not_to_contain_text("cut at 80 mm")


def test_a_corner_is_dragged_and_nudged(page, saved):
    page.goto("/s/tarn/ground?form=hole")
    corner = page.get_by_role("button", name="Corner 1 of Hole")
    drag(page, corner, 40, -20)
    expect(page.locator(".history-bar a")).to_have_text("revision 2")
    x, y = saved()["forms"][2]["outline"][0]
    assert x > 60
    assert y > 35
    corner.focus()
    corner.press("ArrowRight")
    expect(page.locator(".history-bar a")).to_have_text("revision 3")
    assert saved()["forms"][2]["outline"][0][0] == x + 1


def test_a_corner_dragged_into_nonsense_is_told_and_nothing_is_saved(page, saved):
    page.goto("/s/tarn/ground?form=hole")
    drag(page, page.get_by_role("button", name="Corner 1 of Hole"), 420, -50)
    expect(page.locator("#problem")).to_contain_text("crosses itself")
    assert saved()["forms"][2]["outline"][0] == [50, 30]


def test_every_figure_opens_its_working(page):
    page.goto("/s/hollin-delf/pour")
    figures = page.locator("#pour-reading .figure details")
    for place in range(figures.count()):
        figures.nth(place).locator("summary").click()
        expect(figures.nth(place).locator(".working .law")).to_be_visible()
    expect(figures.nth(0).locator(".working")).to_contain_text("in the pool")


def test_a_newcomer_starts_a_scene_and_pours(page, saved):
    page.goto("/")
    page.get_by_role("link", name="An empty board").click()
    page.get_by_label("Name").fill("Mill leat")
    page.get_by_role("button", name="Make it a scene").click()
    page.get_by_role("button", name="basin", exact=True).click()
    expect(page.get_by_role("heading", name="Basin")).to_be_visible()
    page.get_by_role("textbox", name="Depth").fill("1/2 in")
    page.get_by_role("button", name="Set these numbers").click()
    expect(page.get_by_role("textbox", name="Depth")).to_have_value("12.7 mm")
    press(page, "Tab")
    page.locator("h1").click()
    press(page, "l")
    page.get_by_text("a skin, trowelled").click()
    page.get_by_role("button", name="Add the skin").click()
    expect(page.locator(".strata li")).to_have_count(1)
    page.get_by_text("a pour, levels itself").click()
    page.get_by_role("button", name="Add the pour").click()
    expect(page.locator(".strata li")).to_have_count(2)
    page.locator("h1").click()
    press(page, "p")
    expect(page.locator(".note").first).to_contain_text("not sealed")
    assert ml(page, "resin in place") > 50
    assert [lift["kind"] for lift in saved("mill-leat")["patches"][0]["lifts"]] == ["skin", "pour"]


def test_a_batch_is_mixed(page):
    page.goto("/s/tarn/pour")
    page.get_by_role("link", name="Mix it in 1 batch").click()
    page.get_by_role("button", name="Both parts are in").click()
    expect(page.get_by_role("timer")).to_be_visible()
    page.get_by_text("the whole card").click()
    page.get_by_label("Casting resin, two-part A, what went in").fill("90 g")
    page.get_by_label("Casting resin, two-part B, what went in").fill("33.4 g")
    page.get_by_role("button", name="Write down").click()
    expect(page.locator(".note")).to_contain_text("The ratio is off")
    page.get_by_role("button", name="The cup is empty").click()
    expect(page.locator(".note.ready")).to_contain_text("Mixed")
    expect(page.locator(".wet-line")).to_contain_text("Tarn")


def test_the_room_reflows_the_hours(page):
    page.goto("/s/hollin-delf/pour")
    before = figure(page, "cured through after").inner_text()
    page.locator(".room summary").click()
    page.get_by_role("textbox", name="Temperature").fill("14")
    page.get_by_role("button", name="Set the room").click()
    expect(page.locator(".room summary")).to_contain_text("14 °C")
    assert figure(page, "cured through after").inner_text() != before
    page.goto("/s/hollin-delf/pour")
    page.locator(".room summary").click()
    page.get_by_role("textbox", name="Humidity").fill("130")
    page.get_by_role("button", name="Set the room").click()
    expect(page.locator("#problem")).to_contain_text("outside 0 to 100")
    expect(page.get_by_role("textbox", name="Humidity")).to_have_value("130")


def test_measures_and_theme(page):
    page.goto("/s/tarn/pour")
    press(page, "i")
    expect(figure(page, "resin in place")).to_contain_text("fl oz")
    press(page, "d")
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")


def test_the_list_of_keys_opens(page):
    page.goto("/")
    press(page, "?")
    expect(page.get_by_role("heading", name="Keys")).to_be_visible()


def test_two_windows_on_one_scene_lose_nothing(page, saved):
    page.goto("/s/tarn/pour")
    other = page.context.new_page()
    other.goto("/s/tarn/pour")
    level = other.get_by_role("slider", name="Water level")
    level.focus()
    level.press("ArrowDown")
    expect(other.locator(".history-bar a")).to_have_text("revision 2")
    mine = page.get_by_role("slider", name="Water level")
    mine.focus()
    mine.press("Shift+ArrowDown")
    expect(page.locator("#problem")).to_contain_text("changed elsewhere meanwhile")
    assert saved()["patches"][0]["lifts"][2]["level_mm"] == pytest.approx(23.8)
    page.get_by_role("link", name="revision 2").click()
    page.get_by_role("row", name=re.compile("set aside", re.I)).get_by_role("button", name="bring back").click()
    expect(page.get_by_role("row", name=re.compile("Back to revision 3"))).to_contain_text("current")
    assert saved()["patches"][0]["lifts"][2]["level_mm"] == pytest.approx(22)
    other.close()


def test_it_works_without_any_script(chromium, served, saved):
    context = chromium.new_context(java_script_enabled=False, base_url=served)
    page = context.new_page()
    page.goto("/s/tarn/ground?form=hole")
    page.locator("input[name=depth_mm]").fill("8 mm")
    page.get_by_role("button", name="Set these numbers").click()
    assert saved()["forms"][2]["depth_mm"] == 8
    page.locator("input[name=depth_mm]").fill("80 mm")
    page.get_by_role("button", name="Set these numbers").click()
    assert "cuts through the board" in page.locator("main").inner_text()
    assert saved()["forms"][2]["depth_mm"] == 8
    context.close()


def test_a_refused_number_stays_in_its_field(page, saved):
    page.goto("/s/tarn/ground?form=hole")
    page.get_by_role("textbox", name="Depth").fill("80 mm")
    page.get_by_label("Banks").fill("60")
    page.get_by_role("button", name="Set these numbers").click()
    expect(page.locator("#problem")).to_contain_text("at most 25")
    expect(page.get_by_role("textbox", name="Depth")).to_have_value("80 mm")
    expect(page.get_by_label("Banks")).to_have_value("60")
    assert saved()["forms"][2]["bank_deg"] == 45


def test_places_by_their_keys(page):
    page.goto("/s/tarn/ground")
    for key, heading in (("l", "Lay-up"), ("p", "Tarn"), ("m", None), ("g", "Ground"), ("s", "What are you making?")):
        press(page, key)
        if heading:
            expect(page.locator("h1")).to_contain_text(heading)
        else:
            expect(page.get_by_role("heading", name="Batches")).to_be_visible()


def test_keys_leave_typing_alone(page):
    page.goto("/s/tarn/ground?form=hole")
    name = page.get_by_label("Name")
    name.fill("")
    name.press_sequentially("slip")
    expect(name).to_have_value("slip")
    assert page.url.endswith("form=hole")


def test_a_slider_reflows_every_hour(page, saved):
    page.goto("/s/hollin-delf/layup?patch=upper-benches")
    page.locator("#lift-benches-skin > summary").click()
    hard = page.locator("#lift-benches-skin .figure", has_text="hard through after").locator(".number")
    before = hard.inner_text()
    page.locator(".room summary").click()
    slider = page.get_by_label("Temperature, slide it")
    slider.focus()
    slider.press("PageDown")
    expect(page.locator(".history-bar a")).to_have_text("revision 2")
    assert saved("hollin-delf")["room"]["temp_c"] < 19
    page.locator("#lift-benches-skin > summary").click()
    expect(hard).not_to_have_text(before)
    expect(hard).to_be_visible()


def test_a_pour_is_filled_little_by_little_and_sounded(page):
    page.goto("/s/hollin-delf/pour?lift=lake-water")
    words, water = page.locator("#so-far-words"), page.locator("#live-cut path")
    expect(words).to_have_text("all of it")
    whole = water.first.get_attribute("d")
    page.locator("#so-far").press("Home")
    expect(words).to_contain_text("so far")
    first = words.inner_text()
    assert water.first.get_attribute("d") != whole
    page.locator("#so-far").press("PageUp")
    expect(words).not_to_have_text(first)
    # The pointer over the lake says how deep it is; off it, nothing.
    box = box_of(page.locator("#live-plan path").first)
    with page.expect_response(re.compile("depths.json")):
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2 + 25)
    page.mouse.move(box["x"] + box["width"] / 2 + 2, box["y"] + box["height"] / 2 + 25)
    expect(page.locator("#sounding text")).to_have_text(re.compile(r"^2\d\.\d mm$"))
    page.mouse.move(box["x"] - 60, box["y"] + box["height"] + 30)
    expect(page.locator("#sounding")).to_have_attribute("visibility", "hidden")


def test_a_course_is_read_with_the_pointer_and_the_keys(page):
    page.goto("/s/hollin-delf/pour/course?lift=lake-water")
    chart = page.locator("figure.chart").first
    reads = chart.locator(".reads")
    expect(reads).to_contain_text("move along it")
    chart.locator("svg").hover()
    expect(reads).to_have_text(re.compile(r"core [\d.]+ °C, top [\d.]+ °C, cured \d+%"))
    before = reads.inner_text()
    chart.locator("svg").press("ArrowRight")
    expect(reads).not_to_have_text(before)
