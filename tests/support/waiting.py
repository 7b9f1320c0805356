"""Waiting for a state, however busy the machine is."""

from time import monotonic, sleep

from playwright.sync_api import Error

PATIENCE_S = 300.0


def until(came):
    """What `came()` gives once that is true; gives up after PATIENCE_S."""
    last = monotonic() + PATIENCE_S
    while not (found := came()):
        if monotonic() > last:
            raise AssertionError("it never came to that")
        sleep(0.05)
    return found


def holds(page, script, arg=None):
    """Wait until a script says so on the page. Not Playwright's own wait: that makes a function out of the script again
    and again, which the pages' policy forbids once the first look is over."""

    def asked():
        try:
            return page.evaluate(script, arg)
        except Error as gone:
            if "Execution context was destroyed" not in str(gone):
                raise
            return None  # another page comes

    until(asked)


def held_back(page, address):
    """What is asked of an address next, once: it waits in this list until it is let on with `continue_()`."""
    waits = []

    def hold(route):
        waits.append(route)

    page.route(address, hold, times=1)
    return waits
