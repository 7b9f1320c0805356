"""The page of the archive: save everything; send one, be told what will happen, and say which way."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import get_args

from flask import Blueprint, flash, render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...exchange.archive import START, holds_everything, opened, read_archive, write_whole
from ...store import archive as store_archive
from ..shared.answers import hx_redirect
from ..shared.scenes import database, now, wall_now
from . import waiting
from .scene import taken_in

blueprint = Blueprint("archive", __name__)


@blueprint.get("/archive")
def page() -> str:
    """What an archive is, how to save one, how to open one."""
    return render_template("archive/page.html", place="archive")


@blueprint.get("/archive/everything.zip")
def save() -> Response:
    """Everything in one file."""
    file = tempfile.TemporaryFile()  # noqa: SIM115 - closed by the answer, once it is sent
    with database().reading() as session:
        tables = ((one.name, store_archive.rows_of(session, one)) for one in store_archive.kept())
        write_whole(file, store_archive.head_of(session, now()), tables, store_archive.pictures_of(session))
    size = file.tell()
    file.seek(0)
    answer = Response(iter(lambda: file.read(1 << 20), b""), mimetype="application/zip")
    answer.headers["Content-Length"] = str(size)
    answer.headers["Content-Disposition"] = f'attachment; filename="isostasis-{wall_now():%Y-%m-%d}.zip"'
    answer.call_on_close(file.close)
    return answer


@blueprint.post("/archive")
def send() -> Response:
    """An archive comes: it waits until it is said what to do with it. Raises Faults."""
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        raise fault("file", "nothing was chosen", "choose an archive that was saved here")
    if sent.stream.read(4) != START:
        raise fault(sent.filename[:80], "it is no archive", "choose a .zip that was saved here")
    sent.stream.seek(0)
    if not holds_everything(sent.stream):
        sent.stream.seek(0)
        slug = taken_in(read_archive(sent.stream.read()), b"", sent.filename)
        return hx_redirect(url_for("ground.page", slug=slug))
    sent.stream.seek(0)
    return hx_redirect(url_for("archive.look", digest=waiting.keep(sent.stream)))


@contextmanager
def _brought(digest: str) -> Iterator[tuple[dict[str, object], Session]]:
    """What waits, up to date and in a database of its own. Raises Faults."""
    with (
        opened(waiting.find(digest)) as whole,
        tempfile.TemporaryDirectory() as folder,
        store_archive.scratch(whole, Path(folder)) as there,
        there.reading() as session,
    ):
        yield whole.head, session


@blueprint.get("/archive/<digest>")
def look(digest: str) -> str:
    """What will happen, either way. Raises Faults."""
    with _brought(digest) as (head, source), database().reading() as target:
        by_way = [store_archive.summarise(target, source, way) for way in get_args(store_archive.Way)]
    try:
        saved = datetime.fromisoformat(str(head.get("made_at", "")))
    except ValueError:
        saved = None
    return render_template("archive/look.html", digest=digest, head=head, saved=saved, told=by_way, place="archive")


@blueprint.post("/archive/<digest>")
def take(digest: str) -> Response:
    """Take it in, whole or not at all. Raises Faults."""
    way = request.form.get("way", "")
    if way not in get_args(store_archive.Way):
        raise fault("way", f"“{way[:20]}” is no way to take it in", "merge or replace")
    chosen: store_archive.Way = "merge" if way == "merge" else "replace"
    with _brought(digest) as (head, source):
        with database().writing() as target:
            told = store_archive.take_in(target, source, chosen)
        with database().reading() as target:
            alike = store_archive.alike(target, head, told.slugs)
    waiting.let_go(digest)
    other = [name for name, same in alike if not same]
    flash(
        f"Taken in. {len(alike) - len(other)} of {len(alike)} plans are the same as where it was saved, by their hash.",
        "done",
    )
    if other:
        flash(f"Otherwise planned here, since labels, records or things differ: {', '.join(other[:8])}.", "done")
    return hx_redirect(url_for("scenes.page"))
