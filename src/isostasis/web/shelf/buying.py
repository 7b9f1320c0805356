"""What to buy: ordered by when it runs out, against the shelf, in whole packs of least cost."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from io import StringIO

from flask import Response, flash, g, render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response as BaseResponse

from ...core.fault import fault
from ...core.stock.buying import Chosen, Line, Shopping, as_text
from ...exchange.rows import defused
from ...store import purchases, supply
from ...store.supply import Supply
from ..shared.answers import hx_redirect
from ..shared.fields import parse_int
from ..shared.scenes import database, now, wall_now
from .views import TABS, blueprint, shown

BAR = 176.0  # px of a row's two bars


@dataclass(frozen=True)
class Bar:
    """A row's two bars, in px: what each scene needs above; what is there, and each pack that is bought, below; where
    enough is."""

    needs: tuple[tuple[int, float, float], ...]  # which scene, from, wide
    have: float
    packs: tuple[tuple[float, float], ...]  # from, wide
    enough: float


@dataclass(frozen=True)
class BuyRow:
    """A line with its words and its picture."""

    line: Line
    name: str
    spot: str
    bar: Bar


def bar_of(line: Line, order: Sequence[str]) -> Bar:
    """The picture of a line; packs past a dozen are drawn as one."""
    packs = [one.price.pack for one in line.buy for _ in range(one.count * one.price.packs)]
    packs = packs if len(packs) <= 12 else [sum(packs)]
    have = line.spare  # what is there beyond, or promised to others, is no part of the picture
    per = BAR / max(line.need, have + sum(packs), 1e-9)
    needs, at = [], 0.0
    for slug, amount in line.by_scene.items():
        needs.append((order.index(slug), at, amount * per))
        at += amount * per
    bought, at = [], have * per
    for size in packs:
        bought.append((at, size * per))
        at += size * per
    return Bar(tuple(needs), have * per, tuple(bought), line.need * per)


@dataclass(frozen=True)
class Buying:
    """All that the page of what to buy shows."""

    supply: Supply
    shopping: Shopping
    order: tuple[str, ...]  # all scenes, by address
    names: dict[str, str]
    meant: tuple[str, ...]

    def rows(self) -> list[BuyRow]:
        """Its lines as rows."""
        lines = []
        for line in self.shopping.lines:
            asking = self.supply.scene(line.scene)
            spot = asking.title(line.step) if asking else ""
            lines.append(BuyRow(line, self.supply.named(line.material), spot, bar_of(line, self.order)))
        return lines


def buying_of(session: Session, wanted: Sequence[str]) -> Buying:
    """What to buy for the scenes of these addresses, for all of them if none is named. Raises Faults."""
    supplied = supply.supply(session, wall_now())
    order = tuple(one.slug for one in supplied.scenes)
    unknown = [one for one in wanted if one not in order]
    if unknown:
        raise fault("scene", f"there is no scene “{unknown[0][:60]}” that can be planned", "choose one of the list")
    meant = tuple(one for one in order if one in wanted) if wanted else order
    names = {one.slug: one.name for one in supplied.scenes}
    supplied = supplied.for_scenes(meant)
    try:
        shopping = supply.to_buy(session, supplied)
    except ValueError as problem:
        raise fault("what to buy", str(problem), "choose fewer scenes, or fewer offers") from None
    return Buying(supplied, shopping, order, names, meant)


def urgent(made: Buying, at: datetime) -> tuple[BuyRow, datetime, bool] | None:
    """What runs out first of all that has a date, when an order of it would come, and whether that is too late."""
    rows = [row for row in made.rows() if row.line.at is not None and row.line.buy]
    if not rows:
        return None
    first = rows[0]
    days = {one.name: one.days for one in g.settings.sellers}
    comes = at + timedelta(days=min(days.get(one.price.seller, 0) for one in first.line.buy))
    assert first.line.at is not None
    return first, comes, comes > first.line.at


def _chosen(wanted: Buying, name: str) -> Line | None:
    """The line whose sizes are compared: the one that is named, else the first with more than one."""
    named = next((line for line in wanted.shopping.lines if line.material == name and line.buy), None)
    several = (line for line in wanted.shopping.lines if line.alternatives)
    return named or next(several, next((line for line in wanted.shopping.lines if line.buy), None))


def sizes_of(line: Line) -> list[tuple[tuple[Chosen, ...], float, float]]:
    """Ways to buy a line, the cheapest first: what, money, money for what is needed alone, a litre (kilogram, m2)."""
    ways = [line.buy, *line.alternatives]
    per = {"mm2": 1e6, "piece": 1.0}.get(line.unit, 1000.0)
    found = [(way, round(sum(one.amount for one in way), 2)) for way in ways]
    return sorted(((way, cost, cost / line.short * per) for way, cost in found), key=lambda one: one[1])


UNITS = {"ml": "litre", "g": "kilogram", "mm2": "m²", "piece": "piece"}


@blueprint.get("/shelf/buy")
def buy() -> str:
    """What to buy for some scenes or all. Raises Faults."""
    with database().reading() as session:
        wanted = buying_of(session, request.args.getlist("scene"))
    line = _chosen(wanted, request.args.get("line", ""))
    return render_template(
        "shelf/buy.html", made=wanted, rows=wanted.rows(), urgent=urgent(wanted, wall_now()), line=line,
        sizes=sizes_of(line) if line else [], per=UNITS.get(line.unit, "") if line else "", tabs=TABS,
        text=as_text(wanted.shopping, wanted.supply.named, shown, g.settings.currency),
        enough=[wanted.supply.named(one) for one in wanted.shopping.enough], packs=_packs(wanted.shopping),
        place="shelf",
    )  # fmt: skip


def _packs(made: Shopping) -> int:
    return sum(one.count for line in made.lines for one in line.buy)


@blueprint.get("/shelf/buy.txt")
def buy_text() -> Response:
    """The list as plain text. Raises Faults."""
    with database().reading() as session:
        made = buying_of(session, request.args.getlist("scene"))
    text = as_text(made.shopping, made.supply.named, shown, g.settings.currency)
    return Response(text + "\n", mimetype="text/plain")


@blueprint.get("/shelf/buy.csv")
def buy_csv() -> Response:
    """The list as lines of cells. Raises Faults."""
    with database().reading() as session:
        wanted = buying_of(session, request.args.getlist("scene"))
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["material", "need", "have", "short", "unit", "before", "count", "pack", "seller", "cost"])
    for line in wanted.shopping.lines:
        amounts = [f"{one:.6g}" for one in (line.need, line.have, line.short)]
        for one in line.buy or (None,):
            cells = ["", "", "", ""] if one is None else [
                one.count * one.price.packs, f"{one.pack:.6g}", defused(one.seller), f"{one.amount:.2f}"]  # fmt: skip
            writer.writerow([line.material, *amounts, line.unit, line.before or "", *cells])
    response = Response(out.getvalue(), mimetype="text/csv")
    response.headers["Content-Disposition"] = 'attachment; filename="to-buy.csv"'
    return response


def _warm(wanted: Sequence[str]) -> None:
    """Plan and solve before the lock is taken; inside it, what was found is at hand. Raises Faults."""
    with database().reading() as session:
        buying_of(session, wanted)


@blueprint.post("/shelf/buy/take")
def take_list() -> BaseResponse:
    """The list goes to the shop. Raises Faults."""
    _warm(request.form.getlist("scene"))
    with database().writing() as session:
        made = buying_of(session, request.form.getlist("scene"))
        purchases.take_along(session, made.shopping, now())
    return hx_redirect(url_for("shelf.shop"))


@blueprint.post("/shelf/buy/order")
def order() -> BaseResponse:
    """It is ordered: what is short of it waits behind a gate until it comes. Raises Faults."""
    text = request.form.get("days", "").strip()
    days = None if not text else parse_int(text, "days")
    if days is not None and not 0 <= days <= 365:
        raise fault("days", f"{days} is outside 0 to 365", "write in how many days it comes")
    sellers = {one.name: one.days for one in g.settings.sellers}
    _warm(request.form.getlist("scene"))
    with database().writing() as session:
        wanted = buying_of(session, request.form.getlist("scene"))
        if not any(line.buy for line in wanted.shopping.lines):
            raise fault("order", "there is nothing to order", "choose other scenes, or write what things cost")
        by_seller = {one.price.seller: sellers.get(one.price.seller, 0) if days is None else days
                     for line in wanted.shopping.lines for one in line.buy}  # fmt: skip
        waiting = purchases.order(session, wanted.supply, wanted.shopping, by_seller, now())
    names = [wanted.names[slug] for slug in waiting]
    told = f" {' and '.join(names)} wait{'s' if len(names) == 1 else ''} for it behind a gate." if names else ""
    flash(f"It is ordered, and on the list with the day when it comes.{told}", "told")
    return hx_redirect(url_for("shelf.shop"))
