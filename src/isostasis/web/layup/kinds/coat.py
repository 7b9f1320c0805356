"""A coat on the Lay-up page."""

from __future__ import annotations

from typing import Any

from ....core.lifts.estimate import LiftPlan
from ....core.lifts.kinds.coat import Coat
from ...shared.fields import Field
from ...shared.scenes import OpenScene, materials_of, mixes_of
from .shapes import COVER, SHORE, ShownFigure, many, to_mix

KIND, STEM, WORDS = "coat", "coat", "a coat, brushed"
HATCH, CUT_HATCH, TONE, LANE_PX = "coat", "skin", "coat", 5.0
TELLS_THIRST = True
ON_POUR = False
MIX = "mix:"  # a choice that names a mix, beside those that name a material


def _what(opened: OpenScene) -> list[tuple[str, str]]:
    """What can be brushed on: materials, and mixes."""
    tins = materials_of(opened, "seal", "varnish", "colour", "binder")
    return [one for one in tins if not opened.catalogue.materials[one[0]].weighed] + [
        (f"{MIX}{name}", words) for name, words in mixes_of(opened, "binder", "seal", "colour")
    ]


FIELDS = (
    Field("material", "With", "choice", start="acrylic-sealer", options=_what),
    Field("coats", "Coats", "whole", start=2),
    Field(
        "film", "Each", "choice", start="normal",
        options=(("thin", "thin, half as much"), ("normal", "as the label says"), ("thick", "thick, nearly twice")),
    ),
    Field("thin", "Parts of water to one", "number", start=0.0, hint="0 as it comes; 4 or more: a wash"),
    COVER,
    Field(
        "how", "Laid", "choice", start="brush",
        options=(("brush", "with a wet brush"), ("drybrush", "with a dry brush, on what stands out"),
                 ("blot", "soaked in on the same day, and blotted"),
                 ("soft", "with a wet brush, while what is beneath is damp")),
    ),
    SHORE,
)  # fmt: skip
COMPARED: dict[str, str] = {}
COMPARED_NOTE = ""
PICTURE = ""


def values(lift: Coat) -> dict[str, Any]:
    """What the fields hold."""
    what = f"{MIX}{lift.mix}" if lift.mix else lift.material
    return {
        "material": what,
        "coats": lift.coats,
        "thin": lift.thin,
        "cover": lift.cover,
        "how": "soft" if lift.into else lift.how,
        "film": lift.film,
        "shore": lift.shore_mm,
    }


def document(read: dict[str, Any]) -> dict[str, Any]:
    """What the document holds; None takes a field away."""
    what: str = read["material"]
    mix = what.removeprefix(MIX) if what.startswith(MIX) else None
    return {
        "mix": mix, "material": None if mix else what, "coats": read["coats"], "thin": read["thin"],
        "cover": read["cover"], "film": read["film"],
        "how": "brush" if read["how"] == "soft" else read["how"], "into": "soft" if read["how"] == "soft" else None,
        "shore_mm": read["shore"],
    }  # fmt: skip


def begin(opened: OpenScene, patch_id: str, data: dict[str, Any]) -> dict[str, Any]:
    """A new one begins as its fields say."""
    return data


def summary(lift: Coat, made: LiftPlan, opened: OpenScene) -> str:
    """In a few words, after its mix."""
    return many(lift.coats, "coat") + (f", 1:{opened.plainly(lift.thin)} with water" if lift.thin else "")


def figures(lift: Coat, lift_plan: LiftPlan, opened: OpenScene) -> list[ShownFigure]:
    """Its own figures, besides what stands in place and the hours."""
    left = [ShownFigure("left_mm", lift_plan.left_mm, "film that stays")] if lift_plan.left_mm else []
    return [to_mix(lift_plan, opened), *left]


def picture(lift: Coat, opened: OpenScene) -> None:
    """No picture of its own."""
