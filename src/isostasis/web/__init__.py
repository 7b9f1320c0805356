"""The pages: an app factory, and one package a place with its views and templates beside each other.

`shared` is what every page shares (spine, wet line, opening scenes, saving edits), `draw` turns grounds into SVG,
`door` says who may speak, `errors` tells what went wrong.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from secrets import token_hex
from typing import Any
from zoneinfo import ZoneInfo

from flask import Flask, request
from flask_wtf.csrf import CSRFProtect
from jinja2 import FileSystemLoader, StrictUndefined
from sqlalchemy.exc import IntegrityError
from tzlocal import get_localzone_name
from werkzeug.middleware.proxy_fix import ProxyFix
from werkzeug.routing import IntegerConverter, Map

from ..exchange import MAX_BYTES
from ..exchange.archive import MAX_SENT_BYTES
from ..exchange.picture import MAX_BYTES as MAX_PHOTO_BYTES
from ..solver import Solver
from ..store import Database, settings
from .budget import install as install_budget
from .clock.shared_solver import SharedSolver
from .door import THIS_MACHINE, Door
from .door import install as install_door
from .errors import install as install_errors
from .pressing import install as install_pressing
from .sending import install as install_sending
from .shared.compiled import COMPILED
from .shared.scenes import MAX_NUMBER
from .shared.views import SCRIPTS, STYLES

MAX_REQUEST_BYTES = 3_000_000
FORM_BYTES = 10_000  # beside a file
LARGER = {
    "ground.import_survey": MAX_BYTES,
    "ground.take_photo": MAX_PHOTO_BYTES + FORM_BYTES,
    "scenes.start_photo": MAX_PHOTO_BYTES + FORM_BYTES,
    "scenes.import_": 2 * MAX_PHOTO_BYTES,
    "labels.take_photo": MAX_PHOTO_BYTES + FORM_BYTES,
    "bench.photo": MAX_PHOTO_BYTES + FORM_BYTES,
    "swatches.take": MAX_PHOTO_BYTES + FORM_BYTES,
    "archive.send": MAX_SENT_BYTES,
}


class Number(IntegerConverter):
    """A number in an address: what is larger than any row's leads nowhere."""

    def __init__(self, map: Map, **options: Any) -> None:
        super().__init__(map, **{"max": MAX_NUMBER - 1, **options})


def create_app(
    database: Database,
    now: Callable[[], datetime] = lambda: datetime.now(UTC),
    zone: str | None = None,
    solver: Solver | SharedSolver | None = None,
    door: Door = THIS_MACHINE,
) -> Flask:
    """The application over an open database; `now` is its clock, `zone` that of the clocks on the wall (this machine's
    unless given), `solver` what schedules are asked of (its own unless given), `door` how the pages are reached."""
    app = Flask(__name__)
    if door.proxied:
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=1, x_proto=1)  # type: ignore[method-assign]
    app.config.update(
        MAX_CONTENT_LENGTH=MAX_REQUEST_BYTES,
        MAX_FORM_MEMORY_SIZE=MAX_REQUEST_BYTES,
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_SECURE=door.proxied,
        SEND_FILE_MAX_AGE_DEFAULT=3600,
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_SSL_STRICT=False,
    )
    app.url_map.converters["int"] = Number
    app.jinja_loader = FileSystemLoader(Path(__file__).parent)
    app.jinja_options = {
        "undefined": StrictUndefined, "trim_blocks": True, "lstrip_blocks": True, "bytecode_cache": COMPILED,
    }  # fmt: skip

    @app.before_request
    def _larger_files() -> None:
        """Some files are larger than anything else; set before the token is looked for in the form."""
        if request.endpoint in LARGER:
            request.max_content_length = LARGER[request.endpoint]

    install_door(app, door)
    install_pressing(app)
    install_budget(app)
    install_sending(app, ("vendor/bulma.parts", *(f"css/{name}" for name in STYLES)), SCRIPTS, door.proxied)
    protect = CSRFProtect(app)

    from .archive.pages import blueprint as archive
    from .bench.pages import blueprint as bench
    from .clock.pages import blueprint as clock
    from .devices.pages import blueprint as devices
    from .faults.pages import blueprint as faults
    from .find.pages import blueprint as find
    from .ground.pages import blueprint as ground
    from .labels.pages import blueprint as labels
    from .layup.pages import blueprint as layup
    from .live import blueprint as live
    from .mix.pages import blueprint as mix
    from .pour.pages import blueprint as pour
    from .reckoner.pages import blueprint as reckoner
    from .records.pages import blueprint as records
    from .scenes.pages import blueprint as scenes
    from .shared.pages import blueprint as shared
    from .shared.views import install
    from .shelf.pages import blueprint as shelf
    from .swatches.pages import blueprint as swatches

    install(app)
    protect.exempt("isostasis.web.devices.posting.post")  # it has a key instead, which no browser sends by itself
    workshop = bench, shelf, labels, devices, reckoner, swatches, records, faults, archive, find
    for place in (shared, scenes, ground, layup, pour, mix, clock, *workshop, live):
        app.register_blueprint(place)
    install_errors(app)
    serve_from(app, database, now, zone, solver)
    return app


def serve_from(
    app: Flask,
    database: Database,
    now: Callable[[], datetime],
    zone: str | None = None,
    solver: Solver | SharedSolver | None = None,
) -> None:
    """Put the application over another database, with another clock; arguments as in `create_app`."""
    from .clock.keeper import Keeper

    door: Door = app.extensions["door"]
    app.config.update(SECRET_KEY=_secret(database), SESSION_COOKIE_NAME=door.cookie(database.name))
    app.extensions["database"] = database
    app.extensions["now"] = now
    app.extensions["zone"] = ZoneInfo(zone or get_localzone_name() or "UTC")
    app.extensions["solver"] = solver or (SharedSolver(database, now=now) if database.shared else Solver())
    app.extensions["keeper"] = Keeper(app)


def _secret(database: Database) -> str:
    """The key of the cookies; made once, by whichever process comes first."""
    while True:
        try:
            with database.writing() as session:
                known = settings.read(session).secret
                return known or settings.change(session, secret=token_hex(32)).secret or ""
        except IntegrityError:  # another process was sooner
            continue
