"""In a real browser: the list on a phone by thumb, and a label that moves plans the same on screen and command line."""

import json

from click.testing import CliRunner
from playwright.sync_api import expect

from isostasis.cli import main
from isostasis.store import shelf
from tests.support.views import PHONE


def test_the_list_in_the_shop_by_thumb(page, demo_database):
    page.set_viewport_size(PHONE)
    page.goto("/shelf/buy?scene=hollin-delf")
    page.get_by_role("button", name="Take the list to the shop").click()
    page.wait_for_url("**/shelf/list")
    ticks = page.locator(".take")
    for box in (ticks.first.bounding_box(), page.get_by_role("button", name="Home").bounding_box()):
        assert min(box["width"], box["height"]) >= 48
    count = ticks.count()
    page.locator(".basket summary").first.click()
    page.locator(".other").first.click()
    expect(page.locator(".how-many").first).to_contain_text("3 × 375 ml")
    for place in range(2):
        page.locator(".basket li:not(.ticked) .take").first.click()
        expect(page.locator(".basket .ticked")).to_have_count(place + 1)
    with demo_database.reading() as session:
        before = len(shelf.rows(session))
    page.get_by_role("button", name="Home: put 2 on the shelf").click()
    page.wait_for_url("**/shelf")
    with demo_database.reading() as session:
        assert len(shelf.rows(session)) > before + 1
    page.goto("/shelf/list")
    expect(page.locator(".take")).to_have_count(count - 2)


def test_a_label_changed_in_the_browser_changes_the_command_lines_plan_alike(page, tmp_path):
    page.goto("/labels/mix/casting-resin?scene=hollin-delf")
    page.get_by_label("Greatest depth of one lift").fill("20 parsecs")
    expect(page.locator("th:has([for=f-reacts_max_depth_mm]) .field-wrong")).to_contain_text("is no unit of length")
    expect(page.locator("#moves")).not_to_contain_text("Change what your tin says")
    page.get_by_label("Greatest depth of one lift").fill("20 mm")
    expect(page.locator(".field-wrong")).to_have_count(0)
    expect(page.locator("#moved-reacts_max_depth_mm")).to_contain_text("lifts 3 → 2")
    expect(page.locator("#moves")).to_contain_text("Hollin Delf with this tin")
    expect(page.get_by_label("Greatest depth of one lift")).to_be_focused()
    page.get_by_role("button", name="Make it mine").click()
    expect(page.locator(".mine").first).to_have_text("my tin")
    exported = tmp_path / "lake.json"
    exported.write_text(page.request.get("/s/hollin-delf/export.json").text(), "utf-8")
    ran = CliRunner().invoke(main, ["plan", str(exported), "--json"])
    told = json.loads(ran.output)
    assert told == page.request.get("/s/hollin-delf/plan.json").json()
    assert len(told["lifts"]["lake-water"]["layers"]) == 2
    page.goto("/s/hollin-delf/layup?patch=pit-lake")
    expect(page.locator("main")).to_contain_text(
        "Casting resin, 2:1 says otherwise: greatest depth of one lift 12 mm → 20 mm"
    )


def test_of_many_alike_the_one_that_cannot_be_read_is_marked(page):
    page.goto("/shelf/count")
    field = page.get_by_label("Casting resin, two-part, B, exactly")
    field.fill("lots")
    page.get_by_role("button", name="Keep the count").click()
    expect(page.locator(".counted:has([aria-invalid]) .field-wrong")).to_contain_text("“lots” is no")
    expect(field).to_have_attribute("aria-invalid", "true")
    expect(field).to_be_focused()


def test_the_list_is_copied_as_text(page):
    page.goto("/shelf/buy?scene=hollin-delf")
    page.get_by_text("as text").click()
    expect(page.get_by_label("The list as text")).to_have_value(
        page.request.get("/shelf/buy.txt?scene=hollin-delf").text().rstrip("\n")
    )
    page.get_by_role("button", name="copy it").click()
    expect(page.get_by_role("button", name="copied")).to_be_visible()


def test_on_a_phone_a_name_has_its_whole_line(page):
    page.set_viewport_size(PHONE)
    page.goto("/shelf")
    name = page.get_by_role("rowheader", name="Acrylic paint, earth brown")
    assert name.bounding_box()["width"] > 300
