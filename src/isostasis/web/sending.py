"""What goes over the wire: style sheets as one, scripts as one, and texts packed for browsers that take them so."""

from __future__ import annotations

import gzip
import re
from hashlib import sha256
from pathlib import Path

from flask import Flask, Response, request

from ..core.stages import cached_stage

STATIC = Path(__file__).parent / "static"
PACKED = frozenset(
    {"text/html", "text/css", "text/javascript", "application/javascript", "application/json", "image/svg+xml"}
)
FILES = frozenset({"static", "styles", "scripts"})  # endpoints of what stays as it is while the server runs
LEAST = 1000  # bytes: smaller ones are sent as they are
PIECE = 20_000  # bytes: of what a page asks for while it is dragged, packing takes longer than sending
LEVEL = 5
IMPORT = re.compile(r'^import (\{[^}]+\}) from "\./(\w+)\.js";$', re.MULTILINE)
EXPORT = re.compile(r"^export ((?:async )?(?:function|const) (\w+))", re.MULTILINE)


def _packed(data: bytes) -> bytes:
    return gzip.compress(data, LEVEL, mtime=0)


_packed_file = cached_stage(_packed)  # it stays as it is


def as_one(names: tuple[str, ...]) -> str:
    """The scripts of these names as one module, each in a scope of its own and after those that it imports from."""
    parts: dict[str, str] = {}

    def add(name: str) -> None:
        if name in parts:
            return
        text = (STATIC / "js" / f"{name}.js").read_text("utf-8")
        for _, other in IMPORT.findall(text):
            add(other)
        gives = ", ".join(told for _, told in EXPORT.findall(text))
        body = EXPORT.sub(r"\1", IMPORT.sub(r"const \1 = from_\2;", text))
        parts[name] = f"const from_{name} = (() => {{\n{body}return {{ {gives} }};\n}})();\n"

    for name in names:
        add(name)
    return "".join(parts.values())


def install(app: Flask, styles: tuple[str, ...], scripts: tuple[str, ...], proxied: bool) -> None:
    """Serve the style sheets of these names, in their order, as one, where their own addresses lead from, and the
    scripts as one; pack texts, unless a proxy in front does."""
    sheet = "\n".join((STATIC / f"{name}.css").read_text("utf-8") for name in styles)
    script = as_one(scripts)
    # Asked with it, a file may be kept for ever: once one has changed, it is another.
    every = sorted(path for path in STATIC.rglob("*") if path.is_file())
    app.config["STAMP"] = sha256(b"".join(path.read_bytes() for path in every)).hexdigest()[:12]

    @app.get("/static/css/all.css", endpoint="styles")
    def _styles() -> Response:
        return Response(sheet, mimetype="text/css")

    @app.get("/static/js/all.js", endpoint="scripts")
    def _scripts() -> Response:
        return Response(script, mimetype="text/javascript")

    @app.after_request
    def _keep(answer: Response) -> Response:
        if request.endpoint in FILES and "v" in request.args and answer.status_code == 200:
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
            pack = _packed_file if request.endpoint in FILES else _packed
            answer.set_data(pack(data))
            answer.headers["Content-Encoding"] = "gzip"
            answer.vary.add("Accept-Encoding")
        return answer
