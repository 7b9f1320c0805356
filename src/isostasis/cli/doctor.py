"""Is all well with this installation: what it stands on, its database, its scenes; and what to do where it is not."""

from __future__ import annotations

import json
import shutil
import sys
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from importlib.metadata import PackageNotFoundError, requires, version
from pathlib import Path

import click

from .shared import db_option, json_option

LEAST_FREE = 500_000_000  # bytes; a backup and a photo or two
STATIC = (
    "vendor/htmx.min.js",
    "vendor/bulma.parts.css",
    "js/page.js",
    "css/page.css",
    "fonts/fraunces-latin-wght-normal.woff2",
)


@dataclass(frozen=True)
class Finding:
    """What was looked at, whether it is well, what was seen, and what to do where it is not."""

    about: str
    well: bool
    seen: str
    do: str = ""


def _python() -> Iterator[Finding]:
    told = ".".join(map(str, sys.version_info[:3]))
    yield Finding("Python", sys.version_info >= (3, 11), told, "install Python 3.11 or later")


def _packages() -> Iterator[Finding]:
    """Each package that is needed, at a version within the ranges that were run."""
    from packaging.requirements import Requirement

    wrong = []
    needed = [
        one for one in map(Requirement, requires("isostasis") or ()) if one.marker is None or one.marker.evaluate()
    ]
    for package in needed:
        try:
            there = version(package.name)
        except PackageNotFoundError:
            wrong.append(f"{package.name} is missing")
            continue
        if there not in package.specifier:
            wrong.append(f"{package.name} is {there}, {package.specifier} was run")
    yield Finding(
        "packages", not wrong, "; ".join(wrong) or f"all {len(needed)} in their ranges",
        "install isostasis anew into an environment of its own",
    )  # fmt: skip


def _files() -> Iterator[Finding]:
    import isostasis.web

    folder = Path(isostasis.web.__file__).parent / "static"
    missing = [name for name in STATIC if not (folder / name).is_file()]
    yield Finding("fonts and scripts", not missing, ", ".join(missing) or "all there", "install isostasis anew")


def _zone() -> Iterator[Finding]:
    from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

    from tzlocal import get_localzone_name

    try:
        name = str(ZoneInfo(get_localzone_name() or ""))
    except (ZoneInfoNotFoundError, ValueError, OSError):
        yield Finding(
            "clock", False, "this machine's zone is not known", "set its zone, or serve with --zone Europe/Oslo"
        )
        return
    yield Finding("clock", True, name)


def _solver() -> Iterator[Finding]:
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    x = model.new_int_var(0, 9, "x")
    model.maximize(x)
    found = cp_model.CpSolver()
    well = found.solve(model) == cp_model.OPTIMAL and found.value(x) == 9
    yield Finding("solver", well, "answers" if well else "gives a wrong answer", "install ortools anew")


def _database(db: str) -> Iterator[Finding]:
    from ..store import Database, Unusable

    if "://" not in db and not Path(db).exists():
        yield Finding("database", True, f"{db}: none yet; it is made at the first `isostasis serve`")
        return
    try:
        if "://" not in db:
            from ..store.backup import look_inside

            look_inside(Path(db))
            free = shutil.disk_usage(Path(db).resolve().parent).free
            yield Finding("disk", free > LEAST_FREE, f"{free / 1e9:.1f} GB free", "free some space")
        database = Database(db)
    except Unusable as error:
        yield Finding("database", False, str(error), "bring a copy back with `isostasis restore`")
        return
    try:
        yield Finding("database", True, database.name)
        yield from _inside(database)
    finally:
        database.close()


def _inside(database: object) -> Iterator[Finding]:
    """Scenes that can be planned, settings that fit, pictures that are there."""
    from sqlalchemy import select

    from ..core.fault import Faults
    from ..core.plan import plan
    from ..store import Database, pictures, scenes, settings
    from ..store.tables import StepPhotoRow

    assert isinstance(database, Database)
    with database.reading() as session:
        broken = []
        every = scenes.all_scenes(session)
        for row in every:
            try:
                plan(scenes.resolve(session, row.head))
            except (Faults, KeyError) as problem:
                broken.append(f"{scenes.name_of(row.head)}: {problem}")
        yield Finding(
            "scenes", not broken, "; ".join(broken) or f"all {len(every)} can be planned",
            "open each: its page says what to mend, and keeps every revision",
        )  # fmt: skip
        faults = settings.faults(session)
        yield Finding("settings", not faults, "; ".join(map(str, faults)) or "all fit", "set them anew under my things")
        gone = [one for one in session.scalars(select(StepPhotoRow.digest)) if pictures.find(session, one) is None]
        yield Finding("photos", not gone, f"{len(gone)} missing" if gone else "all there", "bring a copy back")


@click.command()
@db_option
@json_option
def doctor(db: str, as_json: bool) -> None:
    """What is amiss here, and what to do. Looks at the installation and its database; exit 1 where anything is."""
    findings = [
        one for group in (_python(), _packages(), _files(), _zone(), _solver(), _database(db)) for one in group
    ]  # fmt: skip
    if as_json:
        click.echo(json.dumps([asdict(one) for one in findings], indent=1, ensure_ascii=False))
    else:
        for one in findings:
            click.echo(
                f"{'well ' if one.well else 'AMISS'}  {one.about}: {one.seen}{'' if one.well else f' - {one.do}'}"
            )
    if not all(one.well for one in findings):
        sys.exit(1)
