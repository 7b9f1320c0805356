"""The command line: a verb for each thing that the pages do."""

from __future__ import annotations

import click

from .. import __version__
from . import bench, documents, figures, server


@click.group()
@click.version_option(__version__, prog_name="isostasis")
def main() -> None:
    """Plan, mix and record the casting of miniature ground."""


for verb in (
    figures.plan,
    figures.ground,
    figures.schedule,
    figures.incline,
    documents.files,
    documents.survey,
    documents.schema,
    documents.export,
    documents.import_,
    documents.backup,
    server.serve,
    server.pair,
    server.demo,
    server.status,
    bench.bench,
):
    main.add_command(verb)
