"""What every device that looks at the pages is told by itself: that something was marked, mixed, weighed or saved.

A stream of events where a thread can be spared for it, else an address that is asked again and again.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from threading import BoundedSemaphore
from time import monotonic, sleep

from flask import Blueprint, Response, current_app
from sqlalchemy.exc import SQLAlchemyError
from werkzeug.wrappers import Response as Answer

from ..store import Database, bench
from .budget import client_left
from .shared.scenes import database

blueprint = Blueprint("live", __name__)
LOOKS_S = 0.4  # between two looks at the database
SAYS_S = 2.0  # after which a stream says at least that it is there, and so finds out whether anybody listens
LASTS_S = 300.0  # then a browser asks for a new one
STREAMS = 12  # at once; further devices ask again and again
_streams = BoundedSemaphore(STREAMS)


@blueprint.get("/live/at")
def at() -> Answer:
    """How far the work is, as a mark of it: what changes when anything was marked, mixed or saved."""
    with database().reading() as session:
        return Response(bench.mark_of(session), mimetype="text/plain")


@blueprint.get("/live")
def stream() -> Response:
    """The same, told whenever it changes. Nothing (204) where there are as many streams as can be, or several
    processes serve: a browser asks for the mark then."""
    if database().shared or not _streams.acquire(blocking=False):
        return Response(status=204)
    answer = Response(_told(current_app.extensions["database"], client_left()), mimetype="text/event-stream")
    answer.call_on_close(_streams.release)
    answer.headers["Cache-Control"] = "no-store"
    answer.headers["X-Accel-Buffering"] = "no"  # a proxy in front passes it on at once
    return answer


def _told(watched: Database, left: Callable[[], bool]) -> Iterator[str]:
    """The events of a stream: the mark at first, then whenever it is another, until whoever listens has left."""
    yield "retry: 1000\n\n"
    ends, said, known = monotonic() + LASTS_S, 0.0, ""
    while monotonic() < ends and not left():
        try:
            with watched.reading() as session:
                mark = bench.mark_of(session)
        except SQLAlchemyError:
            return  # a browser asks again, and is told then what is wrong
        if mark != known or monotonic() > said + SAYS_S:
            yield f"data: {mark}\n\n" if mark != known else "event: here\ndata:\n\n"
            known, said = mark, monotonic()
        sleep(LOOKS_S)
