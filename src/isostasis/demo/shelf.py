"""The demo's shelf (made up): packs, offers, sellers, what there should always be."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from ..core.stock.model import NewPack, Seller
from ..store import shelf

CURRENCY = "€"
TOWN, POST = "shop in town", "by post"
SELLERS = (Seller(name=TOWN), Seller(name=POST, postage=4.9, days=3))
KEEP = {"white-glue": 200.0, "isopropyl-alcohol": 100.0}

# Offers: material, money, what a pack holds in what it is sold by, how many together, seller.
OFFERS: tuple[tuple[str, float, float, int, str], ...] = (
    ("plaster-cloth", 7.5, 600_000, 1, TOWN), ("plaster-cloth", 27.0, 600_000, 4, POST),
    ("plaster", 9.0, 5000, 1, TOWN), ("plaster", 4.2, 1500, 1, TOWN),
    ("paper-fibre-powder", 11.0, 1000, 1, TOWN), ("paper-fibre-powder", 6.9, 500, 1, POST),
    ("hard-putty-powder", 8.0, 2000, 1, TOWN), ("foam-putty", 9.5, 500, 1, TOWN),
    ("joint-compound", 12.0, 3000, 1, TOWN), ("wall-filler", 6.0, 1500, 1, TOWN),
    ("tile-grout", 7.0, 2500, 1, TOWN), ("stone-dust", 4.0, 1000, 1, TOWN),
    ("white-glue", 8.0, 1000, 1, TOWN), ("white-glue", 3.9, 250, 1, TOWN),
    ("foam-xps", 14.0, 720_000, 1, TOWN), ("foam-xps", 49.0, 720_000, 4, TOWN),
    ("casting-resin", 29.8, 750, 1, TOWN), ("casting-resin", 52.0, 1500, 1, POST),
    ("casting-resin", 16.6, 375, 1, TOWN), ("casting-resin", 99.0, 3000, 1, POST),
    ("day-resin", 30.0, 1000, 1, POST), ("day-resin", 11.5, 250, 1, TOWN),
    ("deep-resin", 38.0, 1000, 1, POST), ("coating-resin", 26.0, 1000, 1, TOWN), ("coating-resin", 9.9, 250, 1, TOWN),
    ("acrylic-ink-teal", 5.0, 30, 1, TOWN), ("acrylic-ink-brown", 5.0, 30, 1, TOWN),
    ("acrylic-ink-blue", 5.0, 30, 1, TOWN), ("acrylic-sealer", 10.0, 500, 1, TOWN),
    ("acrylic-sealer", 3.6, 100, 1, TOWN),
    ("gloss-varnish", 9.0, 250, 1, TOWN), ("gloss-varnish", 4.6, 50, 1, TOWN),
    ("ballast-stone", 4.2, 400, 1, POST), ("ballast-stone", 4.6, 400, 1, TOWN),
    ("slate-chips", 5.5, 500, 1, POST), ("quarry-grit", 4.8, 500, 1, POST),
    ("garden-soil", 3.0, 1000, 1, TOWN), ("flock", 3.9, 100, 1, POST), ("fibre-scatter", 4.4, 100, 1, POST),
    ("play-sand", 3.5, 2000, 1, TOWN), ("chalk-dust", 2.9, 500, 1, TOWN), ("snow-powder", 6.2, 250, 1, POST),
    ("paint-earth", 2.8, 60, 1, TOWN), ("paint-sand", 2.8, 60, 1, TOWN), ("paint-slate", 2.8, 60, 1, TOWN),
    ("paint-white", 2.8, 60, 1, TOWN), ("paint-black", 2.8, 60, 1, TOWN), ("paint-rust", 2.8, 60, 1, TOWN),
    ("paint-ochre", 2.8, 60, 1, TOWN), ("paint-moss", 2.8, 60, 1, TOWN), ("acrylic-medium", 7.4, 120, 1, TOWN),
    ("scenic-binder", 6.5, 250, 1, POST), ("isopropyl-alcohol", 5.2, 500, 1, TOWN), ("detergent", 1.6, 500, 1, TOWN),
    ("tube-adhesive", 4.5, 300, 1, TOWN), ("plywood-9", 12.0, 1, 1, TOWN), ("gaming-board-6", 8.5, 1, 1, TOWN),
    ("hardboard-3", 2.4, 5, 1, TOWN), ("nitrile-gloves", 9.9, 1, 50, TOWN), ("nitrile-gloves", 2.6, 1, 10, TOWN),
    ("mixing-cup", 3.2, 1, 20, TOWN), ("stir-stick", 1.9, 1, 50, TOWN), ("dam-tape", 4.4, 500_000, 1, TOWN),
    ("low-tack-tape", 2.9, 1, 1, TOWN), ("flat-brush", 3.8, 1, 1, TOWN), ("dust-mask", 7.8, 1, 3, TOWN),
)  # fmt: skip

# Packs: material, part, holds, share left, opened so many days ago, good for so many days more, where.
PACKS: tuple[tuple[str, str | None, float, float, int | None, int | None, str], ...] = (
    ("casting-resin", "A", 500, 0.42, 60, 200, "cupboard"), ("casting-resin", "B", 250, 0.31, 60, 200, "cupboard"),
    ("coating-resin", "A", 125, 0.8, 210, 40, "cupboard"), ("coating-resin", "B", 125, 0.8, 210, 40, "cupboard"),
    ("day-resin", "A", 125, 1.0, None, 300, "cupboard"), ("day-resin", "B", 125, 1.0, None, 300, "cupboard"),
    ("plaster-cloth", None, 600_000, 0.2, 90, None, "shelf, low"),
    ("paper-fibre-powder", None, 1000, 0.25, 30, None, "shelf, low"),
    ("plaster", None, 5000, 0.6, 120, None, "shelf, low"), ("wall-filler", None, 1500, 0.4, 200, None, "shelf, low"),
    ("tile-grout", None, 2500, 0.7, 150, None, "shelf, low"), ("stone-dust", None, 1000, 0.5, 40, None, "jars"),
    ("ballast-stone", None, 400, 0.4, 100, None, "jars"), ("slate-chips", None, 500, 1.0, None, None, "jars"),
    ("quarry-grit", None, 500, 0.8, 60, None, "jars"), ("garden-soil", None, 1000, 0.9, 300, None, "jars"),
    ("flock", None, 100, 0.9, 80, None, "jars"), ("play-sand", None, 2000, 0.9, 300, None, "jars"),
    ("chalk-dust", None, 500, 0.9, 300, None, "jars"), ("white-glue", None, 1000, 0.15, 40, 500, "bench"),
    ("isopropyl-alcohol", None, 500, 0.5, 90, None, "metal box"), ("detergent", None, 500, 0.5, 90, None, "sink"),
    ("acrylic-sealer", None, 100, 0.3, 70, -40, "paints"), ("gloss-varnish", None, 50, 0.5, 60, 300, "paints"),
    ("scenic-binder", None, 250, 0.6, 30, 400, "bench"), ("acrylic-medium", None, 120, 0.7, 90, 400, "paints"),
    ("acrylic-ink-teal", None, 30, 0.8, 200, None, "paints"), ("acrylic-ink-blue", None, 30, 0.9, 200, None, "paints"),
    ("acrylic-ink-brown", None, 30, 0.7, 200, None, "paints"), ("paint-earth", None, 60, 0.6, 300, None, "paints"),
    ("paint-sand", None, 60, 0.7, 300, None, "paints"), ("paint-slate", None, 60, 1.0, None, None, "paints"),
    ("paint-white", None, 60, 0.9, 100, None, "paints"), ("paint-black", None, 60, 0.8, 100, None, "paints"),
    ("paint-rust", None, 60, 0.8, 800, None, "paints"), ("mixing-cup", None, 20, 0.5, 60, None, "drawer"),
    ("stir-stick", None, 50, 0.7, 60, None, "drawer"), ("nitrile-gloves", None, 10, 0.5, 60, None, "drawer"),
    ("flat-brush", None, 1, 1.0, 60, None, "bench"), ("low-tack-tape", None, 1, 1.0, 60, None, "drawer"),
)  # fmt: skip
PIECES = {"mixing-cup", "stir-stick", "nitrile-gloves", "flat-brush", "low-tack-tape"}


def prices() -> list[dict[str, Any]]:
    """The offers as a bench has them."""
    names = ("material", "amount", "pack", "packs", "seller")
    return [dict(zip(names, one, strict=True)) for one in OFFERS]


def stock(session: Session, now: datetime) -> None:
    """The packs, as they stand by `now`."""
    today = now.date()
    for material, part, size, share, opened, good, place in PACKS:
        new = NewPack(
            material, size, part, round(size * share) if material in PIECES else round(size * share, 1),
            opened=None if opened is None else today - timedelta(days=opened),
            best_before=None if good is None else today + timedelta(days=good), place=place,
        )  # fmt: skip
        shelf.add(session, new, now - timedelta(days=opened or 10))
