"""Verbs that carry documents and files in and out: files, survey, schema, export, import, backup."""

from __future__ import annotations

import json
import os
from pathlib import Path

import click

from ..core.fault import Faults
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
    """The ground in open formats: .asc, .png with its side file, .csv, .stl, plan, cut and templates as .svg."""
    from ..core.plan import plan as plan_of
    from ..exchange.outgoing import written

    resolved = resolved_scene(scene)
    try:
        made = plan_of(resolved)
        found = list(written(resolved, made.built, stage))
    except Faults as faults:
        refuse(faults)
    except KeyError:
        stop(f"stage: there is no form or lift '{stage}'; write bare, finished, or one of their ids")
    target = Path(folder)
    try:
        target.mkdir(parents=True, exist_ok=True)
        for name, data in found:
            (target / name).write_bytes(data)
    except OSError as error:
        stop(f"{folder}: cannot be written: {(error.strerror or str(error)).lower()}; name another folder")
    click.echo(f"{len(found)} files in {folder}")


@click.command()
@click.argument("heights")
@click.argument("scene")
def survey(heights: str, scene: str) -> None:
    """The document of SCENE with the heights in a file (.asc, .csv, .png with its .json beside it) as one more form."""
    from ..core.catalogue import shipped
    from ..core.document import edit
    from ..core.document.read import check
    from ..core.reading import read
    from ..exchange import MAX_BYTES, survey_form

    source, beside = Path(heights), Path(heights).with_suffix(".json")
    try:
        document = read(read_source(scene))
        if source.stat().st_size > MAX_BYTES:
            stop(f"{heights}: it is larger than {MAX_BYTES / 1e6:g} MB; thin it out first")
        side = beside.read_text("utf-8") if source.suffix.lower() == ".png" and beside.exists() else None
        form = survey_form(source.name, source.read_bytes(), side)
        made = edit.add(document, "forms", {"id": edit.new_id(document, shipped(), "survey"), **form})
        check(made)
    except OSError as error:
        unreadable(heights, error, "name a file of heights")
    except Faults as faults:
        refuse(faults)
    click.echo(json.dumps(edit.written(made), indent=1, ensure_ascii=False))


@click.command()
def schema() -> None:
    """The JSON Schema of the scene document."""
    from ..core.reading import json_schema

    click.echo(json.dumps(json_schema(), indent=1, ensure_ascii=False))


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
    click.echo(json.dumps(data, indent=1, ensure_ascii=False))


@click.command("import")
@click.argument("files", nargs=-1, required=True)
@db_option
def import_(files: tuple[str, ...], db: str) -> None:
    """Take scene files into the database; all of them, or none if one has a fault."""
    from datetime import UTC, datetime

    from ..core.reading import read
    from ..store import scenes

    database = open_database(db)
    with database.writing() as session:
        for path in files:
            try:
                text = Path(path).read_bytes()
                row = scenes.create(session, read(text), f"Imported from {Path(path).name}", datetime.now(UTC))
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
def backup(target: str, db: str) -> None:
    """A copy of the database in TARGET, made while it is in use."""
    import sqlite3
    from contextlib import closing

    if not Path(db).exists() or os.path.abspath(db) == os.path.abspath(target):
        stop(f"{db} to {target}: name a database that exists and another file for its copy")
    try:
        with closing(sqlite3.connect(db)) as source, closing(sqlite3.connect(target)) as copy:
            source.backup(copy)
    except sqlite3.Error as error:
        stop(f"{target}: no copy could be made: {error}; name a file that can be written")
    click.echo(f"{db} is copied to {target}")
