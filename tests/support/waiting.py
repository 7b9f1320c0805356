"""Waiting for a state, however busy the machine is."""

from time import monotonic, sleep

PATIENCE_S = 300.0


def until(came):
    """What `came()` gives once that is true; gives up after PATIENCE_S."""
    last = monotonic() + PATIENCE_S
    while not (found := came()):
        if monotonic() > last:
            raise AssertionError("it never came to that")
        sleep(0.05)
    return found
