"""The command line: a verb for each thing that the pages do."""

from __future__ import annotations

import json
import os
import sys
from importlib import import_module
from pathlib import Path
from typing import Any, NoReturn

import click

from . import __version__
from .core.fault import Faults

DEFAULT_DB = "var/isostasis.db"


def _refuse(faults: Faults) -> NoReturn:
    """One line a fault on standard error; exit 2."""
    for one in faults.faults:
        click.echo(str(one), err=True)
    sys.exit(2)


def _resolved(path: str) -> Any:
    """The resolved scene in a file, or exit 2."""
    from .core.catalogue import shipped
    from .core.document import resolve
    from .core.reading import read

    try:
        source = sys.stdin.buffer.read() if path == "-" else Path(path).read_bytes()
    except OSError as error:
        click.echo(f"{path}: cannot be read: {(error.strerror or str(error)).lower()}; name a scene file", err=True)
        sys.exit(2)
    try:
        return resolve(read(source), shipped())
    except Faults as faults:
        _refuse(faults)


def _database(path: str) -> Any:
    from .store import Database

    return Database(path)


db_option = click.option(
    "--db", default=DEFAULT_DB, envvar="ISOSTASIS_DB", show_default=True, help="The database file."
)


@click.group()
@click.version_option(__version__, prog_name="isostasis")
def main() -> None:
    """Plan, mix and record the casting of miniature ground."""


@main.command()
@click.argument("scene")
@click.option("--json", "as_json", is_flag=True, help="For machines, as docs/formats.md has it.")
@click.option("--imperial", is_flag=True, help="Inches and fluid ounces in the readable plan.")
def plan(scene: str, as_json: bool, imperial: bool) -> None:
    """The plan of a scene file (- for standard input)."""
    from .core.plan import plan as plan_of

    resolved = _resolved(scene)
    try:
        made = plan_of(resolved)
    except Faults as faults:
        _refuse(faults)
    if as_json:
        click.echo(json.dumps(made.as_json(), indent=1, ensure_ascii=False))
        return
    from .core.units import Measures
    from .readable import readable

    click.echo(readable(resolved, made, Measures(system="imperial" if imperial else "metric")))


@main.command()
@click.argument("scene")
@click.option("--json", "as_json", is_flag=True, help="For machines: every section.")
@click.option("--stage", default="bare", show_default=True, help="bare, finished, or the id of a form or a lift.")
@click.option("--slope", default=38.0, show_default=True, help="Slope for carve or fill, degrees.")
@click.option("--mix", default="paper-plaster", show_default=True, help="Compound for carve or fill.")
@click.option("--foot", type=float, help="Foot of a figure for the wobble test, mm; else that of your bench.")
def ground(scene: str, as_json: bool, stage: str, slope: float, mix: str, foot: float | None) -> None:
    """What is read off the ground of a scene: areas, steps, joints, foam, flats."""
    from .core.catalogue import shipped
    from .core.plan import plan as plan_of
    from .core.terrain.report import GroundQuery, report
    from .readable import readable_ground

    resolved = _resolved(scene)
    try:
        made = plan_of(resolved)
        found = report(resolved, made.built, made.lifts, GroundQuery(stage, slope, mix, foot), shipped())
    except Faults as faults:
        _refuse(faults)
    except KeyError:
        click.echo(f"stage: there is no form or lift '{stage}'; write bare, finished, or one of their ids", err=True)
        sys.exit(2)
    if as_json:
        click.echo(json.dumps(found.as_json(), indent=1, ensure_ascii=False))
    else:
        click.echo(readable_ground(resolved, found))


def _moment(text: str | None, what: str) -> Any:
    """A time from the command line; without a zone it is meant in this machine's. Exit 2 for what is none."""
    from datetime import datetime

    if text is None:
        return None
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        click.echo(f"{what}: “{text}” is no time; write one such as 2027-03-01T19:00+01:00", err=True)
        sys.exit(2)
    return moment if moment.tzinfo else moment.astimezone()


@main.command()
@click.argument("scenes", nargs=-1, required=True)
@click.option("--start", required=True, help="From when on, such as 2027-03-01T19:00+01:00.")
@click.option("--hours", required=True, help='Bench hours, such as "mon-fri 19:00-22:00; sat 09:00-17:00".')
@click.option("--deadline", help="By when it must be finished.")
@click.option("--json", "as_json", is_flag=True, help="For machines, as docs/formats.md has it.")
def schedule(scenes: tuple[str, ...], start: str, hours: str, deadline: str | None, as_json: bool) -> None:
    """When to do each step within your bench hours; several scenes share one pair of hands."""
    from .core.hours import parse_hours
    from .core.schedule import ScheduleRequest
    from .core.schedule.forecast import scheduled, steps_of

    resolved = {Path(scene).stem: _resolved(scene) for scene in scenes}
    begin, end = _moment(start, "start"), _moment(deadline, "deadline")
    try:
        made = scheduled(resolved, ScheduleRequest(begin, parse_hours(hours), end))
        steps = steps_of(resolved)(begin)
    except Faults as faults:
        _refuse(faults)
    if as_json:
        click.echo(json.dumps(made.as_json(), indent=1, ensure_ascii=False))
        return
    does = {step.id: step.do for step in steps}
    proved = {"optimal": "proved to be the earliest", "feasible": f"not before {made.bound}"}.get(made.status, "")
    click.echo(f"finished {made.finish}, in {made.sessions} sessions; {proved}" if made.finish else "it cannot be kept")
    for reason in made.why or ():
        click.echo(f"  ! {reason}")
    for one in sorted(made.steps, key=lambda timed: timed.start):
        until = f", before {one.window_to[11:16]}" if one.window_to else ""
        click.echo(f"  {one.start[:16].replace('T', ' ')} to {one.end[11:16]}{until}  {does[one.id]}")


