"""Presses that may arrive late or twice: a device keeps what it could not send, and sends it with a key and its age.

A key is kept in the transaction of what the press does, so that it is done once however often it is sent; what was
pressed a while ago counts from then.
"""

from __future__ import annotations

import re
from datetime import timedelta

from flask import Flask, abort, g, make_response, redirect, request
from werkzeug.wrappers import Response

from ..store.database import AlreadySent, pressed
from .shared.answers import safe_return_url
from .shared.scenes import now

KEY = re.compile(r"[A-Za-z0-9-]{8,80}")
OLDEST = timedelta(days=14)  # that a device may bring later


def install(app: Flask) -> None:
    """Take keys and ages from what is sent; after the door, which says by whom it is."""

    @app.before_request
    def _once() -> None:
        pressed.set(None)
        g.pressed_ago = timedelta(0)
        if request.method in ("GET", "HEAD", "OPTIONS") or not g.get("let_in"):
            return
        g.pressed_ago = _age(request.headers.get("Pressed-Ago", "0"))
        key = request.headers.get("Idempotency-Key")
        if key is None:
            return
        if not KEY.fullmatch(key):
            abort(400, "The key of this press is none: 8 to 80 letters, figures and dashes. Nothing was changed.")
        pressed.set((key, now()))

    @app.errorhandler(AlreadySent)
    def _already(_: AlreadySent) -> Response:
        """It is done: nothing is to be told but that."""
        answer = redirect(safe_return_url(), 303) if "HX-Request" not in request.headers else make_response("", 204)
        answer.headers["Already-Sent"] = "yes"
        return answer


def _age(text: str) -> timedelta:
    """How long ago it was pressed; aborts with 400 for what is no such time."""
    try:
        age = timedelta(seconds=float(text))
    except (ValueError, OverflowError):
        age = timedelta(days=-1)
    if not timedelta(0) <= age <= OLDEST:
        abort(400, f"A press counts from at most {OLDEST.days} days ago. Nothing was changed.")
    return age
