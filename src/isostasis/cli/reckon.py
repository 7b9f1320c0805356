"""The quick sums on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import click

from ..core.fault import Faults
from . import clock
from .shared import db_option, existing_database, json_option, refuse, stop


@click.command()
@click.argument("name", required=False)
@click.argument("values", nargs=-1, metavar="[KEY=VALUE]...")
@json_option
@db_option
def reckon(name: str | None, values: tuple[str, ...], as_json: bool, db: str) -> None:
    """A quick sum without a scene, of KEY=VALUE pairs. Without a NAME the sums and what they ask. Labels and my things
    are those of the database, where there is one."""
    from ..core.catalogue import Bench, shipped
    from ..core.figure import to_jsonable
    from ..core.reckoner import SUMS, SumRequest
    from ..core.reckoner.reading import read
    from ..core.units import Measures, show
    from ..store import labels, settings

    if name is None:
        for one in SUMS.values():
            asks = " ".join(f"{field.name}={field.start}" for field in one.fields)
            click.echo(f"{one.name:9} {one.title}: {one.asks}\n          {asks}")
        return
    if name not in SUMS:
        stop(f"there is no sum '{name}'; `isostasis reckon` lists them")
    texts = dict(one.partition("=")[::2] for one in values)
    if any("=" not in one for one in values):
        stop("write what is asked as key=value, such as width=200mm")
    known, bench, measures = shipped(), Bench(), Measures()
    if Path(db).exists() or "://" in db:
        with existing_database(db).reading() as session:
            held = settings.read(session)
            known, bench = labels.catalogue(session), held.bench
            measures = Measures(held.system, bench.drop_ml, bench.scoop_ml, held.currency)
    try:
        answer = SUMS[name].compute(SumRequest(read(SUMS[name], texts, known, measures), known, bench, measures))
    except Faults as faults:
        refuse(faults)
    if as_json:
        data = {
            "sum": name, "lead": answer.lead, "value": answer.figure.value, "unit": answer.figure.unit,
            "others": [{"what": what, "value": each.value, "unit": each.unit} for what, each in answer.others],
            "notes": list(answer.notes), "scene": answer.scene,
        }  # fmt: skip
        click.echo(json.dumps(to_jsonable(data), indent=1, ensure_ascii=False))
        return
    click.echo(f"{answer.lead}: {' '.join(show(answer.figure.value, answer.figure.unit, measures)).strip()}")
    for what, figure in answer.others:
        click.echo(f"  {what}: {' '.join(show(figure.value, figure.unit, measures)).strip()}")
    for note in answer.notes:
        click.echo(note)


@click.command()
@click.argument("mix")
@click.argument("left", required=False)
@json_option
@db_option
def far(mix: str, left: str | None, as_json: bool, db: str) -> None:
    """How far what is LEFT of a MIX will go. LEFT is such as 180ml, or cup: what is mixed already; by the shelf unless
    given. Tells which spots of all scenes, in which order, how thick."""

    from ..core.stock.far import how_far
    from ..core.units import NotAMeasure, parse
    from ..store import far as waits
    from ..store import labels

    moment = clock.now()
    with existing_database(db).reading() as session:
        bench_scenes = waits.open_scenes(session, moment)
        spots = waits.spots(bench_scenes, mix)
        shelf_ml = waits.on_shelf(session, labels.catalogue(session), mix)
        cup_ml = waits.in_cups(session, bench_scenes, mix)
        known = [one.mix for one in waits.waiting(session, bench_scenes)]
    if not spots:
        stop(f"no spot waits for '{mix}'; one of {', '.join(known) or 'none'}")
    try:
        there = cup_ml if left == "cup" else parse(left, "volume") if left else shelf_ml
    except NotAMeasure as problem:
        stop(f"left: {problem}")
    answer = how_far(spots, there)
    data = {
        "mix": mix, "there_ml": there, "left_ml": answer.left_ml, "short_ml": answer.short_ml,
        "done": [
            {"scene": one.spot.scene, "step": one.spot.step, "ml": one.ml, "share": one.share, "thick_mm": one.thick_mm}
            for one in answer.done
        ],
        "left_out": [{"scene": one.scene, "step": one.step, "need_ml": one.need_ml} for one in answer.left_out],
    }  # fmt: skip
    if as_json:
        click.echo(json.dumps(data, indent=1))
        return
    for number, one in enumerate(answer.done, start=1):
        thick = "" if one.thick_mm is None else f", {one.thick_mm:.3g} mm"
        click.echo(f"{number}. {one.spot.scene}, {one.spot.name}{thick}: {one.ml:.3g} ml")
    for each in answer.left_out:
        click.echo(f"left out: {each.scene}, {each.name}: {each.need_ml:.3g} ml")
    click.echo(
        f"{answer.short_ml:.3g} ml more are wanted for all"
        if answer.short_ml
        else f"{answer.left_ml:.3g} ml are left over"
    )
