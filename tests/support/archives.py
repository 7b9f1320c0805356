"""Archives made in tests: of a database, or by hand of strange things."""

import io
import json
import sqlite3
import zipfile
from contextlib import closing, contextmanager

from isostasis.exchange.archive import opened, write_whole
from isostasis.store import archive


def packed(database, at):
    """Everything in a database, as its archive."""
    out = io.BytesIO()
    with database.reading() as session:
        tables = [(one.name, list(archive.rows_of(session, one))) for one in archive.kept()]
        write_whole(out, archive.head_of(session, at), tables, archive.pictures_of(session))
    return out.getvalue()


@contextmanager
def brought(content, folder):
    """An archive, opened and in a database of its own."""
    with opened(io.BytesIO(content)) as whole, archive.scratch(whole, folder) as there, there.reading() as session:
        yield whole, session


def taken_in(content, database, way, folder):
    """Take an archive in; (what was told, which plans are alike)."""
    with brought(content, folder) as (whole, there):
        with database.writing() as here:
            told = archive.take_in(here, there, way)
        with database.reading() as here:
            return told, dict(archive.alike(here, whole.head, told.slugs))


def of_file(path, schema):
    """The archive of a SQLite file of an earlier version, as that version would have written it."""
    tables = []
    with closing(sqlite3.connect(path)) as old:
        old.row_factory = sqlite3.Row
        names = [name for (name,) in old.execute("select name from sqlite_master where type = 'table'")]
        for name in names:
            if name in archive.LEFT_OUT or name.startswith(("alembic", "sqlite")):
                continue
            kinds = {row[1]: row[2].upper() for row in old.execute(f"pragma table_info({name})")}
            rows = []
            for row in old.execute(f"select * from {name}"):
                made = {key: _typed(row[key], kinds[key]) for key in row.keys() if key not in ("device_id", "content")  # noqa: SIM118
                        or (key == "content" and name == "blob")}  # fmt: skip
                if name == "clock":
                    made.pop("token", None)
                rows.append(made)
            tables.append((name, rows))
        scenes = [{"slug": slug, "name": slug, "plan": None} for (slug,) in old.execute("select slug from scene")]
    out = io.BytesIO()
    write_whole(out, {"schema": schema, "made_at": "2027-01-01T00:00:00+00:00", "scenes": scenes}, tables, [])
    return out.getvalue()


def _typed(value, kind):
    if value is not None and kind == "JSON":
        return json.loads(value)
    return bool(value) if kind == "BOOLEAN" and value is not None else value


def zipped(**files):
    """A zip of names and what is in them."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive_:
        for name, content in files.items():
            archive_.writestr(name, content)
    return out.getvalue()
