"""Verbs for what was learnt: records and their factors; and what went wrong."""

from __future__ import annotations

import json

import click

from .shared import db_option, existing_database, json_option, stop


@click.command()
@json_option
@db_option
def records(as_json: bool, db: str) -> None:
    """What came against what was said, and what that teaches."""
    from ..core.learning.records import QUANTITIES
    from ..store import records as kept

    with existing_database(db).reading() as session:
        factors = kept.factors(session)
        every = kept.records(session)
    rows = [
        {
            "label": one.label, "quantity": one.quantity, "mean": one.learnt.mean, "low": one.learnt.low,
            "high": one.learnt.high, "records": one.learnt.count, "used": one.used,
        }
        for one in factors
    ]  # fmt: skip
    if as_json:
        listed = [
            {
                "key": one.key, "at": one.at.isoformat(), "scene": one.scene, "what": one.title, "label": one.label,
                "quantity": one.quantity, "predicted": one.predicted, "from": one.low, "to": one.high,
                "mishap": one.mishap,
            }
            for one in every
        ]  # fmt: skip
        click.echo(json.dumps({"factors": rows, "records": listed}, indent=1, ensure_ascii=False))
        return
    for factor in factors:
        state = "in use" if factor.used else "off" if factor.off else "too few to go by"
        click.echo(
            f"{factor.label}, {QUANTITIES[factor.quantity][0]}: × {factor.learnt.mean:.2f} ({factor.learnt.low:.2f} to "
            f"{factor.learnt.high:.2f}), {factor.learnt.count} records, {state}"
        )
    click.echo(f"{len(every)} records, {sum(bool(one.mishap) for one in every)} of them mishaps")


@click.command()
@click.argument("symptom", required=False)
@click.argument("facts", nargs=-1)
@json_option
def wrong(symptom: str | None, facts: tuple[str, ...], as_json: bool) -> None:
    """What went wrong: causes of a SYMPTOM by FACTS. Facts as cold=yes unsealed=no; without a symptom it lists them."""
    from ..core.faults.facts import FACTS, joined
    from ..core.faults.finder import questions, rank, telling
    from ..core.faults.model import symptoms

    known = symptoms()
    if symptom is None:
        for each in known.values():
            click.echo(f"{each.code:14}{each.title}")
        return
    if symptom not in known:
        stop(f"no symptom '{symptom}'; one of {', '.join(known)}")
    answers = {}
    for fact in facts:
        code, _, answer = fact.partition("=")
        if code not in FACTS or answer not in ("yes", "no"):
            stop(f"'{fact}' is no fact: write one of {', '.join(FACTS)} with =yes or =no")
        answers[code] = answer == "yes"
    facts_known = joined({}, answers)
    ranked = rank(known[symptom], facts_known)
    test = telling(known[symptom], ranked)
    asked = questions(known[symptom], facts_known, len(answers))
    if as_json:
        causes = [
            {"code": one.cause.code, "title": one.cause.title, "share": one.share, "rescue": one.cause.rescue,
             "next": one.cause.next}
            for one in ranked
        ]  # fmt: skip
        click.echo(json.dumps({"causes": causes, "ask": list(asked)}, indent=1, ensure_ascii=False))
        return
    for one in ranked:
        click.echo(f"{one.cause.title}: {one.words}. {one.cause.reason}")
    if test is not None:
        click.echo(f"To tell them apart: {test.do} {test.first.capitalize()}; or {test.second}.")
    for words in ranked[0].cause.rescue:
        click.echo(f"- {words}")
    for code in asked:
        click.echo(f"? {FACTS[code].asks} ({code}=yes or {code}=no)")


@click.command()
@click.argument("words", nargs=-1, required=True)
@db_option
def find(words: tuple[str, ...], db: str) -> None:
    """What is kept under these words, as they begin. Scenes, spots, labels, batches, swatches, records, notes."""
    from ..store import finding

    with existing_database(db).reading() as session:
        hits = finding.find(session, " ".join(words))
    if hits.some:
        click.echo("Nothing has all of these words; these have some.", err=True)
    for one in hits.entries:
        click.echo(f"{finding.KINDS[one.kind]:10} {one.title}{f' ({one.small})' if one.small else ''}")
    if not hits.entries:
        click.echo("nothing is called that; try fewer letters")
