"""A pointer that takes hold of things on the page and lets go, and keys."""

from tests.support.waiting import holds, until


def box_of(locator):
    """Where a thing is on the page; waits while the page is swapped."""
    return until(locator.bounding_box)


def middle(locator):
    box = box_of(locator)
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page, locator, right, down, steps=6):
    x, y = middle(locator)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + right, y + down, steps=steps)
    page.mouse.up()


def press(page, key):
    """Press a key once the page listens: what a key brought is seen before its scripts have run, and a browser drops
    what is pressed before it has painted."""
    page.wait_for_load_state("load")
    holds(page, "performance.getEntriesByName('first-contentful-paint').length")
    page.keyboard.press(key)


def keys(element, *names):
    """Keys in one go: pressed one by one on a busy machine they rest in between, and are saved apart."""
    pressed = [{"key": name.removeprefix("Shift+"), "shiftKey": name.startswith("Shift+")} for name in names]
    element.evaluate(
        """(element, pressed) => {
          for (const key of pressed) element.dispatchEvent(new KeyboardEvent("keydown", { ...key, bubbles: true }));
        }""",
        pressed,
    )
