"""The list for the shop: what was taken to it, ticked off there, ordered, and put on the shelf."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.catalogue import Price
from ..core.document.edit import add, find, new_id, slug_of, update
from ..core.fault import Faults, fault
from ..core.plan import plan
from ..core.stock.buying import Chosen, Shopping
from ..core.stock.model import Key, NewPack
from . import labels, logbook, scenes, shelf
from .supply import Supply
from .tables import PurchaseRow

MAX_LINES = 500


def open_list(session: Session) -> list[PurchaseRow]:
    """What is on the list and not on the shelf yet, in the order in which it runs out."""
    return list(session.scalars(select(PurchaseRow).where(PurchaseRow.shelved_at.is_(None)).order_by(PurchaseRow.id)))


def find_line(session: Session, line_id: int) -> PurchaseRow:
    """A line of the list. Raises Faults."""
    row = session.get(PurchaseRow, line_id)
    if row is None or row.shelved_at is not None:
        raise fault("list", "this is no longer on it", "reload the page")
    return row


def bought_as(row: PurchaseRow) -> tuple[Chosen, ...]:
    """The offers that a line is bought as."""
    return tuple(Chosen(Price.model_validate(one["price"]), one["count"]) for one in row.bought)


def short_of(row: PurchaseRow) -> tuple[tuple[Key, float], ...]:
    """What a line is to cover, by part."""
    return tuple(((row.material, part), float(amount)) for part, amount in row.short)


def cost_of(row: PurchaseRow) -> float:
    """Money for a line."""
    return round(sum(one.amount for one in bought_as(row)), 2)


def _written(bought: Iterable[Chosen]) -> list[dict[str, Any]]:
    return [{"price": one.price.model_dump(mode="json"), "count": one.count} for one in bought]


def take_along(session: Session, shopping: Shopping, now: datetime) -> list[PurchaseRow]:
    """The list anew, from what is to be bought: lines that are neither ticked nor ordered give way to it; what was
    ticked or ordered stays, and is not asked for again. Raises Faults where it is too long."""
    kept = [row for row in open_list(session) if row.ticked_at or row.comes_at]
    for row in open_list(session):
        if row not in kept:
            session.delete(row)
    known = {row.material for row in kept}
    taken = []
    for line in shopping.lines:
        if line.material in known or not line.buy:
            continue
        short = [[part, amount] for (_, part), amount in line.parts]
        row = PurchaseRow(
            material=line.material, bought=_written(line.buy), short=short, unit=line.unit,
            scenes=[{"slug": one} for one in line.by_scene], made_at=now,
        )  # fmt: skip
        session.add(row)
        taken.append(row)
    if len(taken) + len(kept) > MAX_LINES:
        raise fault("list", f"it would have more than {MAX_LINES} lines", "buy for fewer scenes at once")
    session.flush()
    return taken


def tick(row: PurchaseRow, now: datetime) -> None:
    """It is in the basket, or not after all."""
    row.ticked_at = None if row.ticked_at else now


def swap(row: PurchaseRow, bought: Iterable[Chosen]) -> None:
    """Another size in its stead."""
    row.bought = _written(bought)


def put_on_shelf(session: Session, rows: Iterable[PurchaseRow], now: datetime) -> int:
    """All of these onto the shelf, a pack at a time, the parts of a kit apart; gates that waited for them are done.
    Returns how many packs there are more. Raises Faults."""
    known, packs = labels.catalogue(session), 0
    for row in rows:
        for chosen in bought_as(row):
            each = chosen.price.amount / chosen.price.packs
            for _ in range(chosen.count * chosen.price.packs):
                for part, size in shelf.split_kit(known, row.material, chosen.price.pack):
                    paid = round(each * size / chosen.price.pack, 2)
                    shelf.add(session, NewPack(row.material, size, part, price=paid, seller=chosen.price.seller), now)
                    packs += 1
        row.shelved_at = now
        for waiting in row.scenes:
            if waiting.get("gate"):
                _open_gate(session, waiting["slug"], waiting["gate"], now)
    return packs


def _open_gate(session: Session, slug: str, gate: str, now: datetime) -> None:
    """The gate of a scene that waited for a delivery is done; one that is gone, or whose scene is, stays as it is."""
    try:
        row = scenes.find(session, slug)
        document = scenes.document(row.head)
        if find(document, "gates", gate).done:
            return
        changed = update(document, "gates", gate, {"done": True})
        scenes.save(session, row, row.head.number, changed, "A delivery came", now)
    except (Faults, scenes.NoSuchScene, KeyError, StopIteration):
        return


def order(session: Session, supplied: Supply, buying: Shopping, days: Mapping[str, int], now: datetime) -> list[str]:
    """What is to be bought is ordered: it comes in so many `days` by seller, and the work that is short of it waits
    behind a gate until then. Returns the addresses of the scenes that wait. Raises Faults."""
    waiting: set[str] = set()
    for row in take_along(session, buying, now):
        row.comes_at = now + timedelta(days=max(days.get(one.seller, 0) for one in bought_as(row)))
        scenes_of = []
        for slug in (one["slug"] for one in row.scenes):
            short = (one.demand for one in supplied.reserved if one.short > 0)
            steps = {one.step for one in short if (one.scene, one.material) == (slug, row.material)}
            gate = _add_gate(session, slug, f"{supplied.named(row.material)} comes", row.comes_at, steps, now)
            scenes_of.append({"slug": slug, "gate": gate})
            waiting |= {slug} if gate else set()
        row.scenes = scenes_of
    session.flush()
    return sorted(waiting)


def _add_gate(session: Session, slug: str, name: str, at: datetime, steps: set[str], now: datetime) -> str | None:
    """The id of a new gate before the lifts and forms of these steps; None where none of them is one's."""
    row = scenes.find(session, slug)
    document = scenes.document(row.head)
    made = plan(scenes.resolve(session, row.head))
    blocks = dict.fromkeys(one.lift or one.form for one in made.steps if one.id in steps)
    meant = [one for one in blocks if one]
    if not meant:
        return None
    gate = new_id(document, labels.catalogue(session), slug_of(name, "gate"), logbook.used_ids(session, row))
    entry = {"id": gate, "name": name[:80], "blocks": meant, "not_before": at}
    scenes.save(session, row, row.head.number, add(document, "gates", entry), f"Ordered: {name}", now)
    return gate
