"""How a page arrives: what it pushes about under the eyes and the thumb."""

from playwright.sync_api import expect

# An init script: it notes down how much of the page was pushed about, and what.
SHIFTS = """
window.moved = [];
new PerformanceObserver((list) => {
  for (const one of list.getEntries())
    if (!one.hadRecentInput) window.moved.push([one.value, one.sources.map((each) => each.node?.outerHTML?.slice(0, 80))]);
}).observe({ type: "layout-shift", buffered: true });
"""
# What comes later in the document but stands higher, across what came before: it would push that down as it arrives, and be
# heard too late.
HIGHER = """() => {
  const flows = (one) => one.id === "main" || (!["absolute", "fixed", "sticky"].includes(getComputedStyle(one).position)
    && flows(one.parentElement));
  const told = [...document.querySelectorAll("#main *")].filter((one) => !one.closest("svg") && one.checkVisibility()
    && [...one.childNodes].some((node) => node.nodeType === Node.TEXT_NODE && node.data.trim()) && flows(one));
  const boxes = told.map((one) => [one, one.getBoundingClientRect()]);
  return boxes.flatMap(([later, box], at) => boxes.slice(0, at).filter(([before, high]) =>
    box.bottom <= high.top + 1 && box.left < high.right - 1 && high.left < box.right - 1
    && !later.closest("li, tr")?.contains(before)).map(([before]) => [before.outerHTML.slice(0, 60), later.outerHTML.slice(0, 60)]));
}"""


def at_rest(page):
    """Wait until nothing more comes to the page, and what came is painted."""
    expect(page.locator(".htmx-request, .htmx-swapping, .htmx-settling, .walk-load")).to_have_count(0)
    page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")


def pushed(page):
    """Of a page at rest that began with SHIFTS: what was pushed about as it arrived, if by more than the eye lets pass."""
    moved = page.evaluate("window.moved")
    return moved if sum(value for value, _ in moved) >= 0.05 else []
