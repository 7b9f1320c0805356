"""Which devices may speak to the pages, and the page at which one that may not knocks."""

from __future__ import annotations

from datetime import timedelta

import segno
from flask import Blueprint, current_app, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...store import devices
from ..door import KNOCK, Door, key_cookie
from ..shared.answers import hx_redirect
from ..shared.fields import Field, read, read_one
from ..shared.scenes import database, now

blueprint = Blueprint("devices", __name__)

ROLE = Field("role", "role", "choice", start="bench")
KNOCKED = (Field("code", "code", most=20), Field("name", "name", most=200))
KEY_LASTS = timedelta(days=400)


def _door() -> Door:
    found: Door = current_app.extensions["door"]
    return found


@blueprint.get("/devices")
def page() -> str:
    """Every device that may speak, and how another one may."""
    with database().reading() as session:
        rows = devices.in_force(session)
    seen = current_app.extensions["keeper"].seen
    return render_template(
        "devices/page.html",
        rows=[(row, max(row.seen_at, seen.get(row.id, row.seen_at))) for row in rows],
        door=_door(),
        place="devices",
    )


@blueprint.post("/devices/code")
def code() -> str:
    """A code for one more device, in figures and to be photographed. Raises Faults."""
    role = _role(read_one(ROLE, request.form))
    with database().writing() as session:
        pairing = devices.new_code(session, role, now())
    url = f"{_door().url or request.host_url.rstrip('/')}/pair?code={pairing}"
    picture = segno.make(url, error="m").svg_inline(scale=5, border=3, dark="#26323a", light="#ffffff")
    return render_template("devices/_code.html", code=pairing, url=url.partition("?")[0], picture=picture, role=role)


def _role(text: str) -> devices.Role:
    for role in devices.ROLES:
        if role == text:
            return role
    raise fault("role", f"there is no role “{text[:40]}”", f"one of {', '.join(devices.ROLES)}")


@blueprint.post("/devices/<int:number>/away")
def away(number: int) -> Response:
    """A device is turned away at once. Raises Faults."""
    with database().writing() as session:
        devices.turn_away(session, devices.get(session, number), now())
    return hx_redirect(url_for("devices.page"))


@blueprint.get(KNOCK)
def knock() -> str:
    """Where a device that may not speak yet asks to."""
    return render_template("devices/knock.html", code=request.args.get("code", "")[:20], sentences=())


@blueprint.post(KNOCK)
def answer() -> Response | tuple[str, int]:
    """The code that it read, and how it wants to be called. Raises Faults."""
    code_read, name = read(KNOCKED, request.form).values()
    with database().writing() as session:
        devices.refuse_name(session, name or "")
        role = devices.try_code(session, code_read or "", now())
        key = None if role is None else devices.pair(session, name, role, now())
    if key is None:
        raise fault(
            "code",
            "it is not the one that is good now",
            "read it off the other screen: it is good once, for ten minutes",
        )
    done = hx_redirect(url_for("scenes.page"))
    done.set_cookie(
        key_cookie(),
        key,
        max_age=int(KEY_LASTS.total_seconds()),
        secure=_door().proxied,
        httponly=True,
        samesite="Strict",
    )
    return done
