"""Who may speak to the pages, by name: hosts and origins; and what every answer says to browsers."""

from __future__ import annotations

from dataclasses import dataclass
from hashlib import sha256
from urllib.parse import urlsplit

from flask import Flask, Response, request
from werkzeug.sansio.utils import host_is_trusted

LOCAL = ("localhost", "127.0.0.1", "[::1]")
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)


@dataclass(frozen=True)
class Door:
    """How the pages are reached: by which `names` and addresses beside this machine's own, on which `port` (0: none of
    its own), whether a proxy in front ends TLS, and whether devices beyond this machine may pair."""

    names: tuple[str, ...] = ()
    port: int = 0
    proxied: bool = False
    pairing: bool = False

    def cookie(self, database: str) -> str:
        """The cookie's name, of this database on this port: browsers send cookies to every port of a host."""
        return f"isostasis-{self.port}-{sha256(database.encode()).hexdigest()[:8]}"


THIS_MACHINE = Door()


def install(app: Flask, door: Door) -> None:
    """Answer those alone who may speak, and tell browsers what they must not do with the answers."""
    known = [*LOCAL, *door.names]

    @app.before_request
    def _who_speaks() -> Response | None:
        """A host that is not ours was bound to our address by somebody else; such an origin is their page."""
        if not host_is_trusted(request.headers.get("Host"), known):
            return _refused("This name is not one under which Isostasis answers. Start it with --name to add it.")
        origin = request.headers.get("Origin")
        if origin is not None and urlsplit(origin).netloc.lower() != request.host.lower():
            return _refused("This was sent by a page of another site. Nothing was changed.")
        return None

    @app.after_request
    def _harden(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        if response.mimetype == "text/html":
            response.headers["Cache-Control"] = "no-store"
        return response


def _refused(sentence: str) -> Response:
    return Response(f"{sentence}\n", 400, mimetype="text/plain")
