"""Bounded work: a request that takes too long, or whose client has left, ends before the next thing is worked out.

Nothing is half kept by that: what writes is all or nothing.
"""

from __future__ import annotations

from collections.abc import Callable
from time import monotonic

from flask import Flask, request

from ..core.stages import may_go_on

BUDGET_S = 120.0


class TooLong(Exception):  # noqa: N818 - reads as what it is
    """A request has had its time."""


class ClientLeft(Exception):  # noqa: N818 - reads as what it is
    """Nobody waits for the answer any more."""


def client_left() -> Callable[[], bool]:
    """Tells whether whoever asked this request has left; of a server that does not know, nobody has."""
    known: Callable[[], bool] = request.environ.get("waitress.client_disconnected", lambda: False)
    return known


def install(app: Flask, seconds: Callable[[], float] = monotonic) -> None:
    """Give every request its budget, by a clock that counts seconds."""

    @app.before_request
    def _begin() -> None:
        ends = seconds() + BUDGET_S
        left = client_left()

        def go_on() -> None:
            if seconds() > ends:
                raise TooLong
            if left():
                raise ClientLeft

        may_go_on.set(go_on)

    @app.teardown_request
    def _end(_: BaseException | None) -> None:
        may_go_on.set(None)
