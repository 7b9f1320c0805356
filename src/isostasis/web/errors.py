"""What went wrong, told: in the page's own place for it, as a page, or bare to a stranger."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import Flask, current_app, g, render_template, request
from flask_wtf.csrf import CSRFError
from sqlalchemy.exc import DBAPIError
from werkzeug.exceptions import HTTPException

from ..core.fault import Faults
from ..core.stages import may_go_on
from ..store import NoSuchScene
from ..store.database import why_not
from ..store.logbook import NoSuchBatch
from .budget import BUDGET_S, ClientLeft, TooLong
from .shared.scenes import open_scene, written_document
from .shared.told import Sentence, sentences
from .shared.touches import TouchesBuilt, sent_again
from .shared.views import unopened


def _tell(sentence: str, status: int) -> tuple[str, int, dict[str, str]]:
    """One sentence: into the page's own place for it, or as a page; bare to a stranger, who sees none."""
    if not g.get("let_in"):
        return f"{sentence}\n", status, {"Content-Type": "text/plain; charset=utf-8"}
    if request.headers.get("HX-Request"):
        html = render_template("shared/_problem.html", sentences=[Sentence(sentence, "")])
        return html, status, {"HX-Retarget": "#problem", "HX-Reswap": "innerHTML show:top"}
    return render_template("shared/error.html", sentence=sentence), status, {}


def _faults(error: Faults) -> tuple[str, int, dict[str, str]]:
    lines = sentences(error.faults, written_document() if g.get("let_in") else None)
    if request.endpoint == "devices.answer":  # a stranger sees nothing of the other pages
        kept = {name: request.form.get(name, "")[:60] for name in ("code", "name")}
        return render_template("devices/knock.html", sentences=[one.text for one in lines], **kept), 422, {}
    if request.headers.get("HX-Request"):
        html = render_template("shared/_problem.html", sentences=lines)
        return html, 422, {"HX-Retarget": "#problem", "HX-Reswap": "innerHTML show:top"}
    slug, opened = (request.view_args or {}).get("slug"), None
    if slug is not None:
        try:
            opened = open_scene(slug)
        except Faults as unplanned:
            if request.method == "GET":
                return unopened(slug, unplanned), 422, {}
        except NoSuchScene:
            pass
    sentence = " ".join(one.text for one in lines)
    return render_template("shared/error.html", sentence=sentence, opened=opened), 422, {}


def _touches(error: TouchesBuilt) -> tuple[str, int, dict[str, str]]:
    shown = {
        "told": error.told, "later_h": error.later_h, "names": error.names, "again": list(sent_again()),
        "action": request.path, "files": list(request.files),
    }  # fmt: skip
    if request.headers.get("HX-Request"):
        html = render_template("shared/_touches.html", **shown)
        return html, 200, {"HX-Retarget": "#problem", "HX-Reswap": "innerHTML show:top"}  # a question, no error
    return render_template("shared/touches.html", **shown), 409, {}


def _no_scene(_: NoSuchScene) -> tuple[str, int, dict[str, str]]:
    return _tell("There is no such scene or revision here. It may have been opened from another database.", 404)


def _no_batch(_: NoSuchBatch) -> tuple[str, int, dict[str, str]]:
    return _tell("There is no such batch in this scene.", 404)


def _forged(_: CSRFError) -> tuple[str, int, dict[str, str]]:
    return _tell(
        "This page is from before the program was restarted. Reload it and try again; nothing was changed.",
        400,
    )


def _http(error: HTTPException) -> tuple[str, int, dict[str, str]]:
    words = {
        404: "There is nothing at this address.",
        405: "This address takes no such request.",
        413: f"That is larger than {(request.max_content_length or 0) / 1e6:g} MB, the most that is taken. "
        "Nothing was changed.",
    }
    return _tell(
        words.get(error.code or 500, error.description or "Something is wrong with this request."),
        error.code or 500,
    )


def _too_long(_: TooLong) -> tuple[str, int, dict[str, str]]:
    may_go_on.set(None)  # the answer itself may still be drawn
    words = f"This took longer than {BUDGET_S:g} s and was stopped. Nothing was changed."
    return _tell(f"{words} A coarser grid or fewer layers would be quicker.", 503)


def _left(_: ClientLeft) -> tuple[str, int]:
    return "", 499


def _database(error: DBAPIError) -> tuple[str, int, dict[str, str]]:
    current_app.logger.error("the database: %s", error.orig)
    words = why_not(error)
    return _tell(f"The database: {words}. Nothing was changed.", 507 if "full" in words else 503)


def _unforeseen(error: Exception) -> tuple[str, int, dict[str, str]]:
    current_app.logger.exception("unforeseen", exc_info=error)
    return _tell("Something went wrong in the program itself. Nothing was changed; its log says more.", 500)


HANDLERS: dict[type[Exception], Callable[..., Any]] = {
    Faults: _faults,
    TouchesBuilt: _touches,
    NoSuchScene: _no_scene,
    NoSuchBatch: _no_batch,
    CSRFError: _forged,
    HTTPException: _http,
    TooLong: _too_long,
    ClientLeft: _left,
    DBAPIError: _database,
    Exception: _unforeseen,
}


def install(app: Flask) -> None:
    """Let each kind of error be told in its own way."""
    for kind, told in HANDLERS.items():
        app.register_error_handler(kind, told)
