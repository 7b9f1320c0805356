"""Packs one by one and all at once: added, counted, put back, thrown away, and as a list in and out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from flask import Response, flash, g, render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response as BaseResponse

from ...core.catalogue import Catalogue, Material
from ...core.fault import fault
from ...core.stock.model import NewPack
from ...core.stock.reading import parse_amount, parse_day, parse_left, parse_price
from ...core.units import NotAMeasure
from ...exchange.packs_csv import MAX_BYTES, read_packs, write_packs
from ...store import devices, labels, settings, shelf
from ...store.shelf import Stocked
from ...store.tables import PackRow
from ..shared.answers import hx_redirect
from ..shared.fields import Field, read_one
from ..shared.scenes import database, now
from .views import TABS, blueprint

T = TypeVar("T")
PLACE = Field("place", "where it stands", optional=True, most=60)
SELLER = Field("seller", "bought at", optional=True, most=60)
NOTE = Field("note", "note", optional=True, most=200)
KEEP = Field("keep", "always keep", optional=True, most=80)


def material_of(known: Catalogue, name: str) -> Material:
    """The material of that id. Raises Faults."""
    label = shelf.label_of(known, name)
    if label is None:
        raise fault("material", f"there is no material “{name[:64]}”", "choose one of the list")
    return label


def amount_of(text: str, material: Material, what: str, part: str | None = None, size: float | None = None) -> float:
    """What was written, in what a material is sold by; with a `size` also by eye or with the tin. Raises Faults."""
    try:
        if size is not None:
            return parse_left(text, material, size, part, g.measures)
        return parse_amount(text, material, part, g.measures)
    except NotAMeasure as problem:
        raise fault(what, problem.what, problem.right) from None


def _typed(name: str, parse: Callable[[str], T]) -> T | None:
    """What the page's field of that name says; None for an empty one. Raises Faults."""
    text = request.form.get(name, "").strip()
    if not text:
        return None
    try:
        return parse(text)
    except NotAMeasure as problem:
        raise fault(name.replace("_", " "), problem.what, problem.right) from None


def _size(material: Material, text: str, part: str | None) -> float:
    size = amount_of(text, material, "size", part)
    if size <= 0:
        raise fault("size", "a pack of nothing is no pack", "write what a full one holds")
    return size


@blueprint.post("/shelf/add")
def add() -> BaseResponse:
    """A pack onto the shelf; of a kit its parts together, split as they are mixed, or one of them. Raises Faults."""
    with database().reading() as session:
        known = labels.catalogue(session)
    material = material_of(known, request.form.get("material", ""))
    part = request.form.get("part", "") or None
    parts = shelf.parts_of(known, material.id)
    if part is not None and part not in parts:
        raise fault("part", f"{material.name} has no part {part[:1]}", "leave it empty")
    size = _size(material, request.form.get("size", ""), part)
    left, price = request.form.get("left", "").strip(), _typed("price", parse_price)
    split = shelf.split_kit(known, material.id, size) if part is None else ((part, size),)
    news = [
        NewPack(
            material.id, each, one, amount_of(left, material, "left", one, each) if left else None,
            None if price is None else round(price * each / size, 2), read_one(SELLER, request.form) or "",
            _typed("opened", parse_day), _typed("best_before", parse_day), read_one(PLACE, request.form) or "",
        )
        for one, each in split
    ]  # fmt: skip
    with database().writing() as session:
        shelf.add_all(session, news, now())
    flash(f"{material.name} is on the shelf.", "told")
    return hx_redirect(url_for("shelf.page"))


@blueprint.get("/shelf/pack/<int:pack_id>")
def pack(pack_id: int) -> str:
    """One pack: what was entered of it, and its fields. Raises Faults."""
    with database().reading() as session:
        row = shelf.find(session, pack_id)
        known = labels.catalogue(session)
        entered = shelf.lines(session, row)
        held = shelf.holding(session, entered)
        left = shelf.left_of(session, row)
        names = devices.names(session)
        keep = settings.read(session).keep
    return render_template(
        "shelf/pack.html", pack=row, material=shelf.label_of(known, row.material), left=left, devices=names, tabs=TABS,
        keep=keep.get(row.material),
        lines=[(line, line.event_id is None or line.event_id in held) for line in reversed(entered)], place="shelf",
    )  # fmt: skip


@blueprint.post("/shelf/pack/<int:pack_id>")
def change_pack(pack_id: int) -> BaseResponse:
    """It is counted, something goes back or is taken, its fields are mended, or it is thrown away. Raises Faults."""
    how = request.form.get("how", "")
    with database().writing() as session:
        row = shelf.find(session, pack_id)
        material = material_of(labels.catalogue(session), row.material)
        if how == "gone":
            shelf.throw_away(row, now())
            flash(f"{material.name} is off the shelf.", "told")
            return hx_redirect(url_for("shelf.page"))
        if how == "change":
            _mend(session, row, material)
        elif how in ENTER:
            text = request.form.get("amount", "")
            size = row.size if how == "count" else None
            amount = amount_of(text, material, "amount", row.part, size)
            if amount <= 0 and how != "count":
                raise fault("amount", "nothing is no amount", "write how much")
            ENTER[how](session, row, amount, now(), read_one(NOTE, request.form) or "")
        else:
            raise fault("pack", "it is not said what happens to it", "count it, take from it or mend it")
    return hx_redirect(url_for("shelf.pack", pack_id=pack_id))


