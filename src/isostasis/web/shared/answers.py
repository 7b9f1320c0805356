"""Where a request leads: on to a page after a change, and only to pages of this application."""

from __future__ import annotations

import json

from flask import Response, make_response, redirect, request
from werkzeug.wrappers import Response as BaseResponse


def hx_redirect(url: str) -> BaseResponse:
    """On to a page after a change: its body is swapped in, or, without the script, a redirect."""
    if request.headers.get("HX-Request"):
        response: Response = make_response("", 204)
        response.headers["HX-Location"] = json.dumps({"path": url, "target": "body", "swap": "innerHTML show:none"})
        return response
    return redirect(url, 303)


def safe_return_url(field: str = "here") -> str:
    """The page that a shared control was used on, as a field of the form says; only addresses of this application."""
    target = request.form.get(field, "/")
    plain = target.isprintable() and "\\" not in target
    return target if plain and target.startswith("/") and not target.startswith("//") else "/"
