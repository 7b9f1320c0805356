"""Verbs for labels: what the tins in a database say."""

from __future__ import annotations

import json

import click

from .shared import db_option, existing_database, stop


@click.command()
@click.argument("name")
@db_option
def label(name: str, db: str) -> None:
    """The label NAME as it holds in the database, as JSON. NAME is an id, of a material or a mix."""
    from ..store import labels

    with existing_database(db).reading() as session:
        known = labels.catalogue(session)
    entries = [
        (kind, entry) for kind in ("material", "mix") if (entry := labels.entry_of(known, kind, name)) is not None
    ]
    if not entries:
        close = [one for one in sorted({*known.materials, *known.mixes}) if name[:4].lower() in one][:6]
        stop(f"there is no label '{name}'" + (f"; there are: {', '.join(close)}" if close else ""))
    told = {kind: entry.model_dump(mode="json", exclude_unset=True) for kind, entry in entries}
    click.echo(json.dumps(told, indent=1, ensure_ascii=False))
