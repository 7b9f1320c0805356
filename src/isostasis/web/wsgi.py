"""The pages for several processes, as a club's server runs them: `gunicorn 'isostasis.web.wsgi:create()'`.

Behind a proxy that ends TLS; every device is paired. Told by its environment: ISOSTASIS_DB (the database),
ISOSTASIS_NAMES (under which names it is opened, commas between), ISOSTASIS_ZONE (of the clocks on the wall).
"""

from __future__ import annotations

import os

from flask import Flask

from ..store import Database
from ..store.database import own_file
from . import create_app
from .collecting import settle
from .door import Door


def create() -> Flask:
    """The application, its keeper and its share of the solver begun."""
    names = tuple(name.strip() for name in os.environ.get("ISOSTASIS_NAMES", "").split(",") if name.strip())
    door = Door(names, url=f"https://{names[0]}" if names else "", proxied=True, pairing=True)
    database = Database(os.environ.get("ISOSTASIS_DB") or own_file())
    app = create_app(database, zone=os.environ.get("ISOSTASIS_ZONE"), door=door)
    app.extensions["solver"].start()
    app.extensions["keeper"].start()
    settle()
    return app
