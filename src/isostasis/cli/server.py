"""Verbs about the server of the pages: serve, pair, demo, status."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from . import clock
from .shared import (
    db_option,
    existing_database,
    json_option,
    open_database,
    own_file,
    parse_zone,
    port_option,
    stop,
)

if TYPE_CHECKING:
    from ..store import devices

THREADS = 24  # answers at once, streams of events among them; scheduling goes on in a process of its own
IDLE_S = 30  # after which a connection that says nothing is dropped
MAX_CONNECTIONS = 500
MAX_BODY_BYTES = 610_000_000  # archives of everything are the largest; each place has a lower limit of its own


def lan_address() -> str:
    """This machine's address in its network: that from which it would answer one. No packet is sent for it."""
    import socket

    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # an address of no machine, kept for documentation
        except OSError:
            return "127.0.0.1"
        return str(probe.getsockname()[0])


def show_code(code: str, url: str) -> None:
    """A pairing code on the terminal: as a square to be photographed, and in figures."""
    import segno

    segno.make(f"{url}/pair?code={code}", error="m").terminal(compact=True)
    click.echo(f"Pair a device: photograph the square, or open {url} there and write {code[:3]} {code[3:]}.")
    click.echo("Good once, for ten minutes.")


@click.command()
@db_option
@port_option
@click.option("--lan", is_flag=True, help="Answer in the whole network; devices are paired by a code first.")
@click.option("--host", help="Answer at this address of this machine alone; devices are paired first.")
@click.option("--name", "names", multiple=True, help="A further name under which the pages are opened; repeatable.")
@click.option("--zone", help="The zone of the clocks on the wall, such as Europe/Oslo; this machine's if not given.")
@click.option("--proxied", is_flag=True, help="A proxy stands in front and ends TLS; every device is paired.")
@click.option("--open/--no-open", "opens", default=None, help="Open the page in the browser; at a terminal it does.")
def serve(
    db: str,
    port: int,
    lan: bool,
    host: str | None,
    names: tuple[str, ...],
    zone: str | None,
    proxied: bool,
    opens: bool | None,
) -> None:
    """Serve the pages, and open them. To this machine alone, unless told otherwise."""
    import logging
    import socket
    import webbrowser

    import waitress

    from ..store import devices
    from ..web import create_app
    from ..web.collecting import settle
    from ..web.door import Door

    listens = "0.0.0.0" if lan else host or "127.0.0.1"
    reached = lan_address() if lan else listens
    own = () if listens == "127.0.0.1" else (reached, socket.gethostname(), f"{socket.gethostname()}.local")
    url = f"https://{names[0]}" if proxied and names else f"http://{reached}:{port}"
    door = Door((*own, *names), port, url, proxied, pairing=proxied or listens != "127.0.0.1")
    wall = str(parse_zone(zone))
    database = open_database(db)
    app = create_app(database, zone=wall, door=door)
    logging.getLogger("waitress").setLevel(logging.ERROR)
    try:
        server = waitress.create_server(
            app, host=listens, port=port, threads=THREADS, channel_timeout=IDLE_S, cleanup_interval=10,
            connection_limit=MAX_CONNECTIONS, max_request_body_size=MAX_BODY_BYTES, channel_request_lookahead=1,
        )  # fmt: skip
    except (OSError, ValueError) as error:
        reason = (getattr(error, "strerror", None) or str(error)).lower()
        stop(f"{listens} port {port} cannot be used: {reason}; try PORT={port + 1 if port < 65535 else 8765}")
    app.extensions["solver"].start()
    app.extensions["keeper"].start()
    settle()
    click.echo(f"Isostasis is at http://127.0.0.1:{port}/  (Ctrl+C stops it; {db} keeps everything)")
    if door.pairing:
        with database.writing() as session:
            show_code(devices.new_code(session, "all", clock.now()), url)
    if sys.stdout.isatty() and not proxied if opens is None else opens:
        webbrowser.open(f"http://127.0.0.1:{port}/")
    try:
        server.run()
    except KeyboardInterrupt:
        server.close()


@click.command()
@db_option
@port_option
@click.option("--role", type=click.Choice(["all", "bench"]), default="bench", show_default=True,
              help="What the device may do: all, or mark, weigh and photograph.")  # fmt: skip
@click.option("--url", help="Where the device opens the pages, if not at this machine's address in its network.")
def pair(db: str, port: int, role: devices.Role, url: str | None) -> None:
    """A code by which one more device may pair. With the server that runs on this database."""
    from ..store import devices

    with existing_database(db).writing() as session:
        code = devices.new_code(session, role, clock.now())
    show_code(code, (url or f"http://{lan_address()}:{port}").rstrip("/"))


@click.command()
@click.option(
    "--db",
    default=lambda: own_file("demo"),
    envvar="ISOSTASIS_DB",
    show_default="demo.db in your own folder",
    help="The database file of the demo.",
)
@click.option("--reset", is_flag=True, help="Throw the demo database away and start afresh.")
@port_option
@click.option("--only-build", is_flag=True, help="Build the database, serve nothing.")
@click.pass_context
def demo(context: click.Context, db: str, reset: bool, port: int, only_build: bool) -> None:
    """A database with the demo scenes, then serve it. What the user did in it is kept."""
    from ..demo import fill

    if reset:
        for suffix in ("", "-wal", "-shm"):
            Path(db + suffix).unlink(missing_ok=True)
    if not Path(db).exists():
        Path(db).parent.mkdir(parents=True, exist_ok=True)
        part = Path(db + ".part")  # a build that is cut short leaves no half database behind
        for suffix in ("", "-wal", "-shm"):
            Path(str(part) + suffix).unlink(missing_ok=True)
        fresh = open_database(str(part))
        fill(fresh)
        fresh.close()
        part.replace(db)
        click.echo(f"Built {db} with the demo scenes.")
    if only_build:
        open_database(db)
    else:
        context.invoke(serve, db=db, port=port)


@click.command()
@port_option
@json_option
def status(port: int, as_json: bool) -> None:
    """What the running server keeps worked out. Entries, bytes, and each stage's hits and misses."""
    from http.client import HTTPException
    from urllib.request import urlopen

    url = f"http://127.0.0.1:{port}/status.json"
    try:
        with urlopen(url, timeout=20) as answer:
            counts = json.load(answer)
    except (OSError, HTTPException, ValueError):
        stop(f"port {port}: no Isostasis answers there; start one with `isostasis serve`, or name its --port")
    if as_json:
        click.echo(json.dumps(counts, indent=1))
        return
    click.echo(
        f"{counts['entries']} entries, {counts['bytes'] / 1e6:.1f} of {counts['max_bytes'] / 1e6:.0f} MB;"
        f" {counts['evicted']} let go"
    )
    for one in counts["stages"]:
        if one["hits"] + one["misses"]:
            click.echo(f"{one['name']:48} {one['entries']:6} kept {one['hits']:9} hits {one['misses']:9} misses")
