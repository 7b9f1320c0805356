"""The page of Find: a box, and what it finds while one types."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, render_template, request, url_for

from ...store.finding import KINDS, MAX_LETTERS, Entry, find
from ..shared.scenes import database
from .help import entries

blueprint = Blueprint("find", __name__)


@dataclass(frozen=True)
class Hit:
    """What was found, with what it is and where it leads ("" where nowhere by itself)."""

    entry: Entry
    what: str
    url: str


def _url(entry: Entry) -> str:
    """Where an entry is met."""
    first, _, second = entry.key.partition("/")
    match entry.kind:
        case "scene":
            return url_for("ground.page", slug=first)
        case "spot":
            return url_for("layup.page", slug=first, patch=second)
        case "form":
            return url_for("ground.page", slug=first, form=second)
        case "mix" | "material":
            return url_for("labels.tin", kind=first, name=second)
        case "swatch":
            return url_for("swatches.page", number=int(first))
        case "batch":
            return url_for("mix.page", slug=first)
        case "record":
            return url_for("records.page", label=first, quantity=second)
        case "pack":
            return url_for("shelf.pack", pack_id=int(first))
        case "note":
            return url_for("clock.diary", slug=first)
    return entry.key


@blueprint.get("/find")
def page() -> str:
    """What is found; of a request by the box itself, the list alone."""
    asked = request.args.get("q", "").strip()[:MAX_LETTERS]
    with database().reading() as session:
        answer = find(session, asked, entries)
    hits = [Hit(one, KINDS[one.kind], _url(one)) for one in answer.entries]
    part = request.headers.get("HX-Target") == "found"
    return render_template(
        f"find/{'_found' if part else 'page'}.html", asked=asked, hits=hits, some=answer.some, place="find"
    )
