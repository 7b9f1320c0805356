"""Verbs for the shelf: what there is, what is short, what to buy."""

from __future__ import annotations

import json

import click

from ..core.fault import Faults
from . import clock
from .shared import db_option, existing_database, json_option, parse_zone, refuse, stop

zone_option = click.option("--zone", help="Zone of the clock on the wall; this machine's unless given.")


def _shown(amount: float, unit: str) -> str:
    from ..core.units import show

    return " ".join(show(amount, "" if unit == "piece" else unit)).strip()


@click.command()
@json_option
@zone_option
@db_option
def shelf(as_json: bool, zone: str | None, db: str) -> None:
    """What is on the shelf, and what the scenes count on. And what to look at."""
    from ..store import supply

    with existing_database(db).reading() as session:
        supplied = supply.supply(session, clock.now().astimezone(parse_zone(zone)))
        wanted: dict[str, float] = {}
        for one in supplied.reserved:
            wanted[one.demand.material] = wanted.get(one.demand.material, 0.0) + one.demand.amount
        packs = [
            {
                "id": one.row.id, "material": one.row.material, "part": one.row.part, "size": one.row.size,
                "left": one.left, "opened": one.row.opened and one.row.opened.isoformat(),
                "best_before": one.row.best_before and one.row.best_before.isoformat(), "place": one.row.place,
            }
            for one in supplied.stocked
        ]  # fmt: skip
        sentences = [supplied.sentence(one, _shown, lambda at: f"{at:%a %d %b, %H:%M}") for one in supplied.doubts]
        units = {name: label.sold_by for name, label in supplied.catalogue.materials.items()}
        names = {pack["material"]: supplied.named(str(pack["material"])) for pack in packs}
    if as_json:
        click.echo(json.dumps({"packs": packs, "wanted": wanted, "look_at": sentences}, indent=1, ensure_ascii=False))
        return
    for pack in packs:
        unit = units.get(str(pack["material"]), "ml")
        part = f", {pack['part']}" if pack["part"] else ""
        left, size = _shown(float(str(pack["left"])), unit), _shown(float(str(pack["size"])), unit)
        click.echo(
            f"{names[pack['material']]}{part}: {left} of {size}" + (f", {pack['place']}" if pack["place"] else "")
        )
    for sentence in sentences:
        click.echo(f"! {sentence}")


@click.command()
@click.argument("scenes", nargs=-1)
@json_option
@zone_option
@db_option
def buy(scenes: tuple[str, ...], as_json: bool, zone: str | None, db: str) -> None:
    """What to buy for SCENES: packs of the least cost. Beyond the shelf; SCENES are addresses, all if none is named."""
    from ..core.figure import to_jsonable
    from ..core.stock.buying import as_text
    from ..store import settings, supply

    with existing_database(db).reading() as session:
        supplied = supply.supply(session, clock.now().astimezone(parse_zone(zone)))
        known = [one.slug for one in supplied.scenes]
        unknown = [one for one in scenes if one not in known]
        if unknown:
            stop(f"there is no scene '{unknown[0]}' that can be planned; one of {', '.join(known) or 'none'}")
        try:
            shopping = supply.to_buy(session, supplied.for_scenes(scenes or known))
        except Faults as faults:
            refuse(faults)
        except ValueError as problem:
            stop(str(problem))
        currency = settings.read(session).currency
    if as_json:
        click.echo(json.dumps(to_jsonable(shopping), indent=1, ensure_ascii=False))
        return
    click.echo(as_text(shopping, supplied.named, _shown, currency) or "Nothing is short.")
    for name, amount in shopping.postage.items():
        click.echo(f"Postage of {name}: {amount:.2f} {currency}".rstrip())
    if shopping.lines:
        click.echo(f"In all: {shopping.cost:.2f} {currency}".rstrip())
