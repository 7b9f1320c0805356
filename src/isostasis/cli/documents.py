"""Verbs that carry documents and files in and out: files, survey, schema, export, import, backup, restore."""

from __future__ import annotations

import json
import os
from pathlib import Path

import click

from ..core.fault import Faults
from . import clock
from .shared import (
    db_option,
    existing_database,
    open_database,
    read_source,
    refuse,
    resolved_scene,
    stage_option,
    stop,
    unreadable,
)


@click.command()
@click.argument("scene")
@click.option("--to", "folder", required=True, help="Folder for the files; made if it is not there.")
@stage_option
def files(scene: str, folder: str, stage: str) -> None:
    """The ground in open formats. As .asc, .png with its side file, .csv, .stl; plan, cut and templates as .svg."""
    from ..core.plan import plan as plan_of
    from ..exchange.outgoing import written

    resolved = resolved_scene(scene)
    try:
        made = plan_of(resolved)
        names = list(written(resolved, made.built, stage))
    except Faults as faults:
        refuse(faults)
    except KeyError:
        stop(f"stage: there is no form or lift '{stage}'; write bare, finished, or one of their ids")
    target = Path(folder)
    try:
        target.mkdir(parents=True, exist_ok=True)
        for name, data in names:
            (target / name).write_bytes(data)
    except OSError as error:
        stop(f"{folder}: cannot be written: {(error.strerror or str(error)).lower()}; name another folder")
    click.echo(f"{len(names)} files in {folder}")


@click.command()
@click.argument("heights")
@click.argument("scene")
def survey(heights: str, scene: str) -> None:
    """SCENE with the heights in a file as one more form. Of .asc, .csv, .png with its .json beside it."""
    from ..core.catalogue import shipped
    from ..core.document import edit
    from ..core.document.read import check
    from ..core.reading import read
    from ..exchange import MAX_BYTES, survey_form

    try:
        source, beside = Path(heights), Path(heights).with_suffix(".json")
        document = read(read_source(scene))
        if source.stat().st_size > MAX_BYTES:
            stop(f"{heights}: it is larger than {MAX_BYTES / 1e6:g} MB; thin it out first")
        side = beside.read_text("utf-8") if source.suffix.lower() == ".png" and beside.exists() else None
        form = survey_form(source.name, source.read_bytes(), side)
        changed = edit.add(document, "forms", {"id": edit.new_id(document, shipped(), "survey"), **form})
        check(changed)
    except OSError as error:
        unreadable(heights, error, "name a file of heights")
    except Faults as faults:
        refuse(faults)
    except ValueError:
        stop(f"“{heights}” is no name of a file; name a file of heights")
    click.echo(json.dumps(edit.written(changed), indent=1, ensure_ascii=False))


@click.command()
@click.option("--labels", is_flag=True, help="Of a file of labels instead.")
def schema(labels: bool) -> None:
    """The JSON Schema of the scene document."""
    from ..core.reading import json_schema
    from ..exchange.labels_file import labels_schema

    click.echo(json.dumps(labels_schema() if labels else json_schema(), indent=1, ensure_ascii=False))


@click.command("export")
@click.argument("scene")
@db_option
@click.option("--resolved/--as-written", default=True, help="With every label in use embedded, or as it was written.")
def export(scene: str, db: str, resolved: bool) -> None:
    """The document of a scene in the database, to standard output."""
    from ..store import NoSuchScene, scenes

    with existing_database(db).reading() as session:
        try:
            head = scenes.find(session, scene).head
        except NoSuchScene:
            known = ", ".join(row.slug for row in scenes.all_scenes(session)) or "none yet"
            stop(f"there is no scene '{scene}'; there are: {known}")
        try:
            data = scenes.exported(session, head) if resolved else scenes.data_of(head)
        except Faults as faults:
            refuse(faults)
    if "photo" in data:
        click.echo("Its photo is left out: its archive on the page Ground, Files holds it.", err=True)
    click.echo(json.dumps(data, indent=1, ensure_ascii=False))


@click.command("import")
@click.argument("files", nargs=-1, required=True)
@db_option
def import_(files: tuple[str, ...], db: str) -> None:
    """Take scene files into the database. All of them, or none if one has a fault."""
    from ..core.reading import read
    from ..store import scenes

    database = open_database(db)
    with database.writing() as session:
        for path in files:
            try:
                text = Path(path).read_bytes()
                row = scenes.create(session, read(text), f"Imported from {Path(path).name}", clock.now())
            except OSError as error:
                session.rollback()
                unreadable(path, error, "nothing was taken in; name scene files")
            except Faults as faults:
                session.rollback()
                click.echo(f"{path}: nothing was taken in", err=True)
                refuse(faults)
            click.echo(row.slug)


@click.command()
@click.argument("target")
@db_option
@click.option(
    "--keep", type=click.IntRange(1, 10_000), help="Of the copies in the folder TARGET, keep the newest so many."
)
def backup(target: str, db: str, keep: int | None) -> None:
    """A checked copy of the database, made while it is in use. The file TARGET, or one more in the folder TARGET."""
    from ..store import Unusable
    from ..store import backup as backups

    source = _file_of(db)
    if keep is not None and not os.path.isdir(target):  # False for a name that cannot be, too
        stop(f"{target}: --keep wants a folder in which the copies lie; make it first")
    try:
        path, inside = backups.backup(source, Path(target), clock.now(), keep)
    except Unusable as error:
        stop(str(error))
    click.echo(f"{db} is copied to {path}: {inside}")


@click.command()
@click.argument("copy")
@db_option
@click.option("--look", is_flag=True, help="Only tell what is inside.")
@click.option("--yes", is_flag=True, help="Do not ask first.")
def restore(copy: str, db: str, look: bool, yes: bool) -> None:
    """Bring a backup back. Tells what is inside first; what was there is kept beside it. Stop the server before."""
    from ..store import Unusable
    from ..store import backup as backups

    try:
        click.echo(f"{copy}: {backups.look_inside(Path(copy))}")
        if look:
            return
        if os.path.exists(db):
            click.echo(f"{db}: {backups.look_inside(_file_of(db))}")
        if not yes and not click.confirm(f"Put {copy} in the place of {db}?"):
            stop("nothing was changed")
        kept = backups.restore(Path(copy), Path(db), clock.now())
    except Unusable as error:
        stop(str(error))
    click.echo(f"{db} is what {copy} holds" + (f"; what was there is kept as {kept}" if kept else ""))


def _file_of(db: str) -> Path:
    """The file of a database; exit 2 for a server's, or none."""
    if "://" in db:
        stop(f"{db}: a server's database is copied with pg_dump and brought back with pg_restore")
    if not os.path.isfile(db):
        stop(f"{db}: there is no database; name one with --db")
    return Path(db)
