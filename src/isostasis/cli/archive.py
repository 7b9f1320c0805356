"""Everything in one file, and back."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

import click

from ..core.fault import Faults
from . import clock
from .shared import db_option, existing_database, open_database, refuse, stop


@click.command("archive")
@click.argument("file")
@db_option
def save(file: str, db: str) -> None:
    """Everything that is kept, photos too, as the zip FILE. `unpack` opens it on any machine."""
    from ..exchange.archive import write_whole
    from ..store import archive

    target = Path(file)
    part = target.with_name(f".{target.name}.part")
    try:
        with existing_database(db).reading() as session:
            tables = ((one.name, archive.rows_of(session, one)) for one in archive.kept())
            head = archive.head_of(session, clock.now())
            write_whole(part, head, tables, archive.pictures_of(session))
        with part.open("rb") as written:
            os.fsync(written.fileno())
        part.replace(target)
    except OSError as error:
        stop(f"{file}: cannot be written: {(error.strerror or str(error)).lower()}; name another file")
    finally:
        part.unlink(missing_ok=True)
    click.echo(f"{file}: {len(head['scenes'])} scenes, {target.stat().st_size / 1e6:.1f} MB")


@click.command()
@click.argument("file")
@db_option
@click.option("--replace", is_flag=True, help="In the place of all that is here; else it is merged with it.")
@click.option("--look", is_flag=True, help="Only tell what would happen.")
@click.option("--yes", is_flag=True, help="Do not ask first.")
def unpack(file: str, db: str, replace: bool, look: bool, yes: bool) -> None:
    """Take in the archive FILE. Merged with what is here, or in its place; tells what will happen first."""
    from ..exchange.archive import opened
    from ..store import archive

    way: archive.Way = "replace" if replace else "merge"
    if not Path(file).is_file():
        stop(f"{file}: there is no such file; name an archive that was saved with `isostasis archive`")
    database = open_database(db)
    try:
        with (
            opened(Path(file)) as whole,
            tempfile.TemporaryDirectory() as folder,
            archive.scratch(whole, Path(folder)) as brought,
            brought.reading() as source,
        ):
            with database.reading() as target:
                summary = archive.summarise(target, source, way)
            click.echo("\n".join(summary.sentences) or "Nothing: all of it is here already.")
            if look:
                return
            if not yes and not click.confirm("Go on?"):
                stop("nothing was changed")
            with database.writing() as target:
                summary = archive.take_in(target, source, way)
            with database.reading() as target:
                alike = archive.alike(target, whole.head, summary.slugs)
    except Faults as faults:
        refuse(faults)
    for name, same in alike:
        words = "the same, by its hash" if same else "another here: labels, records or things differ"
        click.echo(f"{name}: its plan is {words}")
