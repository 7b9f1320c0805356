"""The shelf: packs, what is left in them, and what work took out of them.

What a mark took holds as long as the mark does; what a batch took was measured out, and holds. A count says what is
there, whatever was entered before it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.catalogue import Catalogue, Material, Price
from ..core.fault import fault
from ..core.mixing.parts import wet
from ..core.plan import Use
from ..core.plan.uses import sold
from ..core.stock.buying import offer_of, parts_in
from ..core.stock.ledger import Entered, What, left
from ..core.stock.model import Demand, Key, NewPack, Pack
from ..core.stock.reserve import reserve
from . import labels, marks
from .tables import BatchRow, PackLineRow, PackRow, SceneRow, StepEventRow

MAX_PACKS = 5000
LEAST = 1e-6


@dataclass(frozen=True)
class Stocked:
    """A pack with what is left of it."""

    row: PackRow
    left: float

    @property
    def pack(self) -> Pack:
        """It as the core knows it."""
        row = self.row
        return Pack(row.id, row.material, row.part, row.size, self.left, row.opened, row.best_before)


def rows(session: Session) -> list[PackRow]:
    """Packs that were not thrown away, in the order in which they came."""
    return list(session.scalars(select(PackRow).where(PackRow.gone_at.is_(None)).order_by(PackRow.id)))


def find(session: Session, pack_id: int) -> PackRow:
    """The pack of that number. Raises Faults."""
    row = session.get(PackRow, pack_id)
    if row is None or row.gone_at is not None:
        raise fault("pack", f"there is no pack {pack_id} on the shelf", "reload the page")
    return row


def lines(session: Session, pack: PackRow | None = None) -> list[PackLineRow]:
    """What was entered of a pack, or of all, in order."""
    wanted = select(PackLineRow).order_by(PackLineRow.id)
    return list(session.scalars(wanted if pack is None else wanted.where(PackLineRow.pack_id == pack.id)))


def holding(session: Session, entered: Iterable[PackLineRow]) -> frozenset[int]:
    """Numbers of the marks that still hold, of those by which something was entered."""
    events = {line.event_id for line in entered if line.event_id is not None}
    if not events:
        return frozenset()
    scenes = session.scalars(select(StepEventRow.scene_id).where(StepEventRow.id.in_(events)).distinct())
    held = (marks.holding(marks.events(session, scene)) for one in scenes if (scene := session.get(SceneRow, one)))
    return frozenset(event.id for by_step in held for kept in by_step.values() for event in kept)


def stocked(session: Session) -> list[Stocked]:
    """Every pack on the shelf with what is left of it."""
    entered = lines(session)
    held = holding(session, entered)
    by_pack: dict[int, list[Entered]] = {}
    for line in entered:
        by_pack.setdefault(line.pack_id, []).append(as_entered(line, held))
    found = [Stocked(row, left(row.size, by_pack.get(row.id, ()))) for row in rows(session)]
    return [one for one in found if one.row.size or one.left]  # an empty jar is none


def as_entered(line: PackLineRow, held: frozenset[int]) -> Entered:
    """A line as the ledger knows it."""
    what: What = "counted" if line.what == "counted" else "taken" if line.what == "taken" else "back"
    return Entered(what, line.amount, line.event_id is None or line.event_id in held)


def left_of(session: Session, row: PackRow) -> float:
    """What is left of one pack."""
    entered = lines(session, row)
    held = holding(session, entered)
    return left(row.size, [as_entered(line, held) for line in entered])


def add(session: Session, new: NewPack, now: datetime) -> PackRow:
    """A pack onto the shelf. Raises Faults where there are too many."""
    return add_all(session, [new], now)[0]


def add_all(session: Session, news: Sequence[NewPack], now: datetime) -> list[PackRow]:
    """Packs onto the shelf. Raises Faults where there are too many."""
    there = session.scalar(select(func.count()).select_from(PackRow).where(PackRow.gone_at.is_(None))) or 0
    if there + len(news) > MAX_PACKS:
        raise fault("shelf", f"it would hold more than {MAX_PACKS} packs", "throw empty ones away first")
    packs = [
        PackRow(
            material=new.material, part=new.part, size=new.size, price=new.price, seller=new.seller, opened=new.opened,
            best_before=new.best_before, place=new.place, added_at=now,
        )
        for new in news
    ]  # fmt: skip
    session.add_all(packs)
    session.flush()
    for row, new in zip(packs, news, strict=True):
        if new.left is not None and abs(new.left - new.size) > LEAST:
            count(session, row, new.left, now, "as it came")
    return packs


def count(session: Session, row: PackRow, amount: float, now: datetime, note: str = "") -> None:
    """So much is in it, looked at or weighed. Raises Faults for more than it holds."""
    if row.size and amount > row.size * 1.05:
        raise fault("left", f"{amount:g} is more than the {row.size:g} that it holds", "mend its size, or the amount")
    _enter(session, row, "counted", amount, now, note=note)


def put_back(session: Session, row: PackRow, amount: float, now: datetime, note: str = "") -> None:
    """So much goes back into it: a leftover, swept-up strewing."""
    _enter(session, row, "back", amount, now, note=note)


def take(session: Session, row: PackRow, amount: float, now: datetime, note: str = "") -> None:
    """So much is taken out of it for something that no scene knows. Raises Faults for more than there is."""
    there = left_of(session, row)
    if amount > there + LEAST:
        raise fault("taken", f"{amount:g} is more than the {there:g} that is left", "count what is in it first")
    _enter(session, row, "taken", amount, now, note=note)


def throw_away(row: PackRow, now: datetime) -> None:
    """It is gone; what was entered of it stays readable."""
    row.gone_at = now


def _enter(
    session: Session, row: PackRow, what: str, amount: float, now: datetime, *, event: int | None = None,
    batch: int | None = None, note: str = "",
) -> None:  # fmt: skip
    line = PackLineRow(
        pack_id=row.id, what=what, amount=amount, event_id=event, batch_id=batch, at=now, note=note[:200]
    )
    session.add(line)
    if what == "taken" and row.opened is None:
        row.opened = now.date()
    session.flush()


def _book(
    session: Session, amounts: Mapping[Key, float], now: datetime, note: str, *, event: int | None = None,
    batch: int | None = None,
) -> None:  # fmt: skip
    """Take amounts out of the packs whose turn it is, never more than is in them."""
    if not amounts:
        return
    known = {one.row.id: one for one in stocked(session) if one.pack.key in amounts}
    demands = [
        Demand("", "", None, *key, amount, "", order=place) for place, (key, amount) in enumerate(amounts.items())
    ]
    for one in reserve([each.pack for each in known.values()], demands):
        for number, amount in one.taken:
            _enter(session, known[number].row, "taken", amount, now, event=event, batch=batch, note=note)


def book_batch(
    session: Session, row: BatchRow, parts: Iterable[tuple[Material, str | None, float, float]], now: datetime
) -> None:
    """What a batch that was mixed took: (label, part, ml, g) of each ingredient, as it really went in."""
    amounts: dict[Key, float] = {}
    for material, part, volume_ml, mass_g in parts:
        key = material.id, part
        amounts[key] = amounts.get(key, 0.0) + sold(material, volume_ml, mass_g)[0]
    _book(session, amounts, now, row.batch, batch=row.id)


def book_step(
    session: Session, event: StepEventRow, uses: Iterable[Use], mixed: float, share: float, now: datetime
) -> None:
    """What a step took that was done, a `share` of it; of what is measured out into batches only what was not `mixed`
    by its card (a share, 0 to 1)."""
    amounts: dict[Key, float] = {}
    for use in uses:
        part = share * ((1 - mixed) if use.mix else 1.0)
        if part > LEAST:
            key = use.material, use.part
            amounts[key] = amounts.get(key, 0.0) + use.amount * part
    _book(session, amounts, now, event.step, event=event.id)


def give_back(session: Session, event: StepEventRow, material: str, volume_ml: float, mass_g: float) -> None:
    """So much of what a mark took of a material goes back to the pack that it came from."""
    label = labels.labelled(session).materials.get(material)
    wanted = select(PackLineRow).where(PackLineRow.event_id == event.id, PackLineRow.what == "taken")
    for line in session.scalars(wanted.order_by(PackLineRow.id.desc())):
        row = session.get(PackRow, line.pack_id)
        if label is not None and row is not None and row.material == material:
            amount = min(sold(label, volume_ml, mass_g)[0], line.amount)
            _enter(session, row, "back", amount, event.at, event=event.id, note="swept up")
            return


@dataclass(frozen=True)
class Taken:
    """So much that a mark took out of a pack, in what it is sold by: the line, the pack, what is in it."""

    line: PackLineRow
    pack: PackRow
    label: Material


def taken_by(session: Session, event: StepEventRow) -> list[Taken]:
    """What a mark took off the shelf, less what went back."""
    known = labels.labelled(session)
    back: dict[int, float] = {}
    given = select(PackLineRow).where(PackLineRow.event_id == event.id, PackLineRow.what == "back")
    for line in session.scalars(given):
        back[line.pack_id] = back.get(line.pack_id, 0.0) + line.amount
    taken = []
    wanted = select(PackLineRow).where(PackLineRow.event_id == event.id, PackLineRow.what == "taken")
    for line in session.scalars(wanted.order_by(PackLineRow.id)):
        pack = session.get(PackRow, line.pack_id)
        label = None if pack is None else label_of(known, pack.material)
        if pack is not None and label is not None and line.amount - back.get(pack.id, 0.0) > LEAST:
            taken.append(Taken(line, pack, label))
    return taken


def left_over(session: Session, event: StepEventRow, line_id: int, amount: float, now: datetime) -> None:
    """So much of what a mark took was left, and goes back to its pack. Raises Faults for more than it took."""
    taken = next((one for one in taken_by(session, event) if one.line.id == line_id), None)
    if taken is None:
        raise fault("left over", "nothing of that was taken for this step", "reload the page")
    if amount > taken.line.amount:
        raise fault(
            "left over",
            f"{amount:g} is more than the {taken.line.amount:g} that were taken",
            "write what is left of them",
        )
    _enter(session, taken.pack, "back", amount, now, event=event.id, note="left over")


def label_of(known: Catalogue, name: str) -> Material | None:
    """What is in a pack of that id: a material, or, in a jar, what was mixed and kept."""
    mix = known.mixes.get(name)
    if name in known.materials or mix is None:
        return known.materials.get(name)
    return Material(
        id=mix.id, name=f"{mix.name}, in a jar", family="grain" if mix.family == "texture" else "binder",
        density=wet(mix, known.materials).density, colour=mix.colour, source="what was swept up, or left over",
    )  # fmt: skip


def into_jar(
    session: Session, mix: str, volume_ml: float, now: datetime, *, event: int | None = None, batch: int | None = None,
    note: str = "",
) -> None:  # fmt: skip
    """So much of a mix is kept in its jar, the one that there is or a new one."""
    row = next((one for one in rows(session) if one.material == mix and one.part is None and not one.size), None)
    if row is None:
        row = PackRow(material=mix, size=0.0, opened=now.date(), place="jars", added_at=now)
        session.add(row)
        session.flush()
    _enter(session, row, "back", volume_ml, now, event=event, batch=batch, note=note)


def in_jars(session: Session, mix: str) -> float:
    """ml of a mix that stand in jars, left over of other batches."""
    return sum(one.left for one in stocked(session) if one.row.material == mix)


def from_jar(session: Session, mix: str, volume_ml: float, now: datetime, batch: int) -> None:
    """So much of a leftover of a mix goes into a batch."""
    _book(session, {(mix, None): volume_ml}, now, "blended in", batch=batch)


def book_again(session: Session, old: StepEventRow, new: StepEventRow, factor: float, now: datetime) -> None:
    """What a mark took, for the mark that stands in its place: all of it (1), or what a mended share adds to it or
    leaves of it, less than nothing for what goes back."""
    for line in session.scalars(select(PackLineRow).where(PackLineRow.event_id == old.id).order_by(PackLineRow.id)):
        row = session.get(PackRow, line.pack_id)
        amount = line.amount * factor * (1 if line.what == "taken" else -1)
        if row is not None and abs(amount) > LEAST:
            _enter(session, row, "taken" if amount > 0 else "back", abs(amount), now, event=new.id, note=line.note)


def parts_of(known: Catalogue, material: str) -> tuple[str | None, ...]:
    """The parts in which a material comes: A and B of a kit, or the whole."""
    found = {part.part for mix in known.mixes.values() for part in mix.ingredients if part.material == material}
    halves = sorted(part for part in found if part)
    return tuple(halves) if len(halves) > 1 else (None,)


def split_kit(known: Catalogue, material: str, size: float) -> tuple[tuple[str | None, float], ...]:
    """What a pack of a material holds of each of its parts: of a kit as its parts are mixed, else all of it."""
    return offer_of(Price(material=material, amount=0, pack=size), parts_in(known)).holds