ENTER = {"count": shelf.count, "back": shelf.put_back, "take": shelf.take}


def _mend(session: Session, row: PackRow, material: Material) -> None:
    """The pack's own fields, and how much of its material there should always be. Raises Faults."""
    row.size = _size(material, request.form.get("size", ""), row.part)
    row.price, row.seller = _typed("price", parse_price), read_one(SELLER, request.form) or ""
    row.opened, row.best_before = _typed("opened", parse_day), _typed("best_before", parse_day)
    row.place = read_one(PLACE, request.form) or ""
    text = read_one(KEEP, request.form)
    keep = dict(settings.read(session).keep)
    keep.pop(material.id, None)
    if text:
        amount = amount_of(text, material, "always keep")
        if amount > 0:
            keep[material.id] = amount
    settings.change(session, keep=keep)


@blueprint.get("/shelf/count")
def count_all() -> str:
    """Every pack with a place to write what is in it, in the order of where they stand."""
    with database().reading() as session:
        known = labels.catalogue(session)
        found = [(one, shelf.label_of(known, one.row.material)) for one in shelf.stocked(session)]
    packs = [(one, label) for one, label in found if label is not None]
    packs.sort(key=lambda one: (one[0].row.place.lower(), one[1].name, one[0].row.part or ""))
    return render_template("shelf/count.html", packs=packs, tabs=TABS, place="shelf")


@blueprint.post("/shelf/count")
def keep_count() -> BaseResponse:
    """A stocktake in one pass: what is written exactly wins over what was seen by eye; what is left empty stays. All
    of it, or nothing where one cannot be read. Raises Faults."""
    counted = 0
    with database().writing() as session:
        known = labels.catalogue(session)
        for stocked in shelf.stocked(session):
            text = request.form.get(f"left-{stocked.row.id}", "").strip() or request.form.get(
                f"eye-{stocked.row.id}", ""
            )
            material = shelf.label_of(known, stocked.row.material)
            if text and material is not None:
                called = f"{material.name}, {stocked.row.part}" if stocked.row.part else material.name
                amount = amount_of(text, material, called, stocked.row.part, stocked.row.size)
                shelf.count(session, stocked.row, amount, now(), "stocktake")
                counted += 1
    flash(f"{counted} packs are counted." if counted != 1 else "One pack is counted.", "told")
    return hx_redirect(url_for("shelf.page"))


@blueprint.get("/shelf/shelf.csv")
def out() -> Response:
    """All packs as lines of cells."""
    with database().reading() as session:
        known = labels.catalogue(session)
        packs = shelf.stocked(session)
    text = write_packs([_line(one, known) for one in packs])
    response = Response(text, mimetype="text/csv")
    response.headers["Content-Disposition"] = 'attachment; filename="shelf.csv"'
    return response


def _line(stocked: Stocked, known: Catalogue) -> dict[str, Any]:
    row, label = stocked.row, shelf.label_of(known, stocked.row.material)
    unit = {"mm2": "mm2", "g": "g", "piece": ""}.get(label.sold_by if label else "ml", "ml")
    return {
        "material": row.material, "part": row.part or "", "size": f"{row.size:.6g} {unit}".strip(),
        "left": f"{stocked.left:.6g} {unit}".strip(), "price": "" if row.price is None else f"{row.price:.2f}",
        "seller": row.seller, "opened": row.opened or "", "best before": row.best_before or "", "place": row.place,
    }  # fmt: skip


def _likeness(pack: PackRow | NewPack) -> tuple[object, ...]:
    """By what two packs are told apart."""
    return pack.material, pack.part, pack.size, pack.opened, pack.best_before, pack.place


@blueprint.post("/shelf/in")
def take_in() -> BaseResponse:
    """Packs from a list, all of them or none. Raises Faults that name line and field."""
    file = request.files.get("file")
    data = file.read(MAX_BYTES + 1) if file is not None and file.filename else b""
    text = request.form.get("text", "")
    with database().reading() as session:
        known = labels.catalogue(session)
    brought = read_packs(data or text.encode(), known, g.measures)
    with database().writing() as session:
        there = {_likeness(row) for row in shelf.rows(session)}
        again = [f"line {line}" for line, new in brought if _likeness(new) in there]
        if again and request.form.get("twice") != "yes":
            some = ", ".join(again[:8]) + (" and more" if len(again) > 8 else "")
            raise fault(
                some,
                "a pack just like it is on the shelf already",
                "tick “also what is there already”, or leave it out",
            )
        shelf.add_all(session, [new for _, new in brought], now())
    flash(f"{len(brought)} packs came onto the shelf.", "told")
    return hx_redirect(url_for("shelf.page"))
