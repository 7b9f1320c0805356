"""The command line: a verb for each thing that the pages do."""

from __future__ import annotations

import click

from .. import __version__
from . import archive, bench, doctor, documents, figures, labels, memory, reckon, server, stock, work
from .shared import stop


class _Plainly(click.Group):
    """Says in a sentence what keeps a verb from the database."""

    def invoke(self, context: click.Context) -> object:
        """The verb; exit 2 where the database fails under it."""
        try:
            return super().invoke(context)
        except Exception as error:
            from sqlalchemy.exc import DBAPIError

            if isinstance(error, DBAPIError):
                from ..store.database import why_not

                stop(f"the database: {why_not(error)}")
            raise


@click.group(cls=_Plainly)
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
    documents.restore,
    archive.save,
    archive.unpack,
    labels.label,
    stock.shelf,
    stock.buy,
    reckon.reckon,
    reckon.far,
    memory.records,
    memory.wrong,
    memory.find,
    work.now_,
    work.mark,
    work.weigh,
    server.serve,
    server.pair,
    server.demo,
    server.status,
    doctor.doctor,
    bench.bench,
):
    main.add_command(verb)
