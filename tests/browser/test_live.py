"""Two devices on one scene: what one does stands on the other by itself, and nobody's typing is taken away."""

from playwright.sync_api import expect

from isostasis.store import marks, scenes


def test_what_one_device_does_stands_on_the_other(chromium, served, demo_database):
    desk, phone = (
        chromium.new_context(viewport={"width": wide, "height": high}, base_url=served)
        for wide, high in ((1280, 800), (390, 844))
    )
    at_desk, on_phone = desk.new_page(), phone.new_page()
    at_desk.goto("/bench")
    on_phone.goto("/bench")
    expect(on_phone.locator(".now-panel .do")).to_have_text("Pour out the cup")
    at_desk.get_by_role("button", name="Poured: the cup is empty").click()
    expect(on_phone.locator(".now-panel .do")).not_to_have_text("Pour out the cup")

    # The wet line of any page follows too.
    at_desk.goto("/s/hollin-delf/ground")
    expect(at_desk.locator("#wet")).not_to_contain_text("mixed cup")

    # Whoever types is left in peace until they are done.
    minutes = on_phone.get_by_label("Minutes that I have")
    minutes.fill("45")
    with demo_database.writing() as session:
        row = scenes.find(session, "hollin-delf")
        before = len(marks.events(session, row))
    at_desk.goto("/bench")
    at_desk.locator("details.waiting", has_text="Upper benches").first.locator("summary").click()
    at_desk.locator("details.waiting", has_text="Upper benches").first.get_by_role("button", name="tacky").click()
    expect(at_desk.locator(".htmx-request")).to_have_count(0)
    with demo_database.reading() as session:
        assert len(marks.events(session, scenes.find(session, "hollin-delf"))) == before + 1
    expect(minutes).to_have_value("45")
    desk.close()
    phone.close()


def test_the_keyboard_stays_where_it_was_when_the_page_changes(page, chromium, served):
    page.goto("/bench")
    link = page.locator("main a[href='/bench?scene=kettle-fen']")
    page.keyboard.press("Tab")
    link.focus()
    page.evaluate("document.getElementById('main').dataset.before = ''")
    device = chromium.new_context(base_url=served)
    other = device.new_page()
    other.goto("/bench")
    other.get_by_role("button", name="Poured: the cup is empty").click()
    expect(page.locator("#main[data-before]")).to_have_count(0)
    expect(link).to_be_focused()
    page.reload()
    expect(link).to_be_focused()
    page.goto("/shelf")
    expect(page.locator("body")).to_be_focused()
    device.close()