@main.command()
@click.argument("height")
@click.option("--grade", default=2.5, show_default=True, help="Percent.")
def incline(height: str, grade: float) -> None:
    """Ways up to an odd HEIGHT (31 mm, 1 1/4 in) from stock risers, a wedge cut at the right place, or shims."""
    from .core.catalogue import Bench
    from .core.terrain.incline import solve
    from .core.units import NotAMeasure, parse

    mine = Bench()
    try:
        answers = solve(parse(height, "length"), grade / 100, mine.risers_mm, mine.shims_mm, mine.grade_most)
    except NotAMeasure as problem:
        click.echo(f"height: {problem}", err=True)
        sys.exit(2)
    except Faults as faults:
        _refuse(faults)
    for answer in answers:
        left = answer.left_over_mm.number
        click.echo(
            f"{answer.words()}; run {answer.run_mm.number:.4g} mm, {answer.pieces} pieces, {answer.cuts} cut"
            + (f", {left:.2g} mm short" if left > 0.05 else "")
        )


@main.command()
@click.argument("scene")
@click.option("--to", "folder", required=True, help="Folder for the files; made if it is not there.")
@click.option("--stage", default="bare", show_default=True, help="bare, finished, or the id of a form or a lift.")
def files(scene: str, folder: str, stage: str) -> None:
    """The ground in open formats: .asc, .png with its side file, .csv, .stl, plan, cut and templates as .svg."""
    from .core.plan import plan as plan_of
    from .exchange.outgoing import written

    resolved = _resolved(scene)
    try:
        made = plan_of(resolved)
        found = list(written(resolved, made.built, stage))
    except Faults as faults:
        _refuse(faults)
    except KeyError:
        click.echo(f"stage: there is no form or lift '{stage}'; write bare, finished, or one of their ids", err=True)
        sys.exit(2)
    target = Path(folder)
    try:
        target.mkdir(parents=True, exist_ok=True)
        for name, data in found:
            (target / name).write_bytes(data)
    except OSError as error:
        click.echo(
            f"{folder}: cannot be written: {(error.strerror or str(error)).lower()}; name another folder", err=True
        )
        sys.exit(2)
    click.echo(f"{len(found)} files in {folder}")


@main.command()
@click.argument("heights")
@click.argument("scene")
def survey(heights: str, scene: str) -> None:
    """The document of SCENE with the heights in a file (.asc, .csv, .png with its .json beside it) as one more form."""
    from .core.reading import read
    from .exchange import MAX_BYTES, survey_form

    _resolved(scene)
    source, beside = Path(heights), Path(heights).with_suffix(".json")
    try:
        if source.stat().st_size > MAX_BYTES:
            click.echo(f"{heights}: it is larger than {MAX_BYTES / 1e6:g} MB; thin it out first", err=True)
            sys.exit(2)
        side = beside.read_text("utf-8") if source.suffix.lower() == ".png" and beside.exists() else None
        form = survey_form(source.name, source.read_bytes(), side)
        data = json.loads(sys.stdin.buffer.read() if scene == "-" else Path(scene).read_bytes())
        taken = {one["id"] for one in data.get("forms", [])}
        name = next(name for number in range(1, 9999) if (name := f"survey-{number}") not in taken)
        data.setdefault("forms", []).append({"id": name, **form})
        read(data)
    except OSError as error:
        click.echo(
            f"{heights}: cannot be read: {(error.strerror or str(error)).lower()}; name a file of heights", err=True
        )
        sys.exit(2)
    except Faults as faults:
        _refuse(faults)
    click.echo(json.dumps(data, indent=1, ensure_ascii=False))


@main.command()
def schema() -> None:
    """The JSON Schema of the scene document."""
    from .core.reading import json_schema

    click.echo(json.dumps(json_schema(), indent=1, ensure_ascii=False))


@main.command()
@db_option
@click.option("--port", default=8765, envvar="PORT", show_default=True, help="Where to listen on 127.0.0.1.")
def serve(db: str, port: int) -> None:
    """Serve the pages."""
    import logging

    import waitress

    from .web import create_app

    app = create_app(_database(db))
    logging.getLogger("waitress").setLevel(logging.ERROR)
    try:
        server = waitress.create_server(app, host="127.0.0.1", port=port, threads=4)
    except OSError as error:
        click.echo(
            f"port {port} cannot be used: {(error.strerror or str(error)).lower()}; try PORT={port + 1}",
            err=True,
        )
        sys.exit(2)
    click.echo(f"Isostasis is at http://127.0.0.1:{port}/  (Ctrl+C stops it; {db} keeps everything)")
    try:
        server.run()
    except KeyboardInterrupt:
        server.close()


