"""The shelf's first page: every pack with what is left of it, who counts on it, and what to look at."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, g, render_template
from sqlalchemy.orm import Session

from ...core.catalogue import Material, Price
from ...core.stock.buying import pack_words
from ...core.stock.doubts import Doubt
from ...core.units import show
from ...store import supply
from ...store.shelf import Stocked, label_of
from ...store.supply import Supply
from ..shared.scenes import database, wall_now

blueprint = Blueprint("shelf", __name__)
TABS = (
    ("shelf.page", "Packs"), ("shelf.buy", "To buy"), ("shelf.shop", "The list"), ("shelf.prices", "Dear or cheap"),
)  # fmt: skip


@dataclass(frozen=True)
class Holding:
    """A material on the shelf: its packs, in all, and what each scene counts on of it."""

    material: Material
    packs: tuple[Stocked, ...]
    left: float
    size: float
    wanted: tuple[tuple[str, float], ...]  # scene's name, amount

    short: bool  # for one step at least


def shown(amount: float, unit: str) -> str:
    """An amount in the reader's measures, as one text; pieces as a number."""
    return " ".join(show(amount, "" if unit == "piece" else unit, g.measures)).strip()


@blueprint.app_template_filter("pack_of")
def _pack_of(price: Price, unit: str) -> str:
    return pack_words(price, unit, shown)


def supply_now(session: Session) -> Supply:
    """The shelf against all that is asked of it."""
    return supply.supply(session, wall_now())


def sentence(made: Supply, doubt: Doubt) -> str:
    """A doubt in the reader's words."""
    return made.sentence(doubt, shown, lambda at: f"{at:%a} {at.day}, {at:%H:%M}")


def holdings(supplied: Supply) -> list[Holding]:
    """What is on the shelf by material: what is short first, then in the order of their names."""
    wanted: dict[str, dict[str, float]] = {}
    names = {one.slug: one.name for one in supplied.scenes}
    for one in supplied.reserved:
        demand = one.demand
        by_scene = wanted.setdefault(demand.material, {})
        by_scene[names.get(demand.scene, demand.scene)] = by_scene.get(names.get(demand.scene, ""), 0.0) + demand.amount
    short = {one.demand.material for one in supplied.reserved if one.short > 0}
    by_material: dict[str, list[Stocked]] = {}
    for pack in supplied.stocked:
        by_material.setdefault(pack.row.material, []).append(pack)
    held = [
        Holding(label, tuple(packs), sum(one.left for one in packs), sum(one.row.size or one.left for one in packs),
                tuple(wanted.get(name, {}).items()), name in short)
        for name, packs in by_material.items() if (label := label_of(supplied.catalogue, name)) is not None
    ]  # fmt: skip
    return sorted(held, key=lambda one: (not one.short, one.material.name))


@blueprint.get("/shelf")
def page() -> str:
    """Every pack, who counts on it, and what to look at."""
    with database().reading() as session:
        supplied = supply_now(session)
        held = holdings(supplied)
        stops = [sentence(supplied, doubt) for doubt in supplied.doubts if doubt.code == "short"]
        others = [sentence(supplied, doubt) for doubt in supplied.doubts if doubt.code != "short"]
        known = {one.id: one.name for one in sorted(supplied.catalogue.materials.values(), key=lambda one: one.name)}
        lacking = list(dict.fromkeys(one.demand.material for one in supplied.reserved if one.short > 0))
        unknown = [one.row for one in supplied.stocked if label_of(supplied.catalogue, one.row.material) is None]
    return render_template(
        "shelf/page.html", holdings=held, short=stops, others=others,
        lacking=[(name, known[name]) for name in lacking if name in known],
        materials=[(name, words) for name, words in known.items() if name not in lacking],
        unknown=unknown, tabs=TABS, today=wall_now().date(), place="shelf",
    )  # fmt: skip
