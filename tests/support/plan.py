"""The plan on a page, and the pencil over it."""

from playwright.sync_api import expect

from tests.support.pointer import box_of


class Plan:
    """The plan of a scene on a page, in mm."""

    def __init__(self, page):
        self.page = page

    def at(self, x, y):
        svg = self.page.locator("svg.panels")
        box = box_of(svg)
        of = {name: float(svg.get_attribute(f"data-{name}")) for name in ("scale", "left", "plan-bottom")}
        left, _, wide, _ = map(float, svg.get_attribute("viewBox").split())
        px = box["width"] / wide
        return box["x"] + (of["left"] - left + x * of["scale"]) * px, box["y"] + (
            of["plan-bottom"] - y * of["scale"]
        ) * px

    def drag(self, *places):
        self.page.mouse.move(*self.at(*places[0]))
        self.page.mouse.down()
        for place in places[1:]:
            self.page.mouse.move(*self.at(*place))
        self.page.mouse.up()


def take(page, what, tool):
    bar = page.get_by_role("toolbar", name="Draw a form on the plan")
    bar.get_by_label("What is drawn").select_option(what)
    page.wait_for_load_state("load")
    bar.get_by_role("button", name=tool).click()
    expect(bar.get_by_role("button", name=tool)).to_have_attribute("aria-pressed", "true")


def revision(page, number):
    expect(page.locator(".history-bar a")).to_have_text(f"revision {number}")
