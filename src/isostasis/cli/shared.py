"""What the verbs share: reading a scene, opening the database, refusing."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

import click

from ..core.fault import Faults

if TYPE_CHECKING:
    from datetime import datetime
    from zoneinfo import ZoneInfo

    from ..core.document import ResolvedScene
    from ..store import Database


def own_file(name: str = "isostasis") -> str:
    """Where a database lies unless another is named."""
    from ..store.database import own_file as file_of

    return str(file_of(name))


db_option = click.option(
    "--db",
    default=own_file,
    envvar="ISOSTASIS_DB",
    show_default="isostasis.db in your own folder",
    help="The database file, or postgresql+psycopg://... of a club.",
)
port_option = click.option(
    "--port",
    type=click.IntRange(1, 65535),
    default=8765,
    envvar="PORT",
    show_default=True,
    help="Where the pages are.",
)
json_option = click.option("--json", "as_json", is_flag=True, help="For machines, as docs/formats.md has it.")
stage_option = click.option(
    "--stage", default="bare", show_default=True, help="bare, finished, or the id of a form or a lift."
)


def stop(sentence: str) -> NoReturn:
    """One sentence on standard error; exit 2."""
    click.echo(sentence, err=True)
    sys.exit(2)


def refuse(faults: Faults) -> NoReturn:
    """One line a fault on standard error; exit 2."""
    stop("\n".join(str(one) for one in faults.faults))


def unreadable(path: str, error: OSError, right: str) -> NoReturn:
    """A file that cannot be read; exit 2."""
    stop(f"{path}: cannot be read: {(error.strerror or str(error)).lower()}; {right}")


def read_source(path: str) -> bytes:
    """What a file holds, or standard input for -; exit 2 if it cannot be read."""
    try:
        return sys.stdin.buffer.read() if path == "-" else Path(path).read_bytes()
    except OSError as error:
        unreadable(path, error, "name a scene file")


def resolved_scene(path: str) -> ResolvedScene:
    """The resolved scene in a file, or exit 2."""
    from ..core.catalogue import shipped
    from ..core.document import resolve
    from ..core.reading import read

    try:
        return resolve(read(read_source(path)), shipped())
    except Faults as faults:
        refuse(faults)


def open_database(path: str) -> Database:
    """The database in a file, made if it is not there, or on a server. Exit 2 for one that cannot be used."""
    from ..store import Database, Unusable

    try:
        database = Database(path)
    except Unusable as error:
        stop(str(error))
    click.get_current_context().call_on_close(database.close)
    return database


def existing_database(path: str) -> Database:
    """The database in a file or on a server; exit 2 if there is none."""
    if "://" not in path and not os.path.exists(path):
        stop(f"{path}: there is no database; name one with --db, or start with `isostasis demo`")
    return open_database(path)


def parse_zone(name: str | None) -> ZoneInfo:
    """The zone of the clocks on the wall: by name, or this machine's. Exit 2 for what is none."""
    from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

    from tzlocal import get_localzone_name

    try:
        return ZoneInfo(name or get_localzone_name() or "UTC")
    except (ZoneInfoNotFoundError, ValueError, OSError):
        stop(f"zone: there is no zone “{name}”; write one such as Europe/Oslo")


def parse_moment(text: str, what: str, zone: ZoneInfo) -> datetime:
    """A time from the command line, in a zone: what has an offset of its own that is not that zone's keeps it. Exit 2
    for what is none."""
    from datetime import datetime

    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        stop(f"{what}: “{text}” is no time; write one such as 2027-03-01T19:00+01:00")
    if moment.tzinfo is None:
        return moment.replace(tzinfo=zone)
    there = moment.astimezone(zone)
    return there if there.utcoffset() == moment.utcoffset() else moment
