"""Verbs about the server of the pages: serve, demo, status."""

from __future__ import annotations

import json
from pathlib import Path

import click

from .shared import DEFAULT_DB, db_option, json_option, open_database, port_option, stop


@click.command()
@db_option
@port_option
def serve(db: str, port: int) -> None:
    """Serve the pages."""
    import logging

    import waitress

    from ..web import create_app

    app = create_app(open_database(db))
    logging.getLogger("waitress").setLevel(logging.ERROR)
    try:
        server = waitress.create_server(app, host="127.0.0.1", port=port, threads=4)
    except OSError as error:
        stop(f"port {port} cannot be used: {(error.strerror or str(error)).lower()}; try PORT={port + 1}")
    app.extensions["solver"].start()
    app.extensions["keeper"].start()
    click.echo(f"Isostasis is at http://127.0.0.1:{port}/  (Ctrl+C stops it; {db} keeps everything)")
    try:
        server.run()
    except KeyboardInterrupt:
        server.close()


@click.command()
@db_option
@click.option("--reset", is_flag=True, help="Throw the demo database away and start afresh.")
@port_option
@click.option("--only-build", is_flag=True, help="Build the database, serve nothing.")
@click.pass_context
def demo(context: click.Context, db: str, reset: bool, port: int, only_build: bool) -> None:
    """A database with the demo scenes, then serve it. What the user did in it is kept."""
    if db == DEFAULT_DB:
        db = "var/demo.db"
    from ..demo import fill

    if reset:
        for suffix in ("", "-wal", "-shm"):
            Path(db + suffix).unlink(missing_ok=True)
    if not Path(db).exists():
        part = Path(db + ".part")  # a build that is cut short leaves no half database behind
        for suffix in ("", "-wal", "-shm"):
            Path(str(part) + suffix).unlink(missing_ok=True)
        fresh = open_database(str(part))
        fill(fresh)
        fresh.close()
        part.replace(db)
        click.echo(f"Built {db} with the demo scenes.")
    if not only_build:
        context.invoke(serve, db=db, port=port)


@click.command()
@port_option
@json_option
def status(port: int, as_json: bool) -> None:
    """What the running server keeps worked out: entries, bytes, and each stage's hits and misses."""
    from http.client import HTTPException
    from urllib.request import urlopen

    url = f"http://127.0.0.1:{port}/status.json"
    try:
        with urlopen(url, timeout=20) as answer:
            found = json.load(answer)
    except (OSError, HTTPException, ValueError):
        stop(f"port {port}: no Isostasis answers there; start one with `isostasis serve`, or name its --port")
    if as_json:
        click.echo(json.dumps(found, indent=1))
        return
    click.echo(
        f"{found['entries']} entries, {found['bytes'] / 1e6:.1f} of {found['max_bytes'] / 1e6:.0f} MB;"
        f" {found['evicted']} let go"
    )
    for one in found["stages"]:
        if one["hits"] + one["misses"]:
            click.echo(f"{one['name']:48} {one['entries']:6} kept {one['hits']:9} hits {one['misses']:9} misses")
