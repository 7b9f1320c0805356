"""The list in the shop, for a thumb: ticked off, another size where one is missing, at home all onto the shelf."""

from __future__ import annotations

from flask import flash, g, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.catalogue import Catalogue
from ...core.fault import fault
from ...core.stock.basket import least_cost
from ...core.stock.buying import Chosen, offer_of, parts_in
from ...store import labels, purchases, scenes
from ...store.tables import PurchaseRow
from ..shared.answers import hx_redirect
from ..shared.scenes import database, now
from .views import TABS, blueprint


def _sizes(row: PurchaseRow, known: Catalogue) -> list[tuple[int, Chosen, float]]:
    """Other sizes that would do: place in the price list, how many of it, money more than now."""
    now_costs, held = purchases.cost_of(row), purchases.bought_as(row)
    parts = parts_in(known)
    sizes = []
    for place, price in enumerate(g.settings.bench.prices):
        if price.material == row.material:
            other = Chosen(price, least_cost(purchases.short_of(row), (offer_of(price, parts),)).counts[0])
            if other.count and (other,) != held:
                sizes.append((place, other, other.amount - now_costs))
    return sorted(sizes, key=lambda one: one[2])[:4]


@blueprint.get("/shelf/list")
def shop() -> str:
    """What is on the list: not ticked first, what was ordered with its day."""
    with database().reading() as session:
        rows = purchases.open_list(session)
        known = labels.catalogue(session)
        names = dict(scenes.named(session))
    rows.sort(key=lambda one: (one.ticked_at is not None, one.comes_at is not None))
    lines = [(row, purchases.bought_as(row), purchases.cost_of(row), _sizes(row, known)) for row in rows]
    ticked = [cost for row, _, cost, _ in lines if row.ticked_at]
    return render_template(
        "shelf/list.html", lines=lines, cost=sum(one[2] for one in lines), ticked=len(ticked), spent=sum(ticked),
        names=[name for slug, name in names.items() if any(one["slug"] == slug for row in rows for one in row.scenes)],
        materials=known.materials, chosen=request.args.get("line", type=int), tabs=TABS, place="shelf",
    )  # fmt: skip


@blueprint.post("/shelf/list/<int:line_id>/tick")
def tick(line_id: int) -> BaseResponse:
    """It is in the basket, or not after all. Raises Faults."""
    with database().writing() as session:
        purchases.tick(purchases.find_line(session, line_id), now())
    return hx_redirect(url_for("shelf.shop"))


@blueprint.post("/shelf/list/<int:line_id>/swap")
def swap(line_id: int) -> BaseResponse:
    """Another size in its stead. Raises Faults."""
    place = request.form.get("size", type=int)
    with database().writing() as session:
        row = purchases.find_line(session, line_id)
        sizes = _sizes(row, labels.catalogue(session))
        size = next((one for one in sizes if one[0] == place), None)
        if size is None:
            raise fault("size", "this size is no longer in the price list", "reload the page")
        purchases.swap(row, (size[1],))
    return hx_redirect(url_for("shelf.shop"))


@blueprint.post("/shelf/list/<int:line_id>/drop")
def drop(line_id: int) -> BaseResponse:
    """It comes off the list. Raises Faults."""
    with database().writing() as session:
        session.delete(purchases.find_line(session, line_id))
    return hx_redirect(url_for("shelf.shop"))


@blueprint.post("/shelf/list/home")
def home() -> BaseResponse:
    """All that is ticked goes onto the shelf in one act. Raises Faults."""
    with database().writing() as session:
        ticked = [row for row in purchases.open_list(session) if row.ticked_at]
        if not ticked:
            raise fault("list", "nothing on it is ticked", "tick what you bought")
        packs = purchases.put_on_shelf(session, ticked, now())
    flash(f"{packs} packs are on the shelf." if packs != 1 else "One pack is on the shelf.", "told")
    return hx_redirect(url_for("shelf.page"))
