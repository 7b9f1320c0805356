"""Dear or cheap: what offers cost for a useful unit, the price list itself, who sells, and in what money."""

from __future__ import annotations

from dataclasses import dataclass

from flask import g, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.catalogue import Catalogue, Material, Price
from ...core.fault import fault
from ...core.figure import Figure
from ...core.stock.basket import MAX_SELLERS
from ...core.stock.model import Seller
from ...core.stock.worth import Useful, a_millimetre, cheapest_first, useful_units
from ...store import labels, scenes, settings, supply
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.fields import Field, parse_float, parse_int, read_one
from ..shared.scenes import database, wall_now
from .packs import amount_of, material_of
from .views import TABS, blueprint

SELLER = Field("seller", "seller", optional=True, most=60)
CURRENCY = Field("currency", "currency", optional=True, most=4)
MAX_OFFERS = 500


@dataclass(frozen=True)
class Compared:
    """A material's offers by one useful unit, the cheapest first."""

    material: Material
    useful: Useful
    offers: tuple[tuple[int, Price, Figure], ...]  # place in the price list, offer, cost of a unit


@blueprint.get("/shelf/prices")
def prices() -> str:
    """Offers beside each other by what a useful unit costs. Raises Faults."""
    chosen = request.args.get("material", "")
    with database().reading() as session:
        known = labels.catalogue(session)
        bench = settings.read(session).bench
        asking = supply.needs_of(session, wall_now()) if chosen else []
    listed = list(bench.prices)
    compared: list[Compared] = []
    for name in sorted(
        {one.material for one in listed} & set(known.materials), key=lambda one: known.materials[one].name
    ):
        material = known.materials[name]
        if chosen and name != chosen:
            continue
        units = useful_units(material, known, bench)
        ordered = cheapest_first(one for one in listed if one.material == name)
        if chosen:
            units += _there(material, asking, known)
        for useful in units if chosen else units[:1]:
            rows = tuple((listed.index(one), one, useful.cost(one)) for one in ordered)
            compared.append(Compared(material, useful, rows))
    compared.sort(key=lambda one: len(one.offers) < 2)  # where there is something to choose comes first
    by_name = sorted(((one.id, one.name) for one in known.materials.values()), key=lambda one: one[1])
    return render_template(
        "shelf/prices.html", compared=compared, chosen=known.materials.get(chosen), sellers=g.settings.sellers,
        currency=g.settings.currency, materials=by_name,
        tabs=TABS, place="shelf",
    )  # fmt: skip


def _there(material: Material, asking: list[supply.SceneNeeds], known: Catalogue) -> list[Useful]:
    """One mm of it on the spots of the scenes that take it."""
    units = []
    for needing in asking:
        for patch in needing.scene.patches:
            for lift in patch.lifts:
                mix = next((mix for mix in needing.scene.mixes if mix.id == getattr(lift, "mix", None)), None)
                area = needing.plan.patches[patch.id].true_area_mm2.number if patch.id in needing.plan.patches else 0.0
                useful = (
                    a_millimetre(material, mix, known, area, f"{needing.name}, {patch.name}") if mix and area else None
                )
                if useful is not None and lift.kind in ("pour", "skin"):
                    units.append(useful)
    return units[:6]


@blueprint.post("/shelf/prices")
def add_price() -> BaseResponse:
    """One more offer. Raises Faults."""
    with database().reading() as session:
        known = labels.catalogue(session)
    material = material_of(known, request.form.get("material", ""))
    amount = parse_float(request.form.get("price", ""), "price")
    pack = amount_of(request.form.get("pack", ""), material, "pack")
    text = request.form.get("packs", "").strip()
    packs = parse_int(text, "packs together") if text else 1
    if pack <= 0:
        raise fault("pack", "a pack of nothing is no pack", "write what one holds")
    if not 0 <= amount <= 1_000_000:
        raise fault("price", f"{amount:g} is outside 0 to 1,000,000", "write what it costs")
    if not 1 <= packs <= 1000:
        raise fault("packs together", f"{packs} is outside 1 to 1000", "write how many are sold as one")
    seller = " ".join((read_one(SELLER, request.form) or "").split())
    new = Price(material=material.id, amount=round(amount, 2), pack=round(pack, 4), packs=packs, seller=seller)
    listed = g.settings.bench.prices
    if any(
        (one.material, one.pack, one.packs, one.seller) == (new.material, new.pack, new.packs, new.seller)
        for one in listed
    ):
        raise fault("price", "this size is in the list already", "take it away first, or write another seller")
    if len(listed) >= MAX_OFFERS:
        raise fault("price", f"there are {MAX_OFFERS} offers already", "take some away first")
    _set((*listed, new))
    return hx_redirect(url_for("shelf.prices", material=request.form.get("back") or None))


@blueprint.post("/shelf/prices/<int:place>/remove")
def remove_price(place: int) -> BaseResponse:
    """An offer is no more; the form says of what, so that a list that changed meanwhile loses nothing else. Raises
    Faults."""
    listed = g.settings.bench.prices
    if place >= len(listed) or request.form.get("material") != listed[place].material:
        raise fault("price", "this offer is not in the list any more", "reload the page")
    _set(listed[:place] + listed[place + 1 :])
    return hx_redirect(url_for("shelf.prices"))


def _set(offers: tuple[Price, ...]) -> None:
    bench = g.settings.bench.model_copy(update={"prices": offers})
    with database().writing() as session:
        scenes.refuse_bench(session, bench)
        settings.change(session, bench=bench)


@blueprint.post("/shelf/sellers")
def set_seller() -> BaseResponse:
    """A seller's postage and days, or one is taken away; and in what money prices are. Raises Faults."""
    how = request.form.get("how", "")
    with database().writing() as session:
        mine = settings.read(session)
        if how == "currency":
            settings.change(session, currency=(read_one(CURRENCY, request.form) or "").strip())
            return hx_redirect(safe_return_url() if "here" in request.form else url_for("shelf.prices"))
        name = " ".join((read_one(SELLER, request.form) or "").split())
        if not name:
            raise fault("seller", "it has no name", "write where you buy")
        others = tuple(one for one in mine.sellers if one.name != name)
        if how == "remove":
            settings.change(session, sellers=others)
        else:
            postage = parse_float(request.form.get("postage", "0") or "0", "postage")
            days = parse_int(request.form.get("days", "0") or "0", "days")
            if not 0 <= postage <= 100_000:
                raise fault("postage", f"{postage:g} is outside 0 to 100,000", "write what an order costs to send")
            if not 0 <= days <= 365:
                raise fault("days", f"{days} is outside 0 to 365", "write in how many days an order comes")
            if postage > 0 and sum(one.postage > 0 for one in others) >= MAX_SELLERS:
                raise fault("seller", f"{MAX_SELLERS} sellers with postage are the most", "take one away first")
            if len(others) >= 40:
                raise fault("seller", "there are 40 already", "take one away first")
            settings.change(session, sellers=(*others, Seller(name=name, postage=round(postage, 2), days=days)))
    return hx_redirect(url_for("shelf.prices"))
