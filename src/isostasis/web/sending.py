"""What goes over the wire: all style sheets as one, and texts packed for browsers that take them so."""

from __future__ import annotations

import gzip
from pathlib import Path

from flask import Flask, Response, request

from ..core.stages import cached_stage

STATIC = Path(__file__).parent / "static"
PACKED = frozenset(
    {"text/html", "text/css", "text/javascript", "application/javascript", "application/json", "image/svg+xml"}
)
LEAST = 1000  # bytes: smaller ones are sent as they are
PIECE = 20_000  # bytes: of what a page asks for while it is dragged, packing takes longer than sending
LEVEL = 5


def _packed(data: bytes) -> bytes:
    return gzip.compress(data, LEVEL, mtime=0)


_packed_file = cached_stage(_packed)  # it stays as it is


def install(app: Flask, names: tuple[str, ...], proxied: bool) -> None:
    """Serve the style sheets of these names, in their order, as one, where their own addresses lead from; pack texts,
    unless a proxy in front does."""
    sheet = "\n".join((STATIC / f"{name}.css").read_text("utf-8") for name in names)

    @app.get("/static/css/all.css", endpoint="styles")
    def _styles() -> Response:
        answer = Response(sheet, mimetype="text/css")
        answer.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return answer

    @app.after_request
    def _pack(answer: Response) -> Response:
        takes = "gzip" in request.headers.get("Accept-Encoding", "") and "Range" not in request.headers
        whole = request.endpoint == "static" or not answer.is_streamed  # files come as streams, and are small
        if proxied or not takes or answer.status_code != 200 or answer.mimetype not in PACKED or not whole:
            return answer
        answer.direct_passthrough = False
        data = answer.get_data()
        piece = "HX-Request" in request.headers and len(data) < PIECE
        if len(data) >= LEAST and not piece and "Content-Encoding" not in answer.headers:
            pack = _packed_file if request.endpoint in ("static", "styles") else _packed
            answer.set_data(pack(data))
            answer.headers["Content-Encoding"] = "gzip"
            answer.vary.add("Accept-Encoding")
        return answer
