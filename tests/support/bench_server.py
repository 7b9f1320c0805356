"""A server of its own, over a database, whose clock is what stands in a file: `python -m tests.support.bench_server DB
PORT CLOCK`. For tests that kill it.
"""

import sys
from datetime import datetime
from pathlib import Path

import waitress

from isostasis.store import Database
from isostasis.web import create_app


def main(database, port, clock):
    app = create_app(Database(database), lambda: datetime.fromisoformat(Path(clock).read_text("utf-8")), "UTC")
    waitress.serve(app, host="127.0.0.1", port=int(port), threads=16)


if __name__ == "__main__":
    main(*sys.argv[1:])