@main.command()
@db_option
@click.option("--reset", is_flag=True, help="Throw the demo database away and start afresh.")
@click.option("--port", default=8765, envvar="PORT", show_default=True, help="Where to listen on 127.0.0.1.")
@click.option("--only-build", is_flag=True, help="Build the database, serve nothing.")
@click.pass_context
def demo(context: click.Context, db: str, reset: bool, port: int, only_build: bool) -> None:
    """A database with the demo scenes, then serve it. What the user did in it is kept."""
    if db == DEFAULT_DB:
        db = "var/demo.db"
    from .demo import fill

    if reset:
        for suffix in ("", "-wal", "-shm"):
            Path(db + suffix).unlink(missing_ok=True)
    if not Path(db).exists():
        part = Path(db + ".part")  # a build that is cut short leaves no half database behind
        for suffix in ("", "-wal", "-shm"):
            Path(str(part) + suffix).unlink(missing_ok=True)
        fresh = _database(str(part))
        fill(fresh)
        fresh.close()
        part.replace(db)
        click.echo(f"Built {db} with the demo scenes.")
    if not only_build:
        context.invoke(serve, db=db, port=port)


@main.command("export")
@click.argument("scene")
@db_option
@click.option("--resolved/--as-written", default=True, help="With every label in use embedded, or as it was written.")
def export(scene: str, db: str, resolved: bool) -> None:
    """The document of a scene in the database, to standard output."""
    from .store import NoSuchScene, scenes

    with _existing(db).reading() as session:
        try:
            head = scenes.find(session, scene).head
        except NoSuchScene:
            known = ", ".join(row.slug for row in scenes.all_scenes(session)) or "none yet"
            click.echo(f"there is no scene '{scene}'; there are: {known}", err=True)
            sys.exit(2)
        try:
            data = scenes.exported(session, head) if resolved else scenes.data_of(head)
        except Faults as faults:
            _refuse(faults)
    click.echo(json.dumps(data, indent=1, ensure_ascii=False))


def _existing(db: str) -> Any:
    if not Path(db).exists():
        click.echo(f"{db}: there is no database; name one with --db, or start with `isostasis demo`", err=True)
        sys.exit(2)
    return _database(db)


@main.command("import")
@click.argument("files", nargs=-1, required=True)
@db_option
def import_(files: tuple[str, ...], db: str) -> None:
    """Take scene files into the database; all of them, or none if one has a fault."""
    from datetime import UTC, datetime

    from .core.reading import read
    from .store import scenes

    database = _database(db)
    with database.writing() as session:
        for path in files:
            try:
                text = Path(path).read_bytes()
                row = scenes.create(session, read(text), f"Imported from {Path(path).name}", datetime.now(UTC))
            except OSError as error:
                click.echo(
                    f"{path}: cannot be read: {(error.strerror or str(error)).lower()}; nothing was taken in",
                    err=True,
                )
                session.rollback()
                sys.exit(2)
            except Faults as faults:
                session.rollback()
                click.echo(f"{path}: nothing was taken in", err=True)
                _refuse(faults)
            click.echo(row.slug)


@main.command()
@click.argument("target")
@db_option
def backup(target: str, db: str) -> None:
    """A copy of the database in TARGET, made while it is in use."""
    import sqlite3
    from contextlib import closing

    if not Path(db).exists() or os.path.abspath(db) == os.path.abspath(target):
        click.echo(f"{db} to {target}: name a database that exists and another file for its copy", err=True)
        sys.exit(2)
    try:
        with closing(sqlite3.connect(db)) as source, closing(sqlite3.connect(target)) as copy:
            source.backup(copy)
    except sqlite3.Error as error:
        click.echo(f"{target}: no copy could be made: {error}; name a file that can be written", err=True)
        sys.exit(2)
    click.echo(f"{db} is copied to {target}")


@main.command()
@click.option("--json", "as_json", is_flag=True, help="For machines.")
@click.option("--browser/--no-browser", default=True, help="Measure the drag in Chromium too.")
def bench(as_json: bool, browser: bool) -> None:
    """Measure speed against the project's own marks; prints ratios (below 1 is within)."""
    root = Path(__file__).parents[2]
    if not (root / "benchmarks").is_dir():
        click.echo("the benchmarks come with the source, not with the package; run it in a checkout", err=True)
        sys.exit(2)
    sys.path.insert(0, str(root))
    try:
        run = import_module("benchmarks").run
    except ModuleNotFoundError as missing:
        click.echo(f"{missing.name} is missing; `pip install -e '.[test]'` brings it", err=True)
        sys.exit(2)
    results = run(browser=browser)
    if as_json:
        click.echo(json.dumps([result.as_json() for result in results], indent=1))
    else:
        for result in results:
            click.echo(str(result))
    if any(result.ratio > 1 for result in results):
        sys.exit(1)
