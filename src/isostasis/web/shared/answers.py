"""Where a request leads: on to a page after a change, and only to pages of this application."""

from __future__ import annotations

import json
from urllib.parse import urlsplit

from flask import Response, current_app, make_response, redirect, request
from werkzeug.exceptions import HTTPException
from werkzeug.wrappers import Response as BaseResponse


def hx_redirect(url: str) -> BaseResponse:
    """On to a page after a change: its body is swapped in, the same page where one was on it, or, without the script, a
    redirect. A page of another place is loaded whole."""
    if request.headers.get("HX-Request"):
        response: Response = make_response("", 204)
        here = request.headers.get("HX-Current-URL", "")
        if _place_of(here) in (_place_of(url), ""):
            shown = "none" if urlsplit(here).path == urlsplit(url).path else "window:top"
            swap = {"path": url, "target": "body", "swap": f"innerHTML show:{shown}"}
            response.headers["HX-Location"] = json.dumps(swap)
        else:
            response.headers["HX-Redirect"] = url
        return response
    return redirect(url, 303)


def _place_of(url: str) -> str:
    """The package whose page an address leads to; empty for none."""
    try:
        endpoint, _ = current_app.url_map.bind("").match(urlsplit(url).path, method="GET")
    except (HTTPException, ValueError):
        return ""
    return str(endpoint).partition(".")[0]


def safe_return_url(field: str = "here") -> str:
    """The page that a shared control was used on, as a field of the form says; only addresses of this application."""
    target = request.form.get(field, "/")
    plain = target.isprintable() and "\\" not in target
    return target if plain and target.startswith("/") and not target.startswith("//") else "/"
