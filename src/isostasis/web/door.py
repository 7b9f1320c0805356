"""Who may speak to the pages: hosts, origins, paired devices; and what every answer says to browsers."""

from __future__ import annotations

from dataclasses import dataclass
from hashlib import sha256
from ipaddress import ip_address
from typing import TYPE_CHECKING
from urllib.parse import urlsplit

from flask import Flask, Response, abort, current_app, g, redirect, request
from werkzeug.wrappers import Response as Answer

from ..store import devices
from ..store.database import made_by
from .sending import FILES

if TYPE_CHECKING:
    from ..store.tables import DeviceRow

LOCAL = ("localhost", "127.0.0.1", "::1")
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
KNOCK = "/pair"
POSTS = "devices.post"  # where scales and probes post what they read
# What a stranger may ask for: the page at which to knock, what it looks like, and calendars, whose address is secret.
OPEN = FILES | frozenset({"devices.knock", "devices.answer", "clock.subscribed"})
# What a device at the bench may change, and what it may not even see.
BENCH_MAY = frozenset(
    {
        "clock.mark",
        "clock.look",
        "mix.start",
        "mix.actual",
        "mix.finish",
        "mix.weigh",
        "mix.walk_on",
        "bench.ring",
        "bench.caution",
        "bench.photo",
        "bench.unphoto",
        "bench.left",
        "devices.post",
        "shared.look",
        "devices.answer",
    }
)
NOT_FOR_BENCH = frozenset({"devices.page", "archive.page", "archive.save", "archive.look"})


@dataclass(frozen=True)
class Door:
    """How the pages are reached: by which `names` and addresses beside this machine's own, on which `port` (0: none of
    its own), at which `url` from other devices, whether a proxy in front ends TLS, and whether devices may pair."""

    names: tuple[str, ...] = ()
    port: int = 0
    url: str = ""
    proxied: bool = False
    pairing: bool = False

    def cookie(self, database: str) -> str:
        """The cookie's name, of this database on this port: browsers send cookies to every port of a host."""
        return f"isostasis-{self.port}-{sha256(database.encode()).hexdigest()[:8]}"


THIS_MACHINE = Door()


def key_cookie() -> str:
    """The name of the cookie that holds a device's key."""
    return f"{current_app.config['SESSION_COOKIE_NAME']}-key"


def install(app: Flask, door: Door) -> None:
    """Answer those alone who may speak, and tell browsers what they must not do with the answers."""
    app.extensions["door"] = door
    known = {*LOCAL, *(urlsplit(f"//{name}").hostname for name in door.names)}

    @app.before_request
    def _from_where() -> Response | None:
        """A host that is not ours was bound to our address by somebody else; such an origin is their page."""
        if _host() not in known:
            return _refused("This name is not one under which Isostasis answers. Start it with --name to add it.", 400)
        origin = request.headers.get("Origin")
        if origin is not None and urlsplit(origin).netloc.lower() != request.host.lower():
            return _refused("This was sent by a page of another site. Nothing was changed.", 400)
        return None

    @app.before_request
    def _by_whom() -> Answer | None:
        """This machine may do everything; any other device what it was paired for."""
        g.device = None
        made_by.set(None)
        key = request.headers.get("Device-Key") if request.endpoint == POSTS else None
        g.let_in = _is_this_machine() and not door.proxied and key is None
        if g.let_in or request.endpoint in OPEN:
            return None
        device = _device(key)
        if device is None:
            if request.method == "GET" and "HX-Request" not in request.headers:
                return redirect(KNOCK, 303)
            refused = _refused("This device is not paired, or was turned away. Nothing was changed.", 401)
            refused.headers["HX-Redirect"] = KNOCK
            return refused
        g.device, g.let_in = device, True
        made_by.set(device.id)
        app.extensions["keeper"].seen[device.id] = app.extensions["now"]()
        if device.role == "sensor" and request.endpoint != POSTS:
            abort(403, f"“{device.name}” posts readings, and nothing else.")
        writes = request.method not in ("GET", "HEAD", "OPTIONS")
        if device.role != "all" and (
            request.endpoint in NOT_FOR_BENCH or (writes and request.endpoint not in BENCH_MAY)
        ):
            abort(
                403, f"“{device.name}” is paired for the bench: it marks, weighs and photographs. Nothing was changed."
            )
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


def _host() -> str | None:
    """The host that was asked for, without its port; None for what is no host."""
    host = request.headers.get("Host", "")
    if any(sign in host for sign in "@/?#\\ "):
        return None
    try:
        return urlsplit(f"//{host}").hostname
    except ValueError:
        return None


def _is_this_machine() -> bool:
    """Whether nobody stands between: what a proxy on this machine passes on may come from anywhere."""
    if any(name in request.headers for name in ("X-Forwarded-For", "Forwarded", "X-Real-Ip")):
        return False
    try:
        return ip_address(request.remote_addr or "").is_loopback
    except ValueError:
        return False


def _device(key: str | None) -> DeviceRow | None:
    key = key or request.cookies.get(key_cookie())
    if not key:
        return None
    with current_app.extensions["database"].reading() as session:
        return devices.of_key(session, key)


def _refused(sentence: str, status: int) -> Response:
    return Response(f"{sentence}\n", status, mimetype="text/plain")
